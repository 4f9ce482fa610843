import { holdPoint, linePoint, thinRun, type Point } from '../curve/index.js';
import { travelOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { HAND } from './handEvent.js';

/**
 * A value a hand had at a time, in the layer's unit. `x` is its travel, where it was worked out as it came: at a stop there
 * can be hundreds of thousands of them.
 */
export type HandValue = { readonly t: Seconds; readonly v: number; readonly x?: Travel };

/** The points a span leaves after thinning, and how far they are from the hand's path at most, in travel. */
export type KeptPath = { readonly points: Point[]; readonly maxDeviation: number };

/** Whether a hand held still from one of its values to the next, rather than moving all the way (rules, 5, Hand path). */
export const heldStill = (from: HandValue, to: HandValue): boolean => to.t - from.t > HAND.stillSec;

/**
 * The path of a hand from its first value to `end`: straight in travel from one to the next; where the hand held still
 * between them the value holds, but for the last 20 ms (rules, 5). Of several values at one time the path goes to the
 * first and leaves with the last.
 */
export function handPath(values: readonly HandValue[], end: Seconds): HandValue[] {
  const path: HandValue[] = [];
  for (const value of values) {
    const last = path.at(-1);
    if (last?.t === value.t) {
      const isStep = path.length === 1 || path.at(-2)!.t === value.t;
      if (isStep) path.pop();
    } else if (last && heldStill(last, value)) path.push({ ...last, t: value.t - HAND.glideSec });
    path.push(value);
  }
  const last = path.at(-1);
  if (last && last.t < end) path.push({ ...last, t: end });
  return path;
}

/** A switch's path: each value holds until the next; of several at one time the last counts. */
export function switchPoints(values: readonly HandValue[]): Point[] {
  const points: Point[] = [];
  for (const { t, v } of values) {
    if (points.at(-1)?.t === t) points.pop();
    if (points.at(-1)?.v !== v) points.push(holdPoint(t, v));
  }
  return points;
}

/** Thins a path within a tolerance in travel, keeping its ends and its steps exactly (rules, 7). */
export function thinPath(path: readonly HandValue[], law: Law, tolerance: number): KeptPath {
  const points: Point[] = [];
  let maxDeviation = 0;
  let from = 0;
  for (let i = 1; i <= path.length; i++) {
    if (i < path.length && path[i]!.t > path[i - 1]!.t) continue;
    const t = new Float64Array(i - from);
    const x = new Float64Array(i - from);
    for (let k = from; k < i; k++) {
      t[k - from] = path[k]!.t;
      x[k - from] = path[k]!.x ?? travelOf(law, path[k]!.v);
    }
    const thinned = thinRun({ t, x }, tolerance);
    let at = 0;
    for (let k = 0; k < thinned.t.length; k++) {
      while (t[at]! < thinned.t[k]!) at++;
      // A vertex that stands on the path keeps the hand's own value, to the last bit.
      points.push(linePoint(t[at]!, thinned.x[k] === x[at] ? path[from + at]!.v : valueOf(law, thinned.x[k]!)));
    }
    maxDeviation = Math.max(maxDeviation, thinned.maxDeviation);
    from = i;
  }
  return { points, maxDeviation };
}
