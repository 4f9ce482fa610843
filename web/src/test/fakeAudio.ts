import { expose, type Endpoint } from 'comlink';
import { RollingMix } from '../engine/rollingMix.js';
import type { PageWorker } from '../engine/pageWorker.js';
import type { FromWorklet, ToWorklet } from '../engine/sharedLayout.js';

const BLOCK = 128;

/**
 * The browser's audio as the engine knows it, with a clock that a test sets: a context whose output is late by as much as
 * it says, and an audio thread that runs the real {@link RollingMix} block after block. Pages of audio are all there.
 */
export class FakeAudio {
  /** The page's clock, in milliseconds; it is also the context's. */
  nowMs = 0;
  latencySec = 0;
  /** Whether the context runs as soon as it is asked to. */
  hasOutput = true;
  /** Whether the audio thread is called no more, though the context runs. */
  isStuck = false;
  state: AudioContextState = 'suspended';
  /** When the pages of a moment are there. */
  ready: () => Promise<string | null> = async () => null;
  /** What the audio thread was told, in order. */
  readonly told: ToWorklet[] = [];
  #mix: RollingMix | null = null;
  #rendered = 0;
  #say: (message: FromWorklet) => void = () => undefined;
  readonly #ports: MessagePort[] = [];

  /** Puts itself in the place of the browser's own; gives back what ends that. */
  install(): () => void {
    const was = ['AudioContext', 'AudioWorkletNode', 'AnalyserNode', 'Worker', 'crossOriginIsolated'].map(
      (name) => [name, Object.getOwnPropertyDescriptor(globalThis, name)] as const,
    );
    const put = (name: string, value: unknown): void =>
      void Object.defineProperty(globalThis, name, { value, configurable: true, writable: true });
    put('crossOriginIsolated', true);
    put('AudioContext', this.#contextClass());
    put('AudioWorkletNode', this.#nodeClass());
    put('AnalyserNode', class {});
    put('Worker', this.#workerClass());
    return () => {
      for (const port of this.#ports) port.close();
      for (const [name, descriptor] of was)
        if (descriptor) Object.defineProperty(globalThis, name, descriptor);
        else delete (globalThis as Record<string, unknown>)[name];
    };
  }

  /** Time goes on, and the audio thread with it. */
  goOn(ms: number): void {
    this.nowMs += ms;
    if (this.state !== 'running' || this.isStuck) return void (this.#rendered = this.nowMs / 1000);
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
    for (; this.#rendered < this.nowMs / 1000; this.#rendered += BLOCK / 48000) {
      left.fill(0);
      right.fill(0);
      if (this.#mix?.render(left, right, this.#rendered)) this.#say({ type: 'ended', roll: this.#mix.roll });
    }
  }

  #contextClass(): unknown {
    // oxlint-disable-next-line typescript/no-this-alias
    const audio = this;
    return class {
      readonly audioWorklet = { addModule: async () => undefined };
      readonly destination = {};
      readonly baseLatency = 0;
      onstatechange: (() => void) | null = null;
      get state(): AudioContextState {
        return audio.state;
      }
      get currentTime(): number {
        return audio.nowMs / 1000;
      }
      get outputLatency(): number {
        return audio.latencySec;
      }
      getOutputTimestamp = () => ({ contextTime: 0, performanceTime: 0 });
      resume = (): Promise<void> => {
        if (!audio.hasOutput) return new Promise(() => undefined);
        audio.state = 'running';
        return Promise.resolve();
      };
      close = async (): Promise<void> => undefined;
    };
  }

  #nodeClass(): unknown {
    // oxlint-disable-next-line typescript/no-this-alias
    const audio = this;
    return class {
      readonly port = {
        onmessage: null as ((event: { data: FromWorklet }) => void) | null,
        postMessage: (message: ToWorklet): void => {
          audio.told.push(message);
          const answer = audio.#mix!.take(message);
          if (answer) this.port.onmessage?.({ data: answer });
        },
      };
      connect = (): void => undefined;
      disconnect = (): void => undefined;
      constructor() {
        audio.#mix = new RollingMix(48000, BLOCK);
        audio.#say = (data) => this.port.onmessage?.({ data });
      }
    };
  }

  /** The page worker: whatever is asked for is there. */
  #workerClass(): unknown {
    const ports = this.#ports;
    const api: PageWorker = {
      open: () => undefined,
      addFiles: () => undefined,
      setClips: () => undefined,
      setLoop: () => undefined,
      ready: () => this.ready(),
      readyAtLine: () => this.ready(),
    };
    return class {
      onerror: (() => void) | null = null;
      readonly #port: MessagePort;
      constructor() {
        const { port1, port2 } = new MessageChannel();
        ports.push(port1, port2);
        expose(api, port2 as unknown as Endpoint);
        this.#port = port1;
        port1.start();
      }
      postMessage = (message: unknown, transfer: Transferable[] = []): void =>
        this.#port.postMessage(message, transfer);
      addEventListener = (...args: Parameters<MessagePort['addEventListener']>): void =>
        this.#port.addEventListener(...args);
      removeEventListener = (...args: Parameters<MessagePort['removeEventListener']>): void =>
        this.#port.removeEventListener(...args);
      terminate = (): void => this.#port.close();
    };
  }
}
