import type { MessagePort } from 'node:worker_threads';
import { AudioTrouble, loudnessOver } from '@sure-hand/audio-files';
import type { Range } from '@sure-hand/core/curve';
import { unpacked } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: the short-term loudness of several states of a song, packed, over one range, one after the other. */
export default ({
  songs,
  folder,
  range,
  tell,
}: {
  songs: Uint8Array;
  folder: string;
  range: Range;
  tell: MessagePort;
}): Worked<number[][]> => {
  try {
    const states = unpacked(songs) as readonly Song[];
    const over = (song: Song, i: number): number[] =>
      loudnessOver(song, folder, range, (share) => tell.postMessage((i + share) / states.length));
    return { ok: true, value: states.map(over) };
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};
