import { Curve, SHAPE_CODE, columnsOf, type CurveColumns } from '../curve/index.js';
import type { Frames, Seconds } from '../units/index.js';
import { HAIR_FRAMES, type ControlReader } from './controlReader.js';
import { FOUND, STRETCH } from './found.js';
import type { HandTable } from './hands.js';
import { OWN_LAW, ownValueInPlace } from './ownLaw.js';

/**
 * Where a parameter goes straight, or stands: from and to when, in seconds; where it begins, on the throw; how far it goes; in how many
 * seconds; and its law. All of it side by side: there are hundreds of them, read every few frames.
 */
const ROW = { from: 0, to: 1, x: 2, rise: 3, sec: 4, law: 5, length: 5 + OWN_LAW.length } as const;

/**
 * Reads all parameters of an insert at once. Where a curve goes straight, and no hand, trim or sway is on it, its stretch is kept from one time
 * to the next: the same values as its {@link ControlReader} has, to the last bit, in a fraction of the time. Allocates nothing after
 * its making.
 */
export class ParamValues {
  /** See {@link ROW}. */
  readonly #rows: Float64Array;
  readonly #curves: readonly CurveColumns[];
  /** Of each, whether a hand is on it. */
  readonly #isHeld: Uint8Array;
  readonly #found = new Float64Array(1);

  constructor(
    readonly readers: readonly ControlReader[],
    readonly sampleRate: number,
  ) {
    this.#curves = readers.map(({ plan }) => plan.curve ?? columnsOf(Curve.EMPTY, plan.law));
    this.#isHeld = new Uint8Array(readers.length);
    this.#rows = new Float64Array(ROW.length * readers.length);
    for (const [i, { ownLaw }] of readers.entries()) {
      this.#rows[ROW.length * i + ROW.to] = -Infinity;
      this.#rows.set(ownLaw, ROW.length * i + ROW.law);
    }
  }

  /** Hands have done something: whether one is on any of them. */
  heed(hands: HandTable): boolean {
    let isAny = false;
    for (let i = 0; i < this.readers.length; i++) {
      const isHeld = this.readers[i]!.isInHand(hands);
      this.#isHeld[i] = isHeld ? 1 : 0;
      isAny ||= isHeld;
    }
    return isAny;
  }

  /**
   * Puts what they are at a frame in their places, but for one that something else stands in for; whether any is other than what was
   * there. `hands`: those that were heeded last; null where none is on any of them.
   */
  readInto(values: Float64Array, frame: Frames, hands: HandTable | null, standsIn: number): boolean {
    const found = this.#found;
    const rows = this.#rows;
    const at: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    let isOther = false;
    for (let i = 0, row = 0; i < this.readers.length; i++, row += ROW.length) {
      if (i === standsIn) continue;
      const isHeld = hands !== null && this.#isHeld[i] === 1;
      if (!isHeld && at >= rows[row + ROW.from]! && at < rows[row + ROW.to]!) {
        if (rows[row + ROW.rise] === 0) continue;
        found[0] = rows[row + ROW.x]! + (rows[row + ROW.rise]! * (at - rows[row + ROW.from]!)) / rows[row + ROW.sec]!;
        ownValueInPlace(found, 0, rows, row + ROW.law);
      } else {
        const k = this.#read(i, frame, isHeld ? hands : null);
        // Kept here, not by a call: what is seldom run leaves each of these numbers behind as a thing in memory.
        const { t, x, shape } = this.#curves[i]!;
        const goes = k >= 0 && k + 1 < t.length && shape[k] !== SHAPE_CODE.hold;
        rows[row + ROW.from] = k >= 0 ? t[k]! : -Infinity;
        rows[row + ROW.to] =
          k === STRETCH.other ? -Infinity : k >= STRETCH.first && k + 1 < t.length ? t[k + 1]! : Infinity;
        rows[row + ROW.x] = goes ? x[k]! : 0;
        rows[row + ROW.rise] = goes ? x[k + 1]! - x[k]! : 0;
        rows[row + ROW.sec] = goes ? t[k + 1]! - t[k]! : 0;
      }
      if (values[i] === found[0]) continue;
      values[i] = found[0]!;
      isOther = true;
    }
    return isOther;
  }

  /** Finds one by its reader; after which point of its curve it is now, see {@link STRETCH}. */
  #read(i: number, frame: Frames, hands: HandTable | null): number {
    const reader = this.readers[i]!;
    reader.readOwnValue(frame, hands);
    this.#found[0] = reader.found[FOUND.value]!;
    return hands ? STRETCH.other : reader.stretch;
  }
}
