import { transfer, wrap, type Remote } from 'comlink';
import type { Edit } from '@sure-hand/core/edits';
import type { ControlId, Song } from '@sure-hand/core/song';
import { areLong, sentAhead, takeAhead } from '../hands/editsAhead.js';
import { nextTask } from '../song/nextTask.js';
import type { EditWorker } from './editWorker.js';

/** A thread that has not answered after so long never will: the browser may have ended it without a word. */
const PATIENCE_MS = 20_000;

type Thread = { readonly works: Remote<EditWorker>; readonly lost: Promise<never>; readonly lose: () => void };
/** The thread of this page that works edits out, once one was needed. */
let there: Thread | null = null;

function begun(): Thread {
  const worker = new Worker(new URL('./editWorker.ts', import.meta.url), { type: 'module' });
  let lose: Thread['lose'] = () => undefined;
  const lost = new Promise<never>((_, fail) => {
    lose = () => {
      worker.terminate();
      there = null;
      fail(new Error('The thread that works edits out could not be had.'));
    };
  });
  worker.onerror = lose;
  lost.catch(() => undefined);
  return { works: wrap<EditWorker>(worker), lost, lose };
}

/** Works out in another thread what an edit of long lanes comes to; null for others. Without a thread it is worked out where it is done. */
export function workAhead(song: Song, edit: Edit, controls: readonly ControlId[]): Promise<void> | null {
  if (!areLong(song, controls)) return null;
  const work = async (): Promise<void> => {
    const sent = sentAhead(song, edit, controls);
    const { works, lost, lose } = (there ??= begun());
    const patience = setTimeout(lose, PATIENCE_MS);
    try {
      takeAhead(song, edit, await Promise.race([works.apply(transfer(sent, [sent.buffer])), lost]));
    } finally {
      clearTimeout(patience);
    }
    await nextTask();
  };
  return work().catch(() => undefined);
}
