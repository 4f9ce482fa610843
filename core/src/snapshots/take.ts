import { controlsOf, ownValueAt, type ChannelKey, type ControlId, type ControlKind, type Song } from '../song/index.js';
import type { Seconds } from '../units/index.js';

/** Where hands have a control's base: null where it is on its curve. */
export type HandOn = (id: ControlId) => number | null;

/** Which controls a snapshot is taken of: all, or those of some channels and kinds, null being all of them. */
export type TakenOf = {
  readonly channels: readonly ChannelKey[] | null;
  readonly kinds: readonly ControlKind[] | null;
};

/** The controls of some channels and kinds, in the song's order. */
export const controlsTaken = (song: Song, { channels, kinds }: TakenOf): ControlId[] =>
  [...controlsOf(song).values()]
    .filter(({ channel, kind }) => (channels?.includes(channel) ?? true) && (kinds?.includes(kind) ?? true))
    .map(({ id }) => id);

/**
 * What a snapshot taken at t keeps of some controls: each one's own value, the hand's where one holds it; without trim and VCAs; in
 * off or parked its resting value (rules, 6).
 */
export const valuesTaken = (
  song: Song,
  ids: Iterable<ControlId>,
  t: Seconds,
  handOn: HandOn = () => null,
): { [id: ControlId]: number } =>
  Object.fromEntries([...ids].map((id) => [id, handOn(id) ?? ownValueAt(song, id, t).base]));
