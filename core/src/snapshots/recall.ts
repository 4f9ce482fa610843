import { channelNamed, controlsOf, kindNamed, type ControlId, type Snapshot, type Song } from '../song/index.js';
import { rangeOf, type Law } from '../units/index.js';

/** What comes back of a snapshot: values by control, and those of its controls that the song has not any more. */
export type Recalled = {
  readonly values: { readonly [id: ControlId]: number };
  readonly gone: readonly ControlId[];
};

/** The snapshot with a key; undefined where there is none. */
export const snapshotOf = (song: Pick<Song, 'snapshots'>, key: string): Snapshot | undefined =>
  song.snapshots.find((one) => one.key === key);

/** Whether a snapshot's recall filter lets a control through. */
export function isRecalled({ filter }: Pick<Snapshot, 'filter'>, id: ControlId): boolean {
  if (filter === null) return true;
  const channel = channelNamed(id);
  return Object.hasOwn(filter, channel) && filter[channel]!.includes(kindNamed(id));
}

/** A value as a control takes it: what was kept of a control may be of another one by now that goes by the same name. */
function within(law: Law, v: number): number {
  if (law.kind === 'switch') return v < 0.5 ? 0 : 1;
  const { min, max } = rangeOf(law);
  return Math.min(max, law.kind === 'level' ? v : Math.max(min, v));
}

/** What a snapshot brings back in a song: its values as far as its filter recalls them and the song has their controls (rules, 6). */
export function recalledFrom(song: Song, snapshot: Pick<Snapshot, 'values' | 'filter'>): Recalled {
  const known = controlsOf(song);
  const values: { [id: ControlId]: number } = {};
  const gone: ControlId[] = [];
  for (const [id, v] of Object.entries(snapshot.values)) {
    if (!isRecalled(snapshot, id)) continue;
    const control = known.get(id);
    if (control) values[id] = within(control.law, v);
    else gone.push(id);
  }
  return { values, gone };
}
