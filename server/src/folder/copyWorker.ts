import { unpacked } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Worked } from '../jobs/workPool.js';
import { writeDocument } from './documentFile.js';

/** A worker thread's job: writes a song's document, packed, beside its audio. */
export default (task: { song: Uint8Array; revision: number; path: string }): Worked<null> => {
  writeDocument(unpacked(task.song) as Song, task.revision, task.path);
  return { ok: true, value: null };
};
