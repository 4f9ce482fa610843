import type { MessagePort } from 'node:worker_threads';
import { AudioTrouble, bounceToFile, type BounceOrder, type Bounced } from '@sure-hand/audio-files';
import { unpacked } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Worked } from '../jobs/workPool.js';

/** What is to be bounced, and how; the song is packed. */
export type BounceTask = Omit<BounceOrder, 'onProgress' | 'song'> & { readonly song: Uint8Array };

/** A worker thread's job: one bounce. */
export default ({ tell, song, ...order }: BounceTask & { tell: MessagePort }): Worked<Bounced> => {
  try {
    const onProgress = (share: number): void => tell.postMessage(share);
    return { ok: true, value: bounceToFile({ ...order, song: unpacked(song) as Song, onProgress }) };
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};
