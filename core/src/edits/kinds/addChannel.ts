import * as Type from '@sinclair/typebox';
import {
  channelWithDefaults,
  effectIn,
  listeningTo,
  type Channel,
  type ChannelKey,
  type Gang,
  type Song,
} from '../../song/index.js';
import { CHANNEL_SCHEMA, SEND_SCHEMA } from '../../song/schema.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { lanesThere } from '../applied.js';
import { channelsWrong, clipFileWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel as key, count, lanes } from '../fields.js';
import { lanesWrong, wholeLanes } from '../laneChecks.js';

/** A song has so many channels at most. */
const MOST_CHANNELS = 1000;

/**
 * What other channels had of one that went, to be given back with it: their sends to it, their outputs, their places as
 * members of VCAs and gangs, the inserts that listened to it. Only inverses say it.
 */
export const tiesSchema = Type.Object({
  sends: Type.Array(Type.Object({ channel: key, at: count, send: SEND_SCHEMA })),
  outputs: Type.Array(key),
  members: Type.Array(Type.Object({ vca: key, at: count })),
  gangs: Type.Array(Type.Object({ gang: key, at: count })),
  ...maybe({ keys: Type.Array(Type.Object({ channel: key, slot: key })) }),
});
export type Ties = Checked<typeof tiesSchema>;

/** A channel put in, at a place among the others (the end where none is said), with the lanes and ties that it had. */
const schema = fieldsOf('addChannel', {
  channel: Type.Unsafe<Channel>(CHANNEL_SCHEMA),
  ...maybe({ at: count, lanes, ties: tiesSchema }),
});
export type AddChannelEdit = Checked<typeof schema>;

/** A list with an item put in at a place, or at its end where it is not so long any more. */
const putIn = <T>(list: readonly T[], at: number, item: T): T[] => [...list.slice(0, at), item, ...list.slice(at)];

/** A channel with what it had of the one that comes back. */
function tied(one: Channel, key: ChannelKey, { sends, outputs, members, keys = [] }: Ties): Channel {
  const send = sends.find((tie) => tie.channel === one.key);
  const member = members.find((tie) => tie.vca === one.key);
  const slots = new Set(keys.flatMap((tie) => (tie.channel === one.key ? [tie.slot] : [])));
  if (!send && !member && !slots.size && !outputs.includes(one.key)) return one;
  return {
    ...one,
    sends: send ? putIn(one.sends, send.at, send.send as Channel['sends'][number]) : one.sends,
    members: member ? putIn(one.members, member.at, key) : one.members,
    inserts: one.inserts.map((insert) =>
      slots.has(insert.slot) && effectIn(insert)?.keySetting ? listeningTo(insert, key) : insert,
    ),
    output: outputs.includes(one.key) ? key : one.output,
  };
}

function inGang(gang: Gang, key: ChannelKey, { gangs }: Ties): Gang {
  const tie = gangs.find((one) => one.gang === gang.key);
  return tie ? { ...gang, channels: putIn(gang.channels, tie.at, key) } : gang;
}

/** The song with the channel in it, its lanes not yet. */
function withFrame(song: Song, { channel, at, ties: had }: AddChannelEdit): Song {
  const { key } = channel;
  const others = had ? song.channels.map((one) => tied(one, key, had)) : song.channels;
  const gangs = had?.gangs.length ? song.gangs.map((gang) => inGang(gang, key, had)) : song.gangs;
  return { ...song, channels: putIn(others, at ?? others.length, channel), gangs };
}

export const addChannel: EditKind<AddChannelEdit> = {
  kind: 'addChannel',
  does: 'a channel put in among the others, at the end where `at` is not said; `lanes` and `ties`, in inverses, are what it had',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete(song, edit) {
    const channel = channelWithDefaults(edit.channel, song.length);
    const whole = { ...edit, channel };
    return edit.lanes ? { ...whole, lanes: wholeLanes(withFrame(song, whole), edit.lanes) } : whole;
  },
  wrong(song, edit) {
    if (song.channels.length >= MOST_CHANNELS)
      return `A song has at most ${MOST_CHANNELS} channels, and this one has them.`;
    if ((edit.at ?? 0) > song.channels.length)
      return `The song has ${song.channels.length} channels; ${edit.channel.name} can’t stand at place ${edit.at}.`;
    const { clips, name } = edit.channel;
    const odd = clips.map((clip) => clipFileWrong(clip, name)).find((wrong) => wrong !== null);
    if (odd) return odd;
    const framed = withFrame(song, edit);
    return channelsWrong(framed) ?? lanesWrong(framed, edit.lanes ?? {});
  },
  apply(song, edit) {
    const framed = withFrame(song, edit);
    const had = lanesThere(framed, edit.lanes);
    const changed = Object.keys(had);
    return {
      song: changed.length ? { ...framed, lanes: { ...song.lanes, ...had } } : framed,
      inverse: { kind: 'removeChannel', channel: edit.channel.key },
      changed,
      refused: [],
    };
  },
  named: (_song, { channel }) => `Channel ${channel.name} added`,
  example(song, [a, b, c, d]) {
    const key = `new-${Math.floor(9 * a!)}`;
    const kind = pick(['track', 'bus', 'vca'] as const, b!);
    const other = pick(song.channels, c!);
    const sends =
      kind === 'track' && other.kind === 'bus' ? [{ bus: other.key, tap: 'post', pan: 'own' } as const] : [];
    const members = kind === 'vca' && other.kind !== 'vca' ? [other.key] : [];
    const channel = channelWithDefaults({ key, kind, name: `New ${key}`, sends, members }, song.length);
    return { kind: 'addChannel', channel, at: Math.floor(d! * (song.channels.length + 1)) };
  },
};
