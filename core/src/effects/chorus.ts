import type { Frames } from '../units/index.js';
import type { Effect, EffectParam, KernelOf } from './effect.js';
import { glideInPlace } from './glide.js';
import { EffectKernel } from './kernel.js';
import { Ring, tapInPlace } from './ring.js';
import { hertzScale, millisecondScale, shareScale } from './scales.js';

const MOST_DELAY_MS = 30;
const MOST_DEPTH_MS = 10;
/** It reads no nearer than this: what goes back in has to have been heard first. */
const NEAREST: Frames = 2;

const PARAMS: readonly EffectParam[] = [
  { key: 'rate', name: 'rate', scale: hertzScale(0.05, 10, 0.8), rest: 0.8 },
  { key: 'depth', name: 'depth', scale: millisecondScale('log', 0.1, MOST_DEPTH_MS, 2), rest: 2 },
  { key: 'delay', name: 'delay', scale: millisecondScale('log', 0.5, MOST_DELAY_MS, 12), rest: 12 },
  { key: 'feedback', name: 'feedback', scale: shareScale(-0.9, 0.9, 0), rest: 0 },
  { key: 'mix', name: 'mix', scale: shareScale(0, 1, 0.5), rest: 0.5 },
];
const VALUE = { rate: 0, depth: 1, delay: 2, feedback: 3, mix: 4 } as const;
const N = { turn: 0, depth: 1, delay: 2, feedback: 3, dry: 4, wet: 5, length: 6 } as const;
/** Its own fractions: phase, where depth and delay are, and where they are going, what is read of each side. */
const PHASE = 0;
const DEPTH = 1;
const DELAY = 2;
const GOING = 3;
const LEFT = 5;
const RIGHT = 6;
const FLOOR = 1e-18;
const TURN = 2 * Math.PI;

/** One modulated delay a side, the right one a quarter turn on. */
class Chorus extends EffectKernel {
  readonly #rings: readonly [Ring, Ring];
  readonly #own = new Float64Array(7);
  readonly #sampleRate: number;
  #at = 0;

  constructor({ sampleRate }: KernelOf) {
    super(PARAMS.length, N.length);
    this.#sampleRate = sampleRate;
    const most = Math.ceil(((MOST_DELAY_MS + MOST_DEPTH_MS) / 1000) * sampleRate);
    this.#rings = [new Ring(most), new Ring(most)];
  }

  clear(): void {
    for (const ring of this.#rings) ring.clear();
    this.#own[PHASE] = TURN * (this.sum[0]! % 1);
    this.#own[DEPTH] = NaN;
    this.#at = 0;
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    const frames = this.#sampleRate / 1000;
    into[N.turn] = (TURN * values[VALUE.rate]!) / this.#sampleRate;
    into[N.depth] = values[VALUE.depth]! * frames;
    into[N.delay] = values[VALUE.delay]! * frames;
    into[N.feedback] = values[VALUE.feedback]!;
    into[N.dry] = 1 - values[VALUE.mix]!;
    into[N.wet] = values[VALUE.mix]!;
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    const { starts, slopes } = this;
    const own = this.#own;
    const { sin, cos, max } = Math;
    const [one, other] = this.#rings;
    const { mask } = one;
    for (let i = 0; i < count; i++) {
      const d = done + i;
      this.#glide(d);
      const depth = own[DEPTH]!;
      const middle = own[DELAY]!;
      const feedback = starts[N.feedback]! + slopes[N.feedback]! * d;
      const dry = starts[N.dry]! + slopes[N.dry]! * d;
      const wet = starts[N.wet]! + slopes[N.wet]! * d;
      own[LEFT] = max(NEAREST, middle + depth * sin(own[PHASE]!));
      own[RIGHT] = max(NEAREST, middle + depth * cos(own[PHASE]!));
      tapInPlace(one.past, mask, this.#at, own, LEFT);
      tapInPlace(other.past, mask, this.#at, own, RIGHT);
      const l = own[LEFT]!;
      const r = own[RIGHT]!;
      const x = left[at + i]!;
      const y = right[at + i]!;
      one.past[this.#at] = x + feedback * l + FLOOR;
      other.past[this.#at] = y + feedback * r + FLOOR;
      left[at + i] = dry * x + wet * l;
      right[at + i] = dry * y + wet * r;
      this.#at = (this.#at + 1) & mask;
      own[PHASE] = own[PHASE]! + starts[N.turn]! + slopes[N.turn]! * d;
      if (own[PHASE]! > TURN) own[PHASE]! -= TURN;
    }
  }

  /** Depth and delay go where they are going, no faster than a tape; after silence they are there. */
  #glide(d: Frames): void {
    const { starts, slopes } = this;
    const own = this.#own;
    own[GOING] = starts[N.depth]! + slopes[N.depth]! * d;
    own[GOING + 1] = starts[N.delay]! + slopes[N.delay]! * d;
    if (own[DEPTH] !== own[DEPTH]) {
      own[DEPTH] = own[GOING];
      own[DELAY] = own[GOING + 1]!;
    } else if (own[DEPTH] !== own[GOING] || own[DELAY] !== own[GOING + 1]) {
      glideInPlace(own, DEPTH, own, GOING);
      glideInPlace(own, DELAY, own, GOING + 1);
    }
  }
}

/** A voice beside the voice, that sways; with feedback over a short delay a flanger. */
export const chorus: Effect = {
  name: 'Chorus',
  params: () => PARAMS,
  settings: {},
  makesStereo: true,
  rings: true,
  /** Until what goes round is 160 dB down; where depth or delay move they may be on their way from anywhere. */
  tailSec({ [VALUE.depth]: depth, [VALUE.delay]: delay, [VALUE.feedback]: feedback }) {
    if (depth!.isMoving || delay!.isMoving) return null;
    const back = Math.max(Math.abs(feedback!.least), Math.abs(feedback!.most), 1e-8);
    const rounds = 2 + Math.ceil(Math.log(1e-8) / Math.log(back));
    return (rounds * (delay!.most + depth!.most)) / 1000;
  },
  summed: VALUE.rate,
  kernel: (of) => new Chorus(of),
};
