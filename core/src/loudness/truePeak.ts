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
    const [quarter, half, threeQuarters] = PHASES as readonly [Float64Array, Float64Array, Float64Array];
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
      // All phases in one round: each sample is fetched once for them.
      let y1 = 0;
      let y2 = 0;
      let y3 = 0;
      for (let k = 0; k < n; k++) {
        const before = past[at + k]!;
        y1 += before * quarter[k]!;
        y2 += before * half[k]!;
        y3 += before * threeQuarters[k]!;
      }
      if (y1 < 0) y1 = -y1;
      if (y2 < 0) y2 = -y2;
      if (y3 < 0) y3 = -y3;
      if (y1 > highest) highest = y1;
      if (y2 > highest) highest = y2;
      if (y3 > highest) highest = y3;
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
