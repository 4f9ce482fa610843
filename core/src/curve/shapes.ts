import type { Point, Shape } from './point.js';

/** Whether a shape at this bend is a straight line in travel. */
export const isStraight = (shape: Shape, bend: number): boolean => shape === 'line' || (shape !== 'hold' && bend === 0);

/**
 * What the fractions below are worked out from, and where they are left. A number that a call takes or gives back may be a new
 * thing in memory, which the audio thread must not make; a number among these is not.
 */
export const PART = new Float64Array(4);
/** Places in {@link PART}: the share of the time, which becomes the fraction of the way; the bend; the part of the shape. */
export const [SHARE, BEND, FROM, TO] = [0, 1, 2, 3] as const;

/**
 * The fraction of the way in travel after the share u (0 … 1) of a segment's time (rules, 2).
 * `hold` stays at 0 until the next point.
 */
export function shapeFraction(shape: Shape, bend: number, u: number): number {
  PART[BEND] = bend;
  PART[SHARE] = u;
  fractionInPlace(shape, SHARE);
  return PART[SHARE]!;
}

/** {@link shapeFraction} of the share at a place in {@link PART}, in place. */
function fractionInPlace(shape: Shape, at: number): void {
  if (shape === 'line') return;
  const u = PART[at]!;
  const bend = PART[BEND]!;
  const p = 2 ** (3 * Math.abs(bend));
  if (shape === 'hold') PART[at] = 0;
  else if (shape === 'bend') PART[at] = bend >= 0 ? u ** p : 1 - (1 - u) ** p;
  else if (bend >= 0) PART[at] = u < 0.5 ? 0.5 * (2 * u) ** p : 1 - 0.5 * (2 - 2 * u) ** p;
  else PART[at] = u < 0.5 ? 0.5 * (1 - (1 - 2 * u) ** p) : 0.5 + 0.5 * (2 * u - 1) ** p;
}

/** {@link shapeFraction} of the part [u0, u1] of a shape; u itself where the part has no height. */
export function partFraction(shape: Shape, bend: number, u0: number, u1: number, u: number): number {
  PART[BEND] = bend;
  PART[FROM] = u0;
  PART[TO] = u1;
  PART[SHARE] = u;
  partInPlace(shape);
  return PART[SHARE]!;
}

/** {@link partFraction} of the numbers in {@link PART}, in place. */
export function partInPlace(shape: Shape): void {
  const u = PART[SHARE]!;
  const from = PART[FROM]!;
  const to = PART[TO]!;
  if (from === 0 && to === 1) return fractionInPlace(shape, SHARE);
  PART[SHARE] = from + (to - from) * u;
  for (let at = 0; at < PART.length; at++) if (at !== BEND) fractionInPlace(shape, at);
  const height = PART[TO]! - PART[FROM]!;
  if (height !== 0) PART[SHARE] = (PART[SHARE]! - PART[FROM]!) / height;
  else PART[SHARE] = shape === 'hold' ? 0 : u;
}

/** The point with its segment cut to the share [from, to] of what it was; straight and held segments need no part. */
export function withPart(point: Point, from: number, to: number): Point {
  if (isStraight(point.shape, point.bend) || point.shape === 'hold' || (from === 0 && to === 1)) return point;
  const [u0, u1] = point.part ?? [0, 1];
  return { ...point, part: [u0 + (u1 - u0) * from, u0 + (u1 - u0) * to] };
}
