import { channelOf, type ControlId, type Lane, type Song } from './document.js';
import { controlOf, guardedAs, laneOf } from './control.js';
import { isParked } from './reading.js';

/** Why something did not write a control, in the order in which the first that holds is named (rules, 4). */
export const REASONS = ['mode', 'parked', 'safe', 'scope', 'trim', 'range'] as const;
export type Reason = (typeof REASONS)[number];

/** Why an edit left a control alone: as a pass would, or, of a fold, because it sways (page 8). */
export const EDIT_REASONS = [...REASONS, 'sway'] as const;
export type EditReason = (typeof EDIT_REASONS)[number];

/** A control that something wanted to write and did not, and why. */
export type Refusal = { readonly control: ControlId; readonly reason: EditReason };

/** How a control is guarded by itself; the depth of a sway with what sways. */
export const ownGuards = (song: Song, id: ControlId): Pick<Lane, 'safe' | 'parked'> => laneOf(song, guardedAs(id));

/** Whether nothing may write a control: safe by itself, or by its kind on its channel. */
export function isSafe(song: Song, id: ControlId): boolean {
  const { channel, kind } = controlOf(song, id);
  return ownGuards(song, id).safe || channelOf(song, channel)!.safe.includes(kind);
}

/** The guard that keeps every edit from a control; null where there is none. */
export function guardOn(song: Song, id: ControlId): 'parked' | 'safe' | null {
  if (isParked(song, id)) return 'parked';
  return isSafe(song, id) ? 'safe' : null;
}
