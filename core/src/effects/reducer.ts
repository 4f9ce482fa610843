import type { Frames } from '../units/index.js';
import type { Effect, EffectParam, KernelOf } from './effect.js';
import { EffectKernel } from './kernel.js';
import { bareScale, hertzScale, shareScale } from './scales.js';

const PARAMS: readonly EffectParam[] = [
  { key: 'bits', name: 'bits', scale: bareScale('linear', 1, 16, 16), rest: 16 },
  { key: 'rate', name: 'rate', scale: hertzScale(500, 48_000, 48_000), rest: 48_000 },
  { key: 'mix', name: 'mix', scale: shareScale(0, 1, 1), rest: 1 },
];
const VALUE = { bits: 0, rate: 1, mix: 2 } as const;
const N = { levels: 0, step: 1, dry: 2, wet: 3, length: 4 } as const;
/** Its own fractions: how much of a held sample's time is over, and what is held of each side. */
const PHASE = 0;
const HELD = 1;

/** Tenths that add up to one have to be one. */
const HAIR = 1e-9;

/** Holds each sample, and rounds it to the nearest of so many values, as PCM of as many bits has them: silence is one of them. */
class Reducer extends EffectKernel {
  readonly #own = new Float64Array(3);
  readonly #sampleRate: number;
  readonly #sides: 1 | 2;

  constructor({ sampleRate, sides }: KernelOf) {
    super(PARAMS.length, N.length);
    this.#sampleRate = sampleRate;
    this.#sides = sides;
    this.clear();
  }

  /** Which samples are held is counted from the song's start, where the first one is taken. */
  clear(): void {
    this.#own.fill(0);
    const step = this.starts[N.step]!;
    const before = 1 + this.sum[0]! - step;
    this.#own[PHASE] = before - Math.floor(before + HAIR) + step;
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    into[N.levels] = 2 ** values[VALUE.bits]!;
    into[N.step] = values[VALUE.rate]! / this.#sampleRate;
    into[N.dry] = 1 - values[VALUE.mix]!;
    into[N.wet] = values[VALUE.mix]!;
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    const { starts, slopes } = this;
    const own = this.#own;
    const { floor, round, ceil } = Math;
    for (let i = 0; i < count; i++) {
      const d = done + i;
      const levels = floor(starts[N.levels]! + slopes[N.levels]! * d);
      const whole = floor(own[PHASE]! + HAIR);
      const isTaken = whole > 0;
      own[PHASE] = own[PHASE]! - whole;
      own[PHASE] = own[PHASE]! + starts[N.step]! + slopes[N.step]! * d;
      for (let side = 0; side < this.#sides; side++) {
        const sound = side === 0 ? left : right;
        const x = sound[at + i]!;
        if (isTaken) own[HELD + side] = x;
        // Up to full scale there are so many values, the topmost being one short of it; past it they go on.
        const held = own[HELD + side]!;
        const step = round((held * levels) / 2);
        const top = ceil(levels / 2) - 1;
        const y = ((held <= 1 && step > top ? top : step) * 2) / levels;
        sound[at + i] = (starts[N.dry]! + slopes[N.dry]! * d) * x + (starts[N.wet]! + slopes[N.wet]! * d) * y;
      }
    }
  }
}

/** Fewer bits and fewer samples. */
export const reducer: Effect = {
  name: 'Reducer',
  params: () => PARAMS,
  settings: {},
  makesStereo: false,
  rings: false,
  /** As long as it may hold a sample. */
  tailSec: ({ [VALUE.rate]: rate }) => 2 / rate!.least,
  summed: VALUE.rate,
  kernel: (of) => new Reducer(of),
};
