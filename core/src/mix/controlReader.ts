import { CurveReader, SHAPE_CODE } from '../curve/index.js';
import { gainOfDb, gainOfTravel, TRIM_LAW, valueOf, type Frames, type Gain, type Seconds } from '../units/index.js';
import { DOES, type HandTable } from './hands.js';
import type { ControlPlan } from './plan.js';

/** A frame's time is read this much later, so that a point on the frame counts as reached whatever its rounding. */
const HAIR_FRAMES = 1e-6;

/** Where a reader leaves what it has found. */
export const TRAVEL = 0;
export const GAIN_OF = 1;

/** The gain of a level that was found. */
function levelFound(found: Float64Array): void {
  found[GAIN_OF] = gainOfTravel(found[TRAVEL]!);
}

/** A trim that was found comes on top of the gain. */
function trimFound(found: Float64Array): void {
  found[GAIN_OF]! *= gainOfDb(valueOf(TRIM_LAW, found[TRAVEL]!));
}

/**
 * Reads one control as it is heard: its hand, its line, its curves or its rest. Allocates nothing after its making: what it
 * finds it leaves in `found`, since a number that a call gives back is a new thing in memory wherever the call is not taken apart.
 */
export class ControlReader {
  readonly found = new Float64Array(2);
  readonly #base: CurveReader | null;
  readonly #trim: CurveReader | null;
  readonly #restGain: Gain;

  constructor(
    readonly plan: ControlPlan,
    readonly slot: number,
    readonly sampleRate: number,
  ) {
    this.#base = plan.curve ? new CurveReader(plan.curve) : null;
    this.#trim = plan.trim ? new CurveReader(plan.trim) : null;
    this.#restGain = gainOfTravel(plan.rest);
  }

  /** Whether nothing can move it but a hand. */
  get isStill(): boolean {
    return !this.#base && !this.#trim;
  }

  /** The next frame after `frame` that a point of its curves stands on; Infinity where there is none. */
  nextPointFrame(frame: Frames): Frames {
    return Math.min(this.#nextOf(this.#base, frame), this.#nextOf(this.#trim, frame));
  }

  #nextOf(reader: CurveReader | null, frame: Frames): Frames {
    if (!reader) return Infinity;
    const { t } = reader.columns;
    const i = reader.nextPointAfter((frame + HAIR_FRAMES) / this.sampleRate);
    return i < t.length ? Math.ceil(t[i]! * this.sampleRate - HAIR_FRAMES) : Infinity;
  }

  /** Finds the travel of the base at a frame; `arriving`: as it comes there, before a step on that frame. */
  readTravel(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    if (does !== DOES.curve && !hands!.isTrim(this.slot)) {
      hands!.travelInto(this.found, this.slot, does, frame / this.sampleRate);
      if (this.found[TRAVEL]! >= 0) return;
    }
    if (this.#base) this.#read(this.#base, frame, arriving);
    else this.found[TRAVEL] = this.plan.rest;
  }

  /** Finds the gain of the control as a level, its trim included. */
  readGain(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    if (this.isStill && (!hands || hands.does(this.slot) === DOES.curve)) {
      this.found[GAIN_OF] = this.#restGain;
      return;
    }
    this.readTravel(frame, arriving, hands);
    levelFound(this.found);
    if (this.#findTrim(frame, arriving, hands)) trimFound(this.found);
  }

  /** Finds the travel of the trim; whether there is any. */
  #findTrim(frame: Frames, arriving: boolean, hands: HandTable | null): boolean {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    if (does !== DOES.curve && hands!.isTrim(this.slot)) {
      hands!.travelInto(this.found, this.slot, does, frame / this.sampleRate);
      if (this.found[TRAVEL]! >= 0) return true;
    }
    if (!this.#trim) return false;
    this.#read(this.#trim, frame, arriving);
    return true;
  }

  #read(reader: CurveReader, frame: Frames, arriving: boolean): void {
    const t: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    const { columns } = reader;
    if (arriving) {
      const next = reader.nextPointAfter((frame - 1 + HAIR_FRAMES) / this.sampleRate);
      if (next < columns.t.length && columns.t[next]! <= t) {
        // A point stands on this frame: what the segment before it arrives with.
        const isHeld = next > 0 && columns.shape[next - 1] === SHAPE_CODE.hold;
        this.found[TRAVEL] = columns.x[isHeld ? next - 1 : next]!;
        return;
      }
    }
    this.found[TRAVEL] = reader.travelAt(t);
  }
}
