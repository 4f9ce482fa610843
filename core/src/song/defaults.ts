import type { Channel, Clip, Gang, GuardSet, Insert, Send, Snapshot } from './document.js';
import { settingsOf } from './inserts.js';

/** A send with the defaults of what a document does not say of it: post-fader, following the channel's pan. */
export const sendWithDefaults = (send: Partial<Send> & Pick<Send, 'bus'>): Send => ({
  ...send,
  tap: send.tap ?? 'post',
  pan: send.pan ?? 'follow',
});

/** An insert with the defaults of what a document does not say of its settings. */
export const insertWithDefaults = (insert: Partial<Insert> & Pick<Insert, 'slot' | 'effect'>): Insert => ({
  ...insert,
  settings: settingsOf({ ...insert, settings: insert.settings ?? {} }),
});

/** A gang with the defaults of what a document does not say of it: levels only, pans the same way, each with a mode of its own. */
export const gangWithDefaults = (gang: Partial<Gang> & Pick<Gang, 'key' | 'channels'>): Gang => ({
  ...gang,
  name: gang.name ?? gang.key,
  kinds: gang.kinds ?? ['level'],
  pan: gang.pan ?? 'same',
  modes: gang.modes ?? false,
});

/** A snapshot with the defaults of what a document does not say of it: taken at the song's start, all of it recalled. */
export const snapshotWithDefaults = (one: Partial<Snapshot> & Pick<Snapshot, 'key' | 'values'>): Snapshot => ({
  ...one,
  name: one.name ?? one.key,
  note: one.note ?? '',
  t: one.t ?? 0,
  filter: one.filter ?? null,
});

/** A set of guards with the defaults of what a document does not say of it: nothing. */
export const guardSetWithDefaults = (one: Partial<GuardSet> & Pick<GuardSet, 'key'>): GuardSet => ({
  ...one,
  name: one.name ?? one.key,
  scope: one.scope ?? null,
  channels: one.channels ?? {},
  controls: one.controls ?? {},
});

/** A channel with the defaults of what a document does not say of it; its clips reach to the song's end. */
export function channelWithDefaults(channel: Partial<Channel>, length: number): Channel {
  return {
    ...channel,
    key: channel.key!,
    kind: channel.kind!,
    name: channel.name ?? channel.key!,
    family: channel.family ?? '',
    mode: channel.mode ?? 'read',
    trim: channel.trim ?? false,
    parked: channel.parked ?? false,
    safe: channel.safe ?? [],
    output: channel.output ?? 'main',
    solo: channel.solo ?? false,
    clips: (channel.clips ?? []).map((clip) => clipWithDefaults(clip, length)),
    sends: (channel.sends ?? []).map(sendWithDefaults),
    inserts: (channel.inserts ?? []).map(insertWithDefaults),
    members: channel.members ?? [],
    sound: channel.sound ?? null,
  };
}

function clipWithDefaults(clip: Partial<Clip>, songLength: number): Clip {
  const t = clip.t ?? 0;
  return {
    ...clip,
    t,
    file: clip.file!,
    offset: clip.offset ?? 0,
    length: clip.length ?? Math.max(0, songLength - t),
    gain: clip.gain ?? 0,
    fadeIn: clip.fadeIn ?? 0,
    fadeOut: clip.fadeOut ?? 0,
    fadeInShape: clip.fadeInShape ?? 'line',
    fadeOutShape: clip.fadeOutShape ?? 'line',
  };
}
