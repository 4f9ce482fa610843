import { trimmedDb, valueAt, type Range } from '../curve/index.js';
import { TRIM_LAW, type Seconds } from '../units/index.js';
import { controlOf, guardedAs, laneOf, type Gate } from './control.js';
import { channelOf, type ChannelKey, type ControlId, type Layer, type Mode, type Song } from './document.js';

/** The mode in force on a channel: the desk mode stands in for all while there is one (rules, 4). */
export function modeInForce(song: Song, key: ChannelKey): Mode {
  return song.settings.deskMode ?? channelOf(song, key)?.mode ?? 'read';
}

/** A loop shorter than this is none: it would be heard as a tone, and each time round would be a pass. */
export const LEAST_LOOP_SEC: Seconds = 0.01;

/** The loop as the song comes round it: no further than its own end. Null where none of it is left, or too little to come round. */
export function loopOf({ settings: { loop }, length }: Pick<Song, 'settings' | 'length'>): Range | null {
  if (!loop) return null;
  const to = Math.min(loop[1], length);
  return to - loop[0] >= LEAST_LOOP_SEC ? [loop[0], to] : null;
}

/** Whether a control's curve is kept but not read: by itself, with its channel, or with the whole song. */
export function isParked(song: Song, id: ControlId): boolean {
  const { channel } = controlOf(song, id);
  return song.settings.parked || laneOf(song, guardedAs(id)).parked || channelOf(song, channel)!.parked;
}

/** Whether a control follows its curves: not in off, not parked. */
export function isReading(song: Song, id: ControlId): boolean {
  return modeInForce(song, controlOf(song, id).channel) !== 'off' && !isParked(song, id);
}

/** What a control's own curves say at t, in its unit: the base, and the trim in dB (0 where there is none). */
export function ownValueAt(song: Song, id: ControlId, t: Seconds): { readonly base: number; readonly trim: number } {
  const lane = laneOf(song, id);
  if (!isReading(song, id)) return { base: lane.rest, trim: 0 };
  return {
    base: valueAt(lane.points, controlOf(song, id).law, lane.rest, t),
    trim: valueAt(lane.trim, TRIM_LAW, 0, t),
  };
}

/** Where the cap of a layer stands by the curves alone. */
export function layerValueAt(song: Song, id: ControlId, layer: Layer, t: Seconds): number {
  const own = ownValueAt(song, id, t);
  return layer === 'trim' ? own.trim : own.base;
}

/** What a trim of so many dB makes of a control's own base at t. */
export const withTrimAt = (song: Song, id: ControlId, trim: number, t: Seconds): number =>
  trimmedDb(controlOf(song, id).law, ownValueAt(song, id, t).base, trim);

/** What switches a control off at t, so that it is not heard: the switch of its send or insert; null where none does. */
export function gateThatIsOff(song: Song, id: ControlId, t: Seconds): Gate | null {
  const { switch: gate } = controlOf(song, id);
  return gate && ownValueAt(song, gate.id, t).base < 0.5 ? gate : null;
}
