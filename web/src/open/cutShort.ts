import { dropCutShort, findCutShort } from '../song/passJournal.js';
import { cutShortFound, cutShortSettled } from '../song/songSlice.js';
import { outbox, songSync, store } from '../store/store.js';

/** A journal is known to be left when nobody has written to it for a while; one of a tab just gone is found then. */
const LOOK_AGAIN_MS = 4000;

/** Keeps a pass that was cut short, or drops it: the one with a key, else the first; nothing where there is none. */
export function settleCutShort(isKept: boolean, key?: string): void {
  const { id, cutShort } = store.getState().song;
  const found = cutShort.find((one) => key === undefined || one.key === key);
  if (id === null || !found) return;
  store.dispatch(cutShortSettled(found.key));
  if (!isKept) {
    // Looked for before the server has dropped it, it is still found: that is nothing new either.
    void dropCutShort(id, found.key).then(
      () => store.getState().song.id === id && store.dispatch(cutShortSettled(found.key)),
    );
    return;
  }
  // What was in write falls back, as after every pass: else the next play would write again.
  songSync.makeAll([
    { edit: found.pass, key: found.key },
    ...found.after.map((edit) => ({ edit, key: crypto.randomUUID() })),
  ]);
}

/** Looks for passes that were cut short, now and once more when a tab just gone can be told from one at work. */
export function lookForCutShort(id: number): { look: () => Promise<void>; lookSoon: () => void; end: () => void } {
  let isEnded = false;
  const look = async (): Promise<void> => {
    const { song, id: open, settledCutShort } = store.getState().song;
    if (!song || open !== id || isEnded) return;
    try {
      const found = await findCutShort(song, id, await outbox.keysOf(id));
      if (found.length && store.getState().song.id === id)
        store.dispatch(cutShortFound({ found, since: settledCutShort.length }));
    } catch {
      // The server is away: it is looked again once it is back.
    }
  };
  const timers: ReturnType<typeof setTimeout>[] = [];
  const lookSoon = (): void => void timers.push(setTimeout(() => void look(), LOOK_AGAIN_MS));
  void look();
  lookSoon();
  const end = (): void => {
    isEnded = true;
    for (const timer of timers) clearTimeout(timer);
  };
  return { look, lookSoon, end };
}
