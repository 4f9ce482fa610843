import { recalledFrom, snapshotOf, type Recalled } from '../snapshots/index.js';
import { controlOf, guardOn, swayOf, type ControlId, type EditReason, type Reason, type Song } from '../song/index.js';
import { namesOf } from './applied.js';
import { valuesWrong } from './laneChecks.js';

/** What keeps values from being placed on a control: place, ramp and snapshots ignore modes, and heed safe, parked and scope (rules, 6). */
export const whyNotPlaced = (song: Song, id: ControlId): Reason | null =>
  guardOn(song, id) ?? (song.settings.writeScope.includes(controlOf(song, id).kind) ? null : 'scope');

/** What keeps a control's trim from being folded, or a VCA's level from it: its guards, or that it sways: that is printed first (rules, 5). */
export const whyNotFolded = (song: Song, id: ControlId): EditReason | null =>
  guardOn(song, id) ?? (swayOf(song, id) ? 'sway' : null);

/** What is placed or ramped to: values by control, or those of a snapshot, through its recall filter. */
export type Placed = { readonly values?: { readonly [id: ControlId]: number }; readonly snapshot?: string };

/** The values that a placing is of, and, of a snapshot, the controls that are gone since. */
export function valuesPlaced(song: Song, { values, snapshot }: Placed): Recalled {
  const kept = snapshot === undefined ? undefined : snapshotOf(song, snapshot);
  return kept ? recalledFrom(song, kept) : { values: values ?? {}, gone: [] };
}

/** The sentence for values that can't be placed: of no control, out of range, of no snapshot; null where they can. */
export function placedWrong(song: Song, { values, snapshot }: Placed): string | null {
  if ((values === undefined) === (snapshot === undefined))
    return 'What is placed is said by values or by a snapshot: one of the two.';
  if (snapshot === undefined) return valuesWrong(song, values!);
  if (snapshotOf(song, snapshot)) return null;
  const keys = song.snapshots.map(({ key }) => key).join(', ');
  return `The song has no snapshot “${snapshot}”. ${keys ? `Its snapshots are ${keys}.` : 'It has none.'}`;
}

/** What is placed, by name: the snapshot, or the first of the controls and how many more. */
export const placedName = (song: Song, { values, snapshot }: Placed): string =>
  snapshot === undefined ? namesOf(song, Object.keys(values ?? {})) : (snapshotOf(song, snapshot)?.name ?? snapshot);

/** What an edit did, with what of its snapshot is gone where it is of one. */
export const withGone = <A extends object>(
  applied: A,
  { snapshot }: Placed,
  { gone }: Recalled,
): A & { readonly gone?: readonly ControlId[] } => (snapshot === undefined ? applied : { ...applied, gone });
