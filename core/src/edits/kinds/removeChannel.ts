import {
  channelNamed,
  channelOf,
  controlsOf,
  keyOf,
  keysOf,
  listeningTo,
  outputOf,
  type Channel,
  type ChannelKey,
  type ControlId,
  type Lane,
  type Song,
} from '../../song/index.js';
import type { Checked } from '../../song/schemaParts.js';
import { guardsOf, lanesWithout, unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel } from '../fields.js';
import { noChannel } from '../laneChecks.js';
import type { Ties } from './addChannel.js';

/** A channel taken out, with all that goes with it: its lanes, the sends to it, its places in VCAs and gangs; what listens to it hears its own sound again. */
const schema = fieldsOf('removeChannel', { channel });
export type RemoveChannelEdit = Checked<typeof schema>;

/** What other channels have of one. */
function tiesOf(song: Song, key: ChannelKey): Ties {
  const placed = <T>(list: readonly T[], is: (item: T) => boolean): number[] =>
    list.flatMap((item, at) => (is(item) ? [at] : []));
  return {
    sends: song.channels.flatMap((one) =>
      placed(one.sends, ({ bus }) => bus === key).map((at) => ({ channel: one.key, at, send: one.sends[at]! })),
    ),
    outputs: song.channels.filter(({ output }) => output === key).map((one) => one.key),
    members: song.channels.flatMap((one) =>
      placed(one.members, (member) => member === key).map((at) => ({ vca: one.key, at })),
    ),
    keys: song.channels.flatMap((one) =>
      one.inserts.flatMap((insert) => (keyOf(insert) === key ? [{ channel: one.key, slot: insert.slot }] : [])),
    ),
    gangs: song.gangs.flatMap((gang) =>
      placed(gang.channels, (member) => member === key).map((at) => ({ gang: gang.key, at })),
    ),
  };
}

/** A channel without what it has of one that goes: what fed a bus goes to that bus's output. */
function untied(one: Channel, key: ChannelKey, goesTo: ChannelKey): Channel {
  const sends = one.sends.filter(({ bus }) => bus !== key);
  const members = one.members.filter((member) => member !== key);
  const listens = keysOf(one).includes(key);
  const isTied = listens || sends.length < one.sends.length || members.length < one.members.length;
  if (!isTied && one.output !== key) return one;
  const inserts = listens
    ? one.inserts.map((insert) => (keyOf(insert) === key ? listeningTo(insert, null) : insert))
    : one.inserts;
  return { ...one, sends, members, inserts, output: one.output === key ? goesTo : one.output };
}

export const removeChannel: EditKind<RemoveChannelEdit> = {
  kind: 'removeChannel',
  does: 'a channel taken out with its lanes, the sends to it and its places in VCAs and gangs; what fed a bus goes to its output; refused whole where a lane that would go is guarded',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, edit) {
    const gone = noChannel(song, edit.channel);
    if (gone) return gone;
    const { kind, name } = channelOf(song, edit.channel)!;
    return kind === 'main' ? `${name} can’t be taken out: all goes out through it.` : null;
  },
  apply(song, { channel: key }) {
    const at = song.channels.findIndex((one) => one.key === key);
    const one = song.channels[at];
    if (!one) return unchanged(song);
    const goesTo = one.kind === 'bus' ? outputOf(song, one) : 'main';
    const channels = song.channels.filter((other) => other !== one).map((other) => untied(other, key, goesTo));
    const gangs = song.gangs.some((gang) => gang.channels.includes(key))
      ? song.gangs.map((gang) => ({ ...gang, channels: gang.channels.filter((member) => member !== key) }))
      : song.gangs;
    const framed: Song = { ...song, channels, gangs };
    const goes = [...controlsOf(song).keys()].filter((id) => !controlsOf(framed).has(id));
    const refused = guardsOf(song, goes);
    if (refused.length) return unchanged(song, refused);
    // Lanes of effects that this program does not know go with their channel too.
    const hasLane = (id: ControlId): boolean => channelNamed(id) === key || goes.includes(id);
    const had = Object.keys(song.lanes).filter(hasLane);
    const lanes: { [id: ControlId]: Lane } = Object.fromEntries(had.map((id) => [id, song.lanes[id]!]));
    return {
      song: had.length ? { ...framed, lanes: lanesWithout(song.lanes, had) } : framed,
      inverse: { kind: 'addChannel', channel: one, at, lanes, ties: tiesOf(song, key) },
      changed: had,
      refused: [],
    };
  },
  named: (song, edit) => `Channel ${channelOf(song, edit.channel)?.name ?? edit.channel} removed`,
  example: (song, [a]) => ({ kind: 'removeChannel', channel: pick(song.channels, a!).key }),
};
