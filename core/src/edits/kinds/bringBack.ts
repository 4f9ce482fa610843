import * as Type from '@sinclair/typebox';
import { Curve, cutOut, splice } from '../../curve/index.js';
import { layerLaw, layerPoints, layerRest, withLayer, type Lane, type Song } from '../../song/index.js';
import { maybe, oneOf, orNull, type Checked } from '../../song/schemaParts.js';
import { changeLanes, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints, anyValue } from '../examples.js';
import { brought, range, words } from '../fields.js';
import { firstWrong, layerWrong, withCurves, pointsWrong, spanWrong, valueWrong } from '../laneChecks.js';

/**
 * One layer of a lane as it was at another time, whole, and where it is wanted; null is everywhere. `rest` is what it
 * rested at then, in the layer's unit: what a layer without points is at.
 */
const version = Type.Object({ ...brought, range: orNull(range), rest: Type.Number() });
export type LaneVersion = Checked<typeof version>;

/**
 * Lanes, or ranges of them, as a pass, or something else in the log, found or left them: its number, and which of the two. What
 * has no number there is called `what`.
 */
const schema = fieldsOf('bringBack', {
  ...maybe({ pass: Type.Integer({ minimum: 1 }), what: words }),
  side: oneOf(['before', 'after'] as const),
  versions: Type.Array(version, { minItems: 1 }),
});
export type BringBackEdit = Checked<typeof schema>;

function versionWrong(song: Song, one: LaneVersion): string | null {
  return (
    layerWrong(song, one) ??
    (one.range && spanWrong(`The range of ${one.control}`, one.range)) ??
    pointsWrong(song, { control: one.control, layer: one.layer, points: one.points }) ??
    valueWrong(song, one.control, one.layer, one.rest)
  );
}

/** A lane with a layer, or a range of it, as it was at another time. */
function broughtBack(song: Song, lane: Lane, { control, layer, range: where, points, rest }: LaneVersion): Lane {
  if (!where) return withLayer(lane, layer, points);
  const now = layerPoints(lane, layer);
  // With no curve now or then, and one rest, there is nothing to change.
  if (!now.length && !points.length && rest === layerRest(lane, layer)) return lane;
  const law = layerLaw(song, control, layer);
  return withLayer(lane, layer, splice(now, law, layerRest(lane, layer), where, cutOut(points, law, rest, where)));
}

export const bringBack: EditKind<BringBackEdit> = {
  kind: 'bringBack',
  does: 'lanes, or ranges of them, as a pass or another step found or left them: `pass`, its number in the log, or `what` it is called; `range` null for all of it',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete(_song, edit) {
    const versions = withCurves(edit.versions);
    return versions === edit.versions ? edit : { ...edit, versions };
  },
  wrong: (song, edit) => firstWrong(edit.versions.map((one) => versionWrong(song, one))),
  apply(song, { versions }) {
    const ids = versions.map((one) => one.control);
    return changeLanes(song, ids, (id, lane) =>
      versions.filter(({ control }) => control === id).reduce((now, one) => broughtBack(song, now, one), lane),
    );
  },
  named(song, { versions, side, pass, what }) {
    const ids = [...new Set(versions.map((one) => one.control))];
    const by = what ?? (pass === undefined ? 'the step' : `pass ${pass}`);
    return `${namesOf(song, ids)} as ${side === 'before' ? `before ${by}` : `${by} left it`}`;
  },
  example(song, [a, b, c, ...more]) {
    const control = anyControl(song, a!);
    const points = b! < 0.2 ? Curve.EMPTY : anyPoints(song, control, [c!, ...more.slice(0, 3)]);
    const where = c! < 0.3 ? null : ([20 * b!, 20 * b! + 10 * c!] as const);
    const rest = anyValue(song, control, c!);
    return {
      kind: 'bringBack',
      pass: 1,
      side: 'before',
      versions: [{ control, layer: 'base', range: where, points, rest }],
    };
  },
};
