import * as Type from '@sinclair/typebox';
import { Curve, splice } from '../../curve/index.js';
import { type Checked } from '../../song/schemaParts.js';
import { changeLanes, curveOf, namesOf } from '../applied.js';
import { withLayer } from '../../song/index.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints } from '../examples.js';
import { brought, range, words } from '../fields.js';
import { firstWrong, layerWrong, pointsWrong, spanWrong, withCurves } from '../laneChecks.js';

const piece = Type.Object({ ...brought, span: range });
/** Pieces of curves in the place of what stood in their spans: a drawing, what is pasted, what is shifted. One step, whatever it is of. */
const schema = fieldsOf('draw', { pieces: Type.Array(piece, { minItems: 1 }), as: Type.Optional(words) });
export type DrawEdit = Checked<typeof schema>;

export const draw: EditKind<DrawEdit> = {
  kind: 'draw',
  does: 'pieces of curves in the place of what stood in their spans, one after the other: a drawing, what is pasted; `as` is what undo calls it',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete(_song, edit) {
    const pieces = withCurves(edit.pieces);
    return pieces === edit.pieces ? edit : { ...edit, pieces };
  },
  wrong: (song, edit) =>
    firstWrong(
      edit.pieces.map(
        (one) => layerWrong(song, one) ?? spanWrong(`The span of ${one.control}`, one.span) ?? pointsWrong(song, one),
      ),
    ),
  apply: (song, { pieces }) =>
    changeLanes(song, [...new Set(pieces.map((one) => one.control))], (id, lane) =>
      pieces
        .filter((one) => one.control === id)
        .reduce((now, one) => {
          const { points, law, rest } = curveOf(song, id, now, one.layer);
          return withLayer(now, one.layer, splice(points, law, rest, one.span, one.points));
        }, lane),
    ),
  named: (song, { pieces, as }) =>
    `${as ?? 'Drawing'}: ${namesOf(song, [...new Set(pieces.map((one) => one.control))])}`,
  example(song, [a, b, c, d]) {
    const id = anyControl(song, a!);
    const points = anyPoints(song, id, [b!, c!, d!]);
    return {
      kind: 'draw',
      pieces: [{ control: id, layer: 'base', span: [0, 20], points: b! < 0.1 ? Curve.EMPTY : points }],
    };
  },
};
