import type { Point, Shape } from './point.js';

/** Whether a shape at this bend is a straight line in travel. */
export const isStraight = (shape: Shape, bend: number): boolean => shape === 'line' || (shape !== 'hold' && bend === 0);

/**
 * The fraction of the way in travel after the share u (0 … 1) of a segment's time (rules, 2).
 * `hold` stays at 0 until the next point.
 */
export function shapeFraction(shape: Shape, bend: number, u: number): number {
  if (shape === 'line') return u;
  if (shape === 'hold') return 0;
  const p = 2 ** (3 * Math.abs(bend));
  if (shape === 'bend') return bend >= 0 ? u ** p : 1 - (1 - u) ** p;
  if (bend >= 0) return u < 0.5 ? 0.5 * (2 * u) ** p : 1 - 0.5 * (2 - 2 * u) ** p;
  return u < 0.5 ? 0.5 * (1 - (1 - 2 * u) ** p) : 0.5 + 0.5 * (2 * u - 1) ** p;
}

/** {@link shapeFraction} of the part [u0, u1] of a shape; u itself where the part has no height. */
export function partFraction(shape: Shape, bend: number, u0: number, u1: number, u: number): number {
  if (u0 === 0 && u1 === 1) return shapeFraction(shape, bend, u);
  if (shape === 'hold') return 0;
  const from = shapeFraction(shape, bend, u0);
  const height = shapeFraction(shape, bend, u1) - from;
  if (height === 0) return u;
  return (shapeFraction(shape, bend, u0 + (u1 - u0) * u) - from) / height;
}

/** The point with its segment cut to the share [from, to] of what it was; straight and held segments need no part. */
export function withPart(point: Point, from: number, to: number): Point {
  if (isStraight(point.shape, point.bend) || point.shape === 'hold' || (from === 0 && to === 1)) return point;
  const [u0, u1] = point.part ?? [0, 1];
  return { ...point, part: [u0 + (u1 - u0) * from, u0 + (u1 - u0) * to] };
}
