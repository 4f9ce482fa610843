import { SILENCE_DB, dbOfGain } from '../units/index.js';
import { LoudnessMeter, loudnessOf, type Lufs } from './meter.js';

/** The gates of EBU R 128 and Tech 3342, in LUFS and LU. */
const GATE = { absolute: -70, integrated: -10, range: -20 } as const;
/** The loudness range lies between these shares of the gated short-term values. */
const RANGE_SHARES = [0.1, 0.95] as const;

/** What a programme measures (rules, 8). Silence is −144 in all but its range. */
export type LoudnessReport = {
  readonly integrated: Lufs;
  readonly momentaryMax: Lufs;
  readonly shortTermMax: Lufs;
  /** LU. */
  readonly range: number;
  /** dBTP. */
  readonly truePeak: number;
};

const audible = (lufs: Lufs): Lufs => Math.max(SILENCE_DB, lufs);
const mean = (powers: readonly number[]): number => powers.reduce((sum, p) => sum + p, 0) / powers.length;
const above = (powers: readonly number[], gate: Lufs): number[] => powers.filter((p) => loudnessOf(p) > gate);

/** Integrated loudness of momentary powers, gated twice (ITU-R BS.1770-4). */
export function integrated(momentary: readonly number[]): Lufs {
  const heard = above(momentary, GATE.absolute);
  if (!heard.length) return -Infinity;
  return loudnessOf(mean(above(heard, loudnessOf(mean(heard)) + GATE.integrated)));
}

/** Loudness range of short-term powers (EBU Tech 3342). */
export function loudnessRange(shortTerm: readonly number[]): number {
  const heard = above(shortTerm, GATE.absolute);
  if (!heard.length) return 0;
  const gated = above(heard, loudnessOf(mean(heard)) + GATE.range).sort((a, b) => a - b);
  const at = (share: number): Lufs => loudnessOf(gated[Math.round((gated.length - 1) * share)]!);
  return at(RANGE_SHARES[1]) - at(RANGE_SHARES[0]);
}

/** Measures a whole programme, given block by block. */
export class Programme {
  readonly #momentary: number[] = [];
  readonly #shortTerm: number[] = [];
  readonly #meter: LoudnessMeter;

  constructor(sampleRate: number) {
    this.#meter = new LoudnessMeter(sampleRate, (meter) => {
      if (meter.hasMomentary) this.#momentary.push(meter.momentaryPower);
      if (meter.hasShortTerm) this.#shortTerm.push(meter.shortTermPower);
    });
  }

  /** Takes the next `count` frames; a mono programme gives the same column twice. */
  add(left: Float32Array, right: Float32Array, count: number): void {
    this.#meter.add(left, right, count);
  }

  report(): LoudnessReport {
    const most = (powers: readonly number[]): Lufs =>
      powers.reduce((max, p) => Math.max(max, loudnessOf(p)), -Infinity);
    return {
      integrated: audible(integrated(this.#momentary)),
      momentaryMax: audible(most(this.#momentary)),
      shortTermMax: audible(most(this.#shortTerm)),
      range: loudnessRange(this.#shortTerm),
      truePeak: dbOfGain(this.#meter.truePeak),
    };
  }

  /** Short-term loudness every 100 ms, the first 3 s after the start. */
  get shortTerm(): readonly Lufs[] {
    return this.#shortTerm.map(loudnessOf);
  }
}
