import { transfer, wrap, type Remote } from 'comlink';
import type { Edit } from '@sure-hand/core/edits';
import type { ControlId, Song } from '@sure-hand/core/song';
import { areLong, sentAhead, takeAhead } from '../hands/editsAhead.js';
import type { EditWorker } from './editWorker.js';

/** The thread of this page that works edits out, once one was needed. */
let there: Remote<EditWorker> | null = null;
let lost: Promise<never>;

function thread(): Remote<EditWorker> {
  if (there) return there;
  const worker = new Worker(new URL('./editWorker.ts', import.meta.url), { type: 'module' });
  lost = new Promise((_, fail) => {
    worker.onerror = () => {
      there = null;
      fail(new Error('The thread that works edits out could not be had.'));
    };
  });
  lost.catch(() => undefined);
  there = wrap<EditWorker>(worker);
  return there;
}

/** Works out in another thread what an edit of long lanes comes to; null for others. Without a thread it is worked out where it is done. */
export function workAhead(song: Song, edit: Edit, controls: readonly ControlId[]): Promise<void> | null {
  if (!areLong(song, controls)) return null;
  const work = async (): Promise<void> => {
    const sent = sentAhead(song, edit, controls);
    const asked = thread().apply(transfer(sent, [sent.buffer]));
    takeAhead(song, edit, await Promise.race([asked, lost]));
  };
  return work().catch(() => undefined);
}
