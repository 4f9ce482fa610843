import { nanoid } from '@reduxjs/toolkit';
import { packed, unpacked } from '@sure-hand/core/formats';
import { del, delMany, get, keys, set } from 'idb-keyval';

// What a tab must not lose is kept in the browser under the tab's own name, as long as the server has not got it. A tab
// that is gone is told by its lock, which the browser frees whatever became of it.

const TAB = nanoid();
const lockOf = (tab: string): string => `sure-hand/tab/${tab}`;
let holds: Promise<void> | null = null;

/** Says that this tab is here, for as long as it is. */
function beHere(): Promise<void> {
  holds ??= new Promise((held) => {
    if (!('locks' in navigator)) return held();
    void navigator.locks.request(lockOf(TAB), () => {
      held();
      return new Promise(() => undefined);
    });
  });
  return holds;
}

async function isGone(tab: string): Promise<boolean> {
  if (tab === TAB || !('locks' in navigator)) return false;
  return navigator.locks.request(lockOf(tab), { ifAvailable: true }, (lock) => lock !== null);
}

/** Where something lies: what it is, of which song, of which tab, and which of several it is. */
type Place = readonly [kind: string, songId: number, tab: string, name: string];

/** The place that a key of the browser's small store stands for; null where it is of something else. */
function placeOf(key: string): Place | null {
  if (!key.startsWith('[')) return null;
  try {
    const place = JSON.parse(key) as unknown;
    return Array.isArray(place) && place.length === 4 ? (place as unknown as Place) : null;
  } catch {
    return null;
  }
}

/** Packed bytes as the browser’s small store keeps them, which knows nothing but text. */
function asText(bytes: Uint8Array): string {
  let text = '';
  for (let at = 0; at < bytes.length; at += 8192) text += String.fromCharCode(...bytes.subarray(at, at + 8192));
  return btoa(text);
}

/** Reads {@link asText} back; or JSON, which an earlier version of the program kept. */
const fromText = (text: string): unknown =>
  text.startsWith('{') ? JSON.parse(text) : Uint8Array.from(atob(text), (letter) => letter.charCodeAt(0));

/** What a tab that is gone has left. */
export type Left<T> = { readonly songId: number; readonly name: string; readonly thing: T };

/** Things of one kind that this tab keeps of a song until they are no longer needed. */
export class TabShelf<T> {
  constructor(readonly kind: string) {}

  async put(songId: number, name: string, thing: T): Promise<void> {
    await beHere();
    await set([this.kind, songId, TAB, name], packed(thing));
  }

  /**
   * Keeps something before the next line runs: what a page keeps as it is being left is not kept otherwise. Whether there was
   * room for it.
   */
  putNow(songId: number, name: string, thing: T): boolean {
    try {
      localStorage.setItem(JSON.stringify([this.kind, songId, TAB, name]), asText(packed(thing)));
      return true;
    } catch {
      return false;
    }
  }

  async drop(songId: number, name: string): Promise<void> {
    localStorage.removeItem(JSON.stringify([this.kind, songId, TAB, name]));
    await del([this.kind, songId, TAB, name]);
  }

  /** Drops everything of this tab whose name begins so. */
  async dropAll(songId: number, beginning: string): Promise<void> {
    const mine = (await this.#places(songId)).filter(([, , tab, name]) => tab === TAB && name.startsWith(beginning));
    await delMany(mine as unknown as IDBValidKey[]);
  }

  /** What every tab keeps of a song, this one's and those of others, whoever is to see to it. */
  async all(songId: number): Promise<T[]> {
    await this.#settleLate(songId);
    const things = await Promise.all((await this.#places(songId)).map((place) => this.#get(place)));
    return things.flatMap((thing) => (thing === undefined ? [] : [thing]));
  }

  /**
   * Takes what tabs that are gone have left of a song, or of all (null), in the order of their names. It is this tab's to
   * see to from now on.
   */
  async takeLeft(songId: number | null): Promise<Left<T>[]> {
    await this.#settleLate(songId);
    const left: Left<T>[] = [];
    for (const place of await this.#places(songId)) {
      if (!(await isGone(place[2]))) continue;
      const thing = await this.#get(place);
      const [, song, tab, name] = place;
      if (thing !== undefined) {
        // Under a name that says whose it was: what two tabs have left stands side by side.
        const mine = name.includes('@') ? name : `${name}@${tab}`;
        left.push({ songId: song, name: mine, thing });
        await this.put(song, mine, thing);
      }
      await del(place as unknown as IDBValidKey);
    }
    return left.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  /** What tabs kept in their last moment is put beside all the rest. */
  async #settleLate(songId: number | null): Promise<void> {
    for (const key of Object.keys(localStorage)) {
      const place = placeOf(key);
      if (!place || place[0] !== this.kind || (songId !== null && place[1] !== songId)) continue;
      const text = localStorage.getItem(key);
      if (place[2] === TAB || text === null) continue;
      await set(place as unknown as IDBValidKey, fromText(text));
      localStorage.removeItem(key);
    }
  }

  async #get(place: Place): Promise<T | undefined> {
    const kept = await get<unknown>(place as unknown as IDBValidKey);
    // An earlier version of the program kept things as they were.
    return (kept instanceof Uint8Array ? unpacked(kept) : kept) as T | undefined;
  }

  async #places(songId: number | null): Promise<Place[]> {
    const all = await keys();
    return all.filter(
      (key): key is never => Array.isArray(key) && key[0] === this.kind && (songId === null || key[1] === songId),
    ) as unknown as Place[];
  }
}
