import * as Type from '@sinclair/typebox';
import {
  Curve,
  cutOut,
  holdPoint,
  linePoint,
  splice,
  valueArriving,
  valueAt,
  type LaneCurve,
  type Range,
} from '../../curve/index.js';
import { type ControlId, type Song } from '../../song/index.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { type Seconds } from '../../units/index.js';
import { changeCurves } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyPlaced, anyRange } from '../examples.js';
import { range, values, words } from '../fields.js';
import { spanWrong } from '../laneChecks.js';
import { placedName, placedWrong, valuesPlaced, whyNotPlaced, withGone } from '../placing.js';

/** One value of each control over a range, with edges inside it (rules, 6, Place). The edge of the song's settings where none is said. */
const schema = fieldsOf('place', {
  range,
  ...maybe({ values, snapshot: words, edge: Type.Number({ minimum: 0, maximum: 2 }) }),
});
export type PlaceEdit = Checked<typeof schema>;

/** A curve with one value over a range: straight to it over the first edge, and over the last to what the curve is after it. */
function placed({ points, law, rest }: LaneCurve, [a, b]: Range, v: number, edge: Seconds): Curve {
  if (law.kind === 'switch') return splice(points, law, rest, [a, b], Curve.of([holdPoint(a, v)]));
  const run = Math.min(edge, (b - a) / 2);
  const even = [linePoint(a + run, v), linePoint(b - run, v)];
  if (!run) return splice(points, law, rest, [a, b], Curve.of(even));
  const [from, to] = [valueArriving(points, law, rest, a), valueAt(points, law, rest, b)];
  // Where the edges take the whole range they meet in one point.
  const inside = even[0]!.t < even[1]!.t ? even : even.slice(0, 1);
  return splice(points, law, rest, [a, b], Curve.of([linePoint(a, from), ...inside, linePoint(b, to)]));
}

/** Whether a curve is at one value all over a range. */
const isEven = ({ points, law, rest }: LaneCurve, range: Range, v: number): boolean =>
  points.length ? cutOut(points, law, rest, range).v.every((one) => one === v) : rest === v;

const edgeOf = (song: Song, { edge }: PlaceEdit): Seconds => edge ?? song.settings.edgeTime;

export const place: EditKind<PlaceEdit> = {
  kind: 'place',
  does: 'one value of each control, or a `snapshot` by its key, over a range, with edges inside it (in seconds, at most half the range; absent: the song’s edge time); heeds safe, parked and the write scope, not modes; what a snapshot finds so all over the range stays as it is',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => placedWrong(song, edit) ?? spanWrong('The range to place in', edit.range),
  apply(song, edit) {
    const all = valuesPlaced(song, edit);
    const edge = edgeOf(song, edit);
    const place = (curve: LaneCurve, id: ControlId): Curve => {
      const v = all.values[id]!;
      // What a snapshot finds so already stays as it is: a lane without a curve gets none.
      const isSo = edit.snapshot !== undefined && isEven(curve, edit.range, v);
      return isSo ? curve.points : placed(curve, edit.range, v, edge);
    };
    return withGone(changeCurves(song, Object.keys(all.values), 'base', place, whyNotPlaced), edit, all);
  },
  named: (song, edit) => `${placedName(song, edit)} placed`,
  example: (song, [a, b, c, d, e, f]) => ({
    kind: 'place',
    ...anyPlaced(song, [a!, b!, c!, d!]),
    range: anyRange(e!, f!),
    edge: d! < 0.3 ? 0 : d!,
  }),
};
