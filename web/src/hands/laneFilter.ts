import {
  CONTROL_KINDS,
  controlsOfChannel,
  modeInForce,
  type Channel,
  type Control,
  type ControlKind,
  type Mode,
  type Song,
} from '@sure-hand/core/song';
import type { Grid } from '@sure-hand/core/time';

/** Which rows are looked at: by their names, by what has curves, by the kind of a control, by the mode in force. */
export type LaneFilter = {
  readonly name: string;
  readonly onlyCurves: boolean;
  readonly kind: ControlKind | null;
  readonly mode: Mode | null;
};

export const NO_FILTER: LaneFilter = { name: '', onlyCurves: false, kind: null, mode: null };

export const KIND_NAMES: Readonly<Record<ControlKind, string>> = {
  level: 'Levels',
  pan: 'Pans',
  mute: 'Mutes',
  sends: 'Sends',
  inserts: 'Inserts',
};
export { CONTROL_KINDS };
export const MODE_NAMES: Readonly<Record<Mode, string>> = {
  off: 'Off',
  read: 'Read',
  touch: 'Touch',
  latch: 'Latch',
  write: 'Write',
};

/** Grids as one reads them: notes by their parts of a whole one, `T` for triplets. */
export const GRID_NAMES: Record<Grid, string> = {
  bar: 'Bar',
  beat: 'Beat',
  '1/2': '1/2',
  '1/4': '1/4',
  '1/8': '1/8',
  '1/16': '1/16',
  '1/32': '1/32',
  '1/4T': '1/4 triplet',
  '1/8T': '1/8 triplet',
  '1/16T': '1/16 triplet',
  section: 'Section',
  frame: 'Frame',
};

/** Whether anything is left out. */
export const isFiltering = ({ name, onlyCurves, kind, mode }: LaneFilter): boolean =>
  name.trim() !== '' || onlyCurves || kind !== null || mode !== null;

/** Whether a control has a curve, or trim that waits. */
export const hasCurve = (song: Song, id: string): boolean =>
  (song.lanes[id]?.points.length ?? 0) + (song.lanes[id]?.trim.length ?? 0) > 0;

/** The controls of a channel that a filter shows: of its kind, with curves where only those are looked at. */
function shownOf(song: Song, channel: Channel, { kind, onlyCurves }: LaneFilter): readonly Control[] {
  return controlsOfChannel(song, channel).filter(
    (one) => (kind === null || one.kind === kind) && (!onlyCurves || hasCurve(song, one.id)),
  );
}

/** Whether a channel's row is shown. */
export function passesFilter(song: Song, channel: Channel, filter: LaneFilter): boolean {
  const { name, mode } = filter;
  const words = name.toLowerCase().split(/\s+/).filter(Boolean);
  const own = channel.name.toLowerCase();
  if (!words.every((word) => own.includes(word))) return false;
  if (mode !== null && modeInForce(song, channel.key) !== mode) return false;
  return shownOf(song, channel, filter).length > 0;
}

/** The lane that a filter brings to the front of a row; null where it says nothing of that. */
export function frontByFilter(song: Song, channel: Channel, filter: LaneFilter, front: string): string | null {
  if (filter.kind === null && !filter.onlyCurves) return null;
  const shown = shownOf(song, channel, filter);
  if (shown.some(({ id }) => id === front)) return null;
  return (shown.find(({ id }) => hasCurve(song, id)) ?? shown[0])?.id ?? null;
}

const VCA_FAMILY = 'VCAs';
const MIX_FAMILY = 'Mix';

/** The family a channel stands under; those that name none by their kind. */
export function familyOf({ family, kind }: Channel): string {
  if (family) return family;
  return kind === 'vca' ? VCA_FAMILY : kind === 'track' ? 'Tracks' : MIX_FAMILY;
}
