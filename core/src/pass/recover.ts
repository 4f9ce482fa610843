import {
  applyEdit,
  controlsOf,
  type ChannelState,
  type Edit,
  type Receipt,
  type Settings,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { PassRecorder } from './recorder.js';

/**
 * What is kept of an open pass while it rolls, so that it can be made again after a crash: how modes, guards and settings
 * stood as it began, what hands did since (what was poised before it, then play, then the rest), and how far it was.
 */
export type PassJournal = {
  readonly began: PassState;
  readonly events: readonly HandEvent[];
  readonly at: Seconds;
};

/** All that decides what a pass writes, besides the lanes themselves. */
export type PassState = {
  readonly channels: { readonly [key: string]: ChannelState };
  readonly settings: Settings;
  readonly guards: { readonly [control: string]: { readonly safe: boolean; readonly parked: boolean } };
};

/** The state of a song as a pass begins. */
export function passState(song: Song): PassState {
  const channels = Object.fromEntries(
    song.channels.map(({ key, mode, trim, parked, safe, solo }) => [key, { mode, trim, parked, safe, solo }]),
  );
  const guards = Object.fromEntries(
    Object.entries(song.lanes).flatMap(([id, { safe, parked }]) => (safe || parked ? [[id, { safe, parked }]] : [])),
  );
  return { channels, settings: song.settings, guards };
}

/** The song with modes, guards and settings as they stood; its lanes as they are now. */
function asItBegan(song: Song, { channels, settings, guards }: PassState): Song {
  const lanes = Object.fromEntries(
    Object.entries(song.lanes).map(([id, lane]) => [id, { ...lane, safe: false, parked: false, ...guards[id] }]),
  );
  return { ...song, settings, lanes, channels: song.channels.map((one) => ({ ...one, ...channels[one.key] })) };
}

/**
 * Makes a pass that was cut short again, as if it had been stopped where its journal ends: the edit that keeps it and its
 * receipt; null where it had written nothing. Events for controls that are gone are left out.
 */
export function recoverPass(song: Song, { began, events, at }: PassJournal): { pass: Edit; receipt: Receipt } | null {
  const recorder = new PassRecorder(asItBegan(song, began));
  const known = controlsOf(song);
  for (const event of events)
    if (!('control' in event) || event.control === undefined || known.has(event.control)) recorder.handle(event);
  if (!recorder.roll) return null;
  const { edits, receipts } = recorder.handle({ do: 'stop', t: Math.max(at, recorder.roll.now) });
  const pass = edits.find((edit) => edit.kind === 'pass');
  const receipt = receipts.at(-1);
  return pass && receipt && applyEdit(song, pass).song !== song ? { pass, receipt } : null;
}
