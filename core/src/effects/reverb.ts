import type { Frames } from '../units/index.js';
import type { Effect, EffectParam, KernelOf } from './effect.js';
import { glideInPlace } from './glide.js';
import { EffectKernel, GRID_FRAMES } from './kernel.js';
import { Ring, tapInPlace } from './ring.js';
import { hertzScale, millisecondScale, secondScale, shareScale } from './scales.js';

const MOST_BEFORE_MS = 200;
const PARAMS: readonly EffectParam[] = [
  { key: 'decay', name: 'decay', scale: secondScale(0.2, 12, 2), rest: 2 },
  { key: 'before', name: 'pause before', scale: millisecondScale('linear', 0, MOST_BEFORE_MS, 20), rest: 20 },
  { key: 'damping', name: 'damping', scale: hertzScale(500, 20_000, 6000), rest: 6000 },
  { key: 'mix', name: 'mix', scale: shareScale(0, 1, 0.3), rest: 0.3 },
];
const VALUE = { decay: 0, before: 1, damping: 2, mix: 3 } as const;

/** Lengths that have no common measure, and how loud their ends are. */
const LINE_SEC = [0.0297, 0.0371, 0.0411, 0.0437, 0.0531, 0.0617, 0.0677, 0.0733] as const;
const LINES = LINE_SEC.length;
const LEVEL = 0.42;
/** No pass through a line loses more than this at the damping frequency besides what it loses everywhere. */
const MOST_DAMPED = 0.6;
const N = { before: 0, dry: 1, wet: 2, gain: 3, pole: 3 + LINES, length: 3 + 2 * LINES } as const;
/** Its own fractions: how long the pause is, where that is going, then what each line's damping remembers. */
const BEFORE = 0;
const GOING = 1;
const DAMPED = 2;
const FLOOR = 1e-18;

/**
 * Eight lines that feed each other through a reflection (J.-M. Jot, A. Chaigne, "Digital delay networks for designing artificial
 * reverberators", AES 1991): each line is as much fainter as its length is of the decay, and its one-pole low pass makes what lies at
 * `damping` die away in half the time. Even lines take in the left side and give it out, odd ones the right.
 */
class Reverb extends EffectKernel {
  readonly #before: readonly [Ring, Ring];
  readonly #lines: readonly Float64Array[];
  readonly #places: Int32Array;
  readonly #given: readonly [Float64Array, Float64Array] = [
    new Float64Array(GRID_FRAMES),
    new Float64Array(GRID_FRAMES),
  ];
  readonly #heard: readonly [Float64Array, Float64Array] = [
    new Float64Array(GRID_FRAMES),
    new Float64Array(GRID_FRAMES),
  ];
  readonly #outs: readonly Float64Array[] = LINE_SEC.map(() => new Float64Array(GRID_FRAMES));
  readonly #sum = new Float64Array(GRID_FRAMES);
  readonly #own = new Float64Array(DAMPED + LINES);
  readonly #sampleRate: number;
  #at = 0;

  constructor({ sampleRate }: KernelOf) {
    super(PARAMS.length, N.length);
    this.#sampleRate = sampleRate;
    const most = Math.ceil((MOST_BEFORE_MS / 1000) * sampleRate);
    this.#before = [new Ring(most), new Ring(most)];
    this.#lines = LINE_SEC.map((sec) => new Float64Array(Math.max(GRID_FRAMES, Math.round(sec * sampleRate))));
    this.#places = new Int32Array(LINES);
    this.clear();
  }

  clear(): void {
    for (const ring of this.#before) ring.clear();
    for (const line of this.#lines) line.fill(0);
    this.#places.fill(0);
    this.#own.fill(0);
    this.#own[BEFORE] = NaN;
    this.#at = 0;
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    into[N.before] = (values[VALUE.before]! / 1000) * this.#sampleRate;
    into[N.dry] = 1 - values[VALUE.mix]!;
    into[N.wet] = values[VALUE.mix]!;
    const cos = Math.cos(2 * Math.PI * Math.min(0.49, values[VALUE.damping]! / this.#sampleRate));
    for (let i = 0; i < LINES; i++) {
      const gain = 10 ** ((-3 * this.#lines[i]!.length) / this.#sampleRate / values[VALUE.decay]!);
      // The pole whose low pass has that same gain at the damping frequency; short decays ask for more than leaves the rest alone.
      const damped = Math.max(gain, MOST_DAMPED);
      const lost = 1 - damped * damped;
      const half = 1 - damped * damped * cos;
      into[N.gain + i] = gain;
      into[N.pole + i] = lost / (half + Math.sqrt(Math.max(0, half * half - lost * lost)));
    }
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    this.#pause(left, right, at, count, done);
    const sum = this.#sum;
    sum.fill(0, 0, count);
    for (let i = 0; i < LINES; i++) this.#decay(i, count, done);
    const [one, other] = this.#heard;
    one.fill(0, 0, count);
    other.fill(0, 0, count);
    for (let i = 0; i < LINES; i++) this.#reflect(i, count);
    const { starts, slopes } = this;
    for (let k = 0; k < count; k++) {
      const dry = starts[N.dry]! + slopes[N.dry]! * (done + k);
      const wet = starts[N.wet]! + slopes[N.wet]! * (done + k);
      left[at + k] = dry * left[at + k]! + wet * one[k]!;
      right[at + k] = dry * right[at + k]! + wet * other[k]!;
    }
  }

  /** What each side was given a while ago. */
  #pause(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    const { starts, slopes } = this;
    const own = this.#own;
    const [one, other] = this.#before;
    const [toLeft, toRight] = this.#given;
    const { mask } = one;
    const { max, round } = Math;
    for (let k = 0; k < count; k++) {
      own[GOING] = max(
        1,
        this.isSteady ? round(starts[N.before]!) : starts[N.before]! + slopes[N.before]! * (done + k),
      );
      if (own[BEFORE] !== own[BEFORE]) own[BEFORE] = own[GOING];
      else if (own[BEFORE] !== own[GOING]) glideInPlace(own, BEFORE, own, GOING);
      one.past[this.#at] = left[at + k]!;
      other.past[this.#at] = right[at + k]!;
      toLeft[k] = own[BEFORE]!;
      toRight[k] = own[BEFORE]!;
      tapInPlace(one.past, mask, this.#at, toLeft, k);
      tapInPlace(other.past, mask, this.#at, toRight, k);
      this.#at = (this.#at + 1) & mask;
    }
  }

  /** One line's end, damped and fainter by its length, into its place and the sum of all. */
  #decay(i: number, count: Frames, done: Frames): void {
    const { starts, slopes } = this;
    const line = this.#lines[i]!;
    const out = this.#outs[i]!;
    const sum = this.#sum;
    const own = this.#own;
    let place = this.#places[i]!;
    let damped = own[DAMPED + i]!;
    for (let k = 0; k < count; k++) {
      const pole = starts[N.pole + i]! + slopes[N.pole + i]! * (done + k);
      const x = line[place]!;
      damped = x + (damped - x) * pole;
      out[k] = damped * (starts[N.gain + i]! + slopes[N.gain + i]! * (done + k));
      sum[k]! += out[k]!;
      place = place + 1 === line.length ? 0 : place + 1;
    }
    own[DAMPED + i] = damped;
  }

  /** Gives a line's end out, and back in with what its side is given, less its share of all. */
  #reflect(i: number, count: Frames): void {
    const line = this.#lines[i]!;
    const out = this.#outs[i]!;
    const sum = this.#sum;
    const given = this.#given[i % 2 === 0 ? 0 : 1];
    const heard = this.#heard[i % 2 === 0 ? 0 : 1];
    const level = i % 4 < 2 ? LEVEL : -LEVEL;
    let place = this.#places[i]!;
    for (let k = 0; k < count; k++) {
      const x = out[k]!;
      heard[k]! += x * level;
      line[place] = given[k]! + x - (2 / LINES) * sum[k]! + FLOOR;
      place = place + 1 === line.length ? 0 : place + 1;
    }
    this.#places[i] = place;
  }
}

/** A room: stereo from mono, and rings on after its input ends. */
export const reverb: Effect = {
  name: 'Reverb',
  params: () => PARAMS,
  settings: {},
  makesStereo: true,
  rings: true,
  /** One whose pause moves may be on its way from anywhere. */
  tailSec: ({ [VALUE.before]: before, [VALUE.decay]: decay }) =>
    before!.isMoving ? null : before!.most / 1000 + (160 / 60) * 1.15 * decay!.most + 0.1,
  kernel: (of) => new Reverb(of),
};
