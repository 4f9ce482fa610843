import equal from 'fast-deep-equal';
import type { Song } from '../song/index.js';
import { unchanged } from './applied.js';
import type { Applied } from './editKind.js';
import type { Edit } from './registry.js';

/** The lists of a song whose items have a key and a name, and stand in an order of their own. */
export type KeyedList = 'gangs' | 'snapshots' | 'guardSets';

/** One item out, in, or in another's place; `at`, in inverses, is where it stood. */
type Exchange<T> = { readonly remove: T | null; readonly add: T | null; readonly at?: number };
type Item = { readonly key: string; readonly name: string };

/** The list is the one that its items belong to, which a union of lists cannot say of both at once. */
const itemsOf = (song: Song, list: KeyedList): readonly Item[] => song[list];

/** The song with one of its lists as an exchange makes it, and the place of what went, or comes. */
export function withExchanged(
  song: Song,
  list: KeyedList,
  { remove, add, at }: Exchange<Item>,
): { readonly song: Song; readonly at: number } {
  const items = itemsOf(song, list);
  const was = remove ? items.findIndex((one) => equal(one, remove)) : items.length;
  const rest = items.filter((_, i) => !remove || i !== was);
  const place = at ?? was;
  const next = add ? [...rest.slice(0, place), add, ...rest.slice(place)] : rest;
  return { song: { ...song, [list]: next }, at: was };
}

/** The sentence for an exchange that can't be, `noun` being what an item is called; null where it can. */
export function exchangeWrong(
  song: Song,
  list: KeyedList,
  { remove, add }: Exchange<Item>,
  noun: string,
): string | null {
  if (!remove && !add) return `The ${noun} edit puts nothing in and takes nothing out.`;
  if (remove && !itemsOf(song, list).some((one) => equal(one, remove)))
    return `The ${noun} ${remove.name} has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
  return null;
}

/** Makes an exchange; where what is to go is not there any more, or stays as it is, nothing is done. */
export function exchangedIn<E extends Exchange<Item> & { readonly kind: Edit['kind'] }>(
  song: Song,
  list: KeyedList,
  edit: E,
): Applied {
  const { remove, add } = edit;
  if (remove && !itemsOf(song, list).some((one) => equal(one, remove))) return unchanged(song);
  if (equal(remove, add)) return unchanged(song);
  const { song: next, at } = withExchanged(song, list, edit);
  const inverse = { kind: edit.kind, remove: add, add: remove, at } as unknown as Edit;
  return { ...unchanged(song), song: next, inverse };
}

/** What an exchange is called: `Gang Harmonies made`. */
export const exchangeName = (noun: string, { remove, add }: Exchange<Item>, made: string, gone: string): string =>
  `${noun} ${(add ?? remove)!.name} ${!remove ? made : !add ? gone : 'changed'}`;

/** An item as it is meant: what is not said of one that is there is as it stands. */
export const wholeItem = <T extends Item>(
  items: readonly T[],
  one: T | null,
  withDefaults: (sparse: T) => T,
): T | null => one && withDefaults({ ...items.find(({ key }) => key === one.key), ...one });
