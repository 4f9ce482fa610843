import { gainInPlace, type Frames } from '../units/index.js';

/**
 * Second-order sections in the state-variable form with trapezoidal integrators (A. Simper, "Solving the continuous SVF equations using
 * trapezoidal integration", 2013; V. Zavalishin, "The Art of VA Filter Design"). At a steady setting each is, sample for sample, the biquad of the
 * W3C note "Audio EQ Cookbook" (R. Bristow-Johnson): both are the bilinear transform of one analogue prototype.
 *
 * A section is six numbers, a step of which is, for input x and states s, r: e = x − r; s′ = a·s + b·e; r′ = r + b·s + c·e;
 * y = m0·x + m1·(s′ + s) + m2·(r′ + r). For every g and k above 0 the step of the states shrinks their energy (it is a Cayley transform);
 * so does any mixture of two such steps: the six numbers may go straight from any setting to any other, and it stays stable.
 */
export const SECTION = { a: 0, b: 1, c: 2, m0: 3, m1: 4, m2: 5, length: 6 } as const;

/** Frequencies stop here, of the sample rate. */
const HIGHEST = 0.49;

/**
 * The six numbers of a section, from what stands in their places: a frequency in Hz as a part of the sample rate and a factor on what it is
 * bent to, a damping k, and an output m0·x + m1·band + m2·low. In place, as all that the audio thread works out: numbers that calls
 * take or give back may be new things in memory.
 */
function settleIn(into: Float64Array, at: number): void {
  const share = into[at + SECTION.a]!;
  const g = Math.tan(Math.PI * (share < HIGHEST ? share : HIGHEST)) * into[at + SECTION.b]!;
  const a1 = 1 / (1 + g * (g + into[at + SECTION.c]!));
  into[at + SECTION.a] = 2 * a1 - 1;
  into[at + SECTION.b] = 2 * g * a1;
  into[at + SECTION.c] = 2 * g * g * a1;
  into[at + SECTION.m1]! /= 2;
  into[at + SECTION.m2]! /= 2;
}

/** The shapes of a band of an equaliser, shelves by Q. */
export const BAND_SHAPES = ['lowShelf', 'peak', 'highShelf'] as const;
export type BandShape = (typeof BAND_SHAPES)[number];
/** The shapes of a filter; `band` has its peak at 0 dB. */
export const FILTER_SHAPES = ['low', 'high', 'band', 'notch'] as const;
export type FilterShape = (typeof FILTER_SHAPES)[number];

/** Puts a band into its place as a section; from `of` on stand its frequency in Hz, its gain in dB and its Q. */
export function bandInto(
  into: Float64Array,
  at: number,
  shape: BandShape,
  values: Float64Array,
  of: number,
  sampleRate: number,
): void {
  const q = values[of + 2]!;
  into[at + SECTION.a] = values[of]! / sampleRate;
  // The square root of the gain, as the note has it.
  into[at + SECTION.m0] = values[of + 1]! / 2;
  gainInPlace(into, at + SECTION.m0);
  const gain = into[at + SECTION.m0]!;
  into[at + SECTION.b] = shape === 'peak' ? 1 : shape === 'lowShelf' ? 1 / Math.sqrt(gain) : Math.sqrt(gain);
  into[at + SECTION.c] = shape === 'peak' ? 1 / (q * gain) : 1 / q;
  into[at + SECTION.m0] = shape === 'highShelf' ? gain * gain : 1;
  if (shape === 'peak') into[at + SECTION.m1] = (gain * gain - 1) / (q * gain);
  else into[at + SECTION.m1] = shape === 'lowShelf' ? (gain - 1) / q : ((1 - gain) * gain) / q;
  into[at + SECTION.m2] = shape === 'peak' ? 0 : shape === 'lowShelf' ? gain * gain - 1 : 1 - gain * gain;
  settleIn(into, at);
}

/** Puts a filter into its place as a section; first of `values` stand its cutoff in Hz and its resonance as Q. */
export function filterInto(
  into: Float64Array,
  at: number,
  shape: FilterShape,
  values: Float64Array,
  sampleRate: number,
): void {
  const k = 1 / values[1]!;
  into[at + SECTION.a] = values[0]! / sampleRate;
  into[at + SECTION.b] = 1;
  into[at + SECTION.c] = k;
  into[at + SECTION.m0] = shape === 'high' || shape === 'notch' ? 1 : 0;
  into[at + SECTION.m1] = shape === 'low' ? 0 : shape === 'band' ? k : -k;
  into[at + SECTION.m2] = shape === 'low' ? 1 : shape === 'high' ? -1 : 0;
  settleIn(into, at);
}

/** Where a section finds its two states and its numbers, and by how much those change with each frame. */
export type SectionRun = {
  readonly states: Float64Array;
  readonly state: number;
  readonly numbers: Float64Array;
  readonly slopes: Float64Array;
  readonly at: number;
  readonly slope: number;
};

/** Sends the first `count` samples through a section whose numbers stand still, in place. */
export function throughSteady(samples: Float64Array, count: Frames, { states, state, numbers, at }: SectionRun): void {
  let s = states[state]!;
  let r = states[state + 1]!;
  const a = numbers[at + SECTION.a]!;
  const b = numbers[at + SECTION.b]!;
  const c = numbers[at + SECTION.c]!;
  const m0 = numbers[at + SECTION.m0]!;
  const m1 = numbers[at + SECTION.m1]!;
  const m2 = numbers[at + SECTION.m2]!;
  for (let i = 0; i < count; i++) {
    const x = samples[i]!;
    const e = x - r;
    const s2 = a * s + b * e;
    const r2 = r + b * s + c * e;
    samples[i] = m0 * x + m1 * (s2 + s) + m2 * (r2 + r);
    s = s2;
    r = r2;
  }
  states[state] = s;
  states[state + 1] = r;
}

/** The same while its numbers move: they are left as they are for the sample after. */
export function throughMoving(
  samples: Float64Array,
  count: Frames,
  { states, state, numbers, slopes, at, slope }: SectionRun,
): void {
  let s = states[state]!;
  let r = states[state + 1]!;
  let a = numbers[at + SECTION.a]!;
  let b = numbers[at + SECTION.b]!;
  let c = numbers[at + SECTION.c]!;
  let m0 = numbers[at + SECTION.m0]!;
  let m1 = numbers[at + SECTION.m1]!;
  let m2 = numbers[at + SECTION.m2]!;
  const da = slopes[slope + SECTION.a]!;
  const db = slopes[slope + SECTION.b]!;
  const dc = slopes[slope + SECTION.c]!;
  const dm0 = slopes[slope + SECTION.m0]!;
  const dm1 = slopes[slope + SECTION.m1]!;
  const dm2 = slopes[slope + SECTION.m2]!;
  for (let i = 0; i < count; i++) {
    const x = samples[i]!;
    const e = x - r;
    const s2 = a * s + b * e;
    const r2 = r + b * s + c * e;
    samples[i] = m0 * x + m1 * (s2 + s) + m2 * (r2 + r);
    s = s2;
    r = r2;
    a += da;
    b += db;
    c += dc;
    m0 += dm0;
    m1 += dm1;
    m2 += dm2;
  }
  states[state] = s;
  states[state + 1] = r;
  numbers[at + SECTION.a] = a;
  numbers[at + SECTION.b] = b;
  numbers[at + SECTION.c] = c;
  numbers[at + SECTION.m0] = m0;
  numbers[at + SECTION.m1] = m1;
  numbers[at + SECTION.m2] = m2;
}
