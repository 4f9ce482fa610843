import { CurveReader, SHAPE_CODE } from '../curve/index.js';
import {
  gainOfDb,
  gainOfTravel,
  valueOf,
  TRIM_LAW,
  type Frames,
  type Gain,
  type Seconds,
  type Travel,
} from '../units/index.js';
import { DOES, type HandTable } from './hands.js';
import type { ControlPlan } from './plan.js';

/** A frame's time is read this much later, so that a point on the frame counts as reached whatever its rounding. */
const HAIR_FRAMES = 1e-6;

/** Reads one control as it is heard: its hand, its line, its curves or its rest. Allocates nothing after its making. */
export class ControlReader {
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

  /** Travel of the base at a frame; `arriving`: as it comes there, before a step on that frame. */
  travel(frame: Frames, arriving: boolean, hands: HandTable | null): Travel {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    if (does !== DOES.curve && !hands!.isTrim(this.slot)) {
      const x = hands!.travelAt(this.slot, does, frame / this.sampleRate);
      if (x >= 0) return x;
    }
    return this.#base ? this.#read(this.#base, frame, arriving) : this.plan.rest;
  }

  /** Gain of the control as a level, its trim included. */
  gain(frame: Frames, arriving: boolean, hands: HandTable | null): Gain {
    if (this.isStill && (!hands || hands.does(this.slot) === DOES.curve)) return this.#restGain;
    return gainOfTravel(this.travel(frame, arriving, hands)) * this.#trimGain(frame, arriving, hands);
  }

  #trimGain(frame: Frames, arriving: boolean, hands: HandTable | null): Gain {
    const does = hands ? hands.does(this.slot) : DOES.curve;
    let x: Travel = -1;
    if (does !== DOES.curve && hands!.isTrim(this.slot)) x = hands!.travelAt(this.slot, does, frame / this.sampleRate);
    if (x < 0) {
      if (!this.#trim) return 1;
      x = this.#read(this.#trim, frame, arriving);
    }
    return gainOfDb(valueOf(TRIM_LAW, x));
  }

  #read(reader: CurveReader, frame: Frames, arriving: boolean): Travel {
    const t: Seconds = (frame + HAIR_FRAMES) / this.sampleRate;
    if (!arriving) return reader.travelAt(t);
    const before = (frame - 1 + HAIR_FRAMES) / this.sampleRate;
    const next = reader.nextPointAfter(before);
    const { columns } = reader;
    if (next >= columns.t.length || columns.t[next]! > t) return reader.travelAt(t);
    // A point stands on this frame: what the segment before it arrives with.
    if (next === 0) return columns.x[0]!;
    return columns.shape[next - 1] === SHAPE_CODE.hold ? columns.x[next - 1]! : columns.x[next]!;
  }
}
