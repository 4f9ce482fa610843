import { lastNotAfter } from '../units/index.js';
import { Curve, CurveMaker } from './curve.js';
import type { LaneCurve } from './lift.js';
import type { Range } from './point.js';
import { firstNotBefore, splice } from './splice.js';

/** So many points beyond a range say all that a splice of it asks of the curve there: two at one time, and one more. */
const BESIDE = 3;

/**
 * A curve with one range after the other spliced, as {@link splice} does it, in time that goes with the number of points,
 * not with ranges times points: only what stands about a range is looked at, and what lies before it is done.
 */
export class SplicedInOrder {
  readonly #done: CurveMaker;
  /** What stands before the points of the base from `#next` on, and may still be changed. */
  #near = Curve.EMPTY;
  #next = 0;

  constructor(private readonly base: LaneCurve) {
    this.#done = new CurveMaker(base.points.length);
  }

  /** Splices a range that begins after the last one's end. `isFirst`: of two points at 0 s the first says nothing. */
  splice([a, b]: Range, inside: Curve, isFirst: boolean): void {
    const { points, law, rest } = this.base;
    const from = Math.max(this.#next, firstNotBefore(points.t, a) - BESIDE);
    const to = Math.max(from, Math.min(points.length, lastNotAfter(points.t, b) + 1 + BESIDE));
    if (from > this.#next) {
      // All that is near lies before all that is still looked at.
      this.#done.copy(this.#near, 0, this.#near.length);
      this.#done.copy(points, this.#next, from);
      this.#near = Curve.EMPTY;
    }
    const window = new CurveMaker(this.#near.length + to - from);
    window.copy(this.#near, 0, this.#near.length);
    window.copy(points, from, to);
    let spliced = splice(window.take(), law, rest, [a, b], inside);
    if (isFirst && spliced.t[0] === 0 && spliced.t[1] === 0) spliced = spliced.slice(1);
    const keep = Math.max(0, firstNotBefore(spliced.t, b) - BESIDE);
    this.#done.copy(spliced, 0, keep);
    const near = new CurveMaker(spliced.length - keep);
    near.copy(spliced, keep, spliced.length);
    this.#near = near.take();
    this.#next = to;
  }

  make(): Curve {
    const all = this.#done.clone();
    all.copy(this.#near, 0, this.#near.length);
    all.copy(this.base.points, this.#next, this.base.points.length);
    return all.make();
  }
}
