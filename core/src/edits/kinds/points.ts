import * as Type from '@sinclair/typebox';
import { Curve, type Point } from '../../curve/index.js';
import { laneOf, layerPoints, type Song } from '../../song/index.js';
import { POINTS_SCHEMA } from '../../song/schema.js';
import { maybe, seconds, type Checked } from '../../song/schemaParts.js';
import { changeCurves, nameOf, unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints } from '../examples.js';
import { control, layer } from '../fields.js';
import { curveWithDefaults, layerWrong, pointsWrong } from '../laneChecks.js';

const place = Type.Object({ t: seconds, v: Type.Number() });
/** Single points taken out of a curve and put into it: adding, deleting, bending, exact values. What is taken out is told by time and value. */
const schema = fieldsOf('points', { control, remove: Type.Array(place), add: POINTS_SCHEMA, ...maybe({ layer }) });
export type PointsEdit = Checked<typeof schema>;

/**
 * A curve with some points out and others in, in order of time; or the first of those to take out that is not there. One that
 * comes in where one went out takes its place, before or after a step; others make a step from those that were there.
 */
function exchangedPoints(
  points: Curve,
  { remove, add }: PointsEdit,
): Curve | { readonly missing: PointsEdit['remove'][number] } {
  const kept: (Point | null)[] = [...points];
  const fresh: Point[] = [...add];
  const places: number[] = [];
  for (const gone of remove) {
    const i = kept.findIndex((p) => p?.t === gone.t && p.v === gone.v);
    if (i < 0) return { missing: gone };
    kept[i] = null;
    places.push(i);
  }
  for (const i of places) {
    const at = fresh.findIndex(({ t }) => t === points.t[i]);
    if (at >= 0) kept[i] = fresh.splice(at, 1)[0]!;
  }
  const all = [...kept.filter((p) => p !== null), ...fresh].map((p, i) => ({ p, i }));
  return Curve.of(all.sort((x, y) => x.p.t - y.p.t || x.i - y.i).map(({ p }) => p));
}

const exchangedIn = (song: Song, edit: PointsEdit): ReturnType<typeof exchangedPoints> =>
  exchangedPoints(layerPoints(laneOf(song, edit.control), edit.layer ?? 'base'), edit);

export const points: EditKind<PointsEdit> = {
  kind: 'points',
  does: 'single points of a curve out and in: adding, deleting, bending, exact values; a point to remove, told by time and value, that is not there is refused',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete(_song, edit) {
    const add = curveWithDefaults(edit.add);
    return add === edit.add ? edit : { ...edit, add };
  },
  wrong(song, edit) {
    const wrong = layerWrong(song, edit);
    if (wrong) return wrong;
    const after = exchangedIn(song, edit);
    const { control: id, layer: on = 'base' } = edit;
    if (after instanceof Curve)
      return (
        pointsWrong(song, { control: id, layer: on, points: edit.add }) ??
        pointsWrong(song, { control: id, layer: on, points: after })
      );
    return `${id} has no point at ${after.missing.t} s with the value ${after.missing.v}; it has been changed meanwhile, and nothing was done.`;
  },
  apply(song, edit) {
    const after = exchangedIn(song, edit);
    if (!(after instanceof Curve) || edit.remove.length + edit.add.length === 0) return unchanged(song);
    return changeCurves(song, [edit.control], edit.layer ?? 'base', () => after);
  },
  named: (song, edit) => `Points of ${nameOf(song, edit.control)}`,
  example(song, [a, b, c, d, e]) {
    const id = anyControl(song, a!);
    const now = [...layerPoints(laneOf(song, id), 'base')];
    const remove = now.filter((_, i) => (i * 0.37 + b!) % 1 < c!).map(({ t, v }) => ({ t, v }));
    const fresh = [...anyPoints(song, id, [c!, d!, e!])].filter((p) => !now.some(({ t }) => t === p.t));
    return { kind: 'points', control: id, remove, add: Curve.of(b! < 0.2 ? [] : fresh) };
  },
};
