import { LoudnessMeter } from '@sure-hand/core/loudness';
import { HandTable, MixRenderer, changedPlan, copyFrames, type PlanChange } from '@sure-hand/core/mix';
import { PagedSource } from './pagedSource.js';
import { Scrubber } from './scrubber.js';
import {
  ANCHORS,
  T_FLOAT,
  T_INT,
  viewsOf,
  type SharedViews,
  type StreamedFile,
  type ToWorklet,
} from './sharedLayout.js';

/** How the edges of playing sound: a start or a stop anywhere is spread over 2 ms; meters fall by 45 dB a second. */
const EDGE_SEC = 0.002;
const METER_FALL_DB_PER_SEC = 45;
/** What a compressor held down is shown a little longer than it does, by this much a block. */
const SHOWN_FALL = 0.9;
/** The mean of the main's RMS meter reaches back about so long. */
const RMS_SEC = 0.3;

/** What is no sound, not being finite, does not go out, and is not measured. */
function silenceUnlessSound(left: Float32Array, right: Float32Array): void {
  let sum = 0;
  for (let i = 0; i < left.length; i++) sum += left[i]! + right[i]!;
  if (sum - sum === 0) return;
  left.fill(0);
  right.fill(0);
}

/**
 * What the audio thread does with each block, apart from being one: plays, loops and stops the mix, keeps the anchors
 * from which the main thread tells the time, and lets the meters fall. Runs in tests as it does there.
 */
export class RollingMix {
  #renderer: MixRenderer | null = null;
  #source: PagedSource | null = null;
  #hands: HandTable | null = null;
  #views: SharedViews | null = null;
  #loop: readonly [number, number] | null = null;
  #watch: { readonly channel: string; readonly slot: string } | null = null;
  #scrubbing = false;
  readonly #scrubber: Scrubber;
  #playing = false;
  #stopping = false;
  #edge = 0;
  #missedBefore = 0;
  /** Where to go once the stop has faded out. */
  #after: number | null = null;
  /** The number of the play that is under way, or was last; whether it begins with the next block. */
  #roll = 0;
  #begins = false;
  #left = new Float32Array(128);
  #right = new Float32Array(128);
  readonly #loudness: LoudnessMeter;
  readonly #time = new Float64Array(1);

  constructor(
    readonly sampleRate: number,
    readonly block: number,
  ) {
    this.#loudness = new LoudnessMeter(sampleRate);
    this.#scrubber = new Scrubber(sampleRate, block);
  }

  /** The number of the play that is under way, or was last. */
  get roll(): number {
    return this.#roll;
  }

  /** Takes a message; gives back what is to be answered, if anything. */
  take(message: ToWorklet): { readonly type: 'planned'; readonly version: number } | null {
    switch (message.type) {
      case 'open': {
        this.#views = viewsOf(message.buffers);
        this.#source = new PagedSource(message.files, message.plan.files, this.#views);
        this.#hands = new HandTable(message.buffers.hands, message.buffers.controlRoom);
        this.#renderer = new MixRenderer(message.plan, this.#source, this.#hands, this.#views.meters, this.block);
        this.#renderer.watch(this.#watch?.channel ?? null);
        return { type: 'planned', version: message.version };
      }
      case 'files':
        this.#addFiles(message.files);
        return null;
      case 'change':
        this.#change(message.change);
        return { type: 'planned', version: message.version };
      case 'scrub':
        this.#scrub(message.on);
        return null;
      case 'play':
        this.#scrubbing = false;
        this.#renderer?.locate(message.frame);
        this.#playing = true;
        this.#stopping = false;
        this.#after = null;
        this.#edge = 0;
        this.#roll = message.roll;
        this.#begins = true;
        this.#loudness.clear();
        return null;
      case 'locate':
        // The block that a stop fades out in is still to come, from where the song was.
        if (this.#stopping) this.#after = message.frame;
        else this.#renderer?.locate(message.frame);
        return null;
      case 'loop':
        this.#loop = message.loop;
        return null;
      case 'watch':
        this.#watch = message.watch;
        this.#renderer?.watch(message.watch?.channel ?? null);
        return null;
      case 'stop':
        this.#stopping = this.#playing;
        return null;
    }
  }

  /** Begins to be drawn under the line, from where it stands; or stands there by itself again. */
  #scrub(on: boolean): void {
    if (on && !this.#scrubbing && this.#renderer) this.#scrubber.begin(this.#renderer.frame);
    if (!on && this.#scrubbing) this.#renderer?.locate(Math.round(this.#scrubber.frame));
    this.#scrubbing = on;
  }

  #addFiles(files: readonly StreamedFile[]): void {
    const renderer = this.#renderer;
    if (!renderer) return;
    this.#source = new PagedSource(files, renderer.plan.files, this.#views!);
    this.#scrubber.forget();
    renderer.change(renderer.plan, new Set(), this.#source);
  }

  #change(change: PlanChange): void {
    const renderer = this.#renderer;
    const source = this.#source;
    if (!renderer || !source) return;
    const before = renderer.plan;
    const plan = changedPlan(before, change);
    if (plan.files !== before.files) this.#source = new PagedSource(source.files, plan.files, this.#views!);
    this.#scrubber.forget();
    renderer.change(plan, new Set(change.controls.map(({ slot }) => slot)), this.#source!);
  }

  /**
   * Renders one block whose first frame has the context time `time`; true as the song has come to its end. `watched` gets the sound of
   * the channel that is watched; the caller has silenced it.
   */
  render(left: Float32Array, right: Float32Array, time: number, watched: Float32Array | null = null): boolean {
    const renderer = this.#renderer;
    const views = this.#views;
    if (!renderer || !views) return false;
    const n = left.length;
    this.#fallMeters(views, n);
    Atomics.add(views.ints, T_INT.blocks, 1);
    if (this.#scrubbing && !this.#playing) this.#drawUnderLine(renderer, views, left, right);
    if (!this.#playing) return false;
    if (this.#begins) this.#begin(views, renderer.frame, time);
    this.#time[0] = time;
    this.#renderLooped(renderer, views, left, right, watched);
    silenceUnlessSound(left, right);
    if (this.#watch) this.#show(renderer, views, this.#watch.slot);
    if (renderer.missed !== this.#missedBefore) Atomics.add(views.ints, T_INT.missed, 1);
    this.#missedBefore = renderer.missed;
    this.#shapeEdges(left, right);
    this.#measure(views, left, right);
    // A loop that lies wholly behind the line does not come round: the song goes on to its end.
    const isLooping = this.#loop !== null && renderer.frame < this.#loop[1];
    const ended = !isLooping && renderer.frame >= renderer.plan.length;
    if (this.#stopping || ended) this.#playing = this.#stopping = false;
    renderer.readGains(views.gains);
    views.floats[T_FLOAT.frame] = renderer.frame;
    Atomics.store(views.ints, T_INT.playing, this.#playing ? 1 : 0);
    if (!this.#playing && this.#after !== null) renderer.locate(this.#after);
    if (!this.#playing) this.#after = null;
    return ended;
  }

  #drawUnderLine(renderer: MixRenderer, views: SharedViews, left: Float32Array, right: Float32Array): void {
    this.#scrubber.render(renderer, views.floats[T_FLOAT.wanted]!, left, right);
    this.#measure(views, left, right);
    renderer.readGains(views.gains);
    views.floats[T_FLOAT.frame] = this.#scrubber.frame;
  }

  /** Leaves what the insert that is watched has to show. What it held down falls off slowly, so that every picture meets it. */
  #show(renderer: MixRenderer, { floats }: SharedViews, slot: string): void {
    const before = floats[T_FLOAT.heldDown]! * SHOWN_FALL;
    floats[T_FLOAT.heldDown] = 0;
    renderer.showInto(slot, floats, T_FLOAT.heldDown);
    if (floats[T_FLOAT.heldDown]! < before) floats[T_FLOAT.heldDown] = before;
  }

  /** `#time` is the context time of the first frame. */
  #renderLooped(
    renderer: MixRenderer,
    views: SharedViews,
    left: Float32Array,
    right: Float32Array,
    watched: Float32Array | null,
  ): void {
    let done = 0;
    while (done < left.length) {
      const loop = this.#loop;
      const beforeEnd = loop && renderer.frame < loop[1] ? loop[1] - renderer.frame : Infinity;
      const n = Math.min(left.length - done, beforeEnd);
      if (done === 0 && n === left.length) renderer.render(left, right, n);
      else {
        renderer.render(this.#left, this.#right, n);
        copyFrames(left, this.#left, n, done);
        copyFrames(right, this.#right, n, done);
      }
      if (watched && this.#watch) copyFrames(watched, renderer.watched, n, done);
      done += n;
      if (loop && renderer.frame === loop[1]) {
        renderer.wrap(loop[0]);
        this.#wrap(views, loop[0], this.#time[0]! + done / this.sampleRate);
      }
    }
  }

  /** A play begins: from here on all that tells the time is of it, and nothing of the one before. */
  #begin(views: SharedViews, frame: number, time: number): void {
    const { ints, floats } = views;
    Atomics.add(ints, T_INT.seq, 1);
    Atomics.store(ints, T_INT.roll, this.#roll);
    Atomics.store(ints, T_INT.wraps, 0);
    floats[T_FLOAT.frame] = frame;
    floats[T_FLOAT.anchors] = frame;
    floats[T_FLOAT.anchors + 1] = time;
    Atomics.add(ints, T_INT.seq, 1);
    this.#begins = false;
  }

  /** From here on the song frame `frame` is at context time `time`; the anchors before are kept for what is not yet heard. */
  #wrap({ ints, floats }: SharedViews, frame: number, time: number): void {
    Atomics.add(ints, T_INT.seq, 1);
    const wraps = Atomics.add(ints, T_INT.wraps, 1) + 1;
    const at = T_FLOAT.anchors + 2 * (wraps % ANCHORS);
    floats[at] = frame;
    floats[at + 1] = time;
    Atomics.add(ints, T_INT.seq, 1);
  }

  /** Lets a start swell and a stop fade over 2 ms, so that neither clicks. */
  #shapeEdges(left: Float32Array, right: Float32Array): void {
    const edge = Math.round(EDGE_SEC * this.sampleRate);
    for (let i = 0; i < left.length && this.#edge < edge; i++, this.#edge++) {
      left[i]! *= this.#edge / edge;
      right[i]! *= this.#edge / edge;
    }
    if (!this.#stopping) return;
    for (let i = 0; i < left.length; i++) {
      const gain = Math.max(0, 1 - i / edge);
      left[i]! *= gain;
      right[i]! *= gain;
    }
  }

  /** Measures what goes out: what the main's meter shows. */
  #measure({ floats }: SharedViews, left: Float32Array, right: Float32Array): void {
    let sum = 0;
    let peak = floats[T_FLOAT.peak]!;
    for (let i = 0; i < left.length; i++) {
      const l = left[i]!;
      const r = right[i]!;
      sum += l * l + r * r;
      if (l > peak) peak = l;
      if (-l > peak) peak = -l;
      if (r > peak) peak = r;
      if (-r > peak) peak = -r;
    }
    const share = left.length / (RMS_SEC * this.sampleRate);
    floats[T_FLOAT.meanSquare]! += share * (sum / (2 * left.length) - floats[T_FLOAT.meanSquare]!);
    floats[T_FLOAT.peak] = peak;
    this.#loudness.add(left, right, left.length);
    floats[T_FLOAT.shortTerm] = this.#loudness.shortTerm;
    floats[T_FLOAT.truePeak] = this.#loudness.truePeak;
  }

  #fallMeters({ meters, floats }: SharedViews, frames: number): void {
    const fall = 10 ** ((-METER_FALL_DB_PER_SEC * frames) / this.sampleRate / 20);
    for (let i = 0; i < meters.length; i++) meters[i]! *= fall;
    floats[T_FLOAT.peak]! *= fall;
    if (!this.#playing) floats[T_FLOAT.meanSquare]! *= fall;
  }
}
