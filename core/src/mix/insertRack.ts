import equal from 'fast-deep-equal';
import { Compressor, EFFECTS, GRID_FRAMES, type Effect, type EffectKernel } from '../effects/index.js';
import { valueOf, type Frames } from '../units/index.js';
import { ControlReader } from './controlReader.js';
import { FOUND } from './found.js';
import { type HandTable } from './hands.js';
import type { MixLoops } from './mixLoops.js';
import { ParamValues } from './paramValues.js';
import type { ControlPlan, InsertPlan, MixPlan, NodePlan } from './plan.js';

/** A block of sound, and where it is. */
export type Sound = Pick<MixLoops, 'inputLeft' | 'inputRight' | 'inputAt'>;

/** An insert that is switched on or off comes and goes over so long. */
const SWITCH_SEC = 0.002;

/** One insert of a node: its effect, what its parameters are, whether it is on. */
class Insert {
  readonly kernel: EffectKernel;
  readonly #effect: Effect;
  readonly #params: readonly ControlReader[];
  readonly #values: ParamValues;
  readonly #on: ControlReader;
  /** How much of it is heard, how far it is from there to where its switch has it, and by how much it may go a frame. */
  readonly #heard = Float64Array.of(1, 1);
  readonly #step: number;
  readonly #dry: readonly [Float32Array, Float32Array];
  /** The stretch between two lines of the grid that is under way. */
  #from: Frames = 0;
  #to: Frames = 0;
  /** The frame after the last that was changed. */
  #next: Frames = 0;
  readonly #isStill: boolean;
  #handsOn = false;
  #isLeft = false;
  /** It has just come: what it is given begins over that time, too, or its tail would begin with a click. */
  #comes = false;
  /** It was taken out: it goes over so long as it takes to switch it off. */
  #goes = false;
  #standsAt = 0;

  constructor(
    readonly plan: InsertPlan,
    readonly sides: 1 | 2,
    { controls, sampleRate }: MixPlan,
    before: Insert | null,
  ) {
    const { effect, settings, params, on } = plan;
    this.#effect = EFFECTS.get(effect)!;
    const reader = (slot: number): ControlReader => new ControlReader(controls, slot, sampleRate);
    this.#params = params.map(reader);
    this.#values = new ParamValues(this.#params, sampleRate);
    this.#on = reader(on);
    this.#isStill = plan.standIn === null && [...this.#params, this.#on].every((one) => one.isStill);
    this.#step = 1 / Math.round(SWITCH_SEC * sampleRate);
    this.#dry = [new Float32Array(GRID_FRAMES), new Float32Array(GRID_FRAMES)];
    this.kernel = before?.kernel ?? this.#effect.kernel({ sampleRate, sides, settings });
    if (before) this.#heard.set(before.#heard);
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
    this.#handsOn = this.#on.isInHand(hands);
    for (let i = 0; i < this.#params.length && !this.#handsOn; i++) this.#handsOn = this.#params[i]!.isInHand(hands);
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
    this.#on.readTravel(frame, false, hands);
    this.#heard[0] = this.#on.found[FOUND.travel]! < 0.5 ? 0 : 1;
    this.#turn(frame, hands, true);
  }

  /** Goes on at another frame with all that still sounds; its parameters go from where they were to where they are there. */
  wrap(frame: Frames, hands: HandTable | null): void {
    this.#halt();
    this.#turn(frame, hands, true);
  }

  #halt(): void {
    this.kernel.halt(Math.max(0, Math.min(this.#next, this.#to) - this.#from));
  }

  /** Comes in the midst of the song: heard from nothing on. */
  come(frame: Frames, hands: HandTable | null): void {
    this.locate(frame, hands);
    this.#heard[0] = 0;
    this.#comes = true;
  }

  /** Was taken out in the midst of the song: no hand or curve has a say in it any more. */
  go(): void {
    this.#goes = true;
    this.#heard[1] = 0;
  }

  /** Has gone, at once. */
  end(): void {
    this.#heard[0] = 0;
  }

  /** Whether it was taken out, and has gone. */
  get isGone(): boolean {
    return this.#goes && this.#heard[0] === 0;
  }

  /** Takes the place of another plan's insert in the midst of the song. */
  follow(before: Insert, frame: Frames, hands: HandTable | null): void {
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
        this.#halt();
        this.#turn(frame, hands, true);
      }
      const n = count - at < this.#to - frame ? count - at : this.#to - frame;
      this.#through(left, right, at, n, frame - this.#from);
      at += n;
    }
    this.#next = start + count;
  }

  #through(left: Float32Array, right: Float32Array, at: Frames, n: Frames, done: Frames): void {
    const heard = this.#heard;
    if (heard[0] === 1 && heard[1] === 1) return this.kernel.process(left, right, at, n, done);
    const [dryLeft, dryRight] = this.#dry;
    for (let i = 0; i < n; i++) dryLeft[i] = left[at + i]!;
    if (this.sides === 2) for (let i = 0; i < n; i++) dryRight[i] = right[at + i]!;
    if (this.#comes) this.#fadeIn(left, right, at, n);
    this.kernel.process(left, right, at, n, done);
    for (let i = 0; i < n; i++) {
      const way = heard[1]! - heard[0]!;
      const step = this.#step;
      heard[0] = heard[0]! + (way > step ? step : way < -step ? -step : way);
      const share = heard[0]!;
      left[at + i] = dryLeft[i]! + (left[at + i]! - dryLeft[i]!) * share;
      if (this.sides === 2) right[at + i] = dryRight[i]! + (right[at + i]! - dryRight[i]!) * share;
    }
  }

  /** What comes in goes from nothing to all of it as it comes to be heard. */
  #fadeIn(left: Float32Array, right: Float32Array, at: Frames, n: Frames): void {
    const begun = this.#heard[0]!;
    for (let i = 0; i < n; i++) {
      const share = begun + this.#step * (i + 1);
      if (share >= 1) {
        this.#comes = false;
        return;
      }
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
      this.#heard[1] = this.#on.found[FOUND.travel]! < 0.5 ? 0 : 1;
      isOther = this.#read(this.#to, hands) || isJump;
    }
    this.kernel.turn(this.#to - frame, isOther);
  }

  /** Reads what all parameters are at a frame; whether any is other than it was. */
  #read(frame: Frames, hands: HandTable | null): boolean {
    const { standIn } = this.plan;
    const { values } = this.kernel;
    const isOther = this.#values.readInto(values, frame, this.#handsOn ? hands : null, standIn ? standIn.param : -1);
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

/** The inserts of a node, one after the other. Allocates nothing after its making. */
export class InsertRack {
  readonly #inserts: readonly Insert[];
  /** Those that were taken out and are still to be heard for a moment, and with them all, in the order in which they are gone through. */
  readonly #going: readonly Insert[];
  readonly #order: readonly Insert[];
  /** Something in it has two sides, so that both have to be there. */
  readonly #isWide: boolean;
  /** So long after its input has ended it may still sound; −1: there is no telling. */
  readonly #tail: Frames;
  #silent: Frames = 0;

  constructor(
    readonly plan: NodePlan,
    mix: MixPlan,
    before: InsertRack | null = null,
  ) {
    let sides: 1 | 2 = plan.isStereo ? 2 : 1;
    this.#inserts = plan.inserts.map((insert) => {
      if (EFFECTS.get(insert.effect)!.makesStereo) sides = 2;
      const was = before ? before.#like(insert, sides) : null;
      return new Insert(insert, sides, mix, was);
    });
    const stays = new Set(this.#inserts.map(({ kernel }) => kernel));
    const all = before ? before.#order : [];
    this.#going = all.filter((one) => !stays.has(one.kernel) && !one.isGone);
    const order = [...this.#inserts];
    for (const one of this.#going) order.splice(all.indexOf(one), 0, one);
    this.#order = order;
    this.#isWide = plan.isWide || this.#going.some((one) => one.sides === 2);
    this.#tail = tailOf(plan, mix.sampleRate);
    this.#silent = before ? before.#silent : this.#tail;
  }

  #like(insert: InsertPlan, sides: 1 | 2): Insert | null {
    return this.#inserts.find((one) => one.isLike(insert, sides)) ?? null;
  }

  /** Whether there is anything in it to be heard. */
  get hasSound(): boolean {
    return this.#inserts.length > 0 || this.#goesOn;
  }

  get #goesOn(): boolean {
    for (let i = 0; i < this.#going.length; i++) if (!this.#going[i]!.isGone) return true;
    return false;
  }

  /** What any of them adds rings on by itself: on a return there is nothing but that. */
  get rings(): boolean {
    return this.#inserts.some((insert) => insert.rings);
  }

  reads(slots: ReadonlySet<number>): boolean {
    return this.#inserts.some((insert) => insert.reads(slots));
  }

  heed(hands: HandTable): void {
    for (let i = 0; i < this.#inserts.length; i++) this.#inserts[i]!.heed(hands);
  }

  locate(frame: Frames, hands: HandTable | null): void {
    this.#silent = this.#tail;
    for (const insert of this.#inserts) insert.locate(frame, hands);
    for (const insert of this.#going) insert.end();
  }

  wrap(frame: Frames, hands: HandTable | null): void {
    for (const insert of this.#order) insert.wrap(frame, hands);
  }

  /** Goes on at a frame from the inserts of another plan: those that stay go on sounding, new ones come and others go over 2 ms. */
  follow(before: InsertRack | null, frame: Frames, hands: HandTable | null): void {
    for (const insert of this.#inserts) {
      if (hands) insert.heed(hands);
      const was = before ? before.#inserts.find((one) => one.kernel === insert.kernel) : undefined;
      if (was) insert.follow(was, frame, hands);
      else insert.come(frame, hands);
    }
    for (const insert of this.#going) insert.go();
  }

  /** Leaves what the compressor in a slot has held down most since the last time, and the level that it listens to, at a place and after it. */
  showInto(slot: string, out: Float64Array, at: number): void {
    for (let i = 0; i < this.#inserts.length; i++) {
      const { kernel, plan } = this.#inserts[i]!;
      if (plan.slot !== slot || !(kernel instanceof Compressor)) continue;
      out[at] = kernel.shown[0]!;
      out[at + 1] = kernel.shown[1]!;
      kernel.shown[0] = 0;
    }
  }

  /** Says where what the insert at a place listens to is found in this block. */
  listen(place: number, left: Float64Array, right: Float64Array): void {
    const { kernel } = this.#inserts[place]!;
    if (!(kernel instanceof Compressor)) return;
    kernel.keyLeft = left;
    kernel.keyRight = right;
  }

  /**
   * Sends a block through all of them in place. `sounds`: it is not silent; where it is its buffers hold anything. Gives back
   * whether what is in them sounds now. A channel with one side whose inserts make two has both after it. `isDry`: those that ring
   * are left out, and keep what they have.
   */
  process(
    { inputLeft: left, inputRight: right, inputAt }: Sound,
    count: Frames,
    frame: Frames,
    hands: HandTable | null,
    sounds: boolean,
    isDry: boolean,
  ): boolean {
    if (sounds) this.#silent = 0;
    else {
      if (this.#tail >= 0 && this.#silent >= this.#tail && !this.#goesOn) return false;
      this.#silent += count;
      left.fill(0, 0, count);
      right.fill(0, 0, count);
    }
    if (!this.plan.isStereo && this.#isWide && sounds) for (let i = 0; i < count; i++) right[i] = left[i]!;
    for (let i = 0; i < this.#order.length; i++) {
      const insert = this.#order[i]!;
      if (insert.isGone || (isDry && insert.rings)) continue;
      insert.kernel.soundAt = inputAt;
      insert.process(left, right, count, frame, hands);
    }
    return true;
  }
}

/** The most that a control comes to with nobody's hand on it, in its unit, and whether it moves. */
function mostOf({ law, rest, curve, trim, sway }: ControlPlan): readonly [value: number, isMoving: boolean] {
  if (sway || trim) return [valueOf(law, 1), true];
  return curve
    ? [
        valueOf(
          law,
          curve.x.reduce((most, x) => Math.max(most, x), 0),
        ),
        true,
      ]
    : [valueOf(law, rest), false];
}

/** {@link tailOf} in a bounce, in which what parameters come to is known beforehand. */
export function tailInBounce({ inserts }: NodePlan, { controls, sampleRate }: MixPlan): Frames {
  let sec = 0;
  for (const { effect, params, standIn } of inserts) {
    const { tailSec, tailAt } = EFFECTS.get(effect)!;
    const most = params.map((slot) => mostOf(controls[slot]!));
    if (standIn) most[standIn.param] = [Math.max(...standIn.values), new Set(standIn.values).size > 1];
    const own = tailAt
      ? tailAt(
          most.map(([value]) => value),
          most.map(([, isMoving]) => isMoving),
        )
      : tailSec;
    if (own === null) return -1;
    sec += own;
  }
  return Math.round(sec * sampleRate);
}

/** So long the inserts of a node may sound after their input has ended, all together; −1 where there is no telling. */
function tailOf({ inserts }: NodePlan, sampleRate: number): Frames {
  let sec = 0;
  for (const { effect } of inserts) {
    const { tailSec } = EFFECTS.get(effect)!;
    if (tailSec === null) return -1;
    sec += tailSec;
  }
  return Math.round(sec * sampleRate);
}
