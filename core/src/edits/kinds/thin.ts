import * as Type from '@sinclair/typebox';
import { thinnedCurve } from '../../curve/index.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { changeCurves, namesOf } from '../applied.js';
import { fieldsOf, type EditKind, type LaneThinned } from '../editKind.js';
import { anyControl, anyRange } from '../examples.js';
import { controls, layer, range } from '../fields.js';
import { pickingWrong } from '../laneChecks.js';

/** Curves, or a range of them, kept as few points, never to deviate by more than a tolerance in travel (rules, 7). */
const schema = fieldsOf('thin', {
  controls,
  tolerance: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
  ...maybe({ range, layer }),
});
export type ThinEdit = Checked<typeof schema>;

export const thin: EditKind<ThinEdit> = {
  kind: 'thin',
  does: 'curves, or a range of them, kept as few points, never to deviate by more than the tolerance in travel; steps, what holds and what is bent stay; `thinned` says how many points there were, are, and how far off and when the curve is at most',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => pickingWrong(song, 'thin', edit),
  apply(song, { controls: ids, tolerance, range: where, layer: on = 'base' }) {
    const thinned: LaneThinned[] = [];
    const applied = changeCurves(song, ids, on, ({ points, law }, control) => {
      const found = thinnedCurve(points, law, tolerance, where);
      if (found.points === points) return points;
      const { maxDeviation, at } = found;
      thinned.push({ control, before: points.length, after: found.points.length, maxDeviation, at });
      return found.points;
    });
    return thinned.length ? { ...applied, thinned } : applied;
  },
  named: (song, edit) => `${namesOf(song, edit.controls)} thinned`,
  example: (song, [a, b, c, d, e]) => ({
    kind: 'thin',
    controls: [anyControl(song, a!), anyControl(song, b!)],
    tolerance: 0.001 + c! * 0.1,
    ...(d! < 0.4 ? {} : { range: anyRange(d!, e!) }),
    layer: e! < 0.2 ? 'trim' : 'base',
  }),
};
