import { Curve, foldedCurve, type Range } from '../../curve/index.js';
import {
  controlOf,
  guardOn,
  isInDb,
  laneOf,
  type ControlId,
  type Lane,
  type EditReason,
  type Song,
} from '../../song/index.js';
import { type Checked } from '../../song/schemaParts.js';
import { changeLanes, curveOf, namesOf } from '../applied.js';
import { fieldsOf, type Clamping, type EditKind } from '../editKind.js';
import { anyControl } from '../examples.js';
import { controls } from '../fields.js';
import { controlsWrong } from '../laneChecks.js';
import { whyNotFolded } from '../placing.js';

/** Base becomes base and trim together, and the trim is cleared. */
const schema = fieldsOf('foldTrim', { controls });
export type FoldTrimEdit = Checked<typeof schema>;

/** A lane with its trim folded into its base; the same lane where no trim waits. */
export function foldedLane(
  song: Song,
  id: ControlId,
  lane: Lane,
): { readonly lane: Lane; readonly clamped: readonly Range[] } {
  if (!lane.trim.length || !isInDb(controlOf(song, id))) return { lane, clamped: [] };
  const [base, trim] = [curveOf(song, id, lane, 'base'), curveOf(song, id, lane, 'trim')];
  const folded = foldedCurve({ base, added: [trim], end: song.length });
  return { lane: { ...lane, points: folded.points, trim: Curve.EMPTY }, clamped: folded.clamped };
}

export const foldTrim: EditKind<FoldTrimEdit> = {
  kind: 'foldTrim',
  does: 'base becomes base + trim, within 0.05 dB above −60 dB; the trim is cleared; `clamped` says where +12 dB held it; not one that sways, refused as `sway`',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong: (song, edit) => controlsWrong(song, edit.controls),
  apply(song, edit) {
    const clamped: Clamping[] = [];
    // Where no trim waits there is nothing that a sway is in the way of.
    const whyNot = (now: Song, id: ControlId): EditReason | null =>
      laneOf(now, id).trim.length ? whyNotFolded(now, id) : guardOn(now, id);
    const applied = changeLanes(
      song,
      edit.controls,
      (id, lane) => {
        const folded = foldedLane(song, id, lane);
        if (folded.clamped.length) clamped.push({ control: id, ranges: folded.clamped });
        return folded.lane;
      },
      whyNot,
    );
    return clamped.length ? { ...applied, clamped } : applied;
  },
  named: (song, edit) => `Fold trim: ${namesOf(song, edit.controls)}`,
  example: (song, [a, b]) => ({ kind: 'foldTrim', controls: [anyControl(song, a!), anyControl(song, b!)] }),
};
