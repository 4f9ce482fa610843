import type { SampleSource } from '../mix/index.js';
import type { Clip } from '../song/index.js';

/** Files of one channel that are 1 everywhere: what comes out of a mix is the gain. */
export const ones: SampleSource = {
  channels: () => 1,
  read: (_file, _channel, _from, count, out, at) => {
    out.fill(1, at, at + count);
    return true;
  },
};

/** A minute of one of them, from the song's beginning. */
export const CLIP_OF_ONES: Clip = {
  t: 0,
  file: 'ones.wav',
  offset: 0,
  length: 60,
  gain: 0,
  fadeIn: 0,
  fadeOut: 0,
  fadeInShape: 'line',
  fadeOutShape: 'line',
};
