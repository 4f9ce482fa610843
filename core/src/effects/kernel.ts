import { ELSEWHERE, type Frames } from '../units/index.js';

/**
 * Parameters are read so often, counted from the song's start, and what they lead to goes straight between (page 8): however fast a
 * hand is, a curve bends no sharper than over this many frames.
 */
export const GRID_FRAMES: Frames = 64;

/**
 * Columns of numbers, one for each parameter, that go straight all at once: when each begins, in seconds; where on its throw; how far it goes;
 * in how many seconds; of its law the lowest value, the reach, and whether that is a logarithm. After them the time that is asked for.
 */
export const STRAIGHT = { apart: 12, since: 0, x: 12, rise: 24, sec: 36, law: 48, at: 84, length: 85 } as const;

/**
 * The sound of one effect in one channel. A host writes the values of all its parameters, in their order and units, into `values`,
 * and tells it to {@link begin} or to {@link turn}; what they lead to (coefficients, gains, lengths) goes straight from one turn to the
 * next. Allocates nothing after its making, and takes and gives no fractions by calls: in the audio thread they would be new things
 * in memory.
 */
export abstract class EffectKernel {
  /** What the parameters are at the end of the stretch. */
  readonly values: Float64Array;
  /** Where the sound of an effect counts on from the song's start: what its `summed` parameter has come to, times seconds. */
  readonly sum = new Float64Array(1);
  /** Where the thread's memory has the two sides that {@link process} is given; −1: they are not in it. */
  soundAt: readonly [left: number, right: number] = ELSEWHERE;
  /** Where a host may keep parameters that go {@link STRAIGHT}, for {@link readStraight}; null where it reads them one by one. */
  straight: Float64Array | null = null;
  /** What they led to at the stretch's beginning, by how much that changes with each frame, and what they lead to at its end. */
  protected readonly starts: Float64Array;
  protected readonly slopes: Float64Array;
  /** Nothing changes over the stretch. */
  protected isSteady = true;
  protected readonly ends: Float64Array;

  /**
   * `parameters`: how many values it has; `numbers`: how many numbers they lead to. Where a list is given, starts, slopes, ends and values
   * stand in it one after the other.
   */
  constructor(parameters: number, numbers: number, list: Float64Array = new Float64Array(3 * numbers + parameters)) {
    this.starts = list.subarray(0, numbers);
    this.slopes = list.subarray(numbers, 2 * numbers);
    this.ends = list.subarray(2 * numbers, 3 * numbers);
    this.values = list.subarray(3 * numbers, 3 * numbers + parameters);
  }

  /** Whether nothing is left in it of what it has heard, so that it gives silence for silence; no, where it can't tell or goes on counting. */
  get isAtRest(): boolean {
    return false;
  }

  /** Puts what parameters that go straight have come to into `values`; whether any is other than it was. */
  readStraight(): boolean {
    return false;
  }

  /** Works out what `values` lead to. */
  protected abstract work(into: Float64Array): void;

  /** Forgets all sound; what counts on from the song's start is as `sum` says. */
  abstract clear(): void;

  /**
   * Changes the next `count` frames in place, the samples from `at` on; `done` frames of the stretch are past. Of a channel with one
   * side the right one is left as it is.
   */
  abstract process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void;

  /** The values are as they are from now on, without a way to them. */
  begin(): void {
    this.work(this.ends);
    this.#rest();
  }

  /** A stretch of so many frames begins; at its end the values are as written. `isOther`: they are not as they were. */
  turn(frames: Frames, isOther: boolean): void {
    if (!isOther) {
      if (!this.isSteady) this.#rest();
      return;
    }
    this.lead(frames);
    this.isSteady = false;
  }

  /** What the last stretch led to is where this one starts; what the values lead to is where it ends. */
  protected lead(frames: Frames): void {
    const { starts, slopes, ends } = this;
    for (let i = 0; i < ends.length; i++) starts[i] = ends[i]!;
    this.work(ends);
    for (let i = 0; i < ends.length; i++) slopes[i] = (ends[i]! - starts[i]!) / frames;
  }

  /** The stretch ends after `done` frames instead: the next turn goes on from what is reached by then. */
  halt(done: Frames): void {
    for (let i = 0; i < this.ends.length; i++) this.ends[i] = this.starts[i]! + this.slopes[i]! * done;
    this.#rest();
  }

  #rest(): void {
    for (let i = 0; i < this.ends.length; i++) this.starts[i] = this.ends[i]!;
    this.slopes.fill(0);
    this.isSteady = true;
  }
}
