import type { Db } from '../units/index.js';
import { BAND_SHAPES, FILTER_SHAPES, type BandShape, type FilterShape } from './stateVariable.js';

/** How loud each frequency comes out, in dB. */
export type Response = (hz: number) => Db;
type Quadratic = readonly [number, number, number];

/** Frequencies stop here, as a share of the sample rate. */
const MOST_SHARE = 0.49;

/** The biquads of the W3C note "Audio EQ Cookbook", as they stand there: numerator and denominator. */
function cookbook(
  shape: BandShape | FilterShape,
  hz: number,
  q: number,
  db: Db,
  sampleRate: number,
): readonly [Quadratic, Quadratic] {
  const A = 10 ** (db / 40);
  const w0 = (2 * Math.PI * Math.min(hz, MOST_SHARE * sampleRate)) / sampleRate;
  const cos = Math.cos(w0);
  const alpha = Math.sin(w0) / (2 * q);
  const root = 2 * Math.sqrt(A) * alpha;
  const below: Quadratic = [1 + alpha, -2 * cos, 1 - alpha];
  switch (shape) {
    case 'low':
      return [[(1 - cos) / 2, 1 - cos, (1 - cos) / 2], below];
    case 'high':
      return [[(1 + cos) / 2, -(1 + cos), (1 + cos) / 2], below];
    case 'band':
      return [[alpha, 0, -alpha], below];
    case 'notch':
      return [[1, -2 * cos, 1], below];
    case 'peak':
      return [
        [1 + alpha * A, -2 * cos, 1 - alpha * A],
        [1 + alpha / A, -2 * cos, 1 - alpha / A],
      ];
    case 'lowShelf':
      return [
        [A * (A + 1 - (A - 1) * cos + root), 2 * A * (A - 1 - (A + 1) * cos), A * (A + 1 - (A - 1) * cos - root)],
        [A + 1 + (A - 1) * cos + root, -2 * (A - 1 + (A + 1) * cos), A + 1 + (A - 1) * cos - root],
      ];
    case 'highShelf':
      return [
        [A * (A + 1 + (A - 1) * cos + root), -2 * A * (A - 1 + (A + 1) * cos), A * (A + 1 + (A - 1) * cos - root)],
        [A + 1 - (A - 1) * cos + root, 2 * (A - 1 - (A + 1) * cos), A + 1 - (A - 1) * cos - root],
      ];
  }
}

/** The square of how large a quadratic is on the unit circle, at an angle. */
function sizeSquared([c0, c1, c2]: Quadratic, w: number): number {
  const re = c0 + c1 * Math.cos(w) + c2 * Math.cos(2 * w);
  const im = c1 * Math.sin(w) + c2 * Math.sin(2 * w);
  return re * re + im * im;
}

/** What a section of a shape does to each frequency, at a steady setting. */
export function sectionResponse(
  shape: BandShape | FilterShape,
  { hz, q, db }: { readonly hz: number; readonly q: number; readonly db: Db },
  sampleRate: number,
): Response {
  const [over, under] = cookbook(shape, hz, q, db, sampleRate);
  return (at) => {
    const w = (2 * Math.PI * at) / sampleRate;
    return 10 * Math.log10(Math.max(1e-30, sizeSquared(over, w)) / sizeSquared(under, w));
  };
}

/** Shapes as settings hold them, which come from outside. */
export const asBandShape = (shape: unknown): BandShape => BAND_SHAPES.find((one) => one === shape) ?? 'peak';
export const asFilterShape = (shape: unknown): FilterShape => FILTER_SHAPES.find((one) => one === shape) ?? 'low';
