import { channelOf, targetsOf, type Channel, type ChannelKey, type Song } from '../song/index.js';

/** Whether what one channel gives to another (its output or a send) is heard. */
export type Hears = (from: ChannelKey, to: ChannelKey) => boolean;

/** All that can be reached from some channels, themselves included. */
function reach(starts: readonly ChannelKey[], next: (key: ChannelKey) => readonly ChannelKey[]): Set<ChannelKey> {
  const found = new Set(starts);
  for (const key of found) for (const to of next(key)) found.add(to);
  return found;
}

/** What is heard under the song's own solo buttons; everything where none is pressed. */
export function heardUnderSolo(song: Song): Hears {
  const isSoloed = (channel: Channel): boolean => channel.solo && channel.kind !== 'vca' && channel.kind !== 'main';
  const soloed = song.channels.filter(isSoloed).map((channel) => channel.key);
  return soloed.length ? heardOf(song, soloed) : () => true;
}

/**
 * What is heard of some channels alone. Solo is in place: what carries a soloed channel on its way stays heard, and what
 * feeds a soloed bus is heard through that bus, not beside it.
 */
export function heardOf(song: Song, soloed: readonly ChannelKey[]): Hears {
  const targets = new Map(song.channels.map((channel) => [channel.key, targetsOf(song, channel)]));
  const carriers = reach(soloed, (key) => targets.get(key)!);
  const feeders = reach(
    soloed.filter((key) => channelOf(song, key)!.kind === 'bus'),
    (key) => song.channels.filter((channel) => targets.get(channel.key)!.includes(key)).map((channel) => channel.key),
  );
  return (from, to) => carriers.has(from) || feeders.has(to);
}
