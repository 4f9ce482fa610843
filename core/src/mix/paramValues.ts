import { Curve, SHAPE_CODE, columnsOf, type CurveColumns } from '../curve/index.js';
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
  /** Of each, the point of its curve that it is after: see {@link STRETCH}. */
  readonly #after: Int32Array;
  readonly #curves: readonly CurveColumns[];
  readonly #laws: readonly Float64Array[];
  readonly #found = new Float64Array(1);

  constructor(
    readonly readers: readonly ControlReader[],
    readonly sampleRate: number,
  ) {
    this.#laws = readers.map(({ ownLaw }) => ownLaw);
    this.#curves = readers.map(({ plan }) => plan.curve ?? columnsOf(Curve.EMPTY, plan.law));
    this.#after = new Int32Array(readers.length).fill(STRETCH.other);
  }

  /**
   * Puts what they are at a frame in their places, but for one that something else stands in for; whether any is other than what was
   * there. `hands`: null where none is on any of them.
   */
  readInto(values: Float64Array, frame: Frames, hands: HandTable | null, standsIn: number): boolean {
    const found = this.#found;
    const at: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    let isOther = false;
    for (let i = 0; i < this.readers.length; i++) {
      const k = this.#after[i]!;
      // At rest nothing moves it, and it has been read.
      if (i === standsIn || (!hands && k === STRETCH.rest)) continue;
      const { t, x, shape } = this.#curves[i]!;
      const isLast = k === t.length - 1;
      if (!hands && k >= STRETCH.first && (k < 0 || at >= t[k]!) && (isLast || at < t[k + 1]!)) {
        if (k < 0 || isLast || shape[k] === SHAPE_CODE.hold || x[k] === x[k + 1]) continue;
        found[0] = x[k]! + ((x[k + 1]! - x[k]!) * (at - t[k]!)) / (t[k + 1]! - t[k]!);
        ownValueInPlace(found, 0, this.#laws[i]!);
      } else this.#read(i, frame, hands);
      if (values[i] === found[0]) continue;
      values[i] = found[0]!;
      isOther = true;
    }
    return isOther;
  }

  /** Finds one by its reader, and keeps where on its curve it is now. */
  #read(i: number, frame: Frames, hands: HandTable | null): void {
    const reader = this.readers[i]!;
    reader.readOwnValue(frame, hands);
    this.#found[0] = reader.found[FOUND.value]!;
    this.#after[i] = hands ? STRETCH.other : reader.stretch;
  }
}
