import type { Frames } from '../units/index.js';

/** The largest of the last so many magnitudes, at each of them: those that a later and larger one has outdone are let go. */
export class LevelWindow {
  /** The largest now, at 0. */
  readonly largest = new Float64Array(1);
  readonly #magnitudes: Float64Array;
  readonly #frames: Int32Array;
  readonly #length: Frames;
  /** Frames are counted round so many: whole numbers that stay small, however long it goes on. */
  readonly #round: Frames;
  /** Places in the ring of the oldest that still counts and of the next, and frames so far; they go round. */
  #first = 0;
  #next = 0;
  #frame = 0;

  constructor(length: Frames) {
    this.#length = length;
    this.#round = 2 * (length + 1);
    this.#magnitudes = new Float64Array(length + 1);
    this.#frames = new Int32Array(length + 1);
  }

  clear(): void {
    this.#first = 0;
    this.#next = 0;
    this.#frame = 0;
    this.largest[0] = 0;
  }

  /** Takes the magnitude that stands in `from` at a place. */
  take(from: Float64Array, place: number): void {
    const magnitude = from[place]!;
    const magnitudes = this.#magnitudes;
    const size = magnitudes.length;
    let next = this.#next;
    while (next !== this.#first) {
      const last = next === 0 ? size - 1 : next - 1;
      if (magnitudes[last]! > magnitude) break;
      next = last;
    }
    magnitudes[next] = magnitude;
    this.#frames[next] = this.#frame;
    this.#next = next + 1 === size ? 0 : next + 1;
    const oldest = this.#frames[this.#first]!;
    const age = this.#frame - oldest + (this.#frame < oldest ? this.#round : 0);
    if (age >= this.#length) this.#first = this.#first + 1 === size ? 0 : this.#first + 1;
    this.#frame = this.#frame + 1 === this.#round ? 0 : this.#frame + 1;
    this.largest[0] = magnitudes[this.#first]!;
  }
}
