import { travelOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { Curve, CurveMaker } from './curve.js';
import { holdsAt, valueArriving, valueAt } from './lookup.js';
import { linePoint, type Point, type Range } from './point.js';
import { partFraction, withPart } from './shapes.js';
import { cutOut, splice } from './splice.js';

/** How far a range of a curve is lifted, and how long the straight lines at its ends are that lead there and back. */
export type Lift = { readonly travel: Travel; readonly edge: Seconds };

/** The curve of a lane, the law of its throw, and what it is at while it has no points. */
export type LaneCurve = { readonly points: Curve; readonly law: Law; readonly rest: number };

/** Halvings by which the share of a segment is found at which it meets an end of the throw: as fine as a number goes. */
const HALVINGS = 52;

/**
 * Lifts the range [a, b) of a curve by an equal travel, kept within the throw at every time; outside nothing changes
 * (rules, 6, Range lift). An edge is at most half the range.
 */
export function lifted(curve: LaneCurve, [a, b]: Range, { travel, edge }: Lift): Curve {
  const { points, law, rest } = curve;
  const run = Math.min(edge, (b - a) / 2);
  const inner = liftedRange(curve, [a + run, b - run], travel);
  if (!run) return splice(points, law, rest, [a, b], inner);
  const made = new CurveMaker(inner.length + 2);
  made.addLine(a, valueArriving(points, law, rest, a));
  made.copy(inner, 0, inner.length);
  made.addLine(b, valueAt(points, law, rest, b));
  return splice(points, law, rest, [a, b], made.take());
}

/** The range [a, b] of a curve by itself, lifted, from a straight line's end to another's beginning. */
function liftedRange({ points, law, rest }: LaneCurve, [a, b]: Range, by: Travel): Curve {
  const up = (v: number): number => valueOf(law, travelOf(law, v) + by);
  if (!(a < b)) return Curve.of([linePoint(a, up(valueAt(points, law, rest, a)))]);
  const cut = cutOut(points, law, rest, [a, b]);
  const made = new CurveMaker(cut.length + 1);
  for (let i = 0; i < cut.length; i++) {
    const v = cut.v[i]!;
    const isSegment = i + 1 < cut.length && !holdsAt(cut, i, law);
    if (isSegment && throwEnds(travelOf(law, v), travelOf(law, cut.v[i + 1]!), by) !== null)
      for (const piece of withinThrow(cut.point(i), cut.point(i + 1), law, by)) made.add({ ...piece, v: up(piece.v) });
    else made.addFrom(cut, i, cut.t[i], up(v));
  }
  // The last point is where the range ends: from there a straight line leads away.
  const last = made.timeFromEnd(1) === b ? made.lastValue : up(valueArriving(points, law, rest, b));
  if (made.timeFromEnd(1) === b) made.pop();
  made.addLine(b, last);
  return made.take();
}

/** The ends of the throw that a segment goes beyond on its way once it is lifted, as they were before; null where it goes beyond none. */
function throwEnds(from: Travel, to: Travel, by: Travel): readonly Travel[] | null {
  const isOnWay = (end: Travel): boolean => Math.min(from, to) < end && end < Math.max(from, to);
  return isOnWay(-by) || isOnWay(1 - by) ? [-by, 1 - by].filter(isOnWay) : null;
}

/**
 * The pieces of the segment from `p` to `next` that, lifted, lie on the throw as they are or beyond one end of it: what
 * lies beyond stands at that end, as a straight line.
 */
function withinThrow(p: Point, next: Point, law: Law, by: Travel): Point[] {
  const [from, to] = [travelOf(law, p.v), travelOf(law, next.v)];
  const [u0, u1] = p.part ?? [0, 1];
  const travelAt = (u: number): Travel => from + (to - from) * partFraction(p.shape, p.bend, u0, u1, u);
  const ends = throwEnds(from, to, by) ?? [];
  const shares = ends.map((end) => shareAt(travelAt, end, to > from)).sort((x, y) => x - y);
  const cuts = [0, ...shares, 1];
  return cuts.slice(0, -1).map((share, i): Point => {
    const until = cuts[i + 1]!;
    const isBeyond = Math.abs(travelAt((share + until) / 2) + by - 0.5) > 0.5;
    const at = { t: p.t + (next.t - p.t) * share, v: share ? valueOf(law, travelAt(share)) : p.v };
    return isBeyond ? linePoint(at.t, at.v) : { ...withPart(p, share, until), ...at };
  });
}

/** The share of a rising or falling segment at which it comes to a place on the throw. */
function shareAt(travelAt: (u: number) => Travel, place: Travel, rises: boolean): number {
  let [low, high] = [0, 1];
  for (let i = 0; i < HALVINGS; i++) {
    const middle = (low + high) / 2;
    if (travelAt(middle) < place === rises) low = middle;
    else high = middle;
  }
  return high;
}
