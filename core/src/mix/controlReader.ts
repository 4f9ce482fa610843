import { CurveReader, SHAPE_CODE, SwayReader } from '../curve/index.js';
import {
  MOST_SWAY,
  gainOfTravel,
  levelGainInPlace,
  TRIM_REACH_DB,
  trimGainInPlace,
  type Frames,
  type Gain,
  type Seconds,
} from '../units/index.js';
import { FOUND, NEVER, STRETCH } from './found.js';
import { ownLawOf, ownValueInPlace } from './ownLaw.js';
import { DOES, type HandTable } from './hands.js';
import type { ControlPlan } from './plan.js';

/** A frame's time is read this much later, so that a point on the frame counts as reached whatever its rounding. */
export const HAIR_FRAMES = 1e-6;

/**
 * Reads one control as it is heard: its hand, its line, its curves or its rest. Allocates nothing after its making: what it
 * finds it leaves in `found` (see {@link FOUND}).
 */
export class ControlReader {
  readonly found = new Float64Array(FOUND.length);
  readonly #base: CurveReader | null;
  readonly #trim: CurveReader | null;
  readonly #restGain: Gain;
  /** The law of a control with a range of its own, as {@link ownValueInPlace} takes it. */
  readonly ownLaw: Float64Array;
  readonly #sway: { readonly reader: SwayReader; readonly depth: ControlReader } | null;
  readonly plan: ControlPlan;

  /** Of the control in a slot of a mix's. */
  constructor(
    controls: readonly ControlPlan[],
    readonly slot: number,
    readonly sampleRate: number,
  ) {
    const plan = controls[slot]!;
    this.plan = plan;
    this.#sway = plan.sway && {
      reader: new SwayReader(plan.sway.swaying),
      depth: new ControlReader(controls, plan.sway.depth, sampleRate),
    };
    this.#base = plan.curve ? new CurveReader(plan.curve) : null;
    this.#trim = plan.trim ? new CurveReader(plan.trim) : null;
    this.#restGain = gainOfTravel(plan.rest);
    this.ownLaw = ownLawOf(plan.law);
  }

  /** Whether nothing can move it but a hand. */
  get isStill(): boolean {
    return !this.#base && !this.#trim && !this.#sway;
  }

  /** Whether it reads any of some slots: its own, or that of its sway's depth. */
  reads(slots: ReadonlySet<number>): boolean {
    return slots.has(this.slot) || (this.#sway !== null && this.#sway.depth.reads(slots));
  }

  /** Whether a hand has it, or its sway's depth. */
  isInHand(hands: HandTable): boolean {
    return hands.does(this.slot) !== DOES.curve || (this.#sway !== null && this.#sway.depth.isInHand(hands));
  }

  /** Finds the next frame after `frame` that a point of its curves stands on, or a step of its sway; {@link NEVER} where there is none. */
  findNextPoint(frame: Frames): void {
    const { found } = this;
    found[FOUND.next] = NEVER;
    if (this.#base) this.#nextOf(this.#base, frame);
    if (this.#trim) this.#nextOf(this.#trim, frame);
    if (this.#sway) this.#nextStep(this.#sway.reader, this.#sway.depth, frame);
  }

  #nextOf(reader: CurveReader, frame: Frames): void {
    const { found } = this;
    const { t } = reader.columns;
    found[FOUND.at] = (frame + HAIR_FRAMES) / this.sampleRate;
    const i = reader.nextPointAfter(found, FOUND.at);
    if (i >= t.length) return;
    const at = Math.ceil(t[i]! * this.sampleRate - HAIR_FRAMES);
    if (at < found[FOUND.next]!) found[FOUND.next] = at;
  }

  #nextStep(reader: SwayReader, depth: ControlReader, frame: Frames): void {
    const { found } = this;
    found[FOUND.sway] = frame / this.sampleRate;
    reader.nextStepInto(found, FOUND.sway);
    const step = Math.max(frame + 1, Math.ceil(found[FOUND.sway]! * this.sampleRate - HAIR_FRAMES));
    if (step < found[FOUND.next]!) found[FOUND.next] = step;
    depth.findNextPoint(frame);
    if (depth.found[FOUND.next]! < found[FOUND.next]!) found[FOUND.next] = depth.found[FOUND.next]!;
  }

  /** Finds the travel of the base at a frame, its sway on it; `arriving`: as it comes there, before a step on that frame. */
  readTravel(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    this.#readSteady(frame, arriving, hands);
    if (this.#sway) this.#addSway(this.#sway.reader, this.#sway.depth, frame, arriving, hands);
  }

  /** Adds the sway to the travel that was found, which stays on the throw. */
  #addSway(reader: SwayReader, depth: ControlReader, frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const { found } = this;
    depth.readTravel(frame, arriving, hands);
    found[FOUND.sway] = frame / this.sampleRate;
    found[FOUND.before] = (frame - 1) / this.sampleRate;
    reader.waveInto(found, FOUND.sway, arriving ? FOUND.before : -1);
    const x = found[FOUND.travel]! + MOST_SWAY * depth.found[FOUND.travel]! * found[FOUND.sway]!;
    found[FOUND.travel] = x < 0 ? 0 : x > 1 ? 1 : x;
  }

  /** Finds the travel of the base without its sway. */
  #readSteady(frame: Frames, arriving: boolean, hands: HandTable | null): void {
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
    found[FOUND.value] = found[FOUND.travel]!;
    ownValueInPlace(found, FOUND.value, this.ownLaw, 0, 1);
    if (!('min' in law) || law.unit !== 'dB' || !this.#findTrim(frame, false, hands)) return;
    found[FOUND.value]! += (2 * found[FOUND.travel]! - 1) * TRIM_REACH_DB;
    if (found[FOUND.value]! < law.min) found[FOUND.value] = law.min;
    if (found[FOUND.value]! > law.max) found[FOUND.value] = law.max;
  }

  /** The point of its curve after which it was read last, if nothing else moves it and it goes straight from there; else see {@link STRETCH}. */
  get stretch(): number {
    if (this.#trim || this.#sway) return STRETCH.other;
    return this.#base ? this.#base.straight : STRETCH.rest;
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
