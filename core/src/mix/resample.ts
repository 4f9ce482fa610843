import { bessel } from '../loudness/index.js';
import type { Frames } from '../units/index.js';

/** The filter: zero crossings on either side, the window's beta (about 100 dB down), and how much of the band passes. */
const FILTER = { crossings: 40, beta: 10, passes: 0.95 } as const;

const divisor = (a: number, b: number): number => (b ? divisor(b, a % b) : a);

/** How many frames a recording of so many has at another rate. */
export const framesAtRate = (frames: Frames, from: number, to: number): Frames => Math.ceil((frames * to) / from);

/**
 * Takes one channel from one sample rate to another, piece by piece: a sinc under a Kaiser window, one set of taps for
 * each place between two samples (polyphase). Time does not shift: frame 0 stays at frame 0.
 */
export class Resampler {
  readonly #up: number;
  readonly #down: number;
  readonly #reach: Frames;
  readonly #taps: Float64Array[] = [];
  readonly #width: number;
  /** Input not yet done with; its first sample is input frame `#first`. */
  #kept: Float64Array;
  #first: number;
  #count = 0;
  #next = 0;

  constructor(
    readonly from: number,
    readonly to: number,
  ) {
    const common = divisor(from, to);
    this.#up = to / common;
    this.#down = from / common;
    // Going down, the filter closes to the lower rate's band and grows longer in proportion.
    this.#width = Math.min(1, to / from) * FILTER.passes;
    this.#reach = Math.ceil(FILTER.crossings / this.#width);
    this.#kept = new Float64Array(2 * this.#reach + 65536);
    this.#first = -this.#reach;
    this.#count = this.#reach;
  }

  /** Takes samples; gives back those at the other rate that are settled by them. */
  push(samples: Float32Array, count: Frames = samples.length): Float32Array {
    this.#take(samples, count);
    return this.#give(Infinity);
  }

  /** What is left once no more come, up to `total` frames of output in all. */
  finish(total: Frames): Float32Array {
    const silence = new Float32Array(2 * this.#reach);
    this.#take(silence, silence.length);
    return this.#give(total);
  }

  #take(samples: Float32Array, count: Frames): void {
    // Everything before the next output's first tap is done with.
    const needed = Math.floor((this.#next * this.#down) / this.#up) - this.#reach + 1;
    const drop = Math.max(0, Math.min(this.#count, needed - this.#first));
    if (this.#count - drop + count > this.#kept.length) {
      const larger = new Float64Array(this.#count - drop + count + 65536);
      larger.set(this.#kept.subarray(drop, this.#count));
      this.#kept = larger;
    } else this.#kept.copyWithin(0, drop, this.#count);
    this.#count -= drop;
    this.#first += drop;
    for (let i = 0; i < count; i++) this.#kept[this.#count + i] = samples[i]!;
    this.#count += count;
  }

  #give(total: number): Float32Array {
    const last = this.#first + this.#count - 1 - this.#reach;
    const settled = Math.floor((last * this.#up) / this.#down) + 1;
    const count = Math.max(0, Math.min(settled, total) - this.#next);
    const out = new Float32Array(count);
    const span = 2 * this.#reach;
    for (let n = 0; n < count; n++, this.#next++) {
      const at = this.#next * this.#down;
      const whole = Math.floor(at / this.#up);
      const taps = this.#phase(at - whole * this.#up);
      let k = whole - this.#reach + 1 - this.#first;
      let sum = 0;
      for (let i = 0; i < span; i++, k++) sum += this.#kept[k]! * taps[i]!;
      out[n] = sum;
    }
    return out;
  }

  /** Taps for a place `phase` / up after a sample; made when first asked for. */
  #phase(phase: number): Float64Array {
    const known = this.#taps[phase];
    if (known) return known;
    const share = phase / this.#up;
    const taps = Float64Array.from({ length: 2 * this.#reach }, (_, k) => {
      const x = k - this.#reach + 1 - share;
      const u = x / this.#reach;
      const window = Math.abs(u) >= 1 ? 0 : bessel(FILTER.beta * Math.sqrt(1 - u * u)) / bessel(FILTER.beta);
      const angle = Math.PI * x * this.#width;
      return this.#width * (angle === 0 ? 1 : Math.sin(angle) / angle) * window;
    });
    const sum = taps.reduce((a, b) => a + b, 0);
    return (this.#taps[phase] = taps.map((tap) => tap / sum));
  }
}
