import * as Type from '@sinclair/typebox';
import { CONTROL_KINDS, channelNamed, snapshotWithDefaults, type Snapshot } from '../../song/index.js';
import { SNAPSHOT_SCHEMA } from '../../song/schema.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyValues, pick } from '../examples.js';
import { count, exchange } from '../fields.js';
import { exchangeName, exchangeWrong, exchangedIn, wholeItem, withExchanged } from '../keyed.js';
import { keptWrong } from '../keptChecks.js';

/** A snapshot out, in, or in another's place; `at`, its place among the others, stands in inverses. */
const schema = fieldsOf('snapshot', { ...exchange(Type.Unsafe<Snapshot>(SNAPSHOT_SCHEMA)), ...maybe({ at: count }) });
export type SnapshotEdit = Checked<typeof schema>;

export const snapshot: EditKind<SnapshotEdit> = {
  kind: 'snapshot',
  does: 'one snapshot out, in, or in another’s place: taken, renamed, updated, removed; it writes no lane; `at`, in inverses, is where it stood',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (song, edit) => ({
    ...edit,
    remove: wholeItem(song.snapshots, edit.remove, snapshotWithDefaults),
    add: wholeItem(song.snapshots, edit.add, snapshotWithDefaults),
  }),
  wrong: (song, edit) =>
    exchangeWrong(song, 'snapshots', edit, 'snapshot') ?? keptWrong(withExchanged(song, 'snapshots', edit).song),
  apply: (song, edit) => exchangedIn(song, 'snapshots', edit),
  named: (_song, edit) => exchangeName('Snapshot', edit, 'taken', 'removed'),
  example(song, [a, b, c, d, e, f]) {
    const remove = song.snapshots.length && a! < 0.7 ? pick(song.snapshots, a! / 0.7) : null;
    const key = remove && d! < 0.8 ? remove.key : `state-${Math.floor(99 * b!)}`;
    const values = { ...anyValues(song, [b!, c!, d!], [e!, f!, a!]), ...(e! < 0.2 ? { 'gone/level': -3 } : {}) };
    const kinds = CONTROL_KINDS.filter((_, i) => (d! * 97 * (i + 1)) % 1 < 0.6);
    const filter = f! < 0.5 ? null : Object.fromEntries(Object.keys(values).map((id) => [channelNamed(id), kinds]));
    const add = { key, name: `State ${key}`, note: '', t: 30 * c!, values, filter };
    return { kind: 'snapshot', remove, add: remove && d! > 0.7 ? null : add };
  },
};
