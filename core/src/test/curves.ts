import fc from 'fast-check';
import { SHAPES, linePoint, type Point } from '../curve/index.js';
import { LEVEL_LAW, valueOf } from '../units/index.js';
import { expectWithin } from './often.js';

/** A share, 0 … 1. */
export const share = fc.double({ min: 0, max: 1, noNaN: true });
const point = fc.record({
  gap: fc.double({ min: 0.05, max: 6, noNaN: true }),
  x: share,
  shape: fc.constantFrom(...SHAPES),
  bend: fc.double({ min: -1, max: 1, noNaN: true }),
  step: fc.boolean(),
});
/** Level below −144 dB is silence, which takes this much off the foot of the throw. */
export const FOOT = 4e-6 + 1e-12;
export const expectNear = (is: number, wanted: number, within = 1e-9): void =>
  expectWithin(is, wanted, is < FOOT && wanted < FOOT ? FOOT : within);
/** Curves of a level, of every shape, with steps. */
export const curves = fc.array(point, { maxLength: 9 }).map((drawn) => {
  let t = 0;
  return drawn.flatMap(({ gap, x, shape, bend, step }): Point[] => {
    t += gap;
    const p = { t, v: valueOf(LEVEL_LAW, x), shape, bend };
    return step ? [linePoint(t, valueOf(LEVEL_LAW, 1 - x)), p] : [p];
  });
});
