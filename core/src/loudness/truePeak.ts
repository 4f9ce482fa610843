/** Oversampling of the true peak (ITU-R BS.1770-4, annex 2, asks for four at 48 kHz), and taps on either side of a sample. */
const OVER = 4;
const REACH = 12;

/** Taps of the fractional phases 1/4, 2/4, 3/4: a sinc under a Kaiser window, each phase of unit gain. */
const PHASES: readonly Float64Array[] = Array.from({ length: OVER - 1 }, (_, i) => {
  const taps = Float64Array.from({ length: 2 * REACH }, (_t, k) => {
    const x = k - REACH + 1 - (i + 1) / OVER;
    return (Math.sin(Math.PI * x) / (Math.PI * x)) * kaiser(x / REACH);
  });
  const sum = taps.reduce((a, b) => a + b, 0);
  return taps.map((tap) => tap / sum);
});

/** The Kaiser window (beta 7) at u, −1 … 1. */
function kaiser(u: number): number {
  return Math.abs(u) >= 1 ? 0 : bessel(7 * Math.sqrt(1 - u * u)) / bessel(7);
}

/** The modified Bessel function of order zero, by its series. */
export function bessel(x: number): number {
  let term = 1;
  let sum = 1;
  for (let k = 1; term > 1e-12 * sum; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** No value between samples is further out than so many times the highest sample that its taps reach. */
const OVERSHOOT = Math.max(...PHASES.map((taps) => taps.reduce((sum, tap) => sum + Math.abs(tap), 0)));

/**
 * The taps of 1/4 are those of 3/4 turned round, and those of 2/4 are their own: so a pair of samples as far from the middle on either side is
 * taken as its sum and its difference, and there are half as many products. By pair, from the outermost in: what the sum counts in 2/4, and in
 * the mean of the other two; what the difference counts in half of what these are apart.
 */
const PAIRS = ((): Float64Array => {
  const [quarter, half] = PHASES as readonly [Float64Array, Float64Array];
  const pairs = new Float64Array(3 * REACH);
  for (let k = 0; k < REACH; k++) {
    const [one, other] = [quarter[k]!, quarter[2 * REACH - 1 - k]!];
    pairs.set([half[k]!, (one + other) / 2, (one - other) / 2], 3 * k);
  }
  return pairs;
})();

/** The highest magnitude of one channel between and on its samples, so far. Allocates nothing after its making. */
export class TruePeak {
  /** Twice over, so that the last taps always lie in one piece. */
  readonly #past = new Float64Array(4 * REACH);
  #at = 0;
  /** Samples since the last that was high enough to matter. */
  #quiet = 0;
  /** Linear; 1 is full scale. */
  highest = 0;

  add(samples: Float32Array, from: number, to: number): void {
    const past = this.#past;
    const n = 2 * REACH;
    let { highest } = this;
    let at = this.#at;
    for (let i = from; i < to; i++) {
      const x = samples[i]!;
      past[at] = x;
      past[at + n] = x;
      at = at + 1 === n ? 0 : at + 1;
      const own = x < 0 ? -x : x;
      if (own > highest) highest = own;
      this.#quiet = own * OVERSHOOT < highest ? this.#quiet + 1 : 0;
      if (this.#quiet > n) continue;
      let between = 0;
      let mean = 0;
      let apart = 0;
      for (let k = 0, tap = 0, early = at, late = at + n - 1; k < REACH; k++, tap += 3, early++, late--) {
        const sum = past[early]! + past[late]!;
        between += sum * PAIRS[tap]!;
        mean += sum * PAIRS[tap + 1]!;
        apart += (past[early]! - past[late]!) * PAIRS[tap + 2]!;
      }
      if (between < 0) between = -between;
      if (mean < 0) mean = -mean;
      if (apart < 0) apart = -apart;
      if (between > highest) highest = between;
      // The further out of the two.
      if (mean + apart > highest) highest = mean + apart;
    }
    this.#at = at;
    this.highest = highest;
  }

  clear(): void {
    this.#past.fill(0);
    this.highest = 0;
    this.#quiet = 0;
  }
}
