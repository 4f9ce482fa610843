import { CurveReader, SHAPE_CODE } from '../curve/index.js';
import {
  gainOfTravel,
  levelGainInPlace,
  TRIM_REACH_DB,
  trimGainInPlace,
  type Frames,
  type Gain,
  type Seconds,
} from '../units/index.js';
import { FOUND, NEVER } from './found.js';
import { DOES, type HandTable } from './hands.js';
import type { ControlPlan } from './plan.js';

/** A frame's time is read this much later, so that a point on the frame counts as reached whatever its rounding. */
const HAIR_FRAMES = 1e-6;

/**
 * Reads one control as it is heard: its hand, its line, its curves or its rest. Allocates nothing after its making: what it
 * finds it leaves in `found` (see {@link FOUND}).
 */
export class ControlReader {
  readonly found = new Float64Array(FOUND.length);
  readonly #base: CurveReader | null;
  readonly #trim: CurveReader | null;
  readonly #restGain: Gain;
  /** Of a law that is a logarithm, that of its whole throw. */
  readonly #span: number;

  constructor(
    readonly plan: ControlPlan,
    readonly slot: number,
    readonly sampleRate: number,
  ) {
    this.#base = plan.curve ? new CurveReader(plan.curve) : null;
    this.#trim = plan.trim ? new CurveReader(plan.trim) : null;
    this.#restGain = gainOfTravel(plan.rest);
    this.#span = 'min' in plan.law ? Math.log(plan.law.max / plan.law.min) : 0;
  }

  /** Whether nothing can move it but a hand. */
  get isStill(): boolean {
    return !this.#base && !this.#trim;
  }

  /** The next frame after `frame` that a point of its curves stands on; {@link NEVER} where there is none. */
  nextPointFrame(frame: Frames): Frames {
    return Math.min(this.#nextOf(this.#base, frame), this.#nextOf(this.#trim, frame));
  }

  #nextOf(reader: CurveReader | null, frame: Frames): Frames {
    if (!reader) return NEVER;
    const { t } = reader.columns;
    this.found[FOUND.at] = (frame + HAIR_FRAMES) / this.sampleRate;
    const i = reader.nextPointAfter(this.found, FOUND.at);
    return i < t.length ? Math.ceil(t[i]! * this.sampleRate - HAIR_FRAMES) : NEVER;
  }

  /** Finds the travel of the base at a frame; `arriving`: as it comes there, before a step on that frame. */
  readTravel(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    if (does !== DOES.curve && !hands!.isTrim(this.slot) && this.#hasHand(frame, does, hands!)) return;
    if (this.#base) this.#read(this.#base, frame, arriving);
    else this.found[FOUND.travel] = this.plan.rest;
  }

  /** Finds the gain of the control as a level, its trim included. */
  readGain(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const { found } = this;
    if (this.isStill && (!hands || hands.does(this.slot) === DOES.curve)) {
      found[FOUND.gain] = this.#restGain;
      return;
    }
    this.readTravel(frame, arriving, hands);
    found[FOUND.gain] = found[FOUND.travel]!;
    levelGainInPlace(found, FOUND.gain);
    if (!this.#findTrim(frame, arriving, hands)) return;
    found[FOUND.trim] = found[FOUND.travel]!;
    trimGainInPlace(found, FOUND.trim);
    found[FOUND.gain]! *= found[FOUND.trim]!;
  }

  /** Finds the value of a control with a range of its own, in its unit; where it is in dB with its trim, within that range. */
  readOwnValue(frame: Frames, hands: HandTable | null): void {
    const { found } = this;
    const { law } = this.plan;
    this.readTravel(frame, false, hands);
    const x = found[FOUND.travel]!;
    if (!('min' in law)) found[FOUND.value] = x;
    else if (law.kind === 'log') found[FOUND.value] = law.min * Math.exp(x * this.#span);
    else found[FOUND.value] = law.min + x * (law.max - law.min);
    if (!('min' in law) || law.unit !== 'dB' || !this.#findTrim(frame, false, hands)) return;
    found[FOUND.value]! += (2 * found[FOUND.travel]! - 1) * TRIM_REACH_DB;
    if (found[FOUND.value]! < law.min) found[FOUND.value] = law.min;
    if (found[FOUND.value]! > law.max) found[FOUND.value] = law.max;
  }

  /** Finds the travel of the trim; whether there is any. */
  #findTrim(frame: Frames, arriving: boolean, hands: HandTable | null): boolean {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    if (does !== DOES.curve && hands!.isTrim(this.slot) && this.#hasHand(frame, does, hands!)) return true;
    if (!this.#trim) return false;
    this.#read(this.#trim, frame, arriving);
    return true;
  }

  /** Finds where a hand or a line has it; false where the line has landed, and a curve has it again. */
  #hasHand(frame: Frames, does: number, hands: HandTable): boolean {
    this.found[FOUND.at] = frame / this.sampleRate;
    hands.travelInto(this.found, this.slot, does);
    return this.found[FOUND.travel]! >= 0;
  }

  #read(reader: CurveReader, frame: Frames, arriving: boolean): void {
    const { found } = this;
    const { columns } = reader;
    const t: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    if (arriving) {
      found[FOUND.at] = (frame - 1 + HAIR_FRAMES) / this.sampleRate;
      const next = reader.nextPointAfter(found, FOUND.at);
      if (next < columns.t.length && columns.t[next]! <= t) {
        // A point stands on this frame: what the segment before it arrives with.
        const isHeld = next > 0 && columns.shape[next - 1] === SHAPE_CODE.hold;
        found[FOUND.travel] = columns.x[isHeld ? next - 1 : next]!;
        return;
      }
    }
    found[FOUND.travel] = t;
    reader.travelInto(found, FOUND.travel);
  }
}
