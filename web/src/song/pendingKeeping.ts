import { createListenerMiddleware } from '@reduxjs/toolkit';
import type { PendingEdit, SongState } from './songSlice.js';
import { TabShelf } from './tabKeeping.js';

type Seen = { readonly song: SongState };
const shelf = new TabShelf<readonly PendingEdit[]>('pending');

/** Keeps edits that the server has not got in the browser, so that they outlive the tab. */
export const pendingKeeping = createListenerMiddleware();
pendingKeeping.startListening({
  predicate: (_action, now, before) => (now as Seen).song.pending !== (before as Seen).song.pending,
  effect: async (_action, api) => {
    const { id, pending } = (api.getState() as Seen).song;
    if (id === null) return;
    try {
      await (pending.length ? shelf.put(id, 'edits', pending) : shelf.drop(id, 'edits'));
    } catch {
      // A browser that keeps nothing still sends everything.
    }
  },
});

/** Edits of tabs that went away before the server had them, in the order in which they were made. */
export async function leftPending(songId: number): Promise<readonly PendingEdit[]> {
  try {
    return (await shelf.takeLeft(songId)).flatMap(({ thing }) => thing);
  } catch {
    return [];
  }
}
