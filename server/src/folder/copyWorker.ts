import { writeFileSync } from 'node:fs';
import { writeWhole } from '@sure-hand/audio-files';
import { unpacked } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: writes a song's document, packed, to a file as open JSON, its revision and name first. */
export default (task: { song: Uint8Array; revision: number; path: string }): Worked<null> => {
  const { name, ...rest } = unpacked(task.song) as Song;
  const text = JSON.stringify({ revision: task.revision, name, ...rest }, null, 1);
  writeWhole(task.path, (to) => writeFileSync(to, text));
  return { ok: true, value: null };
};
