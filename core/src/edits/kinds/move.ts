import * as Type from '@sinclair/typebox';
import { furthest, moved, picksOf, type Move, type Picked } from '../../curve/index.js';
import { controlsOf, guardOn, laneOf, type ControlId, type Song } from '../../song/index.js';
import { MOST_SECONDS, closed, maybe, type Checked } from '../../song/schemaParts.js';
import { changeCurves, curveOf, namesOf } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyPicking } from '../examples.js';
import { picking } from '../fields.js';
import { pickingWrong } from '../laneChecks.js';

const by = closed(
  maybe({
    t: Type.Number({ minimum: -MOST_SECONDS, maximum: MOST_SECONDS }),
    travel: Type.Number({ minimum: -1, maximum: 1 }),
  }),
);
/** Points moved by an equal time and travel; the first that can go no further stops all (rules, 6, Move). */
const schema = fieldsOf('move', { ...picking, by });
export type MoveEdit = Checked<typeof schema>;

/** How far the points of an edit go of what it asks: those of guarded lanes neither go nor hold up others. */
export function furthestMove(song: Song, edit: MoveEdit): Move {
  const there = edit.controls.filter((id) => controlsOf(song).has(id) && !guardOn(song, id));
  const asked = { t: edit.by.t ?? 0, travel: edit.by.travel ?? 0 };
  return furthest(
    there.map((id) => pickedBy(song, id, edit)),
    asked,
    MOST_SECONDS,
  );
}

function pickedBy(song: Song, id: ControlId, { range, points, layer = 'base' }: MoveEdit): Picked {
  const curve = curveOf(song, id, laneOf(song, id), layer);
  return { ...curve, picks: picksOf(curve.points, { range, times: points && (points[id] ?? []) }) };
}

export const move: EditKind<MoveEdit> = {
  kind: 'move',
  does: 'points (in ≤ t < out, or at the times given for a control; absent: all) moved by an equal time and travel; the first that would meet one that stays, the song’s start or an end of the throw stops all; switches move in time only',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => pickingWrong(song, 'move', edit),
  apply(song, edit) {
    const far = furthestMove(song, edit);
    return changeCurves(song, edit.controls, edit.layer ?? 'base', (_curve, id) =>
      moved(pickedBy(song, id, edit), far),
    );
  },
  named: (song, edit) => `Points of ${namesOf(song, edit.controls)} moved`,
  example: (song, draw) => ({
    kind: 'move',
    ...anyPicking(song, draw),
    by: { t: Math.round(40 * draw[6]! - 20) / 4, travel: Math.round(20 * draw[7]! - 10) / 20 },
  }),
};
