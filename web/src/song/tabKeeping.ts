import { del, delMany, get, keys, set } from 'idb-keyval';

// What a tab must not lose is kept in the browser under the tab's own name, as long as the server has not got it. A tab
// that is gone is told by its lock, which the browser frees whatever became of it.

const TAB = crypto.randomUUID();
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

/** Things of one kind that this tab keeps of a song until they are no longer needed. */
export class TabShelf<T> {
  constructor(readonly kind: string) {}

  async put(songId: number, name: string, thing: T): Promise<void> {
    await beHere();
    await set([this.kind, songId, TAB, name], thing);
  }

  async drop(songId: number, name: string): Promise<void> {
    await del([this.kind, songId, TAB, name]);
  }

  /** Drops everything of this tab whose name begins so. */
  async dropAll(songId: number, beginning: string): Promise<void> {
    const mine = (await this.#places(songId)).filter(([, , tab, name]) => tab === TAB && name.startsWith(beginning));
    await delMany(mine as unknown as IDBValidKey[]);
  }

  /** Takes what tabs that are gone have left, in the order of their names. It is this tab's to see to from now on. */
  async takeLeft(songId: number): Promise<{ readonly name: string; readonly thing: T }[]> {
    const left: { name: string; thing: T }[] = [];
    for (const place of await this.#places(songId)) {
      if (!(await isGone(place[2]))) continue;
      const thing = await get<T>(place as unknown as IDBValidKey);
      if (thing !== undefined) {
        left.push({ name: place[3], thing });
        await this.put(songId, place[3], thing);
      }
      await del(place as unknown as IDBValidKey);
    }
    return left.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  async #places(songId: number): Promise<Place[]> {
    const all = await keys();
    return all.filter(
      (key): key is never => Array.isArray(key) && key[0] === this.kind && key[1] === songId,
    ) as unknown as Place[];
  }
}
