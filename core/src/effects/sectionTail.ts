import type { Seconds } from '../units/index.js';

/** What is so much softer than it was is none: 160 dB, in nepers. */
const GONE = Math.log(1e8);

/**
 * How slowly a second-order section with its poles at so many Hz dies away, at the slowest of some Qs: until it has fallen to 1/e. Below a Q of
 * one half it has two poles, one of which is slower the lower Q is.
 */
export function slowestDecay(hz: number, q: { readonly least: number; readonly most: number }): Seconds {
  const decay = (one: number): number => {
    const half = 1 / (2 * one);
    return 1 / (2 * Math.PI * hz * (one >= 0.5 ? half : half - Math.sqrt(half * half - 1)));
  };
  return Math.max(decay(q.least), decay(q.most));
}

/**
 * How long sections one after the other sound after their input has ended, none of which dies away more slowly than `decay` or makes
 * anything louder than by so many nepers. What n alike leave falls as t to the (n − 1)th times e to the −t.
 */
export function tailOfSections(count: number, decay: Seconds, loudest: number): Seconds {
  const wanted = GONE + count * loudest;
  let decays = wanted;
  for (let k = 0; k < 8; k++) decays = wanted + (count - 1) * Math.log(decays);
  return decay * decays;
}
