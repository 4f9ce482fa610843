import { AudioTrouble, withWav } from '@sure-hand/audio-files';
import { PeakMaker, peakBytes } from '@sure-hand/core/mix';
import type { Worked } from '../jobs/workPool.js';

/** A worker thread's job: the peaks of one WAV file, as bytes. */
export default ({ path }: { path: string }): Worked<Uint8Array> => {
  try {
    return withWav(path, (wav) => {
      const maker = new PeakMaker(wav.info.frames);
      wav.forEachBlock((columns, frames) => maker.add(columns, frames));
      return { ok: true, value: peakBytes(maker.finish()) };
    });
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};
