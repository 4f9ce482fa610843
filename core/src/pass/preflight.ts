import {
  channelOf,
  controlOf,
  controlsOf,
  laneOf,
  type ControlId,
  type Layer,
  type Reason,
  type Refusal,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { writesByItself, layerInHand, whyNotWritten } from './mayWrite.js';
import type { PassRecorder } from './recorder.js';

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
  const { punch, loop } = song.settings;
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

/**
 * What a pass from `at` would write and what not, and why: the recorder's own decision before the fact (rules, 5).
 * `poised`: controls that wait with a value.
 */
export function preflight(song: Song, at: Seconds, poised: ReadonlySet<ControlId> = new Set()): Preflight {
  const will: WillWrite[] = [];
  const wont: Refusal[] = [];
  for (const id of controlsOf(song).keys()) {
    const reason = whyNotFrom(song, id, at);
    if (reason) wont.push({ control: id, reason });
    else {
      const byItself = writesByItself(song, id) || poised.has(id);
      const when = byItself ? 'play' : 'touched';
      will.push({ control: id, layer: layerInHand(song, id), when, ...writingRange(song, at) });
    }
  }
  return { will, wont };
}

/** Why a pass that rolls from `at` never writes a control; null where it can. */
function whyNotFrom(song: Song, id: ControlId, at: Seconds): Reason | null {
  const { from, to } = writingRange(song, at);
  // A punch range that begins where the lap has come to its end is never reached.
  return whyNotWritten(song, id, from) ?? (to !== null && from >= to ? 'range' : null);
}

/**
 * Where a control stands with the pass to come, or with the one that rolls: it is being written or on its way back, it
 * will be by itself (`play`) or once touched, or it won't. `from` and `to` as in {@link WillWrite}.
 */
export type Standing = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly stands: 'writing' | 'returning' | 'play' | 'touched' | 'wont';
  readonly from: Seconds;
  readonly to: Seconds | null;
  readonly reason: Reason | null;
};

/** Every control with where it stands: before play from `at`, or while the song rolls, at `at` (screens, Hand bar). */
export function standings(recorder: PassRecorder, at: Seconds): Standing[] {
  const { song, roll } = recorder;
  const range = writingRange(song, at);
  return [...controlsOf(song).keys()].map((id): Standing => {
    const layer = layerInHand(song, id);
    const take = roll?.take(id, layer);
    const common = { control: id, layer, reason: null };
    if (take?.isOpen) return { ...common, stands: 'writing', from: take.spans.at(-1)!.from, to: range.to };
    const line = take?.lineAt(at);
    if (line) return { ...common, stands: 'returning', from: take!.spans.at(-1)!.from, to: line.to };
    const reason = whyNotFrom(song, id, at);
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
      if (laneOf(song, id).safe) return { do: 'safe', control: id, on: false };
      return { do: 'safe', channel: key, kinds: channel.safe.filter((one) => one !== kind) };
    case 'scope':
      return { do: 'scope', kinds: [...settings.writeScope, kind] };
    case 'trim':
      return { do: 'trim', channel: key, on: false };
    case 'range':
      return { do: 'punchOff' };
  }
}
