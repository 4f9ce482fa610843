import { channelOf, findRing, type ChannelKey, type Song } from '../song/index.js';
import { SILENCE_DB, type Db } from '../units/index.js';

/** The sum of all levels on a channel is limited to this (rules, 3). */
export const MAX_EFFECTIVE_DB: Db = 24;

const cache = new WeakMap<Song['channels'], Map<ChannelKey, readonly ChannelKey[]>>();

/** The VCAs a channel belongs to, directly or through other VCAs; each once. */
export function vcasOver(song: Song, key: ChannelKey): readonly ChannelKey[] {
  let known = cache.get(song.channels);
  if (!known) cache.set(song.channels, (known = new Map<ChannelKey, readonly ChannelKey[]>()));
  const found = known.get(key);
  if (found) return found;
  const over = new Set<ChannelKey>();
  const climb = (member: ChannelKey): void => {
    for (const vca of song.channels) {
      if (vca.kind !== 'vca' || over.has(vca.key) || !vca.members.includes(member)) continue;
      over.add(vca.key);
      climb(vca.key);
    }
  };
  climb(key);
  known.set(key, [...over]);
  return [...over];
}

/** The keys of VCAs that hold each other in a ring, in order; null where none do. */
export const vcaRing = (song: Song): readonly ChannelKey[] | null =>
  findRing(
    song.channels.filter((channel) => channel.kind === 'vca').map((channel) => channel.key),
    (key) => channelOf(song, key)?.members.filter((member) => channelOf(song, member)?.kind === 'vca') ?? [],
  );

/** The sum of levels in dB, silence in any of them being silence, limited to {@link MAX_EFFECTIVE_DB}. */
export function sumDb(levels: readonly Db[]): Db {
  if (levels.some((db) => db <= SILENCE_DB)) return SILENCE_DB;
  return Math.max(
    SILENCE_DB,
    Math.min(
      MAX_EFFECTIVE_DB,
      levels.reduce<number>((sum, db) => sum + db, 0),
    ),
  );
}
