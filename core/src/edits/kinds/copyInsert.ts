import * as Type from '@sinclair/typebox';
import {
  channelOf,
  controlsOf,
  insertControlId,
  insertName,
  laneOf,
  type Channel,
  type ControlId,
  type Insert,
  type Lane,
  type Song,
} from '../../song/index.js';
import { maybe, on, type Checked } from '../../song/schemaParts.js';
import { unchanged, withChannel } from '../applied.js';
import { channelsWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel, count, values } from '../fields.js';
import { firstWrong, noChannel, valuesWrong } from '../laneChecks.js';

/**
 * An insert of one channel put into another, or once more into the same, at a place (the end where none is said); `lanes`: with its
 * curves, sways and resting values, else all of it at rest, where `values` says of some parameters, each in its unit, or where the effect has
 * it. A slot that is taken there gets a number.
 */
const schema = fieldsOf('copyInsert', {
  from: channel,
  slot: Type.String({ maxLength: 24 }),
  to: channel,
  ...maybe({ at: count, lanes: on, values }),
});
export type CopyInsertEdit = Checked<typeof schema>;

const MOST_LETTERS = 24;

/** A slot's name as it is free in a channel. */
export function freeSlot({ inserts }: Pick<Channel, 'inserts'>, slot: string): string {
  const taken = new Set(inserts.map((one) => one.slot));
  if (!taken.has(slot)) return slot;
  const bare = slot.replace(/-\d+$/, '');
  for (let n = 2; ; n++) {
    const next = `${bare.slice(0, MOST_LETTERS - 1 - String(n).length)}-${n}`;
    if (!taken.has(next)) return next;
  }
}

const insertIn = (song: Song, key: string, slot: string): Insert | undefined =>
  channelOf(song, key)?.inserts.find((one) => one.slot === slot);

/** The song with the copy in it, its lanes not yet, and the copy. */
function withCopy(song: Song, { from, slot, to, at }: CopyInsertEdit): { readonly song: Song; readonly copy: Insert } {
  const goal = channelOf(song, to)!;
  const copy = { ...insertIn(song, from, slot)!, slot: freeSlot(goal, slot) };
  const place = at ?? goal.inserts.length;
  const inserts = [...goal.inserts.slice(0, place), copy, ...goal.inserts.slice(place)];
  return { song: withChannel(song, goal, { inserts }), copy };
}

/** What the parameters of a copy rest at that comes without curves, by control. */
const restsOf = ({ to, values: given = {} }: CopyInsertEdit, { slot }: Insert): Readonly<Record<ControlId, number>> =>
  Object.fromEntries(Object.entries(given).map(([param, v]) => [insertControlId(to, slot, param), v]));

export const copyInsert: EditKind<CopyInsertEdit> = {
  kind: 'copyInsert',
  does: 'an insert of one channel copied to another, or once more to the same; with `lanes` its curves, sways and resting values come with it, unguarded, else its parameters rest at `values`, by their names; a slot that is taken there gets a number',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, edit) {
    const gone = firstWrong([noChannel(song, edit.from), noChannel(song, edit.to)]);
    if (gone) return gone;
    if (!insertIn(song, edit.from, edit.slot))
      return `${channelOf(song, edit.from)!.name} has no insert in the slot “${edit.slot}”.`;
    if (edit.lanes && edit.values) return 'A copy brings its curves, or values to rest at: not both.';
    const { song: framed, copy } = withCopy(song, edit);
    return channelsWrong(framed) ?? valuesWrong(framed, restsOf(edit, copy));
  },
  apply(song, edit) {
    const { from, slot, to } = edit;
    if (!channelOf(song, to) || !insertIn(song, from, slot)) return unchanged(song);
    const { song: framed, copy } = withCopy(song, edit);
    const lanes: { [id: ControlId]: Lane } = {};
    const [there, prefix] = [insertControlId(from, slot, ''), insertControlId(to, copy.slot, '')];
    if (edit.lanes)
      for (const id of controlsOf(song).keys()) {
        const lane = id.startsWith(there) ? song.lanes[id] : undefined;
        if (lane) lanes[prefix + id.slice(there.length)] = { ...lane, parked: false, safe: false };
      }
    for (const [id, v] of Object.entries(restsOf(edit, copy))) {
      const lane = laneOf(framed, id);
      if (lane.rest !== v) lanes[id] = { ...lane, rest: v };
    }
    return {
      song: { ...framed, lanes: { ...song.lanes, ...lanes } },
      inverse: { kind: 'insert', channel: to, remove: copy, add: null },
      changed: Object.keys(lanes),
      refused: [],
    };
  },
  named(song, { from, slot, to }) {
    const one = insertIn(song, from, slot);
    const name = (key: string): string => channelOf(song, key)?.name ?? key;
    return `${one ? insertName(channelOf(song, from)!.inserts, one) : slot} of ${name(from)} copied to ${name(to)}`;
  },
  example(song, [a, b, c, d]) {
    const some = song.channels.filter(({ inserts }) => inserts.length);
    const from = pick(some.length ? some : song.channels, a!);
    const slot = from.inserts.length ? pick(from.inserts, b!).slot : 'none';
    return { kind: 'copyInsert', from: from.key, slot, to: pick(song.channels, c!).key, lanes: d! < 0.7 };
  },
};
