import * as Type from '@sinclair/typebox';
import {
  Curve,
  SHAPES,
  holdPoint,
  linePoint,
  splice,
  valueArriving,
  valueAt,
  type LaneCurve,
  type Point,
} from '../../curve/index.js';
import { type ControlId, type Song } from '../../song/index.js';
import { maybe, oneOf, type Checked } from '../../song/schemaParts.js';
import { type Seconds } from '../../units/index.js';
import { changeCurves } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyPlaced, anyRange, pick } from '../examples.js';
import { range, values, words } from '../fields.js';
import { spanWrong } from '../laneChecks.js';
import { placedName, placedWrong, valuesPlaced, whyNotPlaced, withGone } from '../placing.js';

/** What comes after a ramp: the curve as it was; the value up to the lane's own next point; or up to the song's end. */
const AFTER_RAMPS = ['resume', 'next', 'end'] as const;

/** A line (or a shape) in travel over a range, to a value at its end, or from one at its beginning (rules, 6, Ramp). */
const schema = fieldsOf('ramp', {
  range,
  ...maybe({
    values,
    snapshot: words,
    shape: oneOf(SHAPES),
    bend: Type.Number({ minimum: -1, maximum: 1 }),
    after: oneOf(AFTER_RAMPS),
    towards: oneOf(['value', 'old'] as const),
  }),
});
export type RampEdit = Checked<typeof schema>;

/** Until when the value of a ramp holds: not at all, up to the lane's first point at or after its end, or up to the song's. */
function holdsUntil({ points }: LaneCurve, end: Seconds, after: RampEdit['after'], song: Song): Seconds {
  const last = Math.max(end, song.length);
  if (after === 'next') return points.t.find((t) => t >= end) ?? last;
  return after === 'end' ? last : end;
}

function ramped(song: Song, curve: LaneCurve, { range: [a, b], after, towards, ...edit }: RampEdit, v: number): Curve {
  const { points, law, rest } = curve;
  const shape = edit.shape ?? 'line';
  const bend = edit.bend ?? (shape === 's' ? 0.5 : 0);
  const start = (value: number): Point => ({ t: a, v: value, shape, bend });
  const isBack = towards === 'old';
  const to = isBack ? b : holdsUntil(curve, b, after, song);
  if (law.kind === 'switch') return to > b ? splice(points, law, rest, [b, to], Curve.of([holdPoint(b, v)])) : points;
  const inside = isBack
    ? [start(v), linePoint(b, valueAt(points, law, rest, b))]
    : [start(valueArriving(points, law, rest, a)), linePoint(b, v), ...(to > b ? [linePoint(to, v)] : [])];
  return splice(points, law, rest, [a, to], Curve.of(inside));
}

export const ramp: EditKind<RampEdit> = {
  kind: 'ramp',
  does: 'a line, or a shape, in travel from what the curve is at the range’s start to a value at its end (`values`, or those of a `snapshot` by its key), or (`towards` `old`) from the value at its start to what the curve is at its end; after it the curve resumes, or the value holds until the lane’s next point, or to the song’s end; a switch is set at the end, with `resume` not at all; heeds safe, parked and the write scope, not modes',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => placedWrong(song, edit) ?? spanWrong('The range to ramp over', edit.range),
  apply(song, edit) {
    const all = valuesPlaced(song, edit);
    const ramp = (curve: LaneCurve, id: ControlId): Curve => ramped(song, curve, edit, all.values[id]!);
    return withGone(changeCurves(song, Object.keys(all.values), 'base', ramp, whyNotPlaced), edit, all);
  },
  named: (song, edit) => `Ramp ${edit.snapshot === undefined ? 'of' : 'to'} ${placedName(song, edit)}`,
  example: (song, [a, b, c, d, e, f, g, h]) => ({
    kind: 'ramp',
    ...anyPlaced(song, [a!, b!, c!, d!]),
    range: anyRange(e!, f!),
    shape: pick(SHAPES, g!),
    bend: 2 * c! - 1,
    after: pick(AFTER_RAMPS, h!),
    towards: d! < 0.3 ? 'old' : 'value',
  }),
};
