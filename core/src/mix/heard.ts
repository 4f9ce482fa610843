import { vcasOver } from '../groups/index.js';
import { carriesAudio, channelOf, targetsOf, type Channel, type ChannelKey, type Song } from '../song/index.js';

/** Whether what one channel gives to another (its output or a send) is heard. */
export type Hears = (from: ChannelKey, to: ChannelKey) => boolean;

/** All that can be reached from some channels, themselves included. */
function reach(starts: readonly ChannelKey[], next: (key: ChannelKey) => readonly ChannelKey[]): Set<ChannelKey> {
  const found = new Set(starts);
  for (const key of found) for (const to of next(key)) found.add(to);
  return found;
}

/** The channels that are soloed, by their own button or by that of a VCA over them; the main never is. */
export function soloedIn(song: Song): readonly ChannelKey[] {
  const pressed = new Set(song.channels.filter(({ solo }) => solo).map(({ key }) => key));
  if (!pressed.size) return [];
  const isSoloed = ({ key, kind }: Channel): boolean =>
    kind !== 'main' && carriesAudio({ kind }) && [key, ...vcasOver(song, key)].some((one) => pressed.has(one));
  return song.channels.filter(isSoloed).map(({ key }) => key);
}

/** What is heard under the song's own solo buttons; everything where none is pressed. */
export function heardUnderSolo(song: Song): Hears {
  const soloed = soloedIn(song);
  return soloed.length ? heardOf(song, soloed) : () => true;
}

/** Whether something of a channel is heard under the song's solo buttons: where it goes out, or by one of its sends. */
export function isHeardUnderSolo(song: Song, key: ChannelKey): boolean {
  const hears = heardUnderSolo(song);
  const channel = channelOf(song, key)!;
  return !carriesAudio(channel) || channel.kind === 'main' || targetsOf(song, channel).some((to) => hears(key, to));
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
