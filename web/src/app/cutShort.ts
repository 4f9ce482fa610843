import { dropCutShort } from '../song/passJournal.js';
import { cutShortSettled } from '../song/songSlice.js';
import { songSync, store } from './store.js';

/** Keeps the first pass that was cut short, or drops it; does nothing where there is none. */
export function settleCutShort(isKept: boolean): void {
  const { id, cutShort } = store.getState().song;
  const [first] = cutShort;
  if (id === null || !first) return;
  const { key, pass } = first;
  store.dispatch(cutShortSettled(key));
  if (!isKept) return void dropCutShort(id, key);
  songSync.make(pass, key);
  // Its journal goes once the server has it.
  void songSync.flush().then(() => dropCutShort(id, key));
}
