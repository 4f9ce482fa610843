import { CurveMaker, ThinStream, type ThinMark } from '../curve/index.js';
import { travelOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { HAND } from './handEvent.js';
import { heldStill, type HandValue, type KeptPath } from './handPath.js';

/** The latest of a hand's values are kept back: one that was made before them may still come. */
const KEPT_BACK = 64;
/** So many values are taken at a time. */
const AT_ONCE = 64;

/** A part of a path without a step in it, which is thinned by itself; `v`: its values in the layer's unit. */
type Run = { readonly stream: ThinStream; readonly v: number[] };

/**
 * Thins the path of one span while its hand still moves, so that little is left to be done when it stops. What it finds is
 * what it finds of the whole path at once.
 */
export class PathThinner {
  /** How many of the hand's values are taken in. */
  #taken = 0;
  /** The last entry of the path, which another value at its time may still replace, and the time of the one before it. */
  #last: HandValue | null = null;
  #beforeLast: Seconds | null = null;
  #run: Run | null = null;
  #kept = new CurveMaker();
  #maxDeviation = 0;

  constructor(
    readonly law: Law,
    readonly tolerance: number,
  ) {}

  /** How many of the hand's values it has taken in: cut back to fewer, another has to begin anew. */
  get taken(): number {
    return this.#taken;
  }

  /** Takes in what has come of a hand's values, but for the latest. */
  follow(values: readonly HandValue[]): void {
    if (values.length - KEPT_BACK - this.#taken < AT_ONCE) return;
    this.#take(values, values.length - KEPT_BACK);
    this.#run?.stream.settle();
  }

  /** What is kept of the whole path, whose hand part ends at `end` and goes on as `tail`. It can be followed on after. */
  keep(values: readonly HandValue[], end: Seconds, tail: readonly HandValue[]): KeptPath {
    const run = this.#run;
    const mark = run?.stream.mark();
    const { length } = run?.v ?? [];
    const before = { taken: this.#taken, last: this.#last, beforeLast: this.#beforeLast };
    const kept = { maker: this.#kept, maxDeviation: this.#maxDeviation };
    this.#kept = kept.maker.clone();
    this.#take(values, values.length);
    if (this.#last && this.#last.t < end) this.#put({ ...this.#last, t: end });
    for (const value of tail) this.#put(value);
    if (this.#last) this.#settled(this.#last);
    this.#endRun();
    const result = { points: this.#kept.make(), maxDeviation: this.#maxDeviation };
    this.#restore(run, mark, length);
    this.#taken = before.taken;
    this.#last = before.last;
    this.#beforeLast = before.beforeLast;
    this.#kept = kept.maker;
    this.#maxDeviation = kept.maxDeviation;
    return result;
  }

  #restore(run: Run | null, mark: ThinMark | undefined, length: number): void {
    this.#run = run;
    if (!run || !mark) return;
    run.stream.back(mark);
    run.v.length = length;
  }

  /** As {@link handPath} goes from one value to the next. */
  #take(values: readonly HandValue[], to: number): void {
    for (; this.#taken < to; this.#taken++) {
      const value = values[this.#taken]!;
      const last = this.#last;
      if (last?.t === value.t) {
        const isStep = this.#beforeLast === null || this.#beforeLast === value.t;
        if (isStep) this.#last = null;
      } else if (last && heldStill(last, value)) this.#put({ ...last, t: value.t - HAND.glideSec });
      this.#put(value);
    }
  }

  #put(value: HandValue): void {
    if (this.#last) {
      this.#settled(this.#last);
      this.#beforeLast = this.#last.t;
    }
    this.#last = value;
  }

  /** An entry of the path stands: it goes on with the run, or begins another where it does not come later. */
  #settled({ t, v, x }: HandValue): void {
    if (this.#beforeLast !== null && t <= this.#beforeLast) this.#endRun();
    this.#run ??= this.#newRun();
    this.#run.stream.push(t, x ?? travelOf(this.law, v));
    this.#run.v.push(v);
  }

  /** A vertex that stands on the path keeps the hand's own value, to the last bit. */
  #newRun(): Run {
    const v: number[] = [];
    const valueAt = (x: Travel, at: number): number => (x === stream.travelOf(at) ? v[at]! : valueOf(this.law, x));
    const stream: ThinStream = new ThinStream(this.tolerance, { measure: valueAt });
    return { stream, v };
  }

  #endRun(): void {
    if (!this.#run) return;
    const { stream } = this.#run;
    const vertices = stream.finish();
    for (const { index, v } of vertices) this.#kept.addLine(stream.timeOf(index), v);
    this.#maxDeviation = Math.max(this.#maxDeviation, vertices.at(-1)!.worst);
    this.#run = null;
  }
}
