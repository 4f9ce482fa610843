import { expose, transfer } from 'comlink';
import { appliedThere } from '../hands/editsAhead.js';

const worker = {
  /** Applies an edit to what of a song came with it. */
  apply(sent: Uint8Array): Uint8Array {
    const came = appliedThere(sent);
    return transfer(came, [came.buffer]);
  },
};
expose(worker);
export type EditWorker = typeof worker;
