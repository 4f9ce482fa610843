import * as Type from '@sinclair/typebox';
import type { Static, TSchema } from '@sinclair/typebox';
import equal from 'fast-deep-equal';
import { type Note, type Section, type Song } from '../../song/index.js';
import { MARK_SCHEMAS } from '../../song/schema.js';
import { type Checked } from '../../song/schemaParts.js';
import type { MeterMark, TempoMark } from '../../time/index.js';
import { exchanged, unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { exchange } from '../fields.js';

/** What stands on the song's time line besides its clips and curves, by the list it belongs to. */
export type Marks = {
  readonly sections: Section;
  readonly notes: Note;
  readonly tempo: TempoMark;
  readonly meter: MeterMark;
};
export type MarkList = keyof Marks;
const LISTS: readonly MarkList[] = ['sections', 'notes', 'tempo', 'meter'];

const inList = <L extends MarkList, S extends TSchema>(list: L, mark: S) =>
  fieldsOf('mark', { list: Type.Literal(list), ...exchange(mark) });
const byList = {
  sections: inList('sections', MARK_SCHEMAS.sections),
  notes: inList('notes', MARK_SCHEMAS.notes),
  tempo: inList('tempo', MARK_SCHEMAS.tempo),
  meter: inList('meter', MARK_SCHEMAS.meter),
};
/** One mark taken out, put in, or put in the place of another: so two tabs can change different ones at once. */
const schema = Type.Unsafe<Static<(typeof byList)[MarkList]>>({
  oneOf: Object.values(byList),
  discriminator: { propertyName: 'list' },
  required: ['list'],
});
export type MarkEdit = Checked<typeof schema>;

const NAMES: Record<MarkList, string> = { sections: 'section', notes: 'note', tempo: 'tempo', meter: 'meter' };
const MOST_WORDS = 24;

/** The list and its items belong together by the edit's type, which a union cannot say of both at once. */
type AnyMark = { readonly t: number };
const marksOf = (song: Song, list: MarkList): readonly AnyMark[] => song[list];

function wordsOf(edit: MarkEdit): string {
  const one = edit.add ?? edit.remove;
  if (!one) return '';
  if ('name' in one) return one.name;
  if ('text' in one) return one.text;
  return 'bpm' in one ? String(one.bpm) : `${one.beats}/${one.unit}`;
}

export const mark: EditKind<MarkEdit> = {
  kind: 'mark',
  does: 'one mark out, in, or in another’s place',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  wrong(song, { list, remove, add }) {
    const name = NAMES[list];
    const items = marksOf(song, list);
    if (!remove && !add) return `The ${name} edit puts nothing in and takes nothing out.`;
    if (remove && !items.some((item) => equal(item, remove)))
      return `The ${name} at ${remove.t} s has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    if (add && add.t > song.length)
      return `The ${name} would stand at ${add.t} s, after the song’s end at ${song.length} s.`;
    const others = items.filter((item) => !(remove && equal(item, remove)));
    if (list === 'notes') return null;
    if (add && others.some((item) => item.t === add.t))
      return `There is a ${name} at ${add.t} s already; move or change that one.`;
    if (list === 'sections') return null;
    const left = add ? [...others, add] : others;
    // A document's first one may stand later, and counts from the start all the same: then it may stay so.
    const isLed = items.some((item) => item.t === 0) ? left.some((item) => item.t === 0) : left.length > 0;
    return isLed ? null : `A song needs a ${name} at its very start; change that one instead.`;
  },
  apply(song, edit) {
    const list = exchanged<AnyMark>(marksOf(song, edit.list), edit.remove, edit.add);
    if (!list) return unchanged(song);
    const inverse = { ...edit, remove: edit.add, add: edit.remove } as MarkEdit;
    return { ...unchanged(song), song: { ...song, [edit.list]: list }, inverse };
  },
  named(_song, edit) {
    const { list, remove, add } = edit;
    const words = wordsOf(edit);
    const short = words.length > MOST_WORDS ? `${words.slice(0, MOST_WORDS)}…` : words;
    const act = !remove ? ' added' : !add ? ' removed' : add.t === remove.t ? '' : ' moved';
    return `${NAMES[list][0]!.toUpperCase()}${NAMES[list].slice(1)} ${short}${act}`;
  },
  example(song, [a, b, c, d]) {
    const list = pick(LISTS, a!);
    const t = Math.round(b! * song.length * 8) / 8;
    const made: Marks = {
      sections: { t, name: `Part ${Math.round(c! * 99)}` },
      notes: { t, text: `Note ${Math.round(c! * 99)}`, channel: song.channels[0]!.key },
      tempo: { t, bpm: 60 + Math.round(c! * 100) },
      meter: { t, beats: 2 + Math.round(c! * 5), unit: 4 },
    };
    const there = song[list];
    const remove = d! < 0.6 && there.length ? pick<AnyMark>(there, d! / 0.6) : null;
    const add = c! < 0.7 || !remove ? made[list] : null;
    return { kind: 'mark', list, remove, add } as MarkEdit;
  },
};
