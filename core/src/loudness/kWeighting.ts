/** One second-order section: y = b0 x + b1 x1 + b2 x2 − a1 y1 − a2 y2. */
type Section = { readonly b: readonly [number, number, number]; readonly a: readonly [number, number] };

/**
 * The two sections of the K weighting (ITU-R BS.1770-4, annex 1) at any sample rate: the shelf of the head and the
 * high pass, from the analogue prototypes whose bilinear transforms at 48 kHz are the recommendation's own numbers.
 */
export function kSections(sampleRate: number): readonly [Section, Section] {
  const shelf = { hz: 1681.974450955533, gainDb: 3.999843853973347, q: 0.7071752369554196 };
  const k = Math.tan((Math.PI * shelf.hz) / sampleRate);
  const high = 10 ** (shelf.gainDb / 20);
  const band = high ** 0.4996667741545416;
  const a0 = 1 + k / shelf.q + k * k;
  const pass = { hz: 38.13547087602444, q: 0.5003270373238773 };
  const l = Math.tan((Math.PI * pass.hz) / sampleRate);
  const c0 = 1 + l / pass.q + l * l;
  return [
    {
      b: [
        (high + (band * k) / shelf.q + k * k) / a0,
        (2 * (k * k - high)) / a0,
        (high - (band * k) / shelf.q + k * k) / a0,
      ],
      a: [(2 * (k * k - 1)) / a0, (1 - k / shelf.q + k * k) / a0],
    },
    { b: [1, -2, 1], a: [(2 * (l * l - 1)) / c0, (1 - l / pass.q + l * l) / c0] },
  ];
}

/** K weighting of one channel, sample by sample; sums the squares of what it gives. Allocates nothing. */
export class KWeighted {
  readonly #state = new Float64Array(4);
  readonly #shelf: Section;
  readonly #pass: Section;

  constructor(sampleRate: number) {
    [this.#shelf, this.#pass] = kSections(sampleRate);
  }

  /** Adds the sum of squares of the next samples, `from` to `to`, after weighting, to the first place of `sum`. */
  addEnergy(sum: Float64Array, samples: Float32Array, from: number, to: number): void {
    const { b: p, a: q } = this.#shelf;
    const { b: r, a: s } = this.#pass;
    const state = this.#state;
    let u1 = state[0]!;
    let u2 = state[1]!;
    let w1 = state[2]!;
    let w2 = state[3]!;
    let energy = 0;
    for (let i = from; i < to; i++) {
      // Transposed direct form II; the constant keeps a decaying tail from numbers too small to be quick.
      const x = samples[i]! + 1e-20;
      const u = p[0] * x + u1;
      u1 = p[1] * x - q[0] * u + u2;
      u2 = p[2] * x - q[1] * u;
      const w = r[0] * u + w1;
      w1 = r[1] * u - s[0] * w + w2;
      w2 = r[2] * u - s[1] * w;
      energy += w * w;
    }
    state[0] = u1;
    state[1] = u2;
    state[2] = w1;
    state[3] = w2;
    sum[0]! += energy;
  }

  clear(): void {
    this.#state.fill(0);
  }
}
