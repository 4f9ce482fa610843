import { clamp, gainOfDb, type Frames } from '../units/index.js';

/**
 * Second-order sections in the state-variable form with trapezoidal integrators (A. Simper, "Solving the continuous SVF equations using
 * trapezoidal integration", 2013; V. Zavalishin, "The Art of VA Filter Design"). At a steady setting each is, sample for sample, the biquad of the
 * W3C note "Audio EQ Cookbook" (R. Bristow-Johnson): both are the bilinear transform of one analogue prototype. Its states are those
 * of the prototype, so that it may be moved at any speed: it stays stable for every g and k above 0, and its states never jump.
 *
 * A section is five numbers: g and k, and how much of the input, the band and the low goes out: y = m0·x + m1·band + m2·low.
 */
export const SECTION = { g: 0, k: 1, m0: 2, m1: 3, m2: 4, length: 5 } as const;

/** Frequencies stop here, of the sample rate. */
const HIGHEST = 0.49;

/** tan(π f / rate): the analogue frequency, bent so that it lies right at f. */
const bent = (hz: number, sampleRate: number): number => Math.tan(Math.PI * clamp(hz / sampleRate, 0, HIGHEST));

function put(into: Float64Array, at: number, g: number, k: number, m0: number, m1: number, m2: number): void {
  into[at + SECTION.g] = g;
  into[at + SECTION.k] = k;
  into[at + SECTION.m0] = m0;
  into[at + SECTION.m1] = m1;
  into[at + SECTION.m2] = m2;
}

/** The shapes of a band of an equaliser, shelves by Q. */
export const BAND_SHAPES = ['lowShelf', 'peak', 'highShelf'] as const;
export type BandShape = (typeof BAND_SHAPES)[number];
/** The shapes of a filter; `band` has its peak at 0 dB. */
export const FILTER_SHAPES = ['low', 'high', 'band', 'notch'] as const;
export type FilterShape = (typeof FILTER_SHAPES)[number];

/** A band as a section: frequency in Hz, gain in dB, Q. */
export function bandSection(
  into: Float64Array,
  at: number,
  shape: BandShape,
  { hz, gainDb, q, sampleRate }: { hz: number; gainDb: number; q: number; sampleRate: number },
): void {
  const g = bent(hz, sampleRate);
  // The square root of the gain, as the note has it.
  const a = gainOfDb(gainDb / 2);
  switch (shape) {
    case 'lowShelf':
      return put(into, at, g / Math.sqrt(a), 1 / q, 1, (a - 1) / q, a * a - 1);
    case 'peak':
      return put(into, at, g, 1 / (q * a), 1, (a * a - 1) / (q * a), 0);
    case 'highShelf':
      return put(into, at, g * Math.sqrt(a), 1 / q, a * a, ((1 - a) * a) / q, 1 - a * a);
  }
}

/** A filter as a section: frequency in Hz, resonance as Q. */
export function filterSection(
  into: Float64Array,
  at: number,
  shape: FilterShape,
  { hz, q, sampleRate }: { hz: number; q: number; sampleRate: number },
): void {
  const g = bent(hz, sampleRate);
  const k = 1 / q;
  switch (shape) {
    case 'low':
      return put(into, at, g, k, 0, 0, 1);
    case 'high':
      return put(into, at, g, k, 1, -k, -1);
    case 'band':
      return put(into, at, g, k, 0, k, 0);
    case 'notch':
      return put(into, at, g, k, 1, -k, 0);
  }
}

/** Where a section finds its two states and its numbers, and by how much those change with each frame. */
export type SectionRun = {
  readonly states: Float64Array;
  readonly state: number;
  readonly starts: Float64Array;
  readonly slopes: Float64Array;
  readonly at: number;
};

/** Sends the first `count` samples through a section whose numbers stand still, in place. */
export function throughSteady(samples: Float64Array, count: Frames, { states, state, starts, at }: SectionRun): void {
  let s1 = states[state]!;
  let s2 = states[state + 1]!;
  const g = starts[at + SECTION.g]!;
  const m0 = starts[at + SECTION.m0]!;
  const m1 = starts[at + SECTION.m1]!;
  const m2 = starts[at + SECTION.m2]!;
  const a1 = 1 / (1 + g * (g + starts[at + SECTION.k]!));
  const a2 = g * a1;
  const a3 = g * a2;
  for (let i = 0; i < count; i++) {
    const x = samples[i]!;
    const v3 = x - s2;
    const v1 = a1 * s1 + a2 * v3;
    const v2 = s2 + a2 * s1 + a3 * v3;
    s1 = 2 * v1 - s1;
    s2 = 2 * v2 - s2;
    samples[i] = m0 * x + m1 * v1 + m2 * v2;
  }
  states[state] = s1;
  states[state + 1] = s2;
}

/** The same while its numbers move; `done` frames of the stretch lie before the first sample. */
export function throughMoving(
  samples: Float64Array,
  count: Frames,
  { states, state, starts, slopes, at }: SectionRun,
  done: Frames,
): void {
  let s1 = states[state]!;
  let s2 = states[state + 1]!;
  const g0 = starts[at + SECTION.g]!;
  const k0 = starts[at + SECTION.k]!;
  const m00 = starts[at + SECTION.m0]!;
  const m10 = starts[at + SECTION.m1]!;
  const m20 = starts[at + SECTION.m2]!;
  const dg = slopes[at + SECTION.g]!;
  const dk = slopes[at + SECTION.k]!;
  const dm0 = slopes[at + SECTION.m0]!;
  const dm1 = slopes[at + SECTION.m1]!;
  const dm2 = slopes[at + SECTION.m2]!;
  for (let i = 0; i < count; i++) {
    const d = done + i;
    const g = g0 + dg * d;
    const x = samples[i]!;
    const v3 = x - s2;
    const v1 = (s1 + g * v3) / (1 + g * (g + k0 + dk * d));
    const v2 = s2 + g * v1;
    s1 = 2 * v1 - s1;
    s2 = 2 * v2 - s2;
    samples[i] = (m00 + dm0 * d) * x + (m10 + dm1 * d) * v1 + (m20 + dm2 * d) * v2;
  }
  states[state] = s1;
  states[state + 1] = s2;
}
