import { readFileSync } from 'node:fs';
import { packed, parseSong } from '@sure-hand/core/formats';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: reads a song document from its file, packed for the way back, or says what is wrong with it. */
export default ({ path }: { path: string }): Worked<Uint8Array> => {
  const read = parseSong(readFileSync(path, 'utf8'));
  return read.ok ? { ok: true, value: packed(read.value) } : read;
};
