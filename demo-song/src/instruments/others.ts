import type { Chance } from '../chance.js';
import {
  SINE,
  dying,
  hiss,
  lowPass,
  oscillate,
  shape,
  silence,
  swell,
  through,
  waveOf,
  wavering,
  type Over,
  type Sounding,
} from './sound.js';

/** Strokes of a skin or a box: a deep one in the middle, a slap at the rim, a light tap. */
export type Stroke = 'deep' | 'slap' | 'tap';
/** Lowest mode in hertz, how long it rings, how much of the hand is heard and how high. */
type Struck = Record<Stroke, readonly [hz: number, ring: number, hand: number, handHz: number]>;
export const SKIN: Struck = { deep: [78, 0.42, 0.25, 500], slap: [150, 0.14, 0.9, 2200], tap: [190, 0.1, 0.5, 3200] };
export const BOX: Struck = { deep: [92, 0.16, 0.5, 380], slap: [240, 0.07, 1.4, 3600], tap: [260, 0.05, 0.6, 4200] };

/** Adds some noise through one band, dying away. */
function addBurst(out: Float32Array, random: Chance, band: readonly [number, number, number], gain: Over): void {
  const air = new Float32Array(out.length);
  hiss(air, random, 1);
  const burst = through(air, [band]);
  shape(burst, gain);
  for (let i = 0; i < out.length; i++) out[i]! += burst[i]!;
}

/** Something struck by hand: a few modes of a round membrane, the lowest falling as it settles, and the hand's own noise. */
export function strike(struck: Struck, stroke: Stroke, force: number, random: Chance): Float32Array {
  const [base, ring, hand, handHz] = struck[stroke];
  const out = silence(ring * 3 + 0.05);
  [1, 1.59, 2.14, 2.65].forEach((ratio, k) => {
    const mode = new Float32Array(out.length);
    oscillate(mode, SINE, (t) => base * ratio * (1 + 0.25 * Math.exp(-t * 35)), 0.9 / (1 + k * 1.4));
    shape(mode, dying((1 + k * 0.7) / (ring * 0.45)));
    for (let i = 0; i < out.length; i++) out[i]! += mode[i]!;
  });
  addBurst(out, random, [handHz, 1.2, hand], dying(70));
  shape(out, (t) => force * Math.min(1, t / 0.001));
  return out;
}

/** Noise shaken or brushed: how high and wide its band, how quickly it comes and goes. */
export type Rustle = { readonly hz: number; readonly q: number; readonly rise: number; readonly fall: number };
export const SHAKEN: Rustle = { hz: 6400, q: 1.6, rise: 0.018, fall: 34 };
export const BRUSHED: Rustle = { hz: 3300, q: 0.8, rise: 0.06, fall: 9 };
export const BRUSH_TAP: Rustle = { hz: 2100, q: 0.9, rise: 0.003, fall: 40 };

export function rustle({ hz, q, rise, fall }: Rustle, force: number, random: Chance): Float32Array {
  const out = silence(rise + 5 / fall);
  addBurst(out, random, [hz, q, force], (t) => (t < rise ? (t / rise) ** 2 : Math.exp(-(t - rise) * fall)));
  return out;
}

/** A few people's hands clapping, not quite together. */
export function clap(force: number, random: Chance): Float32Array {
  const out = silence(0.4);
  for (let person = 0; person < 5; person++) {
    const late = 0.001 + 0.018 * random();
    const hz = 900 + 900 * random();
    addBurst(out, random, [hz, 1.3, force * 0.5], (t) => (t < late ? 0 : Math.exp(-(t - late) * 55)));
  }
  return out;
}

/** Waves of reeds by how many of their partials fit under the ear's limit. */
const REEDS = [1, 0.55, 0.6, 0.25, 0.35, 0.12, 0.2, 0.08];
const reedWaves = REEDS.map((_, count) => waveOf(REEDS.slice(0, count + 1)));

/** How a bank of reeds is tuned: ranks as ratios, and how quickly it speaks. */
export type ReedBank = { readonly ranks: readonly number[]; readonly attack: number; readonly release: number };
export const PUMP_ORGAN: ReedBank = { ranks: [0.9985, 1.0022], attack: 0.09, release: 0.18 };
export const ACCORDION: ReedBank = { ranks: [0.9955, 1, 1.0062], attack: 0.03, release: 0.09 };

/** A note of reeds a hair apart, rich in odd partials, with the bellows behind them. */
export function reed(bank: ReedBank, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const out = silence(sec + bank.release);
  const wave = reedWaves[Math.max(0, Math.min(REEDS.length, Math.floor(12000 / hz)) - 1)]!;
  for (const ratio of bank.ranks) oscillate(out, wave, () => hz * ratio, 0.32 / bank.ranks.length, random());
  const bellows = 0.6 + 0.5 * random();
  const start = random();
  const whole = swell(sec, bank.attack, bank.release);
  shape(out, (t) => whole(t) * force * (1 + 0.07 * Math.sin(2 * Math.PI * (bellows * t + start))));
  return out;
}

/** A cane reed in a wooden tube: odd partials before all, a little breath, a slow waver. */
const TUBE = waveOf([1, 0.04, 0.55, 0.05, 0.32, 0.05, 0.16, 0.03, 0.08]);
export function pipe({ sec, hz, force }: Sounding, random: Chance): Float32Array {
  const release = 0.1;
  const out = silence(sec + release);
  oscillate(out, TUBE, wavering(hz, { depth: 0.003, rate: 4.6, scoop: 0.02 }, random()), 0.4, random());
  lowPass(out, 1500 + 3500 * force);
  hiss(out, random, 0.006);
  const whole = swell(sec, 0.05, release);
  shape(out, (t) => whole(t) * force * (0.8 + 0.2 * Math.sin(Math.PI * Math.min(1, t / sec))));
  return out;
}

/** Something that rings: its modes as ratios, how loud each is, and how quickly it dies a second. */
export type Ringing = readonly (readonly [ratio: number, gain: number, rate: number])[];
/** A free bar (its modes by the theory of bars), and a cast bell (hum, prime, tierce, quint, nominal and above). */
export const BAR: Ringing = [
  [1, 1, 2.2],
  [2.756, 0.45, 5],
  [5.404, 0.2, 11],
];
export const BELL: Ringing = [
  [0.5, 0.6, 0.5],
  [1, 0.9, 0.9],
  [1.19, 0.7, 1.2],
  [1.5, 0.35, 1.6],
  [2, 0.8, 1.9],
  [2.67, 0.3, 3],
  [3.01, 0.2, 4],
];

export function ring(modes: Ringing, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const out = silence(sec);
  for (const [ratio, gain, rate] of modes) {
    const mode = new Float32Array(out.length);
    oscillate(mode, SINE, () => hz * ratio, gain * force * 0.4, random());
    shape(mode, (t) => Math.exp(-t * rate) * Math.min(1, t / 0.002, (sec - t) / 0.2));
    for (let i = 0; i < out.length; i++) out[i]! += mode[i]!;
  }
  return out;
}

/** The mill wheel: water over paddles, turning, at the same level for as long as it is asked for. */
export function wheel(sec: number, random: Chance): Float32Array {
  const air = silence(sec);
  hiss(air, random, 1);
  const paddle = (t: number): number => Math.exp(-((t * 0.85 * 6) % 1) * 5);
  const out = through(air, [[620, 0.6, 1]]);
  shape(out, (t) => 0.5 + 0.35 * paddle(t));
  const splash = through(air, [[2400, 0.9, 1]]);
  shape(splash, (t) => 0.1 + 0.3 * paddle(t));
  lowPass(air, 90);
  for (let i = 0; i < out.length; i++) out[i]! += splash[i]! + 1.6 * air[i]!;
  return out;
}
