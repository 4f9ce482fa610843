import * as Type from '@sinclair/typebox';
import { Curve, CurveMaker, firstNotBefore } from '../../curve/index.js';
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
  /** Of each point: that it stays, that it goes out, or which of those that come in takes its place. */
  const fate = new Int32Array(points.length).fill(STAYS);
  const inOrder = sorted(curveWithDefaults(add));
  const isTaken = new Uint8Array(inOrder.length);
  const out = new Int32Array(remove.length);
  for (let k = 0; k < remove.length; k++) {
    const gone = remove[k]!;
    let i = firstNotBefore(points.t, gone.t);
    while (points.t[i] === gone.t && (points.v[i] !== gone.v || fate[i] !== STAYS)) i++;
    if (points.t[i] !== gone.t) return { missing: gone };
    fate[i] = GOES;
    out[k] = i;
  }
  for (const i of out) {
    const t = points.t[i]!;
    let at = firstNotBefore(inOrder.t, t);
    while (inOrder.t[at] === t && isTaken[at]) at++;
    if (inOrder.t[at] !== t) continue;
    isTaken[at] = 1;
    fate[i] = at;
  }
  return merged(points, fate, inOrder, isTaken);
}

const STAYS = -2;
const GOES = -1;

/** Points in order of time, those of one time as they were. */
const sorted = (points: Curve): Curve =>
  points.t.every((t, i) => i === 0 || t >= points.t[i - 1]!)
    ? points
    : Curve.of(
        [...points]
          .map((p, i) => ({ p, i }))
          .sort((x, y) => x.p.t - y.p.t || x.i - y.i)
          .map(({ p }) => p),
      );

/** A curve of the points that stay, those in the places of others, and all else that comes in: after what stands at its time. */
function merged(points: Curve, fate: Int32Array, add: Curve, isTaken: Uint8Array): Curve {
  const made = new CurveMaker(points.length + add.length);
  let next = 0;
  const addUpTo = (t: number): void => {
    for (; next < add.length && add.t[next]! < t; next++) if (!isTaken[next]) made.addFrom(add, next);
  };
  for (let i = 0; i < points.length;) {
    addUpTo(points.t[i]!);
    const place = fate[i]!;
    if (place !== STAYS) {
      if (place !== GOES) made.addFrom(add, place);
      i++;
      continue;
    }
    // As many at once as stay with nothing between them.
    const before = next < add.length ? add.t[next]! : Infinity;
    let end = i + 1;
    while (end < points.length && fate[end] === STAYS && points.t[end]! <= before) end++;
    made.copy(points, i, end);
    i = end;
  }
  addUpTo(Infinity);
  return made.make();
}

/** What an edit makes of a curve, known from when it was checked to when it is done. */
const known = new WeakMap<PointsEdit, { readonly points: Curve; readonly after: ReturnType<typeof exchangedPoints> }>();

function exchangedIn(song: Song, edit: PointsEdit): ReturnType<typeof exchangedPoints> {
  const points = layerPoints(laneOf(song, edit.control), edit.layer ?? 'base');
  const there = known.get(edit);
  if (there?.points === points) return there.after;
  const after = exchangedPoints(points, edit);
  known.set(edit, { points, after });
  return after;
}

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
