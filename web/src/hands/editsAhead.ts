import { applyEdit, takeApplied, type Applied, type Edit } from '@sure-hand/core/edits';
import { packed, unpacked } from '@sure-hand/core/formats';
import { guardedAs, laneOf, swayControlId, type ControlId, type Lane, type Song } from '@sure-hand/core/song';

/** Lanes with fewer points are worked on where they are: that takes less than sending them to another thread. */
const LONG = 20_000;

/** What an edit of some lanes comes to, without what of the song it leaves alone; `parts`: what besides lanes it changes, such as its channels. */
type LanesApplied = Omit<Applied, 'song'> & {
  readonly lanes: { readonly [id: ControlId]: Lane | null };
  readonly parts: Partial<Song>;
};
type Asked = { readonly song: Song; readonly edit: Edit };

/** Some lanes, with those that what is done to them has to do with: the sway's lane with its depth's, and the other way round. */
function only({ lanes }: Song, controls: readonly ControlId[]): Song['lanes'] {
  const all = controls.map(guardedAs).flatMap((id) => [id, swayControlId(id)]);
  return Object.fromEntries(all.flatMap((id) => (lanes[id] ? [[id, lanes[id]] as const] : [])));
}

/** Whether some lanes have so many points that what is done to them takes longer than a picture may. */
export const areLong = (song: Song, controls: readonly ControlId[]): boolean =>
  controls.reduce((sum, id) => sum + laneOf(song, id).points.length + laneOf(song, id).trim.length, 0) >= LONG;

/** An edit and what of the song it is about, as it is sent to another thread. */
export const sentAhead = (song: Song, edit: Edit, controls: readonly ControlId[]): Uint8Array<ArrayBuffer> =>
  packed({ song: { ...song, lanes: only(song, controls) }, edit } satisfies Asked);

/** Applies there what {@link sentAhead} made. */
export function appliedThere(sent: Uint8Array): Uint8Array<ArrayBuffer> {
  const { song, edit } = unpacked(sent) as Asked;
  const { song: after, ...rest } = applyEdit(song, edit);
  const lanes = Object.fromEntries(rest.changed.map((id) => [id, after.lanes[id] ?? null]));
  const isOther = ([part, is]: readonly [string, unknown]): boolean =>
    part !== 'lanes' && is !== song[part as keyof Song];
  const parts: Partial<Song> = Object.fromEntries(Object.entries(after).filter(isOther));
  return packed({ ...rest, lanes, parts } satisfies LanesApplied);
}

/** Takes what came back: applying the edit to the song is done by then. */
export function takeAhead(song: Song, edit: Edit, came: Uint8Array): void {
  const { lanes, parts, ...rest } = unpacked(came) as LanesApplied;
  const isChanged = rest.changed.length > 0 || Object.keys(parts).length > 0;
  const now: { [id: ControlId]: Lane } = { ...song.lanes };
  for (const [id, lane] of Object.entries(lanes))
    if (lane) now[id] = lane;
    else delete now[id];
  takeApplied(song, edit, { ...rest, song: isChanged ? { ...song, ...parts, lanes: now } : song });
}
