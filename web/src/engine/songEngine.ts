import { releaseProxy, wrap, type Remote } from 'comlink';
import type { WavInfo } from '@sure-hand/core/formats';
import { HandTable, MixPlanner, type MixPlan } from '@sure-hand/core/mix';
import { loopOf, type ControlId, type Song } from '@sure-hand/core/song';
import { dbOfGain, type Db, type Seconds } from '@sure-hand/core/units';
import mixWorkletUrl from './mixWorklet.ts?worker&url';
import type { PageWorker } from './pageWorker.js';
import {
  T_FLOAT,
  T_INT,
  hasRoomFor,
  makeBuffers,
  viewsOf,
  type FromWorklet,
  type SharedBuffers,
  type SharedViews,
  type StreamedFile,
  type ToWorklet,
} from './sharedLayout.js';
import { SongClock } from './songClock.js';

/** A song to be played: where its audio is served, and what is known of its files. */
export type EngineSong = {
  readonly url: string;
  readonly song: Song;
  readonly files: { readonly [name: string]: WavInfo };
};

/** The mix as it goes out: peak and RMS now, the highest true peak since play began (dBTP), short-term loudness (LUFS). */
export type MainMeter = {
  readonly peakDb: Db;
  readonly rmsDb: Db;
  readonly truePeakDb: Db;
  readonly shortTerm: number;
};

/** A channel whose sound is looked at, and an insert of it that has something to show. */
type Watched = { readonly channel: string; readonly slot: string };

/** So many samples a spectrum is of, and how much of the last one stays in it. */
const SPECTRUM = { size: 4096, smooth: 0.75 } as const;

const AUDIO_MISSING =
  'The server went away before all came that plays the song. Look whether it runs, then try again: nothing is lost.';

/** An output is there within this time, or there is none. */
const OUTPUT_WITHIN_MS = 4000;
/** How far one look at the audio thread counts, at most. */
const LOOK_MS = 500;
const NO_OUTPUT =
  'No sound device answers, so nothing can play. Connect one or switch it on, and look that the browser may use it; then play again.';

/** Names of the files that clips of a mix are of. */
const filesOf = ({ nodes, files }: MixPlan): Set<string> =>
  new Set(nodes.flatMap(({ clips }) => clips.map(({ file }) => files[file]!)));

/** The browser's audio at a sample rate, in Hz; throws a sentence where it has none. */
function contextAt(sampleRate: number): AudioContext {
  try {
    return new AudioContext({ sampleRate, latencyHint: 'interactive' });
  } catch (error) {
    throw new Error(`The browser can’t play at ${sampleRate} Hz: ${(error as Error).message}`, { cause: error });
  }
}

/**
 * The audio engine as the rest of the application sees it: one audio thread, one page worker, shared memory between.
 * Times are the song's, in seconds, as heard unless they say otherwise.
 */
export class SongEngine {
  readonly hands: HandTable;
  readonly #context: AudioContext;
  readonly #clock: SongClock;
  readonly #buffers: SharedBuffers;
  readonly #views: SharedViews;
  #node: AudioWorkletNode | null = null;
  readonly #spectrum: AnalyserNode;
  readonly #pages: Remote<PageWorker>;
  readonly #worker: Worker;
  #files: readonly StreamedFile[];
  /** Names of files with two sides. */
  readonly #stereo: Set<string>;
  #song: Song;
  readonly #planner: MixPlanner;
  #version = 1;
  #planned = 0;
  /** What the audio thread is told of the song, in order, and how much of it still waits. */
  #telling: Promise<void> = Promise.resolve();
  #untold = 0;
  #watched: Watched | null = null;
  #position: Seconds = 0;
  #playing = false;
  #isScrubbing = false;
  /** Whether what is played goes round the song's loop. */
  #loops = true;
  /** Plays so far: each has a number, by which what the audio thread says of it is known from what is of one before. */
  #roll = 0;
  /** The audio thread has come to the song's end; it is heard there only as long after as the output is behind. */
  #isAllRendered = false;
  /** How many blocks were rendered at the last look, when that was, and how long it had been so many; null before a play was looked at. */
  #rendered: { readonly blocks: number; readonly atMs: number; readonly stoodMs: number } | null = null;
  #onPlanned: () => void = () => undefined;
  #onEnded: () => void = () => undefined;
  #onLost: () => void = () => undefined;
  #isClosed = false;
  /**
   * Resolves once audio thread and page worker have the song: nothing plays before. Rejects with a sentence where what plays
   * it could not be fetched, unless it was closed meanwhile.
   */
  readonly started: Promise<void>;

  /** Starts the audio thread and the page worker for a song. Throws a sentence where the browser can't play at its rate. */
  constructor({ url, song, files }: EngineSong) {
    this.#song = song;
    this.#context = contextAt(song.sampleRate);
    this.#spectrum = new AnalyserNode(this.#context, {
      fftSize: SPECTRUM.size,
      smoothingTimeConstant: SPECTRUM.smooth,
    });
    this.#stereo = new Set(Object.keys(files).filter((name) => files[name]!.channels === 2));
    this.#planner = new MixPlanner(song, { stereo: this.#stereo });
    this.#files = Object.entries(files).map(([name, info]) => ({ name, info }));
    const buffers = makeBuffers(this.#files, this.#planner.plan);
    this.#buffers = buffers;
    this.#views = viewsOf(buffers);
    this.hands = new HandTable(buffers.hands, buffers.controlRoom);
    this.#clock = new SongClock(this.#context, this.#views, song.sampleRate);
    this.#worker = new Worker(new URL('./pageWorker.ts', import.meta.url), { type: 'module' });
    this.#pages = wrap<PageWorker>(this.#worker);
    this.started = Promise.race([this.#start(url), this.#workerMissing()]).catch((error: unknown) => {
      if (!this.#isClosed) throw error;
    });
  }

  async #start(url: string): Promise<void> {
    // Those that come while it starts are told of after it has.
    const files = this.#files;
    await this.#context.audioWorklet.addModule(mixWorkletUrl).catch(() => {
      throw new Error(AUDIO_MISSING);
    });
    if (this.#isClosed) return;
    const node = new AudioWorkletNode(this.#context, 'mix', {
      numberOfInputs: 0,
      numberOfOutputs: 2,
      outputChannelCount: [2, 1],
    });
    node.port.onmessage = ({ data }: MessageEvent<FromWorklet>) => this.#take(data);
    node.onprocessorerror = () => this.#lost();
    this.#context.onstatechange = () => this.#context.state !== 'running' && this.#lost();
    node.connect(this.#context.destination, 0);
    node.connect(this.#spectrum, 1);
    this.#node = node;
    this.#send({
      type: 'open',
      plan: this.#planner.plan,
      files,
      buffers: this.#buffers,
      version: this.#version,
    });
    this.#send({ type: 'watch', watch: this.#watched });
    await this.#pages.open(files, this.#buffers, url, this.#song.sampleRate);
    await this.#sendClips();
  }

  /** Rejects where the page worker’s own program could not be fetched. */
  #workerMissing(): Promise<never> {
    return new Promise((_, missing) => (this.#worker.onerror = () => missing(new Error(AUDIO_MISSING))));
  }

  async close(): Promise<void> {
    this.#isClosed = true;
    this.#context.onstatechange = null;
    this.#node?.disconnect();
    this.#pages[releaseProxy]();
    this.#worker.terminate();
    await this.#context.close();
  }

  /** The audio thread has taken over the last song it was given. */
  set onPlanned(act: () => void) {
    this.#onPlanned = act;
  }

  /** The audio output has gone while the song played. */
  set onLost(act: () => void) {
    this.#onLost = act;
  }

  #lost(): void {
    if (this.#playing) this.#onLost();
  }

  /** The song is heard to have come to its end. */
  set onEnded(act: () => void) {
    this.#onEnded = act;
  }

  /** Whether the audio thread still plays an older song than the one it was given last. */
  get isPlanPending(): boolean {
    return this.#planned < this.#version;
  }

  get isPlaying(): boolean {
    return this.#playing;
  }

  /** The slot of a control in the hands' memory. */
  slotOf(id: ControlId): number {
    return this.#planner.slotOf(id);
  }

  /** Whether a file is known here, so that its clips are heard. */
  hasFile(name: string): boolean {
    return this.#files.some((file) => file.name === name);
  }

  /**
   * Takes in files that have come since the song was opened, without a gap: clips of them are heard from now on. False where there is
   * no room for them: they are heard once the song is opened anew.
   */
  addFiles(more: { readonly [name: string]: WavInfo }): boolean {
    const fresh = Object.entries(more).flatMap(([name, info]) => (this.hasFile(name) ? [] : [{ name, info }]));
    if (!fresh.length) return true;
    if (!hasRoomFor(this.#files, fresh, this.#buffers)) return false;
    this.#files = [...this.#files, ...fresh];
    for (const { name, info } of fresh) if (info.channels === 2) this.#stereo.add(name);
    void this.started.then(async () => {
      if (this.#isClosed) return;
      await this.#pages.addFiles(fresh);
      await this.#sendClips();
      this.#tell({ type: 'files', files: this.#files }, true);
    });
    return true;
  }

  /** Hands over the song as it is after a change: the audio thread is told what became other, and nothing where nothing is heard. */
  setSong(song: Song): void {
    const before = this.#song;
    if (song === before) return;
    this.#song = song;
    const sounded = filesOf(this.#planner.plan);
    const { change, freed } = this.#planner.follow(song);
    for (const slot of freed) this.hands.letGo(slot);
    if (change) this.#version++;
    // What is still starting is told of the song as it is by then.
    if (!this.#node) return;
    if (change?.frame) void this.#sendClips();
    const brings = change?.frame ? [...filesOf(this.#planner.plan)].some((name) => !sounded.has(name)) : false;
    if (change) this.#tell({ type: 'change', change, version: this.#version }, brings);
    const [was, is] = [loopOf(before), loopOf(song)];
    if (was?.[0] !== is?.[0] || was?.[1] !== is?.[1]) this.#sendLoop();
  }

  /**
   * Tells the audio thread what is other about the song, each after the one before. What `brings` sound while the song rolls waits until
   * that is there from the line on, or is known not to come: it is not heard before, and misses nothing.
   */
  #tell(message: ToWorklet, brings: boolean): void {
    if (!this.#untold && !(brings && this.#playing)) return this.#send(message);
    this.#untold++;
    this.#telling = this.#telling
      .then(async () => {
        if (brings && this.#playing && !this.#isClosed) await this.#pages.readyAtLine();
      })
      .then(() => {
        this.#untold--;
        this.#send(message);
      });
  }

  async #sendClips(): Promise<void> {
    const clips = this.#planner.plan.nodes.flatMap((node) =>
      node.clips.map((clip) => ({
        ...clip,
        file: this.#files.findIndex((file) => file.name === this.#planner.plan.files[clip.file]),
      })),
    );
    await this.#pages.setClips(clips);
  }

  #sendLoop(): void {
    const loop = this.#loops ? loopOf(this.#song) : null;
    const frames = loop && ([this.#frameOf(loop[0]), this.#frameOf(loop[1])] as const);
    this.#send({ type: 'loop', loop: frames });
    void this.#pages.setLoop(frames);
  }

  #frameOf(t: Seconds): number {
    return Math.round(t * this.#song.sampleRate);
  }

  /**
   * Starts playing; waits until all is started and the audio of the first moment is there. Gives back the sentence where it does not come.
   * `loops`: whether it goes round the song's loop.
   */
  async play(from: Seconds, loops = true): Promise<string | null> {
    const missing = await this.started.then(
      () => null,
      (error: unknown) => (error as Error).message,
    );
    if (missing || this.#isClosed) return missing;
    if (!(await this.#hasOutput())) return NO_OUTPUT;
    if (this.#isClosed) return null;
    this.scrub(false);
    this.locate(from);
    // What is fetched goes round with it.
    this.#loops = loops;
    this.#sendLoop();
    const wrong = await this.#pages.ready(this.#frameOf(from));
    if (wrong) return wrong;
    // Before the audio thread is told: it may begin at once, and what it writes stands.
    this.#views.floats[T_FLOAT.frame] = this.#frameOf(from);
    Atomics.store(this.#views.ints, T_INT.playing, 1);
    this.#clock.begin(++this.#roll, this.#frameOf(from));
    this.#send({ type: 'play', frame: this.#frameOf(from), roll: this.#roll });
    this.#playing = true;
    this.#isAllRendered = false;
    this.#rendered = null;
    return null;
  }

  /** Wakes the audio output; false where none comes. */
  async #hasOutput(): Promise<boolean> {
    if (this.#context.state === 'running') return true;
    let timer: ReturnType<typeof setTimeout> | undefined;
    const isLate = new Promise<boolean>((late) => (timer = setTimeout(() => late(false), OUTPUT_WITHIN_MS)));
    const runs = this.#context.resume().then(() => true);
    // Closed meanwhile, or not allowed: then there is none, either.
    const has = await Promise.race([runs.catch(() => false), isLate]).finally(() => clearTimeout(timer));
    if (has) this.#clock.reset();
    return has;
  }

  /** Stops; the line stays where it is heard to be. */
  stop(nowMs: number): Seconds {
    const at = this.positionAt(nowMs);
    this.#clock.end(nowMs);
    this.#send({ type: 'stop' });
    this.#playing = false;
    this.locate(at);
    return at;
  }

  /** Whether the song is heard as it is drawn under the line. */
  get isScrubbing(): boolean {
    return this.#isScrubbing;
  }

  /** The song is heard from now on as the line goes over it while it stands; or no more. */
  scrub(on: boolean): void {
    if (this.#playing || on === this.#isScrubbing) return;
    this.#isScrubbing = on;
    this.wake();
    this.#send({ type: 'scrub', on });
    if (!on) this.locate(this.#position);
  }

  /** Moves the line while stopped; the audio there is fetched ahead. */
  locate(t: Seconds): void {
    this.#position = t;
    this.#views.floats[T_FLOAT.wanted] = this.#frameOf(t);
    if (!this.#playing && !this.#isScrubbing) this.#send({ type: 'locate', frame: this.#frameOf(t) });
  }

  /** Wakes the audio output, so that play is heard at once; browsers allow it after a gesture. */
  wake(): void {
    if (this.#context.state !== 'suspended') return;
    // Where no output comes, play says so.
    void this.#context.resume().then(
      () => this.#clock.reset(),
      () => undefined,
    );
  }

  /** Follows the context's clock, to the song's end as it is heard; called with every picture. */
  tick(nowMs: number): void {
    if (this.#context.state === 'running') this.#clock.read(nowMs);
    if (this.#playing && this.#hasStalled(nowMs)) return this.#lost();
    if (!this.#playing || !this.#isAllRendered || this.positionAt(nowMs) < this.#song.length) return;
    this.#isAllRendered = false;
    this.#onEnded();
  }

  /** Whether the audio thread has rendered nothing for so long that its output must be gone, whatever the browser says of it. */
  #hasStalled(nowMs: number): boolean {
    const { blocks } = this.counts;
    const { blocks: before, atMs, stoodMs } = this.#rendered ?? { blocks: -1, atMs: nowMs, stoodMs: 0 };
    // A machine that slept has looked at nothing meanwhile.
    const stands = blocks === before ? stoodMs + Math.min(nowMs - atMs, LOOK_MS) : 0;
    this.#rendered = { blocks, atMs: nowMs, stoodMs: stands };
    return stands > OUTPUT_WITHIN_MS;
  }

  /** Where the song is heard to be at a moment of the page's clock; of one before the last stop, where it was then. */
  positionAt(nowMs: number): Seconds {
    if (!this.#playing && !this.#clock.isBefore(nowMs)) return this.#position;
    return Math.min(this.#song.length, this.#clock.heardFrame(nowMs) / this.#song.sampleRate);
  }

  /** How often the loop has been heard to wrap since play. */
  heardWraps(nowMs: number): number {
    return this.#playing || this.#clock.isBefore(nowMs) ? this.#clock.heardWraps(nowMs) : 0;
  }

  /** Peaks of a channel, left and right, as amplitudes; falling by themselves. */
  meterOf(key: string): readonly [number, number] {
    const i = this.#planner.nodeSlotOf(key);
    return i < 0 ? [0, 0] : [this.#views.meters[2 * i]!, this.#views.meters[2 * i + 1]!];
  }

  /** What the whole mix measures as it goes out; see {@link MainMeter}. */
  get mainMeter(): MainMeter {
    const { floats } = this.#views;
    return {
      peakDb: dbOfGain(floats[T_FLOAT.peak]!),
      rmsDb: dbOfGain(Math.sqrt(floats[T_FLOAT.meanSquare]!)),
      truePeakDb: dbOfGain(floats[T_FLOAT.truePeak]!),
      shortTerm: floats[T_FLOAT.shortTerm]!,
    };
  }

  /** Has a channel's sound after its inserts looked at, and what the insert in a slot has to show; null: none. */
  watch(watch: Watched | null): void {
    this.#watched = watch;
    this.#send({ type: 'watch', watch });
  }

  /** How many frequencies a spectrum has, and how far apart they are, in Hz. */
  get spectrumShape(): { readonly length: number; readonly stepHz: number } {
    return { length: this.#spectrum.frequencyBinCount, stepHz: this.#song.sampleRate / this.#spectrum.fftSize };
  }

  /** The spectrum of the channel that is watched, in dB: as many as {@link spectrumShape} says. */
  readSpectrum(into: Float32Array<ArrayBuffer>): void {
    this.#spectrum.getFloatFrequencyData(into);
  }

  /** What the compressor that is watched holds down now, and the level that it listens to, in dB. */
  get watchedLevels(): { readonly heldDown: Db; readonly listened: Db } {
    const { floats } = this.#views;
    return { heldDown: floats[T_FLOAT.heldDown]!, listened: floats[T_FLOAT.listened]! };
  }

  /** What the audio thread applies to a channel's left side at the frame to come, and the song time of that frame. */
  gainNow(key: string): { readonly t: Seconds; readonly gain: number } {
    const i = this.#planner.nodeSlotOf(key);
    const { floats, gains } = this.#views;
    let frame: number;
    let gain: number;
    do {
      frame = floats[T_FLOAT.frame]!;
      gain = gains[i] ?? 0;
    } while (frame !== floats[T_FLOAT.frame]);
    return { t: frame / this.#song.sampleRate, gain };
  }

  /** Blocks rendered, and blocks that lacked a page, since the song was opened. */
  get counts(): { readonly blocks: number; readonly underruns: number } {
    const { ints } = this.#views;
    return { blocks: Atomics.load(ints, T_INT.blocks), underruns: Atomics.load(ints, T_INT.missed) };
  }

  #take(message: FromWorklet): void {
    if (message.type === 'ended') {
      // Of the play that is under way: one that was stopped meanwhile may have come to its end, too.
      if (message.roll === this.#roll) this.#isAllRendered = true;
      return;
    }
    this.#planned = message.version;
    if (!this.isPlanPending) this.#onPlanned();
  }

  #send(message: ToWorklet): void {
    this.#node?.port.postMessage(message);
  }
}
