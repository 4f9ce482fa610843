import { chance, type Chance } from '../chance.js';

export const SAMPLE_RATE = 48000;

/** A note to be sounded: seconds, hertz, and how hard, 0 … 1. */
export type Sounding = { readonly t: number; readonly sec: number; readonly hz: number; readonly force: number };

export const hzOfMidi = (midi: number): number => 440 * 2 ** ((midi - 69) / 12);
export const gainOf = (db: number): number => 10 ** (db / 20);

/** A mono or stereo stem being played, one float column a side. */
export class Tape {
  readonly sides: readonly Float32Array[];
  readonly random: Chance;

  constructor(
    readonly sec: number,
    sides: 1 | 2,
    seed: number,
  ) {
    this.sides = Array.from({ length: sides }, () => new Float32Array(Math.ceil(sec * SAMPLE_RATE)));
    this.random = chance(seed);
  }

  get left(): Float32Array {
    return this.sides[0]!;
  }

  /** Adds a mono sound from a time on, at a pan −1 … 1 where the tape is stereo. */
  add(t: number, sound: Float32Array, pan = 0): void {
    const at = Math.round(t * SAMPLE_RATE);
    const angle = ((pan + 1) * Math.PI) / 4;
    const gains = this.sides.length === 1 ? [1] : [Math.cos(angle), Math.sin(angle)];
    this.sides.forEach((side, s) => {
      const n = Math.min(sound.length, side.length - at);
      for (let i = 0; i < n; i++) side[at + i]! += sound[i]! * gains[s]!;
    });
  }
}

/** A resonance or a pass band (RBJ's Audio EQ Cookbook, band-pass with constant peak gain). */
export class BandPass {
  #b0 = 0;
  #a1 = 0;
  #a2 = 0;
  #x1 = 0;
  #x2 = 0;
  #y1 = 0;
  #y2 = 0;

  constructor(hz: number, q: number) {
    this.tune(hz, q);
  }

  tune(hz: number, q: number): void {
    const w = (2 * Math.PI * hz) / SAMPLE_RATE;
    const alpha = Math.sin(w) / (2 * q);
    this.#b0 = alpha / (1 + alpha);
    this.#a1 = (-2 * Math.cos(w)) / (1 + alpha);
    this.#a2 = (1 - alpha) / (1 + alpha);
  }

  run(x: number): number {
    const y = this.#b0 * (x - this.#x2) - this.#a1 * this.#y1 - this.#a2 * this.#y2;
    this.#x2 = this.#x1;
    this.#x1 = x;
    this.#y2 = this.#y1;
    this.#y1 = y;
    return y;
  }
}

/** A gentle low pass of one pole. */
export class LowPass {
  #y = 0;
  #a = 0;

  constructor(hz: number) {
    this.tune(hz);
  }

  tune(hz: number): void {
    this.#a = 1 - Math.exp((-2 * Math.PI * hz) / SAMPLE_RATE);
  }

  run(x: number): number {
    return (this.#y += this.#a * (x - this.#y));
  }
}

/** A saw of a changing pitch, its step rounded so that it does not alias much (polyBLEP). */
export class Saw {
  constructor(public phase: number) {}

  run(hz: number): number {
    const dt = hz / SAMPLE_RATE;
    this.phase += dt;
    if (this.phase >= 1) this.phase -= 1;
    let x = 2 * this.phase - 1;
    if (this.phase < dt) {
      const u = this.phase / dt;
      x -= 2 * u - u * u - 1;
    } else if (this.phase > 1 - dt) {
      const u = (this.phase - 1) / dt;
      x -= u * u + 2 * u + 1;
    }
    return x;
  }
}

/** Rise, stay, fall: 0 … 1 over a note of `sec` seconds followed by its release. */
export function swell(i: number, sec: number, attack: number, release: number): number {
  const t = i / SAMPLE_RATE;
  const up = t < attack ? Math.sin((t / attack) * (Math.PI / 2)) : 1;
  if (t <= sec) return up;
  const down = 1 - (t - sec) / release;
  return down > 0 ? up * down * down : 0;
}
