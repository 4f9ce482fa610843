/**
 * The few functions that the audio thread asks for hundreds of thousands of times a second, as polynomials: quicker than the machine's own,
 * and the same on every machine to the last bit, in vectors too (sections.wat says them operation for operation).
 */

const POWERS = 64;
/** Two to the power of −64 … 64. */
const POWER_OF_TWO = Float64Array.from({ length: 2 * POWERS + 1 }, (_, i) => 2 ** (i - POWERS));

/**
 * e to the power of the number at a place among others, in place, for −44 … 44: within 4e-13 of itself. Taylor's polynomial of what is
 * left once a power of two is taken out.
 */
export function quickExpInPlace(numbers: Float64Array, at: number): void {
  const v = numbers[at]!;
  const k = Math.floor(v * Math.LOG2E + 0.5);
  const f = v - k * Math.LN2;
  const g = f * f;
  const high = 1 / 40320 + f * (1 / 362880) + g * (1 / 3628800);
  const low = 1 / 24 + f * (1 / 120) + g * (1 / 720 + f * (1 / 5040) + g * high);
  numbers[at] = POWER_OF_TWO[k + POWERS]! * (1 + f + g * (1 / 2 + f * (1 / 6) + g * low));
}

/** Taylor's polynomial of sin πu, by odd powers of u. */
const SINE = Array.from({ length: 8 }, (_, i) => {
  const n = 2 * i + 1;
  let part = i % 2 ? -1 : 1;
  for (let k = 1; k <= n; k++) part *= Math.PI / k;
  return part;
}) as unknown as readonly [number, number, number, number, number, number, number, number];
const [S1, S3, S5, S7, S9, S11, S13, S15] = SINE;

/** tan πu of the number u at a place among others, in place, for 0 … 0.49: within 7e-12 of itself. */
export function quickTanInPlace(numbers: Float64Array, at: number): void {
  const u = numbers[at]!;
  const w = 0.5 - u;
  const a = u * u;
  const b = w * w;
  const sine = u * (S1 + a * (S3 + a * (S5 + a * (S7 + a * (S9 + a * (S11 + a * (S13 + a * S15)))))));
  const cosine = w * (S1 + b * (S3 + b * (S5 + b * (S7 + b * (S9 + b * (S11 + b * (S13 + b * S15)))))));
  numbers[at] = sine / cosine;
}
