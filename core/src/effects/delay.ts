import type { Frames } from '../units/index.js';
import type { Effect, EffectParam, KernelOf } from './effect.js';
import { glideInPlace } from './glide.js';
import { EffectKernel } from './kernel.js';
import { Ring, tapInPlace } from './ring.js';
import { hertzScale, millisecondScale, shareScale } from './scales.js';
import { numberOrNull } from './setting.js';

const MOST_MS = 2000;
/** The most that a delay in beats comes to. */
const MOST_BEATS_MS = 8000;
/** Added to what goes round: it must not end in numbers too small to be quick. */
const FLOOR = 1e-18;

const PARAMS: readonly EffectParam[] = [
  { key: 'time', name: 'time', scale: millisecondScale('log', 1, MOST_MS, 250), rest: 250 },
  { key: 'feedback', name: 'feedback', scale: shareScale(0, 0.95, 0.3), rest: 0.3 },
  { key: 'tone', name: 'tone', scale: hertzScale(200, 20_000, 6000), rest: 6000 },
  { key: 'mix', name: 'mix', scale: shareScale(0, 1, 0.5), rest: 0.5 },
];
const VALUE = { time: 0, feedback: 1, tone: 2, mix: 3 } as const;
const N = { back: 0, feedback: 1, tone: 2, dry: 3, wet: 4, length: 5 } as const;
/** Its own fractions: how far back it reads, where it is going, and the tone's state of each side. */
const BACK = 0;
const GOING = 1;
const TONE = 2;
const TAPPED = 4;

/** A line whose end, coloured by a one-pole low pass, is heard and goes back in. */
class Delay extends EffectKernel {
  readonly #rings: readonly Ring[];
  readonly #own = new Float64Array(TAPPED + 1);
  readonly #sampleRate: number;
  #at = 0;

  constructor({ sampleRate, sides, settings }: KernelOf) {
    super(PARAMS.length, N.length);
    this.#sampleRate = sampleRate;
    const most = settings['beats'] === null ? MOST_MS : MOST_BEATS_MS;
    this.#rings = Array.from({ length: sides }, () => new Ring(Math.ceil((most / 1000) * sampleRate)));
    this.clear();
  }

  clear(): void {
    for (const ring of this.#rings) ring.clear();
    this.#own.fill(0);
    this.#own[BACK] = NaN;
    this.#at = 0;
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    into[N.back] = (values[VALUE.time]! / 1000) * this.#sampleRate;
    into[N.feedback] = values[VALUE.feedback]!;
    into[N.tone] = 1 - Math.exp((-2 * Math.PI * values[VALUE.tone]!) / this.#sampleRate);
    into[N.dry] = 1 - values[VALUE.mix]!;
    into[N.wet] = values[VALUE.mix]!;
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    const { starts, slopes } = this;
    const own = this.#own;
    const { mask } = this.#rings[0]!;
    const { round } = Math;
    for (let i = 0; i < count; i++) {
      const d = done + i;
      // Where it rests it reads whole frames: repeats of repeats lose nothing but what the tone takes.
      own[GOING] = this.isSteady ? round(starts[N.back]!) : starts[N.back]! + slopes[N.back]! * d;
      if (own[BACK] !== own[BACK]) own[BACK] = own[GOING]!;
      else if (own[BACK] !== own[GOING]) glideInPlace(own, BACK, own, GOING);
      const feedback = starts[N.feedback]! + slopes[N.feedback]! * d;
      const tone = starts[N.tone]! + slopes[N.tone]! * d;
      const dry = starts[N.dry]! + slopes[N.dry]! * d;
      const wet = starts[N.wet]! + slopes[N.wet]! * d;
      for (let side = 0; side < this.#rings.length; side++) {
        const sound = side === 0 ? left : right;
        const { past } = this.#rings[side]!;
        const x = sound[at + i]!;
        own[TAPPED] = own[BACK]!;
        tapInPlace(past, mask, this.#at, own, TAPPED);
        const y = own[TONE + side]! + tone * (own[TAPPED]! - own[TONE + side]!);
        own[TONE + side] = y;
        past[this.#at] = x + feedback * y + FLOOR;
        sound[at + i] = dry * x + wet * y;
      }
      this.#at = (this.#at + 1) & mask;
    }
  }
}

/** Repeats, each duller by `tone`; in quarter notes where `beats` is said, following the tempo. */
export const delay: Effect = {
  name: 'Delay',
  params: () => PARAMS,
  settings: { beats: numberOrNull('Beats', 64) },
  makesStereo: false,
  rings: true,
  /** Repeats until they are 160 dB down; one whose time moves may be on its way from anywhere. */
  tailSec({ [VALUE.feedback]: feedback, [VALUE.time]: time }) {
    if (time!.isMoving || feedback!.most > 0.93) return null;
    const repeats = 2 + Math.ceil(Math.log(1e-8) / Math.log(Math.max(feedback!.most, 1e-8)));
    return (repeats * time!.most) / 1000;
  },
  byTempo: {
    param: VALUE.time,
    value: ({ beats }, bpm) => (beats === null ? null : Math.min(MOST_BEATS_MS, ((beats as number) * 60_000) / bpm)),
  },
  kernel: (of) => new Delay(of),
};
