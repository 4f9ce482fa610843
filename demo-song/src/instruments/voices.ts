import { either, type Chance } from '../chance.js';
import type { Vowel } from '../score/material.js';
import { BandPass, LowPass, SAMPLE_RATE, Saw, swell, type Sounding } from './sound.js';

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

/** How a voice sings: slow or quick to speak, how much it wavers, how breathy, and how clearly it says its words. */
export type Singer = {
  readonly attack: number;
  readonly release: number;
  readonly vibrato: number;
  readonly breath: number;
  readonly words: number;
};

export const LEAD: Singer = { attack: 0.05, release: 0.1, vibrato: 0.009, breath: 0.03, words: 0.35 };
export const CHORISTER: Singer = { attack: 0.25, release: 0.35, vibrato: 0.006, breath: 0.05, words: 0 };

/** A sung note: a rounded pulse through the resonances of its vowel, words suggested by a breath of noise before it. */
export function sing(singer: Singer, vowel: Vowel, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const out = new Float32Array(Math.ceil((sec + singer.release) * SAMPLE_RATE));
  const saw = new Saw(random());
  const glottis = new LowPass(900 + 2200 * force);
  const formants = FORMANTS[vowel].map(([at, gain]) => ({ band: new BandPass(at, 7), gain }));
  const hiss = new BandPass(3000 + 2500 * random(), 1.5);
  const start = random();
  let drift = 0;
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    drift += (either(random) - drift * 0.01) * 0.00002;
    const depth = singer.vibrato * Math.min(1, Math.max(0, (t - 0.2) / 0.4));
    const pitch = hz * (1 + depth * Math.sin(2 * Math.PI * (5.2 * t + start)) + drift - 0.03 * Math.exp(-t * 25));
    const source = glottis.run(saw.run(pitch)) + either(random) * singer.breath;
    let y = 0;
    for (const { band, gain } of formants) y += band.run(source) * gain;
    const word = singer.words * hiss.run(either(random)) * Math.exp(-t * 28);
    out[i] = (y * 2.4 * swell(i, sec, singer.attack, singer.release) + word) * force;
  }
  return out;
}

/** A cough: two short bursts of throaty noise. */
export function cough(random: Chance): Float32Array {
  const out = new Float32Array(Math.round(0.55 * SAMPLE_RATE));
  const throat = [new BandPass(480, 2.5), new BandPass(1250, 3), new BandPass(2600, 2)];
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    const burst = Math.exp(-t * 14) + (t > 0.24 ? 0.8 * Math.exp(-(t - 0.24) * 16) : 0);
    let y = 0;
    for (const band of throat) y += band.run(either(random));
    out[i] = y * burst * Math.min(1, t / 0.004);
  }
  return out;
}
