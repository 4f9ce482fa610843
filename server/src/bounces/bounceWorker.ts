import type { MessagePort } from 'node:worker_threads';
import { AudioTrouble, bounceToFile, type BounceOrder, type Bounced } from '@sure-hand/audio-files';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: one bounce. */
export default ({ tell, ...order }: Omit<BounceOrder, 'onProgress'> & { tell: MessagePort }): Worked<Bounced> => {
  try {
    return { ok: true, value: bounceToFile({ ...order, onProgress: (share) => tell.postMessage(share) }) };
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};
