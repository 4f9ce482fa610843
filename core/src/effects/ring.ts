import type { Frames } from '../units/index.js';

/** The last samples of one side, as many as are asked for and more; read a fraction of a frame back by a cubic through four. */
export class Ring {
  readonly past: Float32Array;
  readonly mask: number;

  /** `furthest`: so many frames back it can be read. */
  constructor(furthest: Frames) {
    // A power of two, so that a place is found by its lowest bits; four more for the cubic.
    this.past = new Float32Array(2 ** Math.ceil(Math.log2(furthest + 5)));
    this.mask = this.past.length - 1;
  }

  clear(): void {
    this.past.fill(0);
  }
}

/**
 * The sample some frames before place `at` of a ring, at least one: as many as stand at a place among numbers, where the sample comes.
 * Through the four around it, as Catmull and Rom have it; where it falls on one, that one.
 */
export function tapInPlace(past: Float32Array, mask: number, at: number, numbers: Float64Array, place: number): void {
  const back = numbers[place]!;
  const whole = back | 0;
  const part = back - whole;
  const one = past[(at - whole) & mask]!;
  if (part === 0) {
    numbers[place] = one;
    return;
  }
  const newer = past[(at - whole + 1) & mask]!;
  const two = past[(at - whole - 1) & mask]!;
  const older = past[(at - whole - 2) & mask]!;
  const c1 = (two - newer) / 2;
  const c2 = newer - 2.5 * one + 2 * two - older / 2;
  const c3 = (older - newer) / 2 + 1.5 * (one - two);
  numbers[place] = one + part * (c1 + part * (c2 + part * c3));
}
