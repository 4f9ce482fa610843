import { writeFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import { AudioTrouble, withWav, writeWav, type WavFile } from '@sure-hand/audio-files';
import { PeakMaker, Resampler, framesAtRate, peakBytes } from '@sure-hand/core/mix';
import type { Worked } from '../jobs/workPool.js';

/** A stem to be taken in: from an uploaded file to one of the song's, at the song's rate, with its peaks. */
export type StemTask = {
  readonly from: string;
  readonly to: string;
  readonly peaksTo: string;
  readonly sampleRate: number;
};
export type TakenStem = { readonly frames: number; readonly channels: number };

/** A worker thread's job: checks every sample of a stem, takes it to the song's rate, makes its peaks. */
export default (task: StemTask & { tell: MessagePort }): Worked<TakenStem> => {
  try {
    return { ok: true, value: withWav(task.from, (wav) => takeStem(wav, task)) };
  } catch (error) {
    if (error instanceof AudioTrouble) return { ok: false, sentence: error.message };
    throw error;
  }
};

function takeStem(wav: WavFile, { to, peaksTo, sampleRate, tell }: StemTask & { tell: MessagePort }): TakenStem {
  const { info } = wav;
  if (!info.frames) throw new AudioTrouble('The WAV file holds no audio.');
  const isAtRate = info.sampleRate === sampleRate;
  const frames = isAtRate ? info.frames : framesAtRate(info.frames, info.sampleRate, sampleRate);
  // Made numbers go into floats: no second rounding, no clipping where the filter overshoots.
  const format = isAtRate ? info.format : 'float32';
  const peaks = new PeakMaker(frames);
  writeWav(to, { format, channels: info.channels, sampleRate, dither: false, most: frames }, (add) => {
    const give = (columns: readonly Float32Array[]): void => {
      const count = columns[0]!.length;
      if (!count) return;
      add(columns, count);
      peaks.add(columns, count);
    };
    const resamplers = isAtRate ? null : wav.columns(0).map(() => new Resampler(info.sampleRate, sampleRate));
    wav.forEachBlock((columns, count, from) => {
      const block = columns.map((column) => column.subarray(0, count));
      if (wav.noSound) throw new AudioTrouble(`The WAV file ${wav.noSound}; write it anew from where it was made.`);
      give(resamplers ? block.map((column, c) => resamplers[c]!.push(column)) : block);
      tell.postMessage((from + count) / info.frames);
    });
    if (resamplers) give(resamplers.map((one) => one.finish(frames)));
  });
  writeFileSync(peaksTo, peakBytes(peaks.finish()));
  return { frames, channels: info.channels };
}
