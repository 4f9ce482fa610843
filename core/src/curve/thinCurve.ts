import { travelOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { CurveMaker, type Curve } from './curve.js';
import { holdsAt } from './lookup.js';
import { SHAPES, type Range } from './point.js';
import { isStraight } from './shapes.js';
import { placesIn } from './splice.js';
import { thinRun } from './thin.js';

/** What thinning a curve gives: the curve, how far it ever is from what it was (travel), and when it is that. */
export type ThinnedCurve = { readonly points: Curve; readonly maxDeviation: Travel; readonly at: Seconds | null };

/**
 * Thins a curve, or the points of a range of it, never to deviate by more than a tolerance in travel (rules, 7). Steps, what holds,
 * what is bent, and the first and last point stay exactly: thinned is what goes straight from point to point.
 */
export function thinnedCurve(points: Curve, law: Law, tolerance: Travel, range?: Range): ThinnedCurve {
  const [first, end] = range ? placesIn(points, range) : [0, points.length];
  const maker = new CurveMaker(points.length);
  maker.copy(points, 0, first);
  let worst = 0;
  let at: Seconds | null = null;
  for (let i = first; i < end;) {
    let last = i;
    while (last + 1 < end && isLine(points, last, law) && points.t[last + 1]! > points.t[last]!) last++;
    const found = last - i > 1 ? thinnedRun(maker, points, i, last, law, tolerance) : null;
    if (!found) maker.copy(points, i, last);
    else if (found.maxDeviation > worst) ({ maxDeviation: worst, at } = found);
    // The last of a run begins the next, or stands by itself.
    if (last === i || last === end - 1) maker.addFrom(points, last);
    i = Math.max(i + 1, last === end - 1 ? end : last);
  }
  maker.copy(points, end, points.length);
  return maker.length < points.length
    ? { points: maker.make(), maxDeviation: worst, at }
    : { points, maxDeviation: 0, at: null };
}

const isLine = (points: Curve, i: number, law: Law): boolean =>
  !holdsAt(points, i, law) && isStraight(SHAPES[points.shape[i]!]!, points.bendOf(i));

/** Thins the run from one point to another and adds what is kept of it, but for the last; null where nothing goes. */
function thinnedRun(
  maker: CurveMaker,
  points: Curve,
  first: number,
  last: number,
  law: Law,
  tolerance: Travel,
): { readonly maxDeviation: Travel; readonly at: Seconds } | null {
  const t = points.t.slice(first, last + 1);
  const x = Float64Array.from(points.v.subarray(first, last + 1), (v) => travelOf(law, v));
  const kept = thinRun({ t, x }, tolerance);
  if (kept.t.length === t.length) return null;
  let index = 0;
  for (let k = 0; k + 1 < kept.t.length; k++) {
    while (t[index] !== kept.t[k]) index++;
    // One that stays where it was keeps all it says.
    if (kept.x[k] === x[index]) maker.addFrom(points, first + index);
    else maker.add({ ...points.point(first + index), v: valueOf(law, kept.x[k]!) });
  }
  return { maxDeviation: kept.maxDeviation, at: whereWorst({ t, x }, kept) };
}

/** When straight lines are furthest from the samples. */
function whereWorst(
  run: { readonly t: Float64Array; readonly x: Float64Array },
  kept: { t: Seconds[]; x: Travel[] },
): Seconds {
  let worst = -1;
  let at = run.t[0]!;
  let k = 0;
  for (let i = 0; i < run.t.length; i++) {
    const t = run.t[i]!;
    while (k + 2 < kept.t.length && kept.t[k + 1]! <= t) k++;
    const share = (t - kept.t[k]!) / (kept.t[k + 1]! - kept.t[k]!);
    const off = Math.abs(kept.x[k]! + (kept.x[k + 1]! - kept.x[k]!) * share - run.x[i]!);
    if (off > worst) [worst, at] = [off, t];
  }
  return at;
}
