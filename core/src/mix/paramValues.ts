import type { Frames } from '../units/index.js';
import type { ControlReader } from './controlReader.js';
import { FOUND, STRETCH } from './found.js';
import type { HandTable } from './hands.js';

/**
 * Reads all parameters of an insert at once. Where a curve goes straight, and no hand, trim or sway is on it, its stretch is kept from one time
 * to the next: the same values as its {@link ControlReader} has, to the last bit, in a fraction of the time. Allocates nothing after
 * its making.
 */
export class ParamValues {
  /** Of each, its stretch: see {@link STRETCH}. */
  readonly #stretches: Float64Array;

  constructor(readonly readers: readonly ControlReader[]) {
    this.#stretches = new Float64Array(STRETCH.length * readers.length);
    for (let i = 0; i < readers.length; i++) this.#forget(i);
  }

  /**
   * Puts what they are at a frame in their places, but for one that something else stands in for; whether any is other than what was
   * there. `hands`: null where none is on any of them.
   */
  readInto(values: Float64Array, frame: Frames, hands: HandTable | null, standsIn: number): boolean {
    let isOther = false;
    for (let i = 0; i < this.readers.length; i++) {
      if (i === standsIn) continue;
      const reader = this.readers[i]!;
      if (!hands && reader.isOn(this.#stretches, STRETCH.length * i, frame)) {
        // Nothing moves it, and it has been read.
        if (this.#stretches[STRETCH.length * i + STRETCH.rise] === 0) continue;
        reader.readAlong(this.#stretches, STRETCH.length * i, frame);
      } else {
        reader.readOwnValue(frame, hands);
        if (hands) this.#forget(i);
        else reader.findStretch(this.#stretches, STRETCH.length * i);
      }
      if (values[i] === reader.found[FOUND.value]) continue;
      values[i] = reader.found[FOUND.value]!;
      isOther = true;
    }
    return isOther;
  }

  #forget(i: number): void {
    this.#stretches[STRETCH.length * i + STRETCH.until] = -Infinity;
  }
}
