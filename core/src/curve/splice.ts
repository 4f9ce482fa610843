import { lastNotAfter, type Law, type Seconds } from '../units/index.js';
import { Curve, CurveMaker } from './curve.js';
import { holdsAt, pointBefore, valueArriving, valueAt } from './lookup.js';
import { holdPoint, linePoint, type Point, type Range } from './point.js';
import { withPart } from './shapes.js';

const edgePoint = (law: Law, t: Seconds, v: number): Point =>
  law.kind === 'switch' ? holdPoint(t, v) : linePoint(t, v);

/** The share of the segment from point i that lies before t. */
const shareAt = ({ t }: Curve, i: number, at: Seconds): number => (at - t[i]!) / (t[i + 1]! - t[i]!);

/** The first of some rising times that is not before `at`, as an index; their number where all are. */
export function firstNotBefore(t: Float64Array, at: Seconds): number {
  let i = lastNotAfter(t, at);
  while (i >= 0 && t[i] === at) i--;
  return i + 1;
}

/** Adds the points that keep everything before `a` as it was, the last of them at `a` with the value arrived at. */
function addBefore(maker: CurveMaker, curve: Curve, law: Law, rest: number, a: Seconds): void {
  const end = firstNotBefore(curve.t, a);
  const before = end - 1;
  const isThere = end < curve.length;
  if (isThere && curve.t[end] === a) {
    maker.copy(curve, 0, end);
    // A held segment arrives with its own value, whatever the point it ends at says.
    if (before >= 0 && holdsAt(curve, before, law)) maker.add(edgePoint(law, a, curve.v[before]!));
    else maker.addFrom(curve, end);
    return;
  }
  maker.copy(curve, 0, before);
  if (before >= 0 && isThere) maker.add(withPart(curve.point(before), 0, shareAt(curve, before, a)));
  else if (before >= 0) maker.addFrom(curve, before);
  maker.add(edgePoint(law, a, valueArriving(curve, law, rest, a)));
}

/** What keeps everything from `b` on as it was: a point at `b` with the value left with, and the curve's points from `next` on. */
function startingAt(
  curve: Curve,
  law: Law,
  rest: number,
  b: Seconds,
): { readonly point: Point; readonly next: number } {
  const i = pointBefore(curve, b);
  const next = i + 1;
  if (i >= 0 && curve.t[i] === b) return { point: curve.point(i), next };
  const v = valueAt(curve, law, rest, b);
  const isLast = next === curve.length;
  if (i < 0 || isLast) return { point: isLast ? edgePoint(law, b, v) : holdPoint(b, v), next };
  return { point: { ...withPart(curve.point(i), shareAt(curve, i, b), 1), t: b, v }, next };
}

/** Makes way for a point: of three at one time the middle one says nothing, and of two with one value neither does the first. */
function makeWay(maker: CurveMaker, t: Seconds, v: number): void {
  if (maker.timeFromEnd(1) !== t) return;
  if (maker.timeFromEnd(2) === t) maker.pop();
  if (maker.timeFromEnd(1) === t && maker.lastValue === v) maker.pop();
}

/**
 * Replaces the range [a, b) of a curve by `inside` (sorted, a ≤ t ≤ b, holding from a on) and leaves the outside as it was:
 * the points there stay, the values agree (rules, 2). A lane without points gets `rest` at both edges.
 * Of a step at a the value arrived at is outside, at b the value left with.
 */
export function splice(curve: Curve, law: Law, rest: number, [a, b]: Range, inside: Curve): Curve {
  if (!(b > a)) return curve;
  const maker = new CurveMaker(curve.length + inside.length + 4);
  const after = startingAt(curve, law, rest, b);
  addBefore(maker, curve, law, rest, a);
  for (let i = 0; i < inside.length;) {
    makeWay(maker, inside.t[i]!, inside.v[i]!);
    // Up to where another point stands at the time of the one before it, there is no way to be made.
    let end = i + 1;
    while (end < inside.length && inside.t[end] !== inside.t[end - 1]) end++;
    maker.copy(inside, i, end);
    i = end;
  }
  makeWay(maker, after.point.t, after.point.v);
  maker.add(after.point);
  maker.copy(curve, after.next, curve.length);
  return maker.make();
}

/**
 * The range [a, b) of a curve by itself, as {@link splice} takes it: a point at either end, the first with the value the
 * curve leaves a with, the last with the one it comes to b with. A curve without points is `rest` throughout.
 */
export function cutOut(curve: Curve, law: Law, rest: number, [a, b]: Range): Curve {
  const { point, next } = startingAt(curve, law, rest, a);
  const end = firstNotBefore(curve.t, b) + 1;
  const from = new CurveMaker(Math.max(0, end - next) + 1);
  from.add(point);
  from.copy(curve, next, end);
  const cut = new CurveMaker(from.length + 1);
  addBefore(cut, from.take(), law, rest, b);
  const made = cut.make();
  return holdsTo(made, law) ? made.slice(0, made.length - 1) : made;
}

/** Whether the last point only repeats the value held up to it: a switch changes where it does, not where a range ends. */
const holdsTo = ({ v, length }: Curve, law: Law): boolean =>
  law.kind === 'switch' && length > 1 && v[length - 1] === v[length - 2];

/** The points of a curve with a ≤ t ≤ b, as indices: the first, and the one after the last. */
export const placesIn = ({ t }: Curve, [a, b]: Range): readonly [first: number, end: number] => [
  firstNotBefore(t, a),
  lastNotAfter(t, b) + 1,
];
