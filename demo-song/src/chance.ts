/** Numbers in 0 … 1 from a seed, the same every time (mulberry32). */
export type Chance = () => number;

export function chance(seed: number): Chance {
  let state = seed >>> 0;
  return () => {
    state = (state + 0x6d2b79f5) >>> 0;
    let z = state;
    z = Math.imul(z ^ (z >>> 15), z | 1);
    z ^= z + Math.imul(z ^ (z >>> 7), z | 61);
    return ((z ^ (z >>> 14)) >>> 0) / 4294967296;
  };
}

/** A number in −1 … 1. */
export const either = (random: Chance): number => random() * 2 - 1;
