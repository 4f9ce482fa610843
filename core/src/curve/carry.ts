import { travelOf, valueOf, type Law, type Seconds } from '../units/index.js';
import { valueArriving, valueAt } from './lookup.js';
import { Curve } from './curve.js';
import { holdPoint, linePoint, type Point } from './point.js';
import { splice } from './splice.js';

/**
 * A span's end drawn on from one time to a later one, or its beginning back to an earlier one. `back`: how long the straight line
 * takes that leads back to the curve after a later one, cut at `limit`; 0 is a step.
 */
export type Carrying = {
  readonly from: Seconds;
  readonly to: Seconds;
  readonly back: Seconds;
  readonly limit: Seconds;
};

/**
 * Draws a stretch of a curve on: from its end at `from` to a later time, holding the value it comes there with, or from
 * its beginning back to an earlier one, holding the value it begins with (rules, 5, Carry). A line back lands on the curve as it
 * is before. Outside nothing changes.
 */
export function carried(curve: Curve, law: Law, { from, to, back, limit }: Carrying): Curve {
  if (!curve.length || from === to) return curve;
  const isOn = to > from;
  const v = isOn ? valueArriving(curve, law, 0, from) : valueAt(curve, law, 0, from);
  const [a, b] = isOn ? [from, to] : [to, from];
  if (law.kind === 'switch') return splice(curve, law, 0, [a, b], Curve.of([holdPoint(a, v)]));
  const held = [linePoint(a, v), linePoint(b, v)];
  const lands = isOn ? landing(curve, law, held[1]!, back, limit) : null;
  if (!lands) return splice(curve, law, 0, [a, b], Curve.of(held));
  return splice(curve, law, 0, [a, lands.t], Curve.of([...held, lands]));
}

/** Where a line back to the curve lands, or is cut; null where there is none. */
function landing(curve: Curve, law: Law, leaves: Point, back: Seconds, limit: Seconds): Point | null {
  const t = Math.min(leaves.t + back, limit);
  if (!(t > leaves.t)) return null;
  const goal = valueAt(curve, law, 0, leaves.t + back);
  if (t === leaves.t + back) return linePoint(t, goal);
  const from = travelOf(law, leaves.v);
  return linePoint(t, valueOf(law, from + ((travelOf(law, goal) - from) * (t - leaves.t)) / back));
}
