import { whyNotPlaced } from '../edits/index.js';
import {
  channelOf,
  controlOf,
  isInDb,
  isParked,
  isSafe,
  laneOf,
  modeInForce,
  type ControlId,
  type Layer,
  type Reason,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';

/** Which layer a hand on a control writes: the trim while its channel trims and the control is in dB, else the base. */
export function layerInHand(song: Song, id: ControlId): Layer {
  const control = controlOf(song, id);
  return channelOf(song, control.channel)!.trim && isInDb(control) ? 'trim' : 'base';
}

/** All that keeps a pass from a control whatever its mode and wherever the song is, in the order in which it is named. */
export function guardsOn(song: Song, id: ControlId): readonly Reason[] {
  const control = controlOf(song, id);
  const guards: Reason[] = [];
  if (isParked(song, id)) guards.push('parked');
  if (isSafe(song, id)) guards.push('safe');
  if (!song.settings.writeScope.includes(control.kind)) guards.push('scope');
  if (channelOf(song, control.channel)!.trim && !isInDb(control)) guards.push('trim');
  return guards;
}

/** The first of {@link guardsOn}; null where there is none. */
export const whyGuarded = (song: Song, id: ControlId): Reason | null => guardsOn(song, id)[0] ?? null;

/**
 * Why a snapshot's value would not be written now, its channel's mode and trim aside: snapshots ignore them (rules, 6). With `t` null
 * (stopped) the punch range says nothing yet.
 */
export function whyNotRecalled(song: Song, id: ControlId, t: Seconds | null): Reason | null {
  const placed = whyNotPlaced(song, id);
  return placed ?? (isOutside(song, t) ? 'range' : null);
}

/** Whether a time is outside the punch range, where there is one. */
function isOutside({ settings: { punch } }: Song, t: Seconds | null): boolean {
  return t !== null && punch !== null && (t < punch[0] || t >= punch[1]);
}

/**
 * Why a pass would not write a control now: the first reason that holds, null when it may be written (rules, 4).
 * With `t` null (stopped) the punch range says nothing yet.
 */
export function whyNotWritten(song: Song, id: ControlId, t: Seconds | null): Reason | null {
  const mode = modeInForce(song, controlOf(song, id).channel);
  if (mode === 'off' || mode === 'read') return 'mode';
  const guarded = whyGuarded(song, id);
  if (guarded) return guarded;
  return isOutside(song, t) ? 'range' : null;
}

/**
 * Whether a hand on a control sets its resting value (rules, 4): in off; in read without a curve; stopped in touch without
 * a curve. Never on a guarded control, nor on one in dB while its channel trims.
 * `curved`: the control has a curve, be it one that the open pass has begun.
 */
export function setsRest(song: Song, id: ControlId, rolling: boolean, curved: boolean): boolean {
  if (isParked(song, id) || isSafe(song, id) || layerInHand(song, id) === 'trim') return false;
  switch (modeInForce(song, controlOf(song, id).channel)) {
    case 'off':
      return true;
    case 'read':
      return !curved;
    case 'touch':
      return !rolling && !curved;
    case 'latch':
    case 'write':
      return false;
  }
}

/** Whether a hand that is not writing is kept for the pass to come: stopped, or before the punch range. */
export function keepsPoised(song: Song, id: ControlId): boolean {
  const mode = modeInForce(song, controlOf(song, id).channel);
  return mode === 'latch' || mode === 'write';
}

/** Whether a pass writes a control without a touch: its channel is in write. */
export const writesByItself = (song: Song, id: ControlId): boolean =>
  modeInForce(song, controlOf(song, id).channel) === 'write';

/** Whether a lane has a base curve. */
export const isCurved = (song: Song, id: ControlId): boolean => laneOf(song, id).points.length > 0;
