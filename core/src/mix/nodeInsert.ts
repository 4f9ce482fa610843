import equal from 'fast-deep-equal';
import { EFFECTS, GRID_FRAMES, type Effect, type EffectKernel } from '../effects/index.js';
import type { Frames } from '../units/index.js';
import { ControlReader } from './controlReader.js';
import { FOUND } from './found.js';
import type { HandTable } from './hands.js';
import { ParamValues } from './paramValues.js';
import type { InsertPlan, MixPlan } from './plan.js';

/** An insert that is switched on or off comes and goes over so long. */
const SWITCH_SEC = 0.002;

/** A share that goes to another one by as much a frame: what it is, where it goes, by how much it may go. */
const SHARE = { is: 0, to: 1, step: 2 } as const;

/** A share a frame later, in place. */
function goOnInPlace(share: Float64Array): void {
  const way = share[SHARE.to]! - share[SHARE.is]!;
  const step = share[SHARE.step]!;
  share[SHARE.is]! += way > step ? step : way < -step ? -step : way;
}

const isAtRest = (share: Float64Array, at: 0 | 1): boolean => share[SHARE.is] === at && share[SHARE.to] === at;

/** One insert of a node: its effect, what its parameters are, whether it is on. */
export class NodeInsert {
  readonly kernel: EffectKernel;
  readonly #effect: Effect;
  readonly #params: readonly ControlReader[];
  readonly #values: ParamValues;
  readonly #on: ControlReader;
  /** How much of it is heard, and how much it is given of what comes to it: see {@link SHARE}. */
  readonly #heard: Float64Array;
  readonly #given: Float64Array;
  readonly #dry: readonly [Float32Array, Float32Array];
  /** The stretch between two lines of the grid that is under way. */
  #from: Frames = 0;
  #to: Frames = 0;
  /** The frame after the last that was changed. */
  #next: Frames = 0;
  readonly #isStill: boolean;
  #handsOn = false;
  #isLeft = false;
  /** It was taken out: it goes over so long as it takes to switch it off. */
  #goes = false;
  /** It is on its way to another place in the order: neither heard nor given anything. */
  #aside = false;
  #standsAt = 0;

  constructor(
    readonly plan: InsertPlan,
    readonly sides: 1 | 2,
    { controls, sampleRate }: MixPlan,
    before: NodeInsert | null,
  ) {
    const { effect, settings, params, on } = plan;
    this.#effect = EFFECTS.get(effect)!;
    const reader = (slot: number): ControlReader => new ControlReader(controls, slot, sampleRate);
    this.#params = params.map(reader);
    this.#on = reader(on);
    this.#isStill = plan.standIn === null && [...this.#params, this.#on].every((one) => one.isStill);
    const step = 1 / Math.round(SWITCH_SEC * sampleRate);
    this.#heard = Float64Array.of(1, 1, step);
    this.#given = Float64Array.of(1, 1, step);
    this.#dry = [new Float32Array(GRID_FRAMES), new Float32Array(GRID_FRAMES)];
    this.kernel = before?.kernel ?? this.#effect.kernel({ sampleRate, sides, settings });
    this.#values = new ParamValues(this.#params, sampleRate, this.kernel);
    if (!before) return;
    this.#heard[SHARE.is] = before.#heard[SHARE.is]!;
    this.#given[SHARE.is] = before.#given[SHARE.is]!;
  }

  /** What it adds is no part of what is dry. */
  get rings(): boolean {
    return this.#effect.rings;
  }

  /** Whether another one can go on with its sound. */
  isLike({ slot, effect, settings }: InsertPlan, sides: 1 | 2): boolean {
    return (
      this.plan.slot === slot &&
      this.plan.effect === effect &&
      equal(this.plan.settings, settings) &&
      this.sides === sides
    );
  }

  reads(slots: ReadonlySet<number>): boolean {
    return this.#on.reads(slots) || this.#params.some((one) => one.reads(slots));
  }

  /** Hands have done something: whether one is on it. */
  heed(hands: HandTable): void {
    const was = this.#handsOn;
    const isHeld = this.#values.heed(hands);
    this.#handsOn = isHeld || this.#on.isInHand(hands);
    // One has just let go: where it is now has to be looked at once more.
    if (was && !this.#handsOn) this.#isLeft = true;
  }

  /** Goes to a frame as if the song had come there by itself, all sound forgotten. */
  locate(frame: Frames, hands: HandTable | null): void {
    if (hands) this.heed(hands);
    this.#read(frame, hands);
    this.kernel.begin();
    this.#sumTo(frame);
    this.kernel.clear();
    this.stepIn();
    this.#turn(frame, hands, true);
    this.#heard[SHARE.is] = this.#heard[SHARE.to]!;
    this.#given[SHARE.is] = 1;
  }

  /** Goes on at another frame with all that still sounds; its parameters go from where they were to where they are there. */
  wrap(frame: Frames, hands: HandTable | null): void {
    this.#halt();
    this.#turn(frame, hands, true);
  }

  /** Goes on with nothing to be heard of it yet, from a line of the grid on, as if it had never been left out. */
  #wake(line: Frames, hands: HandTable | null): void {
    this.#read(line, hands);
    this.kernel.begin();
    this.#turn(line, hands, true);
    this.#heard[SHARE.is] = this.#heard[SHARE.to]!;
  }

  /** Forgets all that it has heard, and its parameters begin as they are at a frame: what it had was no sound. */
  recover(frame: Frames, hands: HandTable | null): void {
    this.#read(frame, hands);
    this.kernel.begin();
    this.kernel.clear();
    this.#turn(frame, hands, true);
    this.#next = frame;
  }

  #halt(): void {
    this.kernel.halt(Math.max(0, Math.min(this.#next, this.#to) - this.#from));
  }

  /** Comes in the midst of the song: heard from nothing on, and given so, or its tail would begin with a click. */
  come(frame: Frames, hands: HandTable | null): void {
    this.locate(frame, hands);
    this.#heard[SHARE.is] = 0;
    this.#given[SHARE.is] = 0;
  }

  /** Steps aside, to come in again elsewhere in the order. */
  stepAside(): void {
    this.#aside = true;
    this.#heard[SHARE.to] = 0;
    this.#given[SHARE.to] = 0;
  }

  /** Whether it makes no difference where in the order it is. */
  get isAside(): boolean {
    return isAtRest(this.#heard, 0) && isAtRest(this.#given, 0);
  }

  /** Is in its place, and is heard as its switch says from its next stretch on. */
  stepIn(): void {
    this.#aside = false;
    this.#given[SHARE.to] = 1;
    this.#isLeft = true;
  }

  /** Was taken out in the midst of the song: no hand or curve has a say in it any more. */
  go(): void {
    this.#goes = true;
    this.#heard[SHARE.to] = 0;
  }

  /** Has gone, at once. */
  end(): void {
    this.#heard[SHARE.is] = 0;
  }

  /** Whether it was taken out, and has gone. */
  get isGone(): boolean {
    return this.#goes && this.#heard[SHARE.is] === 0;
  }

  /** Takes the place of another plan's insert in the midst of the song. */
  follow(before: NodeInsert, frame: Frames, hands: HandTable | null): void {
    before.#halt();
    this.#turn(frame, hands, true);
  }

  /** Changes a block, which begins at a frame of the song. */
  process(left: Float32Array, right: Float32Array, count: Frames, start: Frames, hands: HandTable | null): void {
    for (let at = 0; at < count;) {
      const frame = start + at;
      if (frame === this.#to) this.#turn(frame, hands, false);
      else if (frame > this.#to || frame < this.#from) {
        // It was left out while all was silent.
        if (this.kernel.isAtRest) this.#wake(frame - (frame % GRID_FRAMES), hands);
        else {
          this.#halt();
          this.#turn(frame, hands, true);
        }
      }
      const n = count - at < this.#to - frame ? count - at : this.#to - frame;
      this.#through(left, right, at, n, frame - this.#from);
      at += n;
    }
    this.#next = start + count;
  }

  #through(left: Float32Array, right: Float32Array, at: Frames, n: Frames, done: Frames): void {
    const [heard, given] = [this.#heard, this.#given];
    if (isAtRest(heard, 1) && isAtRest(given, 1)) return this.kernel.process(left, right, at, n, done);
    const [dryLeft, dryRight] = this.#dry;
    for (let i = 0; i < n; i++) dryLeft[i] = left[at + i]!;
    if (this.sides === 2) for (let i = 0; i < n; i++) dryRight[i] = right[at + i]!;
    if (!isAtRest(given, 1)) this.#give(left, right, at, n);
    this.kernel.process(left, right, at, n, done);
    for (let i = 0; i < n; i++) {
      goOnInPlace(heard);
      const share = heard[SHARE.is]!;
      left[at + i] = dryLeft[i]! + (left[at + i]! - dryLeft[i]!) * share;
      if (this.sides === 2) right[at + i] = dryRight[i]! + (right[at + i]! - dryRight[i]!) * share;
    }
  }

  /** Leaves as much of what comes to it as it is given. */
  #give(left: Float32Array, right: Float32Array, at: Frames, n: Frames): void {
    const given = this.#given;
    for (let i = 0; i < n; i++) {
      goOnInPlace(given);
      const share = given[SHARE.is]!;
      left[at + i]! *= share;
      if (this.sides === 2) right[at + i]! *= share;
    }
  }

  /** Opens the stretch from a frame to the next line of the grid. */
  #turn(frame: Frames, hands: HandTable | null, isJump: boolean): void {
    this.#from = frame;
    this.#next = frame;
    this.#to = frame - (frame % GRID_FRAMES) + GRID_FRAMES;
    const looks = !this.#goes && (isJump || !this.#isStill || this.#handsOn || this.#isLeft);
    this.#isLeft = false;
    let isOther = false;
    if (looks) {
      this.#on.readTravel(frame, false, hands);
      this.#heard[SHARE.to] = this.#aside || this.#on.found[FOUND.travel]! < 0.5 ? 0 : 1;
      isOther = this.#read(this.#to, hands) || isJump;
    }
    this.kernel.turn(this.#to - frame, isOther);
  }

  /** Reads what all parameters are at a frame; whether any is other than it was. */
  #read(frame: Frames, hands: HandTable | null): boolean {
    const { standIn } = this.plan;
    const isOther = this.#values.read(frame, this.#handsOn ? hands : null, standIn ? standIn.param : -1);
    return this.#standIn(frame) || isOther;
  }

  /** Puts what stands in for a parameter in its place. */
  #standIn(frame: Frames): boolean {
    const { standIn } = this.plan;
    if (!standIn) return false;
    const { frames, values, param } = standIn;
    if (frame < frames[this.#standsAt]!) this.#standsAt = 0;
    while (this.#standsAt + 1 < frames.length && frames[this.#standsAt + 1]! <= frame) this.#standsAt++;
    if (this.kernel.values[param] === values[this.#standsAt]) return false;
    this.kernel.values[param] = values[this.#standsAt]!;
    return true;
  }

  /** What the parameter that is summed has come to by a frame, by its curves. */
  #sumTo(frame: Frames): void {
    const { summed } = this.#effect;
    if (summed === undefined) return;
    const reader = this.#params[summed]!;
    const { sum } = this.kernel;
    sum[0] = 0;
    reader.readOwnValue(0, null);
    let was = reader.found[FOUND.value]!;
    if (reader.isStill) sum[0] = was * frame;
    else
      for (let from = 0; from < frame; from += GRID_FRAMES) {
        reader.readOwnValue(from + GRID_FRAMES, null);
        const is = reader.found[FOUND.value]!;
        const n = Math.min(GRID_FRAMES, frame - from);
        sum[0] += n * was + (((is - was) / GRID_FRAMES) * n * (n - 1)) / 2;
        was = is;
      }
    sum[0] /= reader.sampleRate;
  }
}
