import { Curve, foldedCurve, heldDb, linePoint, splice, type LaneCurve, type Range } from '../../curve/index.js';
import { vcasOver } from '../../groups/index.js';
import {
  channelOf,
  controlId,
  laneOf,
  modeInForce,
  type ControlId,
  type Lane,
  type Refusal,
  type Song,
} from '../../song/index.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { curveOf, unchanged, withLanes } from '../applied.js';
import { fieldsOf, type Applied, type Clamping, type EditKind } from '../editKind.js';
import { anyRange, pick } from '../examples.js';
import { channel, range } from '../fields.js';
import { noChannel, spanWrong } from '../laneChecks.js';
import { whyNotFolded } from '../placing.js';

/** A VCA's level folded into the members it reaches, over the whole song or a range; nothing is heard to change (rules, 6, VCA fold). */
const schema = fieldsOf('foldVca', { vca: channel, ...maybe({ range }) });
export type FoldVcaEdit = Checked<typeof schema>;

/** The levels that a VCA moves, directly or through others: of tracks, buses and the main, each once. */
const levelsUnder = (song: Song, vca: string): ControlId[] =>
  song.channels
    .filter(({ key, kind }) => kind !== 'vca' && vcasOver(song, key).includes(vca))
    .map(({ key }) => controlId(key, 'level'));

/** What keeps a fold from being made: a lane of it guarded, one that reads nothing, or one that sways. */
export function refusalsOf(song: Song, ids: readonly ControlId[]): Refusal[] {
  return ids.flatMap((control): Refusal[] => {
    const isOff = modeInForce(song, control.slice(0, control.indexOf('/'))) === 'off';
    const reason = isOff ? 'mode' : whyNotFolded(song, control);
    return reason ? [{ control, reason }] : [];
  });
}

/** A member's lane with what the VCA adds in it, and where +12 dB held it. */
function folded(
  lane: Lane,
  base: LaneCurve,
  added: readonly LaneCurve[],
  where: Range | undefined,
  end: number,
): { readonly lane: Lane; readonly clamped: readonly Range[] } {
  // Without any curve there is one number for the whole song.
  if (!where && [base, ...added].every(({ points }) => !points.length))
    return { lane: { ...lane, rest: heldDb([lane.rest, ...added.map(({ rest }) => rest)]) }, clamped: [] };
  const { points, clamped } = foldedCurve({ base, added, end }, where);
  return { lane: points === lane.points ? lane : { ...lane, points }, clamped };
}

/** A VCA's lane that adds nothing any more, or nothing over a range. */
function emptied(lane: Lane, [base, trim]: readonly [LaneCurve, LaneCurve], where: Range | undefined): Lane {
  if (!where) return { ...lane, points: Curve.EMPTY, trim: Curve.EMPTY, rest: 0 };
  const even = Curve.of([linePoint(where[0], 0), linePoint(where[1], 0)]);
  const within = ({ points, law, rest }: LaneCurve): Curve =>
    points.length || rest ? splice(points, law, rest, where, even) : points;
  return { ...lane, points: within(base), trim: within(trim) };
}

function apply(song: Song, { vca, range: where }: FoldVcaEdit): Applied {
  const own = controlId(vca, 'level');
  const ids = levelsUnder(song, vca);
  const refused = refusalsOf(song, [...ids, own]);
  if (refused.length) return unchanged(song, refused);
  const lane = laneOf(song, own);
  const added = [curveOf(song, own, lane, 'base'), curveOf(song, own, lane, 'trim')] as const;
  if (added.every(({ points, rest }) => !points.length && rest === 0)) return unchanged(song);
  const lanes: { [id: ControlId]: Lane } = { [own]: emptied(lane, added, where) };
  const clamped: Clamping[] = [];
  for (const id of ids) {
    const before = laneOf(song, id);
    const after = folded(before, curveOf(song, id, before, 'base'), added, where, song.length);
    if (after.lane !== before) lanes[id] = after.lane;
    if (after.clamped.length) clamped.push({ control: id, ranges: after.clamped });
  }
  const applied = withLanes(song, lanes, []);
  return clamped.length ? { ...applied, clamped } : applied;
}

export const foldVca: EditKind<FoldVcaEdit> = {
  kind: 'foldVca',
  does: 'a VCA’s level, base and trim, folded into the members it reaches, within 0.05 dB above −60 dB, and the VCA at 0 dB, over the whole song or a range; refused whole where a member or the VCA is safe, parked or off, or sways (`sway`); `clamped` says where +12 dB held a member',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong(song, { vca, range: where }) {
    const wrong = noChannel(song, vca) ?? (where ? spanWrong('The range to fold', where) : null);
    if (wrong) return wrong;
    return channelOf(song, vca)!.kind === 'vca' ? null : `${vca} is no VCA, so there is nothing to fold into members.`;
  },
  apply,
  named: (song, { vca }) => `Fold ${channelOf(song, vca)?.name ?? vca} into its members`,
  example(song, [a, b, c]) {
    const vcas = song.channels.filter(({ kind }) => kind === 'vca');
    const vca = vcas.length ? pick(vcas, a!).key : song.channels[0]!.key;
    return { kind: 'foldVca', vca, ...(b! < 0.5 ? {} : { range: anyRange(b!, c!) }) };
  },
};
