import type { Chance } from '../chance.js';
import type { Vowel } from '../score/material.js';
import { hiss, lowPass, saw, shape, silence, swell, through, wavering, type Sounding } from './sound.js';

/** The first four resonances of the sung vowels: hertz and how loud, as in textbooks of singing acoustics. */
const FORMANTS: Record<Vowel, readonly (readonly [hz: number, gain: number])[]> = {
  a: [
    [700, 1],
    [1150, 0.6],
    [2700, 0.35],
    [3500, 0.2],
  ],
  e: [
    [480, 1],
    [1750, 0.45],
    [2550, 0.35],
    [3500, 0.2],
  ],
  i: [
    [310, 1],
    [2150, 0.3],
    [2900, 0.3],
    [3600, 0.2],
  ],
  o: [
    [450, 1],
    [850, 0.6],
    [2650, 0.2],
    [3400, 0.12],
  ],
  u: [
    [340, 1],
    [750, 0.35],
    [2500, 0.12],
    [3300, 0.08],
  ],
};

/**
 * How a voice sings: slow or quick to speak, how much it wavers, how breathy, how clearly it says its words, and how
 * much longer or shorter its throat is than that of the tables.
 */
export type Singer = {
  readonly attack: number;
  readonly release: number;
  readonly vibrato: number;
  readonly breath: number;
  readonly words: number;
  readonly throat: number;
};

export const LEAD: Singer = { attack: 0.05, release: 0.1, vibrato: 0.009, breath: 0.03, words: 0.35, throat: 1 };
export const LOW_VOICE: Singer = {
  attack: 0.07,
  release: 0.14,
  vibrato: 0.006,
  breath: 0.03,
  words: 0.2,
  throat: 0.92,
};
export const HIGH_VOICE: Singer = {
  attack: 0.06,
  release: 0.14,
  vibrato: 0.008,
  breath: 0.04,
  words: 0.2,
  throat: 1.1,
};
export const CHORISTER: Singer = { attack: 0.25, release: 0.35, vibrato: 0.006, breath: 0.05, words: 0, throat: 1 };

/** A sung note: a rounded pulse through the resonances of its vowel, words suggested by a breath of noise before it. */
export function sing(singer: Singer, vowel: Vowel, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const source = silence(sec + singer.release);
  saw(source, wavering(hz, { depth: singer.vibrato, rate: 5.2, scoop: 0.03 }, random()), random());
  lowPass(source, 900 + 2200 * force);
  hiss(source, random, singer.breath);
  const out = through(
    source,
    FORMANTS[vowel].map(([at, gain]) => [at * singer.throat, 7, 2.4 * gain]),
  );
  shape(out, swell(sec, singer.attack, singer.release));
  if (singer.words) {
    const word = silence(Math.min(0.2, sec));
    hiss(word, random, 1);
    const said = through(word, [[3000 + 2500 * random(), 1.5, singer.words]]);
    shape(said, (t) => Math.exp(-t * 28));
    for (let i = 0; i < said.length; i++) out[i]! += said[i]!;
  }
  for (let i = 0; i < out.length; i++) out[i]! *= force;
  return out;
}

/** A cough: two short bursts of throaty noise. */
export function cough(random: Chance): Float32Array {
  const air = silence(0.55);
  hiss(air, random, 1);
  const out = through(air, [
    [480, 2.5, 1],
    [1250, 3, 1],
    [2600, 2, 1],
  ]);
  shape(out, (t) => {
    const burst = Math.exp(-t * 14) + (t > 0.24 ? 0.8 * Math.exp(-(t - 0.24) * 16) : 0);
    return burst * Math.min(1, t / 0.004);
  });
  return out;
}

/** A breath drawn in: noise that rises, opens and is cut. */
export function breathIn(sec: number, random: Chance): Float32Array {
  const air = silence(sec);
  hiss(air, random, 1);
  const out = through(air, [
    [900, 1, 0.5],
    [2300, 1.4, 0.7],
    [5200, 1.2, 0.4],
  ]);
  shape(out, (t) => (t / sec) ** 2 * Math.min(1, (sec - t) / 0.03));
  return out;
}
