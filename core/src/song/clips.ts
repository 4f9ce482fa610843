import equal from 'fast-deep-equal';
import { SILENCE_DB, clamp, type Db, type Seconds } from '../units/index.js';
import type { Channel, Clip } from './document.js';

/** The gain that a clip may have, in dB. */
export const CLIP_GAIN: { readonly min: Db; readonly max: Db } = { min: SILENCE_DB, max: 24 };

/** What of a clip is shaped in place: its fades and its gain. */
export type ClipShaping = Partial<Pick<Clip, 'gain' | 'fadeIn' | 'fadeOut' | 'fadeInShape' | 'fadeOutShape'>>;

/** The clip of a channel at a time; between clips the nearest one; null where the channel has none. */
export function clipAt({ clips }: Pick<Channel, 'clips'>, t: Seconds): Clip | null {
  const away = (clip: Clip): number => Math.max(clip.t - t, t - (clip.t + clip.length), 0);
  return clips.reduce<Clip | null>((best, clip) => (best && away(best) <= away(clip) ? best : clip), null);
}

/** A clip with other fades or another gain; itself where nothing changes. A fade goes at most to where the other begins. */
export function shapedClip(clip: Clip, changes: ClipShaping): Clip {
  const next = { ...clip, ...changes };
  const fadeIn = clamp(next.fadeIn, 0, clip.length - (changes.fadeIn === undefined ? 0 : clip.fadeOut));
  const fadeOut = clamp(next.fadeOut, 0, clip.length - fadeIn);
  const shaped = { ...next, gain: clamp(next.gain, CLIP_GAIN.min, CLIP_GAIN.max), fadeIn, fadeOut };
  return equal(shaped, clip) ? clip : shaped;
}
