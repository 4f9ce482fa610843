import { ANCHORS, T_FLOAT, T_INT, type SharedViews } from './sharedLayout.js';

/** What the clock needs of an audio context. */
export type ContextClock = Pick<AudioContext, 'currentTime' | 'outputLatency' | 'baseLatency' | 'getOutputTimestamp'>;

/**
 * How the fitted line follows what is measured. A clock that moves on in steps is never ahead of the time, so what is
 * measured later is trusted soon, what is earlier hardly. Beyond `jump` seconds the line begins anew: at once where the
 * clock is ahead, behind only after so many readings in a row, as a clock that was held up for a moment catches up.
 */
const FIT = { rise: 0.2, fall: 0.005, jump: 0.05, patience: 30 } as const;

/** How often the loop has come round, the last anchors as they stand in shared memory, and how far the mix is rendered. */
type Anchors = { readonly wraps: number; readonly last: Float64Array; readonly rendered: number };

/** A play that has ended: until when it was heard, and by what its time is told. */
type Ended = {
  readonly untilMs: number;
  readonly anchors: Anchors | null;
  readonly from: number;
  readonly offset: number;
};

/**
 * Tells what is heard at a moment of the page's own clock. The context's clock moves on in steps, so a line is
 * fitted to it: moves are stamped to better than a millisecond, and the picture does not shiver.
 */
export class SongClock {
  /** Context time as heard less page time, both in seconds. */
  #offset: number | null = null;
  /** Readings in a row that were far behind the line. */
  #behind = 0;
  /** The number of the play that is under way, or was last, and the frame it begins at. */
  #roll = -1;
  #from = 0;
  /** The last play that has ended, as it was then. */
  #before: Ended | null = null;

  constructor(
    readonly context: ContextClock,
    readonly views: SharedViews,
    readonly sampleRate: number,
  ) {}

  /** Takes a reading; to be called about as often as the screen is drawn. */
  read(nowMs: number): void {
    const stamp = this.context.getOutputTimestamp();
    const latency = this.context.outputLatency || this.context.baseLatency || 0;
    const measured =
      stamp.contextTime && stamp.performanceTime && nowMs - stamp.performanceTime < 500
        ? stamp.contextTime - stamp.performanceTime / 1000
        : this.context.currentTime - latency - nowMs / 1000;
    const off = this.#offset === null ? Infinity : measured - this.#offset;
    this.#behind = off < -FIT.jump ? this.#behind + 1 : 0;
    if (off > FIT.jump || this.#behind > FIT.patience) this.#offset = measured;
    else if (!this.#behind) this.#offset! += (off > 0 ? FIT.rise : FIT.fall) * off;
  }

  /** Forgets what was fitted, as the context stood still meanwhile. */
  reset(): void {
    this.#offset = null;
  }

  /** A play begins at a frame; until the audio thread has begun it, that is where it stands. */
  begin(roll: number, frame: number): void {
    this.#roll = roll;
    this.#from = frame;
  }

  /** Whether the audio thread has begun the play that is under way. */
  get hasBegun(): boolean {
    return this.#anchors() !== null;
  }

  /** The play has ended: what was heard before that can still be told when another has begun. */
  end(nowMs: number): void {
    if (this.#offset === null) this.read(nowMs);
    this.#before = { untilMs: nowMs, anchors: this.#anchors(), from: this.#from, offset: this.#offset! };
  }

  /** Whether a moment lies before the end of the last play that has ended. */
  isBefore(nowMs: number): boolean {
    return this.#before !== null && nowMs < this.#before.untilMs;
  }

  /** Song frame as heard at a page time; before the first sound of a play, where that begins. */
  heardFrame(nowMs: number): number {
    const before = this.#before;
    if (before && nowMs < before.untilMs)
      return this.#frameOf(before.anchors, before.from, nowMs / 1000 + before.offset);
    if (this.#offset === null) this.read(nowMs);
    return this.#frameOf(this.#anchors(), this.#from, nowMs / 1000 + this.#offset!);
  }

  #frameOf(anchors: Anchors | null, from: number, heard: number): number {
    if (!anchors) return from;
    const wraps = wrapsBy(anchors, heard);
    const [frame, time] = anchorOf(anchors, wraps);
    const at = frame + Math.max(0, heard - time) * this.sampleRate;
    if (wraps < anchors.wraps) return at;
    // What is not rendered yet is not heard. It comes in steps, so a little more is no sign of anything; beyond that
    // the audio thread was held up, and the line has to begin anew behind.
    const most = anchors.rendered + FIT.jump * this.sampleRate;
    if (at <= most) return at;
    this.#behind = FIT.patience;
    return most;
  }

  /** How many wraps of the loop have been heard by a page time. */
  heardWraps(nowMs: number): number {
    const before = this.#before;
    if (before && nowMs < before.untilMs)
      return before.anchors ? wrapsBy(before.anchors, nowMs / 1000 + before.offset) : 0;
    const anchors = this.#anchors();
    return anchors ? wrapsBy(anchors, nowMs / 1000 + (this.#offset ?? 0)) : 0;
  }

  /** What the audio thread tells the time by, all of one moment; null where it is still of a play before. */
  #anchors(): Anchors | null {
    const { ints, floats } = this.views;
    for (;;) {
      const seq = Atomics.load(ints, T_INT.seq);
      const roll = Atomics.load(ints, T_INT.roll);
      const wraps = Atomics.load(ints, T_INT.wraps);
      const last = floats.slice(T_FLOAT.anchors, T_FLOAT.anchors + 2 * ANCHORS);
      const rendered = floats[T_FLOAT.frame]!;
      if (!(seq & 1) && seq === Atomics.load(ints, T_INT.seq))
        return roll === this.#roll ? { wraps, last, rendered } : null;
    }
  }
}

/** The song frame and the context time of a wrap; of the play's beginning, where it is the first. */
const anchorOf = ({ last }: Anchors, wrap: number): readonly [frame: number, time: number] => {
  const at = 2 * (wrap % ANCHORS);
  return [last[at]!, last[at + 1]!];
};

/** How often the loop had been heard to come round by a context time, as far back as is known. */
function wrapsBy(anchors: Anchors, heard: number): number {
  let { wraps } = anchors;
  const first = Math.max(0, wraps - ANCHORS + 1);
  while (wraps > first && heard < anchorOf(anchors, wraps)[1]) wraps--;
  return wraps;
}
