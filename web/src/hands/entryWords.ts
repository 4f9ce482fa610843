import type { PlacedEntry } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { placesWords } from './placing.js';

/** What the log says of one of its entries. */
type Entry = { readonly number: number; readonly entry: PlacedEntry | null };

/** What an entry of the log is: `Pass 12`, `Placing 13`, `Ramp 14`. */
export const entryTitle = ({ number, entry }: Entry): string =>
  `${!entry ? 'Pass' : entry.kind === 'place' ? 'Placing' : 'Ramp'} ${number}`;

/** What a placing is called where nobody has called it anything: what was placed, and where; null of a pass. */
export function entryName(song: Song, { entry }: Entry, lanes: string): string | null {
  if (!entry) return null;
  const map = meterMap(song.tempo, song.meter);
  const what = entry.snapshot?.name ?? lanes;
  return `${what} ${entry.kind === 'place' ? 'on' : 'ramped over'} ${placesWords(song, map, entry.ranges)}`;
}
