import { withWav } from '@sure-hand/audio-files';
import { PeakMaker, peakBytes } from '@sure-hand/core/mix';

/** A worker thread's job: the peaks of one WAV file. */
export default (path: string): Uint8Array =>
  withWav(path, (wav) => {
    const maker = new PeakMaker(wav.info.frames);
    wav.forEachBlock((columns, frames) => maker.add(columns, frames));
    return peakBytes(maker.finish());
  });
