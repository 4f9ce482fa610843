import { readFileSync } from 'node:fs';
import { parseSong } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: reads a song document from its file, or says what is wrong with it. */
export default ({ path }: { path: string }): Worked<Song> => parseSong(readFileSync(path, 'utf8'));
