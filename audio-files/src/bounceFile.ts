import { bounce, framesOf, type PlanOptions } from '@sure-hand/core/mix';
import { Programme, type LoudnessReport } from '@sure-hand/core/loudness';
import type { SampleFormat } from '@sure-hand/core/formats';
import type { Range } from '@sure-hand/core/curve';
import type { Song } from '@sure-hand/core/song';
import { withMix } from './songMix.js';
import { writeWav } from './wavWriter.js';

/** What is to be bounced to which file. `plan`: what of the song is heard; solo is ignored unless it says otherwise. */
export type BounceOrder = {
  readonly song: Song;
  /** Where the song's audio lies. */
  readonly folder: string;
  readonly out: string;
  readonly format: SampleFormat;
  readonly range: Range | null;
  readonly plan?: PlanOptions;
  /** Told now and then how much is done, 0 … 1; throws to give up, and nothing is left of the file. */
  readonly onProgress?: (share: number) => void;
  /** Told, in a sentence each, what of the audio is no sound and came out as silence. */
  readonly onNoSound?: (sentence: string) => void;
};

/** What came out. `peak` is the highest sample, linear. */
export type Bounced = {
  readonly frames: number;
  readonly sampleRate: number;
  readonly seconds: number;
  readonly peak: number;
  readonly loudness: LoudnessReport;
};

/** Told this often, in frames. */
const PROGRESS_FRAMES = 48000;

/** Renders a song's mix into a WAV file, whole or not at all. Throws a sentence where a file of the song is not right. */
export function bounceToFile(order: BounceOrder): Bounced {
  const { song, folder, out, format, range, onProgress } = order;
  return withMix(song, folder, order.plan ?? {}, (plan, audio) => {
    const { sampleRate } = plan;
    const [from, to] = framesOf(plan, range);
    const programme = new Programme(sampleRate);
    let peak = 0;
    let done = 0;
    writeWav(out, { format, channels: 2, sampleRate, most: to - from }, (add) =>
      bounce(plan, audio, [from, to], (left, right, count) => {
        for (let i = 0; i < count; i++) {
          const l = Math.abs(left[i]!);
          const r = Math.abs(right[i]!);
          if (l > peak) peak = l;
          if (r > peak) peak = r;
        }
        programme.add(left, right, count);
        add([left, right], count);
        if (Math.floor((done + count) / PROGRESS_FRAMES) > Math.floor(done / PROGRESS_FRAMES))
          onProgress?.((done + count) / (to - from));
        done += count;
      }),
    );
    for (const sentence of audio.noSound) order.onNoSound?.(sentence);
    const frames = to - from;
    return { frames, sampleRate, seconds: frames / sampleRate, peak, loudness: programme.report() };
  });
}
