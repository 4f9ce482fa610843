import * as Type from '@sinclair/typebox';
import { lifted } from '../../curve/index.js';
import { controlOf, isSwitch } from '../../song/index.js';
import { maybe, seconds, type Checked } from '../../song/schemaParts.js';
import { changeCurves, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl } from '../examples.js';
import { controls, layer, range } from '../fields.js';
import { controlsWrong, firstWrong, spanWrong, trimWrong } from '../laneChecks.js';

/**
 * A range of some lanes moved by an equal travel, within the throw at every time. Its edges, inside the range, run straight
 * from the curve as it was to the lifted one and back (rules, 6, Range lift).
 */
const schema = fieldsOf('lift', {
  controls,
  range,
  travel: Type.Number({ minimum: -1, maximum: 1 }),
  ...maybe({ edge: seconds, layer }),
});
export type LiftEdit = Checked<typeof schema>;

export const lift: EditKind<LiftEdit> = {
  kind: 'lift',
  does: 'a range moved by travel, within 0 … 1 at every time; the edges, in seconds, run inside it from the old curve to the lifted one and back',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, { controls: ids, range: where, layer: on }) =>
    controlsWrong(song, ids) ??
    spanWrong('The range to lift', where) ??
    firstWrong(
      ids.map((id) =>
        isSwitch(controlOf(song, id)) ? `${id} is a switch, which can’t be lifted.` : trimWrong(song, id, on),
      ),
    ),
  apply: (song, { controls: ids, range: where, travel, edge = 0, layer: on = 'base' }) =>
    changeCurves(song, travel ? ids : [], on, (curve) => lifted(curve, where, { travel, edge })),
  named: (song, edit) => `Lift of ${namesOf(song, edit.controls)}`,
  example: (song, [a, b, c, d, e]) => ({
    kind: 'lift',
    controls: [anyControl(song, a!), anyControl(song, b!)],
    range: [20 * c!, 20 * c! + 1 + 20 * d!],
    travel: Math.round((2 * b! - 1) * 100) / 100,
    edge: e! < 0.5 ? 0 : e!,
    layer: d! < 0.2 ? 'trim' : 'base',
  }),
};
