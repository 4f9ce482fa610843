import equal from 'fast-deep-equal';
import * as Type from '@sinclair/typebox';
import { gangsWrong } from '../../groups/index.js';
import { CONTROL_KINDS, GANG_PANS, gangWithDefaults, type Gang, type Song } from '../../song/index.js';
import { GANG_SCHEMA } from '../../song/schema.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { count, exchange } from '../fields.js';

/** A gang out, in, or in another's place; `at`, its place among the others, stands in inverses. */
const schema = fieldsOf('gang', { ...exchange(Type.Unsafe<Gang>(GANG_SCHEMA)), ...maybe({ at: count }) });
export type GangEdit = Checked<typeof schema>;

/** The song with its gangs as they will be, and the place of the one that went, or that comes. */
function exchanged(song: Song, { remove, add, at }: GangEdit): { readonly song: Song; readonly at: number } {
  const was = remove ? song.gangs.findIndex((one) => equal(one, remove)) : song.gangs.length;
  const rest = song.gangs.filter((_, i) => !remove || i !== was);
  const place = at ?? was;
  const gangs = add ? [...rest.slice(0, place), add, ...rest.slice(place)] : rest;
  return { song: { ...song, gangs }, at: was };
}

/** A gang as it is meant: what is not said of one that is there is as it stands. */
const complete = (song: Song, one: Gang | null): Gang | null =>
  one && gangWithDefaults({ ...song.gangs.find(({ key }) => key === one.key), ...one });

export const gang: EditKind<GangEdit> = {
  kind: 'gang',
  does: 'one gang out, in, or in another’s place; refused where a control would be in two; `at`, in inverses, is where it stood',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (song, edit) => ({ ...edit, remove: complete(song, edit.remove), add: complete(song, edit.add) }),
  wrong(song, edit) {
    if (!edit.remove && !edit.add) return 'The gang edit puts nothing in and takes nothing out.';
    if (edit.remove && !song.gangs.some((one) => equal(one, edit.remove)))
      return `The gang ${edit.remove.name} has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    return gangsWrong(exchanged(song, edit).song);
  },
  apply(song, edit) {
    const { remove, add } = edit;
    if (remove && !song.gangs.some((one) => equal(one, remove))) return unchanged(song);
    if (equal(remove, add)) return unchanged(song);
    const { song: next, at } = exchanged(song, edit);
    return { ...unchanged(song), song: next, inverse: { kind: 'gang', remove: add, add: remove, at } };
  },
  named: (_song, { remove, add }) =>
    `Gang ${(add ?? remove)!.name}${!remove ? ' made' : !add ? ' dissolved' : ' changed'}`,
  example(song, [a, b, c, d]) {
    const remove = song.gangs.length && a! < 0.7 ? pick(song.gangs, a! / 0.7) : null;
    const channels = [...new Set([pick(song.channels, b!).key, pick(song.channels, c!).key])];
    const key = remove && d! < 0.8 ? remove.key : `gang-${Math.floor(99 * b!)}`;
    const kinds = CONTROL_KINDS.filter((_, i) => (d! * 97 * (i + 1)) % 1 < 0.4);
    const add = { key, name: `Gang ${key}`, channels, kinds, pan: pick(GANG_PANS, c!), modes: d! < 0.3 };
    return { kind: 'gang', remove, add: remove && d! > 0.7 ? null : add };
  },
};
