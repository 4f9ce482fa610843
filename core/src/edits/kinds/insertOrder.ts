import * as Type from '@sinclair/typebox';
import { channelOf, type Channel, type Insert } from '../../song/index.js';
import type { Checked } from '../../song/schemaParts.js';
import { unchanged, withChannel } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel } from '../fields.js';
import { noChannel } from '../laneChecks.js';

/** The order in which a channel's inserts come one after the other, by their slots. */
const schema = fieldsOf('insertOrder', { channel, slots: Type.Array(Type.String({ maxLength: 24 }), { maxItems: 8 }) });
export type InsertOrderEdit = Checked<typeof schema>;

const slotsOf = ({ inserts }: Channel): string[] => inserts.map(({ slot }) => slot);
/** The inserts by an order of their slots; null where that is not just theirs. */
function ordered({ inserts }: Channel, slots: readonly string[]): readonly Insert[] | null {
  const found = slots.flatMap((slot) => inserts.find((one) => one.slot === slot) ?? []);
  return new Set(slots).size === inserts.length && found.length === inserts.length && slots.length === inserts.length
    ? found
    : null;
}

export const insertOrder: EditKind<InsertOrderEdit> = {
  kind: 'insertOrder',
  does: 'the order of a channel’s inserts, every one of its slots once; their curves stay',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong(song, edit) {
    const gone = noChannel(song, edit.channel);
    if (gone) return gone;
    const one = channelOf(song, edit.channel)!;
    if (ordered(one, edit.slots)) return null;
    const has = slotsOf(one);
    return `The order names ${edit.slots.map((slot) => `“${slot}”`).join(', ') || 'nothing'}; ${one.name} has ${has.length ? has.map((slot) => `“${slot}”`).join(', ') : 'no inserts'}. Name each of them once.`;
  },
  apply(song, edit) {
    const one = channelOf(song, edit.channel);
    const inserts = one && ordered(one, edit.slots);
    if (!one || !inserts || inserts.every((insert, i) => insert === one.inserts[i])) return unchanged(song);
    const inverse = { kind: 'insertOrder', channel: edit.channel, slots: slotsOf(one) } as const;
    return { ...unchanged(song), song: withChannel(song, one, { inserts }), inverse };
  },
  named: (song, edit) => `Order of the inserts of ${channelOf(song, edit.channel)?.name ?? edit.channel}`,
  example(song, [a, b]) {
    const some = song.channels.filter(({ inserts }) => inserts.length > 1);
    const one = pick(some.length ? some : song.channels, a!);
    const slots = slotsOf(one);
    const turn = Math.floor(b! * slots.length);
    return { kind: 'insertOrder', channel: one.key, slots: [...slots.slice(turn), ...slots.slice(0, turn)] };
  },
};
