import { type ChannelState, type Edit, type Receipt } from '../edits/index.js';
import { channelOf, controlsOf, turnedOver, type Settings, type Song } from '../song/index.js';
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

/** What a record says of a key itself: nothing that every record has. */
const own = <T>(record: { readonly [key: string]: T }, key: string): T | undefined =>
  Object.hasOwn(record, key) ? record[key] : undefined;

/** The song with modes, guards and settings as they stood; its lanes as they are now. */
function asItBegan(song: Song, { channels, settings, guards }: PassState): Song {
  const lanes = Object.fromEntries(
    Object.entries(song.lanes).map(([id, lane]) => [id, { ...lane, safe: false, parked: false, ...own(guards, id) }]),
  );
  return {
    ...song,
    settings: turnedOver(settings),
    lanes,
    channels: song.channels.map((one) => ({ ...one, ...own(channels, one.key) })),
  };
}

/** A pass made again from its journal. `after`: channels, or the desk, that fall back from write as after every pass. */
export type Recovered = { readonly pass: Edit; readonly receipt: Receipt; readonly after: readonly Edit[] };

/**
 * Makes a pass that was cut short again, as if it had been stopped where its journal ends; null where it had written
 * nothing. Events for controls that are gone are left out.
 */
export function recoverPass(song: Song, { began, events, at }: PassJournal): Recovered | null {
  const recorder = new PassRecorder(asItBegan(song, began));
  const known = controlsOf(song);
  for (const event of inOrder(events))
    if (!('control' in event) || event.control === undefined || known.has(event.control)) recorder.handle(event);
  if (!recorder.roll) return null;
  const { edits, receipts } = recorder.handle({ do: 'stop', t: Math.max(at, recorder.roll.now) });
  const pass = edits.find((edit) => edit.kind === 'pass');
  const receipt = receipts.at(-1);
  return pass && receipt
    ? { pass, receipt, after: edits.slice(edits.indexOf(pass) + 1).filter(isFallBack(song)) }
    : null;
}

/** Events are written down as they come; those that came late stand where they were made: without a time, before the play. */
function inOrder(events: readonly HandEvent[]): HandEvent[] {
  const play = events.findIndex((event) => event.do === 'play');
  const after = events.slice(play + 1);
  const rolling = after.filter(({ t }) => t !== undefined).sort((a, b) => a.t! - b.t!);
  const stopped = after.filter(({ t }) => t === undefined);
  return [...events.slice(0, Math.max(0, play)), ...stopped, ...events.slice(Math.max(0, play), play + 1), ...rolling];
}

/** Whether an edit still takes something out of write: a person may have done so since. */
const isFallBack =
  (song: Song) =>
  (edit: Edit): boolean => {
    if (edit.kind === 'settings') return song.settings.deskMode === 'write';
    return edit.kind === 'channel' && channelOf(song, edit.channel)?.mode === 'write';
  };
