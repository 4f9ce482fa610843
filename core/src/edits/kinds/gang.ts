import * as Type from '@sinclair/typebox';
import { gangsWrong } from '../../groups/index.js';
import { CONTROL_KINDS, GANG_PANS, gangWithDefaults, type Gang } from '../../song/index.js';
import { GANG_SCHEMA } from '../../song/schema.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { count, exchange } from '../fields.js';
import { exchangeName, exchangeWrong, exchangedIn, wholeItem, withExchanged } from '../keyed.js';

/** A gang out, in, or in another's place; `at`, its place among the others, stands in inverses. */
const schema = fieldsOf('gang', { ...exchange(Type.Unsafe<Gang>(GANG_SCHEMA)), ...maybe({ at: count }) });
export type GangEdit = Checked<typeof schema>;

export const gang: EditKind<GangEdit> = {
  kind: 'gang',
  does: 'one gang out, in, or in another’s place; refused where a control would be in two; `at`, in inverses, is where it stood',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (song, edit) => ({
    ...edit,
    remove: wholeItem(song.gangs, edit.remove, gangWithDefaults),
    add: wholeItem(song.gangs, edit.add, gangWithDefaults),
  }),
  wrong: (song, edit) =>
    exchangeWrong(song, 'gangs', edit, 'gang') ?? gangsWrong(withExchanged(song, 'gangs', edit).song),
  apply: (song, edit) => exchangedIn(song, 'gangs', edit),
  named: (_song, edit) => exchangeName('Gang', edit, 'made', 'dissolved'),
  example(song, [a, b, c, d]) {
    const remove = song.gangs.length && a! < 0.7 ? pick(song.gangs, a! / 0.7) : null;
    const channels = [...new Set([pick(song.channels, b!).key, pick(song.channels, c!).key])];
    const key = remove && d! < 0.8 ? remove.key : `gang-${Math.floor(99 * b!)}`;
    const kinds = CONTROL_KINDS.filter((_, i) => (d! * 97 * (i + 1)) % 1 < 0.4);
    const add = { key, name: `Gang ${key}`, channels, kinds, pan: pick(GANG_PANS, c!), modes: d! < 0.3 };
    return { kind: 'gang', remove, add: remove && d! > 0.7 ? null : add };
  },
};
