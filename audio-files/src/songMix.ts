import { bounce, framesOf, mixPlan, type MixPlan, type PlanOptions } from '@sure-hand/core/mix';
import { LoudnessMeter, loudnessOf, type Lufs } from '@sure-hand/core/loudness';
import type { Range } from '@sure-hand/core/curve';
import type { Song } from '@sure-hand/core/song';
import { SILENCE_DB } from '@sure-hand/core/units';
import { SongFiles } from './songFiles.js';

/** Opens a song's audio, makes the plan of its mix, and closes it again after. Solo is ignored unless the options say otherwise. */
export function withMix<T>(
  song: Song,
  folder: string,
  plan: PlanOptions,
  act: (plan: MixPlan, audio: SongFiles) => T,
): T {
  const options = { ignoreSolo: true, ...plan };
  const { files, sampleRate } = mixPlan(song, options);
  const audio = new SongFiles(folder, files, sampleRate);
  try {
    const stereo = new Set(files.filter((_, file) => audio.channels(file) === 2));
    return act(mixPlan(song, { ...options, stereo }), audio);
  } finally {
    audio.close();
  }
}

/** How far apart the values of {@link loudnessOver} are, in seconds. */
export const LOUDNESS_STEP_SEC = 0.1;
const WINDOW_SEC = 3;

/**
 * Short-term loudness of a song's mix in LUFS (silence −144), a value every tenth of a second of a range: the first for
 * the three seconds up to a tenth after its start. Throws a sentence where a file of the song is not right.
 */
export function loudnessOver(
  song: Song,
  folder: string,
  range: Range,
  onProgress: (share: number) => void = () => undefined,
): Lufs[] {
  return withMix(song, folder, {}, (plan, audio) => {
    const values: Lufs[] = [];
    const from = Math.max(0, range[0] - WINDOW_SEC);
    const early = Math.round((range[0] - from) / LOUDNESS_STEP_SEC);
    const meter = new LoudnessMeter(plan.sampleRate, (m) => {
      if (m.blocks > early) values.push(Math.max(SILENCE_DB, loudnessOf(m.shortTermPower)));
      if (m.blocks % 20 === 0) onProgress(Math.min(1, (m.blocks * LOUDNESS_STEP_SEC) / (range[1] - from)));
    });
    bounce(plan, audio, framesOf(plan, [from, range[1]]), (left, right, count) => meter.add(left, right, count));
    return values;
  });
}
