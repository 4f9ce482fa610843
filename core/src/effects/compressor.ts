import type { Db, Frames } from '../units/index.js';
import type { Effect, EffectParam, KernelOf } from './effect.js';
import { EffectKernel, GRID_FRAMES } from './kernel.js';
import { LevelWindow } from './levelWindow.js';
import { decibelScale, millisecondScale, ratioScale, shareScale } from './scales.js';
import { channelOrNull } from './setting.js';

/** Its level is the largest sample of so long. */
const WINDOW_SEC = 0.005;
/** Softer than this is silence, which is never held down. */
const SILENT = 1e-9;
const DB_BY_LOG = 20 / Math.LN10;

const PARAMS: readonly EffectParam[] = [
  { key: 'threshold', name: 'threshold', scale: decibelScale(-60, 0, 0), rest: 0 },
  { key: 'ratio', name: 'ratio', scale: ratioScale(20, 2), rest: 2 },
  { key: 'knee', name: 'knee', scale: decibelScale(0, 24, 6), rest: 6 },
  { key: 'attack', name: 'attack', scale: millisecondScale('log', 0.1, 200, 10), rest: 10 },
  { key: 'release', name: 'release', scale: millisecondScale('log', 10, 2000, 120), rest: 120 },
  { key: 'makeup', name: 'make-up', scale: decibelScale(0, 24, 0), rest: 0 },
  { key: 'mix', name: 'mix', scale: shareScale(0, 1, 1), rest: 1 },
];
const VALUE = { threshold: 0, ratio: 1, knee: 2, attack: 3, release: 4, makeup: 5, mix: 6 } as const;
/** What they lead to: the share of what is over the threshold that is taken off, the share of the way made in one frame. */
const N = { threshold: 0, share: 1, knee: 2, attack: 3, release: 4, makeup: 5, mix: 6, length: 7 } as const;
/** Its own fractions: the last level in dB, and how far it is held down, both in dB. */
const LEVEL_DB = 0;
const DOWN_DB = 1;
const LEVEL = 2;
const OVER = 3;

/**
 * How much is taken off, in dB, of a level over the threshold: nothing below the knee, over it all but 1/ratio, a parabola between
 * (Giannoulis, Massberg, Reiss, "Digital Dynamic Range Compressor Design", JAES 60(6), 2012, eq. 4). In place: of the three numbers from
 * {@link OVER} on, how far it is over in dB, the share that is taken off, and the knee in dB, the first becomes it.
 */
function reduceInPlace(own: Float64Array): void {
  const over = own[OVER]!;
  const share = own[OVER + 1]!;
  const knee = own[OVER + 2]!;
  const into = over + knee / 2;
  if (2 * over <= -knee) own[OVER] = 0;
  else own[OVER] = 2 * over >= knee ? share * over : (share * into * into) / (2 * knee);
}

/** What of a compressor's parameters a steady level goes by. */
export type StaticCurve = { readonly [Param in 'threshold' | 'ratio' | 'knee' | 'makeup' | 'mix']: number };

/** What becomes of a steady level, make-up and mix included. */
export function compressedLevel(level: Db, { threshold, ratio, knee, makeup, mix }: StaticCurve): Db {
  const own = new Float64Array(OVER + 3);
  own.set([level - threshold, 1 - 1 / ratio, knee], OVER);
  reduceInPlace(own);
  return level + DB_BY_LOG * Math.log(1 - mix + mix * Math.exp((makeup - own[OVER]!) / DB_BY_LOG));
}

/** Feed-forward, smoothed in dB by the smooth branching detector of the same paper (eq. 17). */
export class Compressor extends EffectKernel {
  /** To be looked at: the most it has held down since somebody last looked, and the level that it listens to, both in dB. */
  readonly shown = Float64Array.of(0, -Infinity);
  /** What is listened to in place of what it changes, for this block; set by the host where its settings name a key. */
  keyLeft: Float64Array | null = null;
  keyRight: Float64Array | null = null;
  readonly #window: LevelWindow;
  readonly #magnitudes = new Float64Array(GRID_FRAMES);
  readonly #own = new Float64Array(OVER + 3);
  readonly #sampleRate: number;
  readonly #sides: 1 | 2;

  constructor({ sampleRate, sides }: KernelOf) {
    super(PARAMS.length, N.length);
    this.#sampleRate = sampleRate;
    this.#sides = sides;
    this.#window = new LevelWindow(Math.ceil(WINDOW_SEC * sampleRate));
    this.clear();
  }

  clear(): void {
    this.#window.clear();
    this.#own[DOWN_DB] = 0;
    this.#own[LEVEL] = 0;
    this.#own[LEVEL_DB] = -Infinity;
  }

  protected work(into: Float64Array): void {
    const { values } = this;
    into[N.threshold] = values[VALUE.threshold]!;
    into[N.share] = 1 - 1 / values[VALUE.ratio]!;
    into[N.knee] = values[VALUE.knee]!;
    into[N.attack] = this.#aFrame(values[VALUE.attack]! / 1000);
    // The window holds a level on for its length: what is left of the release comes after that.
    const release = values[VALUE.release]! / 1000;
    into[N.release] = this.#aFrame(Math.max(release - WINDOW_SEC, release / 2));
    into[N.makeup] = values[VALUE.makeup]!;
    into[N.mix] = values[VALUE.mix]!;
  }

  /** The share of a way made in one frame, of which 63 % is made in so many seconds. */
  #aFrame(sec: number): number {
    return 1 - Math.exp(-1 / (sec * this.#sampleRate));
  }

  process(left: Float32Array, right: Float32Array, at: Frames, count: Frames, done: Frames): void {
    // Asked for once a block, not for each sample.
    const { exp, log } = Math;
    this.#listen(left, right, at, count);
    const { starts, slopes } = this;
    const own = this.#own;
    const { largest } = this.#window;
    const { shown } = this;
    for (let i = 0; i < count; i++) {
      const d = done + i;
      this.#window.take(this.#magnitudes, i);
      if (largest[0] !== own[LEVEL]) {
        own[LEVEL] = largest[0]!;
        own[LEVEL_DB] = largest[0]! > SILENT ? DB_BY_LOG * log(largest[0]!) : -Infinity;
      }
      own[OVER] = own[LEVEL_DB]! - (starts[N.threshold]! + slopes[N.threshold]! * d);
      own[OVER + 1] = starts[N.share]! + slopes[N.share]! * d;
      own[OVER + 2] = starts[N.knee]! + slopes[N.knee]! * d;
      reduceInPlace(own);
      const wanted = own[OVER]!;
      const n = wanted > own[DOWN_DB]! ? N.attack : N.release;
      own[DOWN_DB] = own[DOWN_DB]! + (wanted - own[DOWN_DB]!) * (starts[n]! + slopes[n]! * d);
      if (own[DOWN_DB]! > shown[0]!) shown[0] = own[DOWN_DB]!;
      const mix = starts[N.mix]! + slopes[N.mix]! * d;
      const db = starts[N.makeup]! + slopes[N.makeup]! * d - own[DOWN_DB]!;
      const gain = 1 - mix + mix * (db === 0 ? 1 : exp(db / DB_BY_LOG));
      left[at + i]! *= gain;
      if (this.#sides === 2) right[at + i]! *= gain;
    }
    if (own[DOWN_DB]! < 1e-12) own[DOWN_DB] = 0;
    shown[1] = own[LEVEL_DB]!;
  }

  /** The larger of both sides of what is listened to, sample by sample. */
  #listen(left: Float32Array, right: Float32Array, at: Frames, count: Frames): void {
    const { keyLeft, keyRight } = this;
    const magnitudes = this.#magnitudes;
    const { abs, max } = Math;
    if (keyLeft && keyRight)
      for (let i = 0; i < count; i++) magnitudes[i] = max(abs(keyLeft[at + i]!), abs(keyRight[at + i]!));
    else if (this.#sides === 2)
      for (let i = 0; i < count; i++) magnitudes[i] = max(abs(left[at + i]!), abs(right[at + i]!));
    else for (let i = 0; i < count; i++) magnitudes[i] = abs(left[at + i]!);
  }
}

/** Holds down what is over a threshold; `key` names a channel that is listened to in its place. */
export const compressor: Effect = {
  name: 'Compressor',
  params: () => PARAMS,
  settings: { key: channelOrNull('Listens to') },
  makesStereo: false,
  rings: false,
  /** Until what it held down before is 160 dB less: whatever came, both its times only ever bring two of it together. */
  tailSec: ({ [VALUE.attack]: attack, [VALUE.release]: release }) =>
    WINDOW_SEC + (Math.log(1e8) * Math.max(attack!.most, release!.most)) / 1000,
  keySetting: 'key',
  kernel: (of) => new Compressor(of),
};
