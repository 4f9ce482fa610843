import type { Law, Seconds } from '../units/index.js';
import { valueArriving, valueAt } from './lookup.js';
import { holdPoint, linePoint, type Point } from './point.js';
import { splice } from './splice.js';

/**
 * Draws a stretch of a curve on: from its end at `from` to a later time, holding the value it comes there with, or from
 * its beginning back to an earlier one, holding the value it begins with (rules, 5, Carry). Outside nothing changes.
 */
export function carried(points: readonly Point[], law: Law, from: Seconds, to: Seconds): readonly Point[] {
  if (!points.length || from === to) return points;
  const v = to > from ? valueArriving(points, law, 0, from) : valueAt(points, law, 0, from);
  const [a, b] = to > from ? [from, to] : [to, from];
  const held = law.kind === 'switch' ? [holdPoint(a, v)] : [linePoint(a, v), linePoint(b, v)];
  return splice(points, law, 0, [a, b], held);
}
