import { either, type Chance } from '../chance.js';
import { BandPass, LowPass, SAMPLE_RATE, Saw, swell, type Sounding } from './sound.js';

/** What a plucked string is like: how bright the pick, how fast it dies (seconds to a tenth), how much its body speaks. */
export type PluckedString = { readonly brightHz: number; readonly ringSec: number; readonly bodyHz: readonly number[] };

export const NYLON: PluckedString = { brightHz: 3200, ringSec: 1.6, bodyHz: [110, 220, 410] };
export const UPRIGHT_BASS: PluckedString = { brightHz: 900, ringSec: 1.1, bodyHz: [62, 120, 240] };

/** A plucked string (Karplus & Strong 1983, with a fractional delay), damped when its note ends. */
export function pluck(string: PluckedString, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const out = new Float32Array(Math.ceil((sec + 0.25) * SAMPLE_RATE));
  const period = SAMPLE_RATE / hz - 0.5;
  const whole = Math.floor(period);
  const part = period - whole;
  const line = new Float32Array(whole + 2);
  const pick = new LowPass(string.brightHz * (0.5 + force));
  for (let i = 0; i < line.length; i++) line[i] = pick.run(either(random));
  const ring = 10 ** (-1 / (string.ringSec * hz));
  const damp = 10 ** (-1 / (0.06 * hz));
  const bodies = string.bodyHz.map((body) => new BandPass(body, 4));
  const noteEnd = sec * SAMPLE_RATE;
  let at = 0;
  let before = 0;
  for (let i = 0; i < out.length; i++) {
    const next = (at + 1) % line.length;
    const x = line[at]! * (1 - part) + line[next]! * part;
    const filtered = (x + before) / 2;
    before = x;
    line[(at + line.length - 1) % line.length] = filtered * (i < noteEnd ? ring : damp);
    at = next;
    let y = x * 0.7;
    for (const body of bodies) y += body.run(x) * 0.9;
    out[i] = y * force;
  }
  return out;
}

/** What a bowed string is like. */
export type BowedString = {
  readonly bodyHz: readonly number[];
  readonly brightness: number;
  readonly vibratoHz: number;
  readonly vibrato: number;
};

export const FIDDLE: BowedString = { bodyHz: [285, 480, 1100, 2600], brightness: 7, vibratoHz: 5.7, vibrato: 0.006 };

/** A bowed string: a saw with vibrato that grows, some bow noise, its body's resonances. */
export function bow(string: BowedString, { sec, hz, force }: Sounding, random: Chance): Float32Array {
  const release = 0.12;
  const out = new Float32Array(Math.ceil((sec + release) * SAMPLE_RATE));
  const saw = new Saw(random());
  const bodies = string.bodyHz.map((body) => new BandPass(body, 3));
  const tone = new LowPass(hz * string.brightness * (0.6 + 0.6 * force));
  const bowNoise = new BandPass(hz * 5, 1);
  const attack = 0.05 + 0.05 * random();
  const start = random();
  for (let i = 0; i < out.length; i++) {
    const t = i / SAMPLE_RATE;
    const depth = string.vibrato * Math.min(1, Math.max(0, (t - 0.12) / 0.3));
    const pitch = hz * (1 + depth * Math.sin(2 * Math.PI * (string.vibratoHz * t + start)) - 0.01 * Math.exp(-t * 30));
    const x = tone.run(saw.run(pitch)) + bowNoise.run(either(random)) * 0.05;
    let y = x * 0.25;
    for (const body of bodies) y += body.run(x) * 0.8;
    out[i] = y * swell(i, sec, attack, release) * force * (0.85 + 0.15 * Math.sin(Math.PI * Math.min(1, t / sec)));
  }
  return out;
}
