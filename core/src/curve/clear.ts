import type { Seconds } from '../units/index.js';
import { Curve, CurveMaker } from './curve.js';
import type { LaneCurve } from './lift.js';
import { holdsAt, valueArriving, valueAt } from './lookup.js';
import { SHAPES, holdPoint, linePoint, type Range } from './point.js';
import { isStraight } from './shapes.js';
import { cutOut, splice } from './splice.js';

/**
 * A curve without the points inside [a, b): it goes straight from what it arrives at a with to what it leaves b with; a switch
 * holds. Outside nothing changes (rules, 9, `clear`). The same curve where it did so already.
 */
export function cleared(curve: LaneCurve, range: Range): Curve {
  const { points, law, rest } = curve;
  const [a, b] = range;
  if (!points.length || goesStraight(curve, range)) return points;
  const from = valueArriving(points, law, rest, a);
  const inside =
    law.kind === 'switch' ? [holdPoint(a, from)] : [linePoint(a, from), linePoint(b, valueAt(points, law, rest, b))];
  return splice(points, law, rest, range, Curve.of(inside));
}

/** Whether there is nothing between two times but what a straight line (of a switch: one value) says. */
function goesStraight({ points, law, rest }: LaneCurve, [a, b]: Range): boolean {
  const inside = cutOut(points, law, rest, [a, b]);
  if (inside.length > 2 || inside.v[0] !== valueArriving(points, law, rest, a)) return false;
  const isEven = inside.length === 1 || inside.v[0] === inside.v[1];
  const last = inside.v[inside.length - 1];
  if (law.kind === 'switch') return isEven;
  return last === valueAt(points, law, rest, b) && (isEven || isLine(inside, 0, { points, law, rest }));
}

const isLine = (points: Curve, i: number, { law }: LaneCurve): boolean =>
  !holdsAt(points, i, law) && isStraight(SHAPES[points.shape[i]!]!, points.bendOf(i));

/** A curve without the points that stand at some times: the segments of their neighbours follow. The same where none does. */
export function withoutPointsAt(points: Curve, times: ReadonlySet<Seconds>): Curve {
  const maker = new CurveMaker(points.length);
  for (let i = 0; i < points.length; i++) if (!times.has(points.t[i]!)) maker.addFrom(points, i);
  return maker.length === points.length ? points : maker.make();
}
