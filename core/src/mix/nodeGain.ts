import { MAX_EFFECTIVE_DB } from '../groups/index.js';
import { gainOfDb, leftBalanceGain, leftGain, type Frames, type Gain, type Travel } from '../units/index.js';
import type { ControlReader } from './controlReader.js';
import { DOES, type HandTable } from './hands.js';
import type { NodePlan, MixPlan } from './plan.js';
import type { Ramp } from './stretch.js';

/** How gains move (rules, 3): exact at least every `gridFrames` from the song's start, jumps spread over `slewSec`. */
export const GAIN = { gridFrames: 64, slewSec: 0.002, slews: 4, jump: 1e-7 } as const;
const MAX_GAIN = gainOfDb(MAX_EFFECTIVE_DB);

/**
 * The two gains of a channel (to the left and to the right of its output) over time: straight from knot to knot, where
 * knots are the points of all its curves and every 64 frames of the song; a jump is spread over 2 ms from its frame.
 * What it gives at a frame does not depend on where blocks begin, so a bounce is the live mix sample for sample.
 */
export class NodeGain {
  /** The stretch between two knots, and the gains over it. */
  from: Frames = 0;
  to: Frames = 0;
  readonly leftRamp: Ramp = { gain: 0, slope: 0 };
  readonly rightRamp: Ramp = { gain: 0, slope: 0 };
  /** The gains at the stretch's end. */
  #left1 = 0;
  #right1 = 0;
  /** Jumps being spread: frame of each, and how much of it remains there. Free places have −Infinity. */
  readonly #slewFrom = new Float64Array(GAIN.slews).fill(-Infinity);
  readonly #slewLeft = new Float64Array(GAIN.slews);
  readonly #slewRight = new Float64Array(GAIN.slews);
  readonly slewFrames: number;
  #leftNow = 0;
  #rightNow = 0;
  /** The next point of any of its curves: between points a stretch begins with what the last one ended with. */
  #pointAt: Frames = Infinity;
  #handsOn = false;
  readonly #still: boolean;
  readonly #slots: readonly number[];
  #panWas = NaN;
  #panLeft = 0;
  #panRight = 0;

  constructor(
    readonly plan: NodePlan,
    readonly mix: MixPlan,
    readonly readers: readonly ControlReader[],
  ) {
    this.slewFrames = Math.round(GAIN.slewSec * mix.sampleRate);
    this.#slots = [plan.level, plan.pan, plan.mute, ...plan.vcaLevels, ...plan.vcaMutes];
    this.#still = this.#slots.every((slot) => readers[slot]!.isStill);
  }

  /** Begins at a frame as if the song had come there by itself: jumps of the last 2 ms are still on their way. */
  locate(frame: Frames, hands: HandTable | null): void {
    this.#slewFrom.fill(-Infinity);
    this.#pointAt = Infinity;
    if (hands) this.#handsOn = this.#anyHand(hands);
    const start = Math.max(0, frame - this.slewFrames);
    this.#evaluate(start, false, hands);
    this.#open(start, hands);
    while (this.to <= frame) this.next(hands);
  }

  /** Hands have done something since the last block: if it was here, a new stretch begins at this frame. */
  heed(frame: Frames, hands: HandTable): void {
    const before = this.#handsOn;
    this.#handsOn = this.#anyHand(hands);
    if (before || this.#handsOn) this.#begin(frame, hands);
  }

  #anyHand(hands: HandTable): boolean {
    for (let i = 0; i < this.#slots.length; i++) if (hands.does(this.#slots[i]!) !== DOES.curve) return true;
    return false;
  }

  /** Goes on to the stretch that begins where this one ends. */
  next(hands: HandTable | null): void {
    const frame = this.to;
    if (frame === this.#pointAt || this.#handsOn) return this.#begin(frame, hands);
    this.#leftNow = this.#left1;
    this.#rightNow = this.#right1;
    this.#open(frame, hands);
  }

  /** Begins a stretch at any frame; what is not where the one before it comes to is spread over 2 ms. */
  #begin(frame: Frames, hands: HandTable | null): void {
    const gone = frame - this.from;
    const left = frame === this.to ? this.#left1 : this.leftRamp.gain + this.leftRamp.slope * gone;
    const right = frame === this.to ? this.#right1 : this.rightRamp.gain + this.rightRamp.slope * gone;
    this.#evaluate(frame, false, hands);
    if (Math.abs(left - this.#leftNow) > GAIN.jump || Math.abs(right - this.#rightNow) > GAIN.jump)
      this.#slew(frame, left - this.#leftNow, right - this.#rightNow);
    this.#open(frame, hands);
  }

  /** Takes over what another plan's gain was doing at a frame, so that a change of the song does not click. */
  follow(other: NodeGain, frame: Frames, hands: HandTable | null): void {
    this.from = other.from;
    this.to = other.to;
    Object.assign(this.leftRamp, other.leftRamp);
    Object.assign(this.rightRamp, other.rightRamp);
    this.#left1 = other.#left1;
    this.#right1 = other.#right1;
    this.#slewFrom.set(other.#slewFrom);
    this.#slewLeft.set(other.#slewLeft);
    this.#slewRight.set(other.#slewRight);
    if (hands) this.#handsOn = this.#anyHand(hands);
    this.#begin(frame, hands);
  }

  /** Whether a jump is still being spread at a frame. */
  isSlewing(frame: Frames): boolean {
    for (let i = 0; i < GAIN.slews; i++) if (frame < this.#slewFrom[i]! + this.slewFrames) return true;
    return false;
  }

  /** The gain to the left at a frame of the stretch, what is left of jumps included. */
  leftAt(frame: Frames): Gain {
    return this.leftRamp.gain + this.leftRamp.slope * (frame - this.from) + this.#slewSum(this.#slewLeft, frame);
  }

  /** The gain to the right; see {@link leftAt}. */
  rightAt(frame: Frames): Gain {
    return this.rightRamp.gain + this.rightRamp.slope * (frame - this.from) + this.#slewSum(this.#slewRight, frame);
  }

  #slewSum(offsets: Float64Array, frame: Frames): number {
    let sum = 0;
    for (let i = 0; i < GAIN.slews; i++) {
      const gone = frame - this.#slewFrom[i]!;
      if (gone < this.slewFrames) sum += offsets[i]! * (1 - gone / this.slewFrames);
    }
    return sum;
  }

  #slew(frame: Frames, left: number, right: number): void {
    let oldest = 0;
    for (let i = 1; i < GAIN.slews; i++) if (this.#slewFrom[i]! < this.#slewFrom[oldest]!) oldest = i;
    const rest = 1 - (frame - this.#slewFrom[oldest]!) / this.slewFrames;
    const carried = rest > 0 ? rest : 0;
    this.#slewLeft[oldest] = left + (carried && this.#slewLeft[oldest]! * carried);
    this.#slewRight[oldest] = right + (carried && this.#slewRight[oldest]! * carried);
    this.#slewFrom[oldest] = frame;
  }

  /** Opens the stretch from a frame, whose gains were just evaluated, to the next knot. */
  #open(frame: Frames, hands: HandTable | null): void {
    this.from = frame;
    this.leftRamp.gain = this.#leftNow;
    this.rightRamp.gain = this.#rightNow;
    let to = (Math.floor(frame / GAIN.gridFrames) + 1) * GAIN.gridFrames;
    if (!this.#still) {
      if (!(this.#pointAt > frame && this.#pointAt < Infinity)) this.#pointAt = this.#nextPoint(frame);
      to = Math.min(to, this.#pointAt);
    }
    if (!this.#still || this.#handsOn) this.#evaluate(to, to === this.#pointAt, hands);
    this.to = to;
    this.#left1 = this.#leftNow;
    this.#right1 = this.#rightNow;
    this.leftRamp.slope = (this.#left1 - this.leftRamp.gain) / (to - frame);
    this.rightRamp.slope = (this.#right1 - this.rightRamp.gain) / (to - frame);
  }

  #nextPoint(frame: Frames): Frames {
    let next = Infinity;
    for (let i = 0; i < this.#slots.length; i++) {
      const point = this.readers[this.#slots[i]!]!.nextPointFrame(frame);
      if (point < next) next = point;
    }
    return next;
  }

  /** Both gains at a frame by all its controls: mute, level with trim and VCAs, pan. */
  #evaluate(frame: Frames, arriving: boolean, hands: HandTable | null): void {
    const { plan, readers } = this;
    let gain = plan.silenced ? 0 : 1;
    if (readers[plan.mute]!.travel(frame, arriving, hands) >= 0.5) gain = 0;
    for (let i = 0; i < plan.vcaMutes.length; i++)
      if (readers[plan.vcaMutes[i]!]!.travel(frame, arriving, hands) >= 0.5) gain = 0;
    if (gain) {
      gain = readers[plan.level]!.gain(frame, arriving, hands);
      for (let i = 0; i < plan.vcaLevels.length; i++) gain *= readers[plan.vcaLevels[i]!]!.gain(frame, arriving, hands);
      if (gain > MAX_GAIN) gain = MAX_GAIN;
    }
    const pan = readers[plan.pan]!.travel(frame, arriving, hands);
    if (pan !== this.#panWas) this.#turnPan(pan);
    this.#leftNow = gain * this.#panLeft;
    this.#rightNow = gain * this.#panRight;
  }

  #turnPan(travel: Travel): void {
    this.#panWas = travel;
    const pan = 2 * travel - 1;
    const { panLaw } = this.mix;
    this.#panLeft = this.plan.isStereo ? leftBalanceGain(panLaw, pan) : leftGain(panLaw, pan);
    this.#panRight = this.plan.isStereo ? leftBalanceGain(panLaw, -pan) : leftGain(panLaw, -pan);
  }
}
