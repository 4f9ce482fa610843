import * as Type from '@sinclair/typebox';
import { CONTROL_KINDS, guardSetWithDefaults, type GuardSet } from '../../song/index.js';
import { GUARD_SET_SCHEMA } from '../../song/schema.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { count, exchange } from '../fields.js';
import { exchangeName, exchangeWrong, exchangedIn, wholeItem, withExchanged } from '../keyed.js';
import { keptWrong } from '../keptChecks.js';

/** A set of guards out, in, or in another's place; `at`, its place among the others, stands in inverses. */
const schema = fieldsOf('guardSet', { ...exchange(Type.Unsafe<GuardSet>(GUARD_SET_SCHEMA)), ...maybe({ at: count }) });
export type GuardSetEdit = Checked<typeof schema>;

export const guardSet: EditKind<GuardSetEdit> = {
  kind: 'guardSet',
  does: 'one set of guards kept under a name, out, in, or in another’s place; it guards nothing until `states` brings it back',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (song, edit) => ({
    ...edit,
    remove: wholeItem(song.guardSets, edit.remove, guardSetWithDefaults),
    add: wholeItem(song.guardSets, edit.add, guardSetWithDefaults),
  }),
  wrong: (song, edit) =>
    exchangeWrong(song, 'guardSets', edit, 'set of guards') ?? keptWrong(withExchanged(song, 'guardSets', edit).song),
  apply: (song, edit) => exchangedIn(song, 'guardSets', edit),
  named: (_song, edit) => exchangeName('Set of guards', edit, 'kept', 'removed'),
  example(song, [a, b, c, d]) {
    const remove = song.guardSets.length && a! < 0.7 ? pick(song.guardSets, a! / 0.7) : null;
    const key = remove && d! < 0.8 ? remove.key : `set-${Math.floor(99 * b!)}`;
    const safe = CONTROL_KINDS.filter((_, i) => (d! * 97 * (i + 1)) % 1 < 0.4);
    const channels = { [pick(song.channels, c!).key]: { safe, parked: b! < 0.2 } };
    const add = { key, name: `Set ${key}`, scope: d! < 0.5 ? null : safe, channels, controls: {} };
    return { kind: 'guardSet', remove, add: remove && d! > 0.7 ? null : add };
  },
};
