import type { Chance } from '../chance.js';
import { SAMPLE_RATE, hiss, lowPass, saw, shape, silence, swell, through, wavering, type Sounding } from './sound.js';

/** What a plucked string is like: how bright the pick, how fast it dies (seconds to a tenth), how much its body speaks. */
export type PluckedString = { readonly brightHz: number; readonly ringSec: number; readonly bodyHz: readonly number[] };

export const NYLON: PluckedString = { brightHz: 3200, ringSec: 1.6, bodyHz: [110, 220, 410] };
export const UPRIGHT_BASS: PluckedString = { brightHz: 900, ringSec: 1.1, bodyHz: [62, 120, 240] };
export const MANDOLIN: PluckedString = { brightHz: 5200, ringSec: 0.9, bodyHz: [240, 520, 980] };

/** A plucked string (Karplus & Strong 1983, with a fractional delay), damped when its note ends. */
export function pluck(string: PluckedString, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const out = silence(sec + 0.25);
  const period = SAMPLE_RATE / hz - 0.5;
  const whole = Math.floor(period);
  const part = period - whole;
  const line = new Float32Array(whole + 2);
  hiss(line, random, 1);
  lowPass(line, string.brightHz * (0.5 + force));
  const n = line.length;
  const noteEnd = Math.min(out.length, Math.round(sec * SAMPLE_RATE));
  let at = 0;
  let before = 0;
  const ring = (from: number, to: number, keep: number): void => {
    for (let i = from; i < to; i++) {
      const next = at + 1 === n ? 0 : at + 1;
      const x = line[at]! * (1 - part) + line[next]! * part;
      line[at === 0 ? n - 1 : at - 1] = ((x + before) / 2) * keep;
      before = x;
      at = next;
      out[i] = x * force;
    }
  };
  ring(0, noteEnd, 10 ** (-1 / (string.ringSec * hz)));
  ring(noteEnd, out.length, 10 ** (-1 / (0.06 * hz)));
  return through(
    out,
    string.bodyHz.map((body) => [body, 4, 0.9]),
    0.7,
  );
}

/** What a bowed string is like. */
export type BowedString = {
  readonly bodyHz: readonly number[];
  readonly brightness: number;
  readonly vibratoHz: number;
  readonly vibrato: number;
  readonly attack: number;
};

export const FIDDLE: BowedString = {
  bodyHz: [285, 480, 1100, 2600],
  brightness: 7,
  vibratoHz: 5.7,
  vibrato: 0.006,
  attack: 0.05,
};
export const CELLO: BowedString = {
  bodyHz: [105, 220, 430, 1500],
  brightness: 6,
  vibratoHz: 5,
  vibrato: 0.005,
  attack: 0.09,
};

/** A bowed string: a saw with vibrato that grows, some bow noise, its body's resonances. */
export function bow(string: BowedString, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const release = 0.12;
  const tone = silence(sec + release);
  const attack = string.attack * (1 + random());
  saw(tone, wavering(hz, { depth: string.vibrato, rate: string.vibratoHz, scoop: 0.01 }, random()), random());
  lowPass(tone, hz * string.brightness * (0.6 + 0.6 * force));
  hiss(tone, random, 0.012);
  const out = through(
    tone,
    string.bodyHz.map((body) => [body, 3, 0.8]),
    0.25,
  );
  const whole = swell(sec, attack, release);
  shape(out, (t) => whole(t) * force * (0.85 + 0.15 * Math.sin(Math.PI * Math.min(1, t / sec))));
  return out;
}
