import type { Frames, Seconds } from '../units/index.js';
import { HAIR_FRAMES, type ControlReader } from './controlReader.js';
import { FOUND, STRETCH } from './found.js';
import type { HandTable } from './hands.js';
import { ownValueInPlace } from './ownLaw.js';

/**
 * Reads all parameters of an insert at once. Where a curve goes straight, and no hand, trim or sway is on it, its stretch is kept from one time
 * to the next: the same values as its {@link ControlReader} has, to the last bit, in a fraction of the time. Allocates nothing after
 * its making.
 */
export class ParamValues {
  /** Of each, its stretch: see {@link STRETCH}. */
  readonly #stretches: Float64Array;
  readonly #laws: readonly Float64Array[];
  readonly #found = new Float64Array(1);

  constructor(
    readonly readers: readonly ControlReader[],
    readonly sampleRate: number,
  ) {
    this.#laws = readers.map(({ ownLaw }) => ownLaw);
    this.#stretches = new Float64Array(STRETCH.length * readers.length);
    for (let i = 0; i < readers.length; i++) this.#forget(i);
  }

  /**
   * Puts what they are at a frame in their places, but for one that something else stands in for; whether any is other than what was
   * there. `hands`: null where none is on any of them.
   */
  readInto(values: Float64Array, frame: Frames, hands: HandTable | null, standsIn: number): boolean {
    const stretches = this.#stretches;
    const found = this.#found;
    const t: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    let isOther = false;
    for (let i = 0; i < this.readers.length; i++) {
      if (i === standsIn) continue;
      const at = STRETCH.length * i;
      const from = stretches[at + STRETCH.from]!;
      const until = stretches[at + STRETCH.until]!;
      if (!hands && t >= from && t < until) {
        const rise = stretches[at + STRETCH.rise]!;
        // Nothing moves it, and it has been read.
        if (rise === 0) continue;
        found[0] = stretches[at + STRETCH.travel]! + (rise * (t - from)) / (until - from);
        ownValueInPlace(found, 0, this.#laws[i]!);
      } else this.#read(i, frame, hands);
      if (values[i] === found[0]) continue;
      values[i] = found[0]!;
      isOther = true;
    }
    return isOther;
  }

  /** Finds one by its reader, and keeps the stretch that it is on now. */
  #read(i: number, frame: Frames, hands: HandTable | null): void {
    const reader = this.readers[i]!;
    reader.readOwnValue(frame, hands);
    this.#found[0] = reader.found[FOUND.value]!;
    if (hands) this.#forget(i);
    else reader.findStretch(this.#stretches, STRETCH.length * i);
  }

  #forget(i: number): void {
    this.#stretches[STRETCH.length * i + STRETCH.until] = -Infinity;
  }
}
