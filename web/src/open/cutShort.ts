import { dropCutShort } from '../song/passJournal.js';
import { cutShortSettled } from '../song/songSlice.js';
import { songSync, store } from '../store/store.js';

/** Keeps a pass that was cut short, or drops it: the one with a key, else the first; nothing where there is none. */
export function settleCutShort(isKept: boolean, key?: string): void {
  const { id, cutShort } = store.getState().song;
  const found = cutShort.find((one) => key === undefined || one.key === key);
  if (id === null || !found) return;
  store.dispatch(cutShortSettled(found.key));
  if (!isKept) return void dropCutShort(id, found.key);
  // What was in write falls back, as after every pass: else the next play would write again.
  songSync.makeAll([
    { edit: found.pass, key: found.key },
    ...found.after.map((edit) => ({ edit, key: crypto.randomUUID() })),
  ]);
}
