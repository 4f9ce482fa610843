import { AudioTrouble, withWav } from '@sure-hand/audio-files';
import type { SampleFormat } from '@sure-hand/core/formats';
import { Programme, type LoudnessReport } from '@sure-hand/core/loudness';
import type { Worked } from '../jobs/workPool.js';

/** What a finished bounce is found to be. */
export type Measured = { readonly seconds: number; readonly format: SampleFormat; readonly loudness: LoudnessReport };

/** A worker thread's job: measures one WAV file. */
export default ({ path }: { path: string }): Worked<Measured> => {
  try {
    return withWav(path, (wav) => {
      const { sampleRate, frames, format } = wav.info;
      const programme = new Programme(sampleRate);
      wav.forEachBlock((columns, count) => programme.add(columns[0]!, columns.at(-1)!, count));
      return { ok: true, value: { seconds: frames / sampleRate, format, loudness: programme.report() } };
    });
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};
