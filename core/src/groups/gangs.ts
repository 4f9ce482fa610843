import {
  CONTROL_KINDS,
  channelOf,
  controlOf,
  controlsOfChannel,
  likeOn,
  type ChannelKey,
  type ControlId,
  type Gang,
  type Song,
} from '../song/index.js';
import { PAN_SCALE } from '../units/index.js';

/** The gang that a control is led in; undefined where it is in none. A control is in one at most (rules, 6). */
export function gangOf(song: Song, id: ControlId): Gang | undefined {
  if (!song.gangs.length) return undefined;
  const { channel, kind } = controlOf(song, id);
  return song.gangs.find(({ channels, kinds }) => kinds.includes(kind) && channels.includes(channel));
}

/** The controls that a hand on one moves with it, in the order of their gang; none where it is in no gang. */
export function companionsOf(song: Song, id: ControlId): readonly ControlId[] {
  const gang = gangOf(song, id);
  if (!gang) return [];
  const { channel: own, like } = controlOf(song, id);
  return [...new Set(gang.channels)].flatMap((key) => {
    const channel = key === own ? undefined : channelOf(song, key);
    return (channel && likeOn(song, channel, like)?.id) ?? [];
  });
}

/** Whether the companions of a control go the opposite way: pans, of a channel or a send, in a gang that mirrors them. */
export const goesMirrored = (song: Song, id: ControlId): boolean =>
  controlOf(song, id).scale === PAN_SCALE && gangOf(song, id)?.pan === 'mirror';

/** Every channel whose mode and trim go with a channel's own, itself first (rules, 6). */
export function channelsModedWith(song: Song, key: ChannelKey): readonly ChannelKey[] {
  const gangs = song.gangs.filter(({ modes, channels }) => modes && channels.includes(key));
  return [...new Set([key, ...gangs.flatMap(({ channels }) => channels)])];
}

/** What is wrong with a song's gangs: keys, channels that it lacks, a control in two of them; null where nothing is. */
export function gangsWrong(song: Song): string | null {
  const known = new Map<string, Gang>();
  for (const gang of song.gangs) {
    if (known.has(gang.key)) return `Two gangs have the key “${gang.key}”; give one of them another.`;
    known.set(gang.key, gang);
    const missing = gang.channels.find((key) => !channelOf(song, key));
    if (missing !== undefined)
      return `The gang ${gang.name} names the channel “${missing}”, which the song does not have.`;
  }
  for (const kind of CONTROL_KINDS) {
    const inGang = new Map<ChannelKey, Gang>();
    for (const gang of song.gangs.filter(({ kinds }) => kinds.includes(kind)))
      for (const key of new Set(gang.channels)) {
        const other = inGang.get(key);
        if (other && controlsOfChannel(song, channelOf(song, key)!).some((control) => control.kind === kind))
          return `${channelOf(song, key)!.name} ${kind} would be in two gangs, ${other.name} and ${gang.name}; take it out of one of them.`;
        inGang.set(key, gang);
      }
  }
  return null;
}
