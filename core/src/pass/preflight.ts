import {
  loopOf,
  channelOf,
  controlOf,
  controlsOf,
  ownGuards,
  type ControlId,
  type Layer,
  type Reason,
  type Refusal,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { layerInHand, whyNotRecalled, whyNotWritten, writesByItself } from './mayWrite.js';
import type { PassRecorder } from './recorder.js';
import type { Waiting } from './waiting.js';

/**
 * A control that a pass would write: on play by itself, or once touched. `to` is where the punch range or a lap's end
 * ends it, null where only stop or a release does.
 */
export type WillWrite = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly when: 'play' | 'touched';
  readonly from: Seconds;
  readonly to: Seconds | null;
};

export type Preflight = { readonly will: readonly WillWrite[]; readonly wont: readonly Refusal[] };

/** Where writing can begin for a song that rolls from `at`, and what ends it by itself: the range's end, or the lap's. */
export function writingRange(song: Song, at: Seconds): { readonly from: Seconds; readonly to: Seconds | null } {
  const { punch } = song.settings;
  const loop = loopOf(song);
  const from = punch && at < punch[0] ? punch[0] : at;
  const wrap = loop && at < loop[1] ? loop[1] : Infinity;
  const to = Math.min(punch?.[1] ?? Infinity, wrap);
  return { from, to: to === Infinity ? null : to };
}

/** What ends by itself what is written from `at` on, and when: the punch range, or the lap; null where nothing does. */
export function writingEnds(song: Song, at: Seconds): { readonly at: Seconds; readonly by: 'range' | 'lap' } | null {
  const { to } = writingRange(song, at);
  return to === null ? null : { at: to, by: song.settings.punch?.[1] === to ? 'range' : 'lap' };
}

const NOTHING_WAITS: Waiting = { poised: new Set() };

/**
 * What a pass from `at` would write and what not, and why: the recorder's own decision before the fact (rules, 5).
 * What is held aside is in neither list.
 */
export function preflight(song: Song, at: Seconds, waiting: Waiting = NOTHING_WAITS): Preflight {
  const will: WillWrite[] = [];
  const wont: Refusal[] = [];
  for (const id of controlsOf(song).keys()) {
    if (waiting.aside?.has(id)) continue;
    const isRecalled = waiting.recalled?.has(id) ?? false;
    const reason = whyNotFrom(song, id, at, isRecalled);
    if (reason) wont.push({ control: id, reason });
    else {
      const byItself = writesByItself(song, id) || waiting.poised.has(id);
      const when = byItself ? 'play' : 'touched';
      const layer = isRecalled ? 'base' : layerInHand(song, id);
      will.push({ control: id, layer, when, ...writingRange(song, at) });
    }
  }
  return { will, wont };
}

/** Why a pass that rolls from `at` never writes a control; null where it can. */
function whyNotFrom(song: Song, id: ControlId, at: Seconds, isRecalled: boolean): Reason | null {
  const { from, to } = writingRange(song, at);
  const whyNot = isRecalled ? whyNotRecalled : whyNotWritten;
  // A punch range that begins where the lap has come to its end is never reached.
  return whyNot(song, id, from) ?? (to !== null && from >= to ? 'range' : null);
}

/**
 * Where a control stands with the pass to come, or with the one that rolls: it is being written or on its way back, it
 * will be by itself (`play`) or once touched, it is held aside, or it won't. `from` and `to` as in {@link WillWrite}.
 */
export type Standing = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly stands: 'writing' | 'returning' | 'play' | 'touched' | 'aside' | 'wont';
  readonly from: Seconds;
  readonly to: Seconds | null;
  readonly reason: Reason | null;
};

/** Every control with where it stands: before play from `at`, or while the song rolls, at `at` (screens, Hand bar). */
export function standings(recorder: PassRecorder, at: Seconds): Standing[] {
  const { song, roll } = recorder;
  const range = writingRange(song, at);
  return [...controlsOf(song).keys()].map((id): Standing => {
    const layer = recorder.layerOf(id);
    const take = roll?.take(id, layer);
    const common = { control: id, layer, reason: null };
    if (recorder.tryout.held.has(id)) return { ...common, stands: 'aside', ...range };
    if (take?.isOpen) return { ...common, stands: 'writing', from: take.spans.at(-1)!.from, to: range.to };
    const line = take?.lineAt(at);
    if (line) return { ...common, stands: 'returning', from: take!.spans.at(-1)!.from, to: line.to };
    const reason = whyNotFrom(song, id, at, recorder.isRecalled(id));
    if (reason) return { ...common, stands: 'wont', ...range, reason };
    const waits = recorder.poised.has(id) || (writesByItself(song, id) && !recorder.isWriteLetGo(id));
    return { ...common, stands: waits ? 'play' : 'touched', ...range };
  });
}

/** What a person can do so that a control is written after all: one hand event, or the punch range switched off. */
export type Remedy = Exclude<HandEvent, { do: 'play' | 'stop' }> | { readonly do: 'punchOff' };

/** The act that takes the reason away which keeps a control from being written. */
export function remedyFor(song: Song, id: ControlId, reason: Reason): Remedy {
  const { channel: key, kind } = controlOf(song, id);
  const channel = channelOf(song, key)!;
  const { settings } = song;
  switch (reason) {
    case 'mode': {
      if (settings.deskMode === null) return { do: 'mode', channel: key, mode: 'touch' };
      const ownWrites = channel.mode !== 'off' && channel.mode !== 'read';
      return { do: 'desk', mode: ownWrites ? null : 'touch' };
    }
    case 'parked':
      if (settings.parked) return { do: 'park', on: false };
      return channel.parked ? { do: 'park', channel: key, on: false } : { do: 'park', control: id, on: false };
    case 'safe':
      if (ownGuards(song, id).safe) return { do: 'safe', control: id, on: false };
      return { do: 'safe', channel: key, kinds: channel.safe.filter((one) => one !== kind) };
    case 'scope':
      return { do: 'scope', kinds: [...settings.writeScope, kind] };
    case 'trim':
      return { do: 'trim', channel: key, on: false };
    case 'range':
      return { do: 'punchOff' };
  }
}
