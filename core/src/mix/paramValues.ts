import { Curve, SHAPE_CODE, columnsOf, type CurveColumns } from '../curve/index.js';
import { STRAIGHT, type EffectKernel } from '../effects/index.js';
import type { Frames } from '../units/index.js';
import { HAIR_FRAMES, type ControlReader } from './controlReader.js';
import { FOUND, STRETCH } from './found.js';
import type { HandTable } from './hands.js';
import { ownValueInPlace } from './ownLaw.js';

const { apart } = STRAIGHT;
/** From when to when what is kept of each holds; and of all of them together. */
const HOLDS = { from: 0, to: apart, allFrom: 2 * apart, allTo: 2 * apart + 1, length: 2 * apart + 2 } as const;

/**
 * Reads all parameters of an insert at once. Where a curve goes straight, and no hand, trim or sway is on it, its stretch is kept from one time
 * to the next: the same values as its {@link ControlReader} has, to the last bit, in a fraction of the time, by the machine's own code
 * where all of them are so and the kernel has a place for it. Allocates nothing after its making.
 */
export class ParamValues {
  /** See {@link STRAIGHT}: what stands goes by nothing. */
  readonly #straight: Float64Array;
  /** See {@link HOLDS}; in seconds. */
  readonly #holds = new Float64Array(HOLDS.length);
  readonly #curves: readonly CurveColumns[];
  /** Of each, whether a hand is on it. */
  readonly #isHeld: Uint8Array;
  readonly #found = new Float64Array(1);

  constructor(
    readonly readers: readonly ControlReader[],
    readonly sampleRate: number,
    readonly kernel: Pick<EffectKernel, 'values' | 'straight' | 'readStraight'>,
  ) {
    this.#curves = readers.map(({ plan }) => plan.curve ?? columnsOf(Curve.EMPTY, plan.law));
    this.#isHeld = new Uint8Array(readers.length);
    this.#straight = kernel.straight ?? new Float64Array(STRAIGHT.length);
    for (const [i, { ownLaw }] of readers.entries())
      for (const [k, number] of ownLaw.entries()) this.#straight[STRAIGHT.law + k * apart + i] = number;
    this.#holds.fill(-Infinity);
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
   * Puts what they are at a frame into the kernel's values, but for one that something else stands in for; whether any is other than what was
   * there. `hands`: those that were heeded last; null where none is on any of them.
   */
  read(frame: Frames, hands: HandTable | null, standsIn: number): boolean {
    const straight = this.#straight;
    const holds = this.#holds;
    straight[STRAIGHT.at] = (frame + HAIR_FRAMES) / this.sampleRate;
    const at = straight[STRAIGHT.at]!;
    if (this.kernel.straight && !hands && standsIn < 0 && at >= holds[HOLDS.allFrom]! && at < holds[HOLDS.allTo]!)
      return this.kernel.readStraight();
    const { values } = this.kernel;
    const found = this.#found;
    let isOther = false;
    holds[HOLDS.allFrom] = -Infinity;
    holds[HOLDS.allTo] = Infinity;
    for (let i = 0; i < this.readers.length; i++) {
      if (i === standsIn) continue;
      const isHeld = hands !== null && this.#isHeld[i] === 1;
      const isKept = !isHeld && at >= holds[HOLDS.from + i]! && at < holds[HOLDS.to + i]!;
      if (!isKept) {
        const reader = this.readers[i]!;
        reader.readOwnValue(frame, isHeld ? hands : null);
        found[0] = reader.found[FOUND.value]!;
        // Kept here, not by a call: what is seldom run leaves each of these numbers behind as a thing in memory.
        const k = isHeld ? STRETCH.other : reader.stretch;
        const { t, x, shape } = this.#curves[i]!;
        const isLast = k + 1 >= t.length;
        const goes = k >= 0 && !isLast && shape[k] !== SHAPE_CODE.hold;
        // Each number goes straight to its place: one that is chosen first may stand in memory meanwhile.
        if (k >= 0) holds[HOLDS.from + i] = t[k]!;
        else holds[HOLDS.from + i] = -Infinity;
        if (k >= STRETCH.first && !isLast) holds[HOLDS.to + i] = t[k + 1]!;
        else holds[HOLDS.to + i] = k === STRETCH.other ? -Infinity : Infinity;
        if (goes) {
          straight[STRAIGHT.since + i] = t[k]!;
          straight[STRAIGHT.x + i] = x[k]!;
          straight[STRAIGHT.rise + i] = x[k + 1]! - x[k]!;
          straight[STRAIGHT.sec + i] = t[k + 1]! - t[k]!;
        } else {
          straight[STRAIGHT.since + i] = 0;
          straight[STRAIGHT.x + i] = reader.found[FOUND.travel]!;
          straight[STRAIGHT.rise + i] = 0;
          straight[STRAIGHT.sec + i] = 1;
        }
      } else if (straight[STRAIGHT.rise + i] !== 0) {
        const way = (straight[STRAIGHT.rise + i]! * (at - straight[STRAIGHT.since + i]!)) / straight[STRAIGHT.sec + i]!;
        found[0] = straight[STRAIGHT.x + i]! + way;
        ownValueInPlace(found, 0, straight, STRAIGHT.law + i, apart);
      } else found[0] = values[i]!;
      if (holds[HOLDS.from + i]! > holds[HOLDS.allFrom]!) holds[HOLDS.allFrom] = holds[HOLDS.from + i]!;
      if (holds[HOLDS.to + i]! < holds[HOLDS.allTo]!) holds[HOLDS.allTo] = holds[HOLDS.to + i]!;
      if (values[i] === found[0]) continue;
      values[i] = found[0]!;
      isOther = true;
    }
    return isOther;
  }
}
