import { chance, type Chance } from '../chance.js';

export const SAMPLE_RATE = 48000;

/** A note to be sounded: seconds, hertz, and how hard, 0 … 1. */
export type Sounding = { readonly sec: number; readonly hz: number; readonly force: number };
/** A number that changes over a sound's seconds: pitch in hertz, or a gain. Asked for every 32 samples. */
export type Over = (t: number) => number;

export const hzOfMidi = (midi: number): number => 440 * 2 ** ((midi - 69) / 12);
export const gainOf = (db: number): number => 10 ** (db / 20);
export const silence = (sec: number): Float32Array => new Float32Array(Math.ceil(sec * SAMPLE_RATE));

/** A mono or stereo stem being played, one float column a side. */
export class Tape {
  readonly sides: readonly Float32Array[];
  readonly random: Chance;

  constructor(
    readonly sec: number,
    sides: 1 | 2,
    seed: number,
  ) {
    this.sides = Array.from({ length: sides }, () => silence(sec));
    this.random = chance(seed);
  }

  /** Adds a mono sound from a time on, at a pan −1 … 1 where the tape is stereo. */
  add(t: number, sound: Float32Array, pan = 0): void {
    const at = Math.round(t * SAMPLE_RATE);
    const angle = ((pan + 1) * Math.PI) / 4;
    const gains = this.sides.length === 1 ? [1] : [Math.cos(angle), Math.sin(angle)];
    this.sides.forEach((side, s) => {
      const n = Math.min(sound.length, side.length - at);
      const gain = gains[s]!;
      for (let i = 0; i < n; i++) side[at + i]! += sound[i]! * gain;
    });
  }
}

// Sounds are made in plain loops over whole columns, with everything that changes slowly looked at every 32 samples:
// that is what lets a whole band be played within a coffee break.
const CONTROL = 32;

/** One period of a sum of sines, for {@link oscillate}. */
export type Wave = Float64Array;
const WAVE_STEPS = 2048;

/** The wave of some partials, by their gains from the first on. */
export function waveOf(partials: readonly number[]): Wave {
  return Float64Array.from({ length: WAVE_STEPS + 1 }, (_, i) =>
    partials.reduce((sum, gain, k) => sum + gain * Math.sin((2 * Math.PI * (k + 1) * i) / WAVE_STEPS), 0),
  );
}
export const SINE = waveOf([1]);

/** Adds a wave of a changing pitch. `phase` 0 … 1 is where it begins. */
export function oscillate(out: Float32Array, wave: Wave, hz: Over, gain: number, phase = 0): void {
  let at = phase * WAVE_STEPS;
  for (let from = 0; from < out.length; from += CONTROL) {
    const step = (hz(from / SAMPLE_RATE) / SAMPLE_RATE) * WAVE_STEPS;
    const to = Math.min(out.length, from + CONTROL);
    for (let i = from; i < to; i++) {
      const k = at | 0;
      out[i]! += gain * (wave[k]! + (wave[k + 1]! - wave[k]!) * (at - k));
      at += step;
      if (at >= WAVE_STEPS) at -= WAVE_STEPS;
    }
  }
}

/** Adds a saw of a changing pitch, its step rounded so that it does not alias much (polyBLEP). */
export function saw(out: Float32Array, hz: Over, phase: number): void {
  let at = phase;
  for (let from = 0; from < out.length; from += CONTROL) {
    const step = hz(from / SAMPLE_RATE) / SAMPLE_RATE;
    const to = Math.min(out.length, from + CONTROL);
    for (let i = from; i < to; i++) {
      at += step;
      if (at >= 1) at -= 1;
      let x = 2 * at - 1;
      if (at < step) {
        const u = at / step;
        x -= 2 * u - u * u - 1;
      } else if (at > 1 - step) {
        const u = (at - 1) / step;
        x -= u * u + 2 * u + 1;
      }
      out[i]! += x;
    }
  }
}

/** Adds white noise. */
export function hiss(out: Float32Array, random: Chance, gain: number): void {
  for (let i = 0; i < out.length; i++) out[i]! += gain * (2 * random() - 1);
}

/** Multiplies by a gain that changes, straight from look to look. */
export function shape(out: Float32Array, gain: Over): void {
  let now = gain(0);
  for (let from = 0; from < out.length; from += CONTROL) {
    const next = gain((from + CONTROL) / SAMPLE_RATE);
    const slope = (next - now) / CONTROL;
    const to = Math.min(out.length, from + CONTROL);
    for (let i = from; i < to; i++) {
      out[i]! *= now;
      now += slope;
    }
    now = next;
  }
}

/** A gentle low pass of one pole, in place. */
export function lowPass(out: Float32Array, hz: number): void {
  const a = 1 - Math.exp((-2 * Math.PI * hz) / SAMPLE_RATE);
  let y = 0;
  for (let i = 0; i < out.length; i++) out[i] = y += a * (out[i]! - y);
}

/** Adds what a resonance lets through of a sound (RBJ's Audio EQ Cookbook, band-pass of constant peak gain). */
function resonate(sound: Float32Array, out: Float32Array, [hz, q, gain]: readonly [number, number, number]): void {
  const w = (2 * Math.PI * hz) / SAMPLE_RATE;
  const alpha = Math.sin(w) / (2 * q);
  const b0 = (gain * alpha) / (1 + alpha);
  const a1 = (-2 * Math.cos(w)) / (1 + alpha);
  const a2 = (1 - alpha) / (1 + alpha);
  let [x1, x2, y1, y2] = [0, 0, 0, 0];
  for (let i = 0; i < sound.length; i++) {
    const x = sound[i]!;
    const y = b0 * (x - x2) - a1 * y1 - a2 * y2;
    x2 = x1;
    x1 = x;
    y2 = y1;
    y1 = y;
    out[i]! += y;
  }
}

/** A sound through resonances alone. */
export function through(
  sound: Float32Array,
  bands: readonly (readonly [number, number, number])[],
  dry = 0,
): Float32Array {
  const out = dry ? sound.map((x) => x * dry) : new Float32Array(sound.length);
  for (const band of bands) resonate(sound, out, band);
  return out;
}

/** Rise over `attack`, stay until `sec`, fall over `release`; 0 … 1. */
export const swell =
  (sec: number, attack: number, release: number): Over =>
  (t) => {
    const up = t < attack ? Math.sin((t / attack) * (Math.PI / 2)) : 1;
    if (t <= sec) return up;
    const down = 1 - (t - sec) / release;
    return down > 0 ? up * down * down : 0;
  };

/** A pitch with vibrato that sets in after a moment, and a scoop from below at the start. */
export function wavering(
  hz: number,
  { depth, rate, scoop }: { depth: number; rate: number; scoop: number },
  start: number,
): Over {
  return (t) => {
    const grown = depth * Math.min(1, Math.max(0, (t - 0.15) / 0.35));
    return hz * (1 + grown * Math.sin(2 * Math.PI * (rate * t + start)) - scoop * Math.exp(-t * 26));
  };
}

/** Dies away by a rate a second. */
export const dying =
  (rate: number): Over =>
  (t) =>
    Math.exp(-t * rate);
