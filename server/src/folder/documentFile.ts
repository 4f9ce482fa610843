import { writeFileSync } from 'node:fs';
import { writeWhole } from '@sure-hand/audio-files';
import type { Song } from '@sure-hand/core/song';

/** Writes a song's document to a file as open JSON, its revision and name first: whole or not at all. */
export function writeDocument({ name, ...rest }: Song, revision: number, path: string): void {
  const text = JSON.stringify({ revision, name, ...rest }, null, 1);
  writeWhole(path, (to) => writeFileSync(to, text));
}
