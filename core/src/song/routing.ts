import { channelOf, type Channel, type ChannelKey, type Song } from './document.js';
import { keyOf } from './inserts.js';
import { findRing } from './ring.js';

/** The main: every song has one. */
export const mainOf = (song: Song): Channel => song.channels.find((channel) => channel.kind === 'main')!;

/** Where a track or a bus goes out to: the bus or main it names, the song's main where it names none that is there. */
export function outputOf(song: Song, channel: Channel): ChannelKey {
  return channelOf(song, channel.output) ? channel.output : mainOf(song).key;
}

/** Whether a channel carries audio; a VCA only moves the levels of others. */
export const carriesAudio = (channel: Pick<Channel, 'kind'>): boolean => channel.kind !== 'vca';

/** Every channel that gets audio from this one: its output first, then its sends in order. */
export function targetsOf(song: Song, channel: Channel): ChannelKey[] {
  if (!carriesAudio(channel)) return [];
  const out = channel.kind === 'main' ? [] : [outputOf(song, channel)];
  return [...out, ...channel.sends.map((send) => send.bus)];
}

/** Channels that a channel's inserts listen to in place of its own sound. */
export const keysOf = ({ inserts }: Pick<Channel, 'inserts'>): ChannelKey[] =>
  inserts.flatMap((insert) => keyOf(insert) ?? []);

/** The keys of channels whose outputs, sends and listeners feed back into themselves, in order; null where none do. */
export function feedRing(song: Song): ChannelKey[] | null {
  const listeners = song.channels.filter(({ inserts }) => inserts.length);
  return findRing(
    song.channels.map((channel) => channel.key),
    (key) => [
      ...targetsOf(song, channelOf(song, key)!),
      ...listeners.flatMap((one) => (keysOf(one).includes(key) ? [one.key] : [])),
    ],
  );
}
