import { T_FLOAT, T_INT, type SharedViews } from './sharedLayout.js';

/** What the clock needs of an audio context. */
export type ContextClock = Pick<AudioContext, 'currentTime' | 'outputLatency' | 'baseLatency' | 'getOutputTimestamp'>;

/**
 * How the fitted line follows what is measured. A clock that moves on in steps is never ahead of the time, so what is
 * measured later is trusted soon, what is earlier hardly. Beyond `jump` seconds the line begins anew: at once where the
 * clock is ahead, behind only after so many readings in a row, as a clock that was held up for a moment catches up.
 */
const FIT = { rise: 0.2, fall: 0.005, jump: 0.05, patience: 30 } as const;

/**
 * Tells what is heard at a moment of the page's own clock. The context's clock moves on in steps, so a line is
 * fitted to it: moves are stamped to better than a millisecond, and the picture does not shiver.
 */
export class SongClock {
  /** Context time as heard less page time, both in seconds. */
  #offset: number | null = null;
  /** Readings in a row that were far behind the line. */
  #behind = 0;

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

  /** Song frame as heard at a page time, while playing; before the first sound, where it begins. */
  heardFrame(nowMs: number): number {
    if (this.#offset === null) this.read(nowMs);
    const { ints, floats } = this.views;
    let seq: number;
    let frame: number;
    let time: number;
    let beforeFrame: number;
    let beforeTime: number;
    let rendered: number;
    do {
      seq = Atomics.load(ints, T_INT.seq);
      frame = floats[T_FLOAT.anchorFrame]!;
      time = floats[T_FLOAT.anchorTime]!;
      beforeFrame = floats[T_FLOAT.beforeFrame]!;
      beforeTime = floats[T_FLOAT.beforeTime]!;
      rendered = floats[T_FLOAT.frame]!;
    } while (seq & 1 || seq !== Atomics.load(ints, T_INT.seq));
    const heard = nowMs / 1000 + this.#offset!;
    if (heard >= time) {
      const at = frame + (heard - time) * this.sampleRate;
      // What is not rendered yet is not heard. It comes in steps, so a little more is no sign of anything; beyond that
      // the audio thread was held up, and the line has to begin anew behind.
      const most = rendered + FIT.jump * this.sampleRate;
      if (at <= most) return at;
      this.#behind = FIT.patience;
      return most;
    }
    // A wrap is on its way but not heard yet; or playing has only begun.
    const wraps = Atomics.load(ints, T_INT.wraps);
    return wraps > 0 ? beforeFrame + Math.max(0, heard - beforeTime) * this.sampleRate : frame;
  }

  /** How many wraps of the loop have been heard. */
  heardWraps(nowMs: number): number {
    const wraps = Atomics.load(this.views.ints, T_INT.wraps);
    const time = this.views.floats[T_FLOAT.anchorTime]!;
    return wraps > 0 && nowMs / 1000 + (this.#offset ?? 0) < time ? wraps - 1 : wraps;
  }
}
