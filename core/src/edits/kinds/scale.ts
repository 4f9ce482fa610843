import * as Type from '@sinclair/typebox';
import { picksOf, scaled } from '../../curve/index.js';
import { controlOf, isSwitch } from '../../song/index.js';
import { type Checked } from '../../song/schemaParts.js';
import { changeCurves, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyPicking } from '../examples.js';
import { picking } from '../fields.js';
import { firstWrong, pickingWrong, valueWrong } from '../laneChecks.js';

/** The distance of points in travel from a pivot multiplied, each kept within the throw (rules, 6, Move). */
const schema = fieldsOf('scale', {
  ...picking,
  factor: Type.Number({ minimum: -100, maximum: 100 }),
  pivot: Type.Optional(Type.Number()),
});
export type ScaleEdit = Checked<typeof schema>;

export const scale: EditKind<ScaleEdit> = {
  kind: 'scale',
  does: 'the distance in travel of points (as for move) from the lowest of them in their lane, or from a pivot (a value), multiplied; within 0 … 1',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) =>
    pickingWrong(song, 'scale', edit) ??
    firstWrong(
      edit.controls.map((id) => {
        if (isSwitch(controlOf(song, id))) return `${id} is a switch, which can’t be scaled.`;
        return edit.pivot === undefined ? null : valueWrong(song, id, edit.layer ?? 'base', edit.pivot);
      }),
    ),
  apply: (song, { controls, range, points, layer = 'base', factor, pivot }) =>
    changeCurves(song, controls, layer, (curve, id) => {
      const picks = picksOf(curve.points, { range, times: points && (points[id] ?? []) });
      return scaled({ ...curve, picks }, factor, pivot ?? null);
    }),
  named: (song, edit) => `Points of ${namesOf(song, edit.controls)} scaled`,
  example: (song, draw) => ({
    kind: 'scale',
    ...anyPicking(song, draw),
    factor: Math.round(40 * draw[6]! - 10) / 10,
    ...(draw[7]! < 0.5 ? {} : { pivot: -0.5 }),
  }),
};
