import type { Law, Seconds } from '../units/index.js';
import { valueArriving, valueAt } from './lookup.js';
import { Curve } from './curve.js';
import { holdPoint, linePoint } from './point.js';
import { splice } from './splice.js';

/**
 * Draws a stretch of a curve on: from its end at `from` to a later time, holding the value it comes there with, or from
 * its beginning back to an earlier one, holding the value it begins with (rules, 5, Carry). Outside nothing changes.
 */
export function carried(curve: Curve, law: Law, from: Seconds, to: Seconds): Curve {
  if (!curve.length || from === to) return curve;
  const v = to > from ? valueArriving(curve, law, 0, from) : valueAt(curve, law, 0, from);
  const [a, b] = to > from ? [from, to] : [to, from];
  const held = Curve.of(law.kind === 'switch' ? [holdPoint(a, v)] : [linePoint(a, v), linePoint(b, v)]);
  return splice(curve, law, 0, [a, b], held);
}
