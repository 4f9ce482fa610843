import type { Law, Seconds } from '../units/index.js';
import { holds, pointBefore, valueArriving, valueAt } from './lookup.js';
import { holdPoint, linePoint, type Point, type Range } from './point.js';
import { withPart } from './shapes.js';

const edgePoint = (law: Law, t: Seconds, v: number): Point =>
  law.kind === 'switch' ? holdPoint(t, v) : linePoint(t, v);

/** The share of the segment from point i that lies before t. */
const shareAt = (points: readonly Point[], i: number, t: Seconds): number =>
  (t - points[i]!.t) / (points[i + 1]!.t - points[i]!.t);

/** The points that keep everything before `a` as it was, the last of them at `a` with the value arrived at. */
function outsideBefore(points: readonly Point[], law: Law, rest: number, a: Seconds): Point[] {
  let end = points.length;
  while (end > 0 && points[end - 1]!.t >= a) end--;
  const kept = points.slice(0, end);
  const there = points[end];
  const before = kept[end - 1];
  if (there?.t === a) {
    // A held segment arrives with its own value, whatever the point it ends at says.
    return [...kept, before && holds(before, law) ? edgePoint(law, a, before.v) : there];
  }
  if (before && there) kept[end - 1] = withPart(before, 0, shareAt(points, end - 1, a));
  return [...kept, edgePoint(law, a, valueArriving(points, law, rest, a))];
}

/** The points that keep everything from `b` on as it was, the first of them at `b` with the value left with. */
function outsideAfter(points: readonly Point[], law: Law, rest: number, b: Seconds): Point[] {
  const i = pointBefore(points, b);
  const after = points.slice(i + 1);
  const last = points[i];
  if (last?.t === b) return [last, ...after];
  const v = valueAt(points, law, rest, b);
  if (!last || !after.length) return [after.length ? holdPoint(b, v) : edgePoint(law, b, v), ...after];
  return [{ ...withPart(last, shareAt(points, i, b), 1), t: b, v }, ...after];
}

/** Adds a point; of three at one time the middle one says nothing, and of two with one value neither does the first. */
function addPoint(points: Point[], p: Point): void {
  if (points.at(-1)?.t === p.t && points.at(-2)?.t === p.t) points.pop();
  const last = points.at(-1);
  if (last?.t === p.t && last.v === p.v) points.pop();
  points.push(p);
}

/**
 * Replaces the range [a, b) of a curve by `inside` (sorted, a ≤ t ≤ b, holding from a on) and leaves the outside as it was:
 * the points there stay, the values agree (rules, 2). A lane without points gets `rest` at both edges.
 * Of a step at a the value arrived at is outside, at b the value left with.
 */
export function splice(
  points: readonly Point[],
  law: Law,
  rest: number,
  [a, b]: Range,
  inside: readonly Point[],
): Point[] {
  if (!(b > a)) return [...points];
  const spliced = outsideBefore(points, law, rest, a);
  const [atB, ...after] = outsideAfter(points, law, rest, b);
  for (const p of inside) addPoint(spliced, p);
  addPoint(spliced, atB!);
  return [...spliced, ...after];
}

/**
 * The range [a, b) of a curve by itself, as {@link splice} takes it: a point at either end, the first with the value the
 * curve leaves a with, the last with the one it comes to b with. A curve without points is `rest` throughout.
 */
export function cutOut(points: readonly Point[], law: Law, rest: number, [a, b]: Range): Point[] {
  const from = outsideAfter(points, law, rest, a);
  const cut = outsideBefore(from, law, rest, b);
  return holdsTo(cut, law) ? cut.slice(0, -1) : cut;
}

/** Whether the last point only repeats the value held up to it: a switch changes where it does, not where a range ends. */
const holdsTo = (points: readonly Point[], law: Law): boolean =>
  law.kind === 'switch' && points.length > 1 && points.at(-1)!.v === points.at(-2)!.v;

/** The points of a curve with a ≤ t ≤ b. */
export function pointsIn(points: readonly Point[], [a, b]: Range): Point[] {
  return points.filter((p) => p.t >= a && p.t <= b);
}
