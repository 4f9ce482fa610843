import { KWeighted } from './kWeighting.js';
import { TruePeak } from './truePeak.js';

/** Loudness units; of a programme relative to full scale (LUFS), or of a difference (LU). */
export type Lufs = number;

/** Blocks of 100 ms from which the 400 ms and 3 s windows are made: three quarters of a momentary window overlap. */
const BLOCK_SEC = 0.1;
const MOMENTARY_BLOCKS = 4;
const SHORT_TERM_BLOCKS = 30;

/** Loudness of a mean square, summed over the channels (ITU-R BS.1770-4); −Infinity for silence. */
export const loudnessOf = (meanSquare: number): Lufs =>
  meanSquare > 1e-15 ? -0.691 + 10 * Math.log10(meanSquare) : -Infinity;

/**
 * Momentary (400 ms) and short-term (3 s) loudness of a stereo programme as it goes by, renewed every 100 ms, and its
 * true peak. Allocates nothing after its making, so it runs in the audio thread; `onBlock` is told of every 100 ms.
 */
export class LoudnessMeter {
  readonly #weighted: readonly [KWeighted, KWeighted];
  readonly #peaks: readonly [TruePeak, TruePeak] = [new TruePeak(), new TruePeak()];
  readonly #ring = new Float64Array(SHORT_TERM_BLOCKS);
  readonly #edges: (block: number) => number;
  #blocks = 0;
  #frames = 0;
  readonly #sum = new Float64Array(1);
  #blockEnd: number;
  #blockStart = 0;

  constructor(
    sampleRate: number,
    readonly onBlock: ((meter: LoudnessMeter) => void) | null = null,
  ) {
    this.#weighted = [new KWeighted(sampleRate), new KWeighted(sampleRate)];
    // A tenth of a second is no whole number of frames at every rate: block edges are rounded, and do not drift.
    this.#edges = (block) => Math.round((block + 1) * BLOCK_SEC * sampleRate);
    this.#blockEnd = this.#edges(0);
  }

  /** Takes the next `count` frames of left and right. */
  add(left: Float32Array, right: Float32Array, count: number): void {
    this.#peaks[0].add(left, 0, count);
    this.#peaks[1].add(right, 0, count);
    for (let from = 0; from < count;) {
      const to = Math.min(count, from + this.#blockEnd - this.#frames);
      this.#weighted[0].addEnergy(this.#sum, left, from, to);
      this.#weighted[1].addEnergy(this.#sum, right, from, to);
      this.#frames += to - from;
      from = to;
      if (this.#frames === this.#blockEnd) this.#closeBlock();
    }
  }

  #closeBlock(): void {
    this.#ring[this.#blocks % SHORT_TERM_BLOCKS] = this.#sum[0]! / (this.#blockEnd - this.#blockStart);
    this.#sum[0] = 0;
    this.#blockStart = this.#blockEnd;
    this.#blocks++;
    this.#blockEnd = this.#edges(this.#blocks);
    this.onBlock?.(this);
  }

  /** Mean square of the last so many blocks; what lies before the start is silence. */
  #mean(blocks: number): number {
    let sum = 0;
    for (let i = 1; i <= Math.min(blocks, this.#blocks); i++)
      sum += this.#ring[(this.#blocks - i) % SHORT_TERM_BLOCKS]!;
    return sum / blocks;
  }

  /** Blocks of 100 ms since the start. */
  get blocks(): number {
    return this.#blocks;
  }
  get momentaryPower(): number {
    return this.#mean(MOMENTARY_BLOCKS);
  }
  get shortTermPower(): number {
    return this.#mean(SHORT_TERM_BLOCKS);
  }
  get momentary(): Lufs {
    return loudnessOf(this.momentaryPower);
  }
  get shortTerm(): Lufs {
    return loudnessOf(this.shortTermPower);
  }
  /** Highest true peak of either side so far, linear. */
  get truePeak(): number {
    return Math.max(this.#peaks[0].highest, this.#peaks[1].highest);
  }
  /** Whether a whole momentary or short-term window has gone by. */
  get hasMomentary(): boolean {
    return this.#blocks >= MOMENTARY_BLOCKS;
  }
  get hasShortTerm(): boolean {
    return this.#blocks >= SHORT_TERM_BLOCKS;
  }

  clearPeak(): void {
    this.#peaks.forEach((peak) => peak.clear());
  }

  clear(): void {
    this.clearPeak();
    this.#weighted.forEach((one) => one.clear());
    this.#ring.fill(0);
    this.#blocks = this.#frames = this.#sum[0] = this.#blockStart = 0;
    this.#blockEnd = this.#edges(0);
  }
}
