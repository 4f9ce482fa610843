import { controlOf, guardOn, type ControlId, type Reason, type Song } from '../song/index.js';

/** What keeps values from being placed on a control: place, ramp and snapshots ignore modes, and heed safe, parked and scope (rules, 6). */
export const whyNotPlaced = (song: Song, id: ControlId): Reason | null =>
  guardOn(song, id) ?? (song.settings.writeScope.includes(controlOf(song, id).kind) ? null : 'scope');
