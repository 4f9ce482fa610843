import equal from 'fast-deep-equal';
import * as Type from '@sinclair/typebox';
import { EFFECTS } from '../../effects/index.js';
import {
  MOST_INSERTS,
  channelOf,
  controlsOf,
  insertControlId,
  insertName,
  insertWithDefaults,
  type Channel,
  type ControlId,
  type Insert,
  type Song,
} from '../../song/index.js';
import { INSERT_SCHEMA } from '../../song/schema.js';
import { maybe, orNull, type Checked } from '../../song/schemaParts.js';
import { guardsOf, reframed, unchanged, withChannel } from '../applied.js';
import { channelsWrong } from '../channelChecks.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { channel, count, lanes } from '../fields.js';
import { lanesWrong, noChannel, wholeLanes } from '../laneChecks.js';

const oneInsert = Type.Unsafe<Insert>(INSERT_SCHEMA);
/** An insert, and its place among those of its channel. */
const placed = Type.Intersect([oneInsert, Type.Object(maybe({ at: count }))]);
/**
 * An insert of a channel out, in, or another in its place (page 8). `at`: where it comes among the others; where it is not said, in the
 * place of the one that goes, or last. `lanes`, in inverses, are what its controls had.
 */
const schema = fieldsOf('insert', {
  channel,
  remove: orNull(oneInsert),
  add: Type.Unsafe<(Insert & { readonly at?: number }) | null>(orNull(placed)),
  ...maybe({ lanes }),
});
export type InsertEdit = Checked<typeof schema>;

const without = (add: NonNullable<InsertEdit['add']>): Insert => {
  const { at: _at, ...insert } = add;
  return insert;
};

/** The channel's insert that an edit takes out; undefined where it is not as it says any more. */
const taken = ({ inserts }: Channel, remove: Insert | null): Insert | undefined =>
  remove ? inserts.find((one) => equal(one, remove)) : undefined;

/** The song with the inserts as they will be, its lanes not yet; the place of the one that went. */
function withFrame(
  song: Song,
  { channel: key, remove, add }: InsertEdit,
): { readonly song: Song; readonly at: number } {
  const one = channelOf(song, key)!;
  const gone = taken(one, remove);
  const was = gone ? one.inserts.indexOf(gone) : one.inserts.length;
  const rest = one.inserts.filter((insert) => insert !== gone);
  const place = add?.at ?? was;
  const inserts = add ? [...rest.slice(0, place), without(add), ...rest.slice(place)] : rest;
  return { song: withChannel(song, one, { inserts }), at: was };
}

/** The controls that an insert has, or had: those of its slot. */
const controlsIn = (song: Song, key: string, { slot }: Insert): ControlId[] =>
  [...controlsOf(song).keys()].filter((id) => id.startsWith(insertControlId(key, slot, '')));

export const insert: EditKind<InsertEdit> = {
  kind: 'insert',
  does: 'one insert of a channel out, in, or another in its place, which keeps its curves where the effect is the same; a loop of keys is refused by name, the whole where a lane that would go is guarded; `lanes`, in inverses, are what it had',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete(song, edit) {
    const { remove, add } = edit;
    const at = add?.at;
    const whole: InsertEdit = {
      ...edit,
      remove: remove && insertWithDefaults(remove),
      add: add && { ...insertWithDefaults(without(add)), ...(at === undefined ? {} : { at }) },
    };
    if (!edit.lanes || !channelOf(song, edit.channel)) return whole;
    return { ...whole, lanes: wholeLanes(withFrame(song, whole).song, edit.lanes) };
  },
  wrong(song, edit) {
    const gone = noChannel(song, edit.channel);
    if (gone) return gone;
    const one = channelOf(song, edit.channel)!;
    const { remove, add } = edit;
    if (!remove && !add) return 'The insert edit puts nothing in and takes nothing out.';
    if (remove && !taken(one, remove))
      return `The insert “${remove.slot}” of ${one.name} has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    const framed = withFrame(song, edit).song;
    return channelsWrong(framed) ?? lanesWrong(framed, edit.lanes ?? {});
  },
  apply(song, edit) {
    const { channel: key, remove, add } = edit;
    const one = channelOf(song, key);
    if (!one || (remove && !taken(one, remove))) return unchanged(song);
    const { song: framed, at } = withFrame(song, edit);
    if (equal(channelOf(framed, key)!.inserts, one.inserts)) return unchanged(song);
    // With the same effect in the same slot the curves stay: only its settings are other.
    const stays = remove && add && remove.slot === add.slot && remove.effect === add.effect;
    const goes = remove && !stays ? controlsIn(song, key, remove) : [];
    const refused = guardsOf(song, goes);
    if (refused.length) return unchanged(song, refused);
    const { song: after, changed, had } = reframed(song, framed, { goes, back: edit.lanes });
    const inverse = {
      kind: 'insert',
      channel: key,
      remove: add && without(add),
      add: remove && { ...remove, at },
    } as const;
    return { song: after, inverse: { ...inverse, ...had }, changed, refused: [] };
  },
  named(song, { channel: key, remove, add }) {
    const one = channelOf(song, key);
    const act = !remove ? 'added' : !add ? 'removed' : 'changed';
    const what = remove ?? without(add!);
    const inserts = one?.inserts ?? [];
    const at = add?.at ?? inserts.length;
    // One that comes has its number by where it will be.
    const among = inserts.some(({ slot }) => slot === what.slot)
      ? inserts
      : [...inserts.slice(0, at), what, ...inserts.slice(at)];
    return `${insertName(among, what)} of ${one?.name ?? key} ${act}`;
  },
  example(song, [a, b, c, d, e]) {
    const { key, inserts } = pick(song.channels, a!);
    const remove = inserts.length && b! < 0.6 ? pick(inserts, b! / 0.6) : null;
    const effect = pick([...EFFECTS.keys()], c!);
    const slot = remove && d! < 0.5 ? remove.slot : `s${Math.floor(6 * d!)}`;
    const add = insertWithDefaults({ slot, effect: remove && e! < 0.3 ? remove.effect : effect });
    return {
      kind: 'insert',
      channel: key,
      remove,
      add: remove && e! > 0.7 ? null : { ...add, at: Math.floor(e! * (MOST_INSERTS - 1)) },
    };
  },
};
