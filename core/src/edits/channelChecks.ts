import { vcaRing } from '../groups/index.js';
import { channelOf, feedRing, insertsWrong, isPlainFileName, keysOf, type Clip, type Song } from '../song/index.js';

/** What outputs name that lead to the main. */
const MAIN_KEY = 'main';

/** What is wrong with the name of the file that a clip plays; null where nothing is. */
export const clipFileWrong = ({ t, file }: Clip, track: string): string | null =>
  isPlainFileName(file)
    ? null
    : `The clip of ${track} at ${t} s plays “${file.slice(0, 80).toWellFormed()}”, which is no plain name of a file beside the song. Put the file beside the song, under a short name without slashes.`;

/** What is wrong with a song's channels and how they feed each other: keys, buses, outputs, VCAs, loops; null where nothing is. */
export function channelsWrong(song: Song): string | null {
  const keys = new Set<string>();
  for (const { key, kind, name } of song.channels) {
    if (keys.has(key)) return `Two channels have the key “${key}”; give one of them another.`;
    keys.add(key);
    if (key === MAIN_KEY && kind !== 'main')
      return `The key “${MAIN_KEY}” is that of the main channel, and nothing else can be called so; give ${name} another key.`;
  }
  if (song.channels.filter((channel) => channel.kind === 'main').length > 1)
    return 'The song has more than one main channel; keep one.';
  for (const channel of song.channels) {
    const { name, kind, output, sends, members } = channel;
    const wrong = insertsWrong(channel);
    if (wrong) return wrong;
    const silent = keysOf(channel).find((key) => !keys.has(key) || channelOf(song, key)!.kind === 'vca');
    if (silent !== undefined)
      return keys.has(silent)
        ? `An insert of ${name} listens to “${silent}”, which is a VCA and carries no audio.`
        : `An insert of ${name} listens to the channel “${silent}”, which the song does not have.`;
    for (const named of [...members, ...sends.map((send) => send.bus)])
      if (!keys.has(named)) return `${name} names the channel “${named}”, which the song does not have.`;
    const bus = sends.find((send) => channelOf(song, send.bus)!.kind !== 'bus');
    if (bus) return `${name} sends to “${bus.bus}”, which is no bus.`;
    const twice = sends.find((send, i) => sends.findIndex((other) => other.bus === send.bus) < i);
    if (twice) return `${name} sends to “${twice.bus}” twice; keep one of the two.`;
    const out = channelOf(song, output);
    if ((kind === 'track' || kind === 'bus') && output !== 'main' && out?.kind !== 'bus' && out?.kind !== 'main')
      return `${name} goes out to “${output}”, which is neither a bus nor the main.`;
  }
  const held = vcaRing(song);
  if (held)
    return `The VCAs ${held.map((key) => channelOf(song, key)!.name).join(' → ')} hold each other in a ring; take one out of the other.`;
  const fed = feedRing(song);
  const names = fed?.map((key) => channelOf(song, key)!.name).join(' → ');
  return fed ? `Outputs, sends and keys of inserts feed back in a loop: ${names}. Take one of them out.` : null;
}
