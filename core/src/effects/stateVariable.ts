import { quickExpInPlace, quickTanInPlace, type Frames } from '../units/index.js';

/**
 * Second-order sections in the state-variable form with trapezoidal integrators (A. Simper, "Solving the continuous SVF equations using
 * trapezoidal integration", 2013; V. Zavalishin, "The Art of VA Filter Design"). At a steady setting each is, sample for sample, the biquad of the
 * W3C note "Audio EQ Cookbook" (R. Bristow-Johnson): both are the bilinear transform of one analogue prototype.
 *
 * A section is six numbers, a step of which is, for input x and states s, r: e = x − r; s′ = a·s + b·e; r′ = r + b·s + c·e;
 * y = d·x + p·s + q·r. For every g and k above 0 the step of the states shrinks their energy (it is a Cayley transform);
 * so does any mixture of two such steps: the six numbers may go straight from any setting to any other, and it stays stable.
 */
export const SECTION = { a: 0, b: 1, c: 2, d: 3, p: 4, q: 5, length: 6 } as const;

/** Frequencies stop here, of the sample rate. */
const HIGHEST = 0.49;

/**
 * The six numbers of a section, from what stands in their places: a frequency in Hz as a part of the sample rate and a factor on what it is
 * bent to, a damping k, and what of the input, of the band at that frequency and of what lies below it is given out. In place, as all that the audio thread works out: numbers that calls
 * take or give back may be new things in memory.
 */
function settleIn(into: Float64Array, at: number): void {
  if (into[at + SECTION.a]! > HIGHEST) into[at + SECTION.a] = HIGHEST;
  quickTanInPlace(into, at + SECTION.a);
  const g = into[at + SECTION.a]! * into[at + SECTION.b]!;
  const a1 = 1 / (1 + g * (g + into[at + SECTION.c]!));
  const b = 2 * g * a1;
  const c = g * b;
  // The band is (s′ + s) / 2, what is below it (r′ + r) / 2.
  const band = into[at + SECTION.p]! / 2;
  const below = into[at + SECTION.q]! / 2;
  into[at + SECTION.a] = 2 * a1 - 1;
  into[at + SECTION.b] = b;
  into[at + SECTION.c] = c;
  into[at + SECTION.d]! += band * b + below * c;
  into[at + SECTION.p] = band * 2 * a1 + below * b;
  into[at + SECTION.q] = below * (2 - c) - band * b;
}

/** The shapes of a band of an equaliser, shelves by Q. */
export const BAND_SHAPES = ['lowShelf', 'peak', 'highShelf'] as const;
export type BandShape = (typeof BAND_SHAPES)[number];
/** The shapes of a filter; `band` has its peak at 0 dB. */
export const FILTER_SHAPES = ['low', 'high', 'band', 'notch'] as const;
export type FilterShape = (typeof FILTER_SHAPES)[number];

/** Nepers, to which e is the base, of a dB. */
export const NEPER = Math.LN10 / 20;

/** Puts a band into its place as a section; from `of` on stand its frequency in Hz, its gain in dB and its Q. */
export function bandInto(
  into: Float64Array,
  at: number,
  shape: BandShape,
  values: Float64Array,
  of: number,
  sampleRate: number,
): void {
  const isPeak = shape === 'peak';
  const isLow = shape === 'lowShelf';
  // The square root of the gain, as the note has it.
  into[at + SECTION.d] = (values[of + 1]! / 2) * NEPER;
  quickExpInPlace(into, at + SECTION.d);
  const gain = into[at + SECTION.d]!;
  const square = gain * gain;
  const q = values[of + 2]! * (isPeak ? gain : 1);
  into[at + SECTION.a] = values[of]! / sampleRate;
  into[at + SECTION.b] = isPeak ? 1 : isLow ? 1 / Math.sqrt(gain) : Math.sqrt(gain);
  into[at + SECTION.c] = 1 / q;
  into[at + SECTION.d] = shape === 'highShelf' ? square : 1;
  into[at + SECTION.p] = (isPeak ? square - 1 : isLow ? gain - 1 : (1 - gain) * gain) / q;
  into[at + SECTION.q] = isPeak ? 0 : isLow ? square - 1 : 1 - square;
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
  into[at + SECTION.d] = shape === 'high' || shape === 'notch' ? 1 : 0;
  into[at + SECTION.p] = shape === 'low' ? 0 : shape === 'band' ? k : -k;
  into[at + SECTION.q] = shape === 'low' ? 1 : shape === 'high' ? -1 : 0;
  settleIn(into, at);
}

/** Two sections in a row as they run, in a list: the two states of each, then the six numbers of each as they are now. */
export const RUN = { states: 0, numbers: 4, length: 4 + 2 * SECTION.length } as const;

/** Puts a section into its place that lets everything through. */
export function flatInto(into: Float64Array, at: number): void {
  for (let k = 0; k < SECTION.length; k++) into[at + k] = k === SECTION.d ? 1 : 0;
}

/** Below this a state that dies away is none: numbers too small to be quick are never reached. */
const NOTHING = 1e-25;

/** Puts the states of a run that have died away to rest. */
export function settleRun(list: Float64Array, run: number): void {
  for (let i = run; i < run + RUN.numbers; i++) if (Math.abs(list[i]!) < NOTHING) list[i] = 0;
}

/**
 * Sends the first `count` samples through one section of a run, in place, its numbers going on with each. In a list stand, at these
 * places, the run and the slopes of both its sections.
 */
export function throughSection(
  samples: Float64Array,
  count: Frames,
  list: Float64Array,
  run: number,
  slopes: number,
  section: 0 | 1,
): void {
  const state = run + RUN.states + 2 * section;
  const at = run + RUN.numbers + SECTION.length * section;
  const slope = slopes + SECTION.length * section;
  let s = list[state]!;
  let r = list[state + 1]!;
  let a = list[at + SECTION.a]!;
  let b = list[at + SECTION.b]!;
  let c = list[at + SECTION.c]!;
  let d = list[at + SECTION.d]!;
  let p = list[at + SECTION.p]!;
  let q = list[at + SECTION.q]!;
  for (let i = 0; i < count; i++) {
    const x = samples[i]!;
    const e = x - r;
    const s2 = a * s + b * e;
    samples[i] = d * x + (p * s + q * r);
    r = r + b * s + c * e;
    s = s2;
    a += list[slope + SECTION.a]!;
    b += list[slope + SECTION.b]!;
    c += list[slope + SECTION.c]!;
    d += list[slope + SECTION.d]!;
    p += list[slope + SECTION.p]!;
    q += list[slope + SECTION.q]!;
  }
  list[state] = s;
  list[state + 1] = r;
  list[at + SECTION.a] = a;
  list[at + SECTION.b] = b;
  list[at + SECTION.c] = c;
  list[at + SECTION.d] = d;
  list[at + SECTION.p] = p;
  list[at + SECTION.q] = q;
}
