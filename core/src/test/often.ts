import { expect } from '@jest/globals';

/** Where two rows of numbers first differ; −1 where they are the same to the bit. Quick over sound, as `toEqual` is not. */
export function firstOther(is: ArrayLike<number>, wanted: ArrayLike<number>): number {
  const count = Math.max(is.length, wanted.length);
  for (let i = 0; i < count; i++) if (!Object.is(is[i], wanted[i])) return i;
  return -1;
}

/** As `expect(Math.abs(is - wanted)).toBeLessThan(most)`, for loops of thousands: `expect` makes all its matchers at each call. */
export function expectWithin(is: number, wanted: number, most: number): void {
  const off = Math.abs(is - wanted);
  if (!(off < most)) expect(off).toBeLessThan(most);
}
