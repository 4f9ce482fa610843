import type { Edit } from '../edits/index.js';
import {
  channelOf,
  controlsOf,
  type ChannelKey,
  type ControlId,
  type ControlKind,
  type Mode,
  type Song,
} from '../song/index.js';
import type { Seconds, Travel } from '../units/index.js';

/** Companions that a touch takes along, each with how far it stands from it: so journals have a touch that goes on. */
export type LedFrom = { readonly [control: ControlId]: Travel };

/** Values by control, each in its unit. */
type ValuesBy = { readonly [control: ControlId]: number };
/** Modes, trim and guards of many channels and controls at once. */
type States = Omit<Edit & { kind: 'states' }, 'kind'>;

/**
 * Everything a hand can do to a pass, from wherever it comes: pointer, keys, a fader bank, a moves file (rules, 9).
 * `t` is song time as heard, and counts only while rolling; values are in the control's unit, or offsets in dB while
 * its channel trims. `alone`, on a touch or on a move without one, leaves out the others of a gang (rules, 6). `snapshot` takes
 * its values up for writing, `values` where they are said, the snapshot's as it stands where not. `tryout`: what is touched is
 * held aside from now on, or no more. `aside` holds controls aside as a hand would, `drop` puts some of them, or all, back on
 * their curves; `before` lets the curves be heard meanwhile.
 */
export type HandEvent = { readonly t?: Seconds; readonly lap?: number } & (
  | { readonly do: 'play'; readonly from: Seconds }
  | { readonly do: 'stop' }
  | { readonly do: 'touch'; readonly control: ControlId; readonly alone?: boolean; readonly led?: LedFrom }
  | { readonly do: 'move'; readonly control: ControlId; readonly value: number; readonly alone?: boolean }
  | { readonly do: 'release'; readonly control: ControlId }
  | { readonly do: 'letgo' }
  | { readonly do: 'mode'; readonly channel: ChannelKey; readonly mode: Mode }
  | { readonly do: 'desk'; readonly mode: Mode | null }
  | { readonly do: 'trim'; readonly channel: ChannelKey; readonly on: boolean }
  | { readonly do: 'safe'; readonly channel: ChannelKey; readonly kinds: readonly ControlKind[] }
  | { readonly do: 'safe'; readonly control: ControlId; readonly on: boolean }
  | { readonly do: 'park'; readonly control?: ControlId; readonly channel?: ChannelKey; readonly on: boolean }
  | { readonly do: 'scope'; readonly kinds: readonly ControlKind[] }
  | ({ readonly do: 'states' } & States)
  | { readonly do: 'snapshot'; readonly key: string; readonly values?: ValuesBy }
  | { readonly do: 'tryout'; readonly on: boolean }
  | { readonly do: 'aside'; readonly values: ValuesBy }
  | { readonly do: 'drop'; readonly controls?: readonly ControlId[] }
  | { readonly do: 'before'; readonly on: boolean }
);

/** How a hand's moves become a curve (rules, 5). */
export const HAND = {
  /** A hand whose next value comes later than this has held still; sooner, it has been moving all the way. */
  stillSec: 0.05,
  /** A held value goes to the next one within this long before it. */
  glideSec: 0.02,
  /** A control without a touch sensor is let go this long after its last move. */
  sensorlessReleaseSec: 0.5,
} as const;

/** Whether a song has what an event is about. */
export function isThere(song: Song, event: HandEvent): boolean {
  if ('control' in event && event.control !== undefined) return controlsOf(song).has(event.control);
  return !('channel' in event) || event.channel === undefined || channelOf(song, event.channel) !== undefined;
}
