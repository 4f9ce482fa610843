import { RollingMix } from './rollingMix.js';
import type { FromWorklet, ToWorklet } from './sharedLayout.js';

/** The audio thread: a thin shell round {@link RollingMix}. */
class MixProcessor extends AudioWorkletProcessor {
  readonly #mix = new RollingMix(sampleRate, 128);

  constructor() {
    super();
    this.port.onmessage = ({ data }: MessageEvent<ToWorklet>) => {
      const answer = this.#mix.take(data);
      if (answer) this.#say(answer);
    };
  }

  process(_inputs: Float32Array[][], outputs: Float32Array[][]): boolean {
    const [left, right] = outputs[0]!;
    const watched = outputs[1]?.[0] ?? null;
    if (left && right && this.#mix.render(left, right, currentTime, watched))
      this.#say({ type: 'ended', roll: this.#mix.roll });
    return true;
  }

  #say(message: FromWorklet): void {
    this.port.postMessage(message);
  }
}

registerProcessor('mix', MixProcessor);
