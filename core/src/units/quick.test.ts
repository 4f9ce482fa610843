import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { quickExpInPlace, quickTanInPlace } from './index.js';
import { expectWithin } from '../test/often.js';
import { runs } from '../test/runs.js';

const of = (quick: (numbers: Float64Array, at: number) => void, x: number): number => {
  const numbers = Float64Array.of(7, x, 7);
  quick(numbers, 1);
  expectWithin(numbers[0]!, 7, Number.MIN_VALUE);
  expectWithin(numbers[2]!, 7, Number.MIN_VALUE);
  return numbers[1]!;
};

test('the quick functions are those of mathematics, and exact where nothing is to be done', () => {
  fc.assert(
    fc.property(
      fc.double({ min: -44, max: 44, noNaN: true }),
      fc.double({ min: 1e-6, max: 0.49, noNaN: true }),
      (x, u) => {
        expectWithin(of(quickExpInPlace, x) / Math.exp(x), 1, 4e-13);
        expectWithin(of(quickTanInPlace, u) / Math.tan(Math.PI * u), 1, 7e-12);
      },
    ),
    { numRuns: runs(5000) },
  );
  expect(of(quickExpInPlace, 0)).toBe(1);
  expect(of(quickTanInPlace, 0)).toBe(0);
});
