import { Curve, cleared, withoutPointsAt } from '../../curve/index.js';
import { type Checked } from '../../song/schemaParts.js';
import { changeCurves, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyPicking } from '../examples.js';
import { picking } from '../fields.js';
import { pickingWrong } from '../laneChecks.js';

/**
 * Points taken away: those inside a range, which goes straight between its shoulders then; those at some times, whose neighbours'
 * segments follow; or the whole curve.
 */
const schema = fieldsOf('clear', picking);
export type ClearEdit = Checked<typeof schema>;

export const clear: EditKind<ClearEdit> = {
  kind: 'clear',
  does: 'the points inside a range taken away, a straight line between its shoulders; or those at the times given for a control, whose neighbours’ segments follow; with neither, the whole curve',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => pickingWrong(song, 'clear', edit),
  apply: (song, { controls, range, points, layer = 'base' }) =>
    changeCurves(song, controls, layer, (curve, id) => {
      if (range) return cleared(curve, range);
      if (points) return withoutPointsAt(curve.points, new Set(points[id] ?? []));
      return curve.points.length ? Curve.EMPTY : curve.points;
    }),
  named: (song, edit) => `Points of ${namesOf(song, edit.controls)} cleared`,
  example: (song, draw) => ({ kind: 'clear', ...anyPicking(song, draw) }),
};
