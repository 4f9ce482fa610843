import { Compressor, EFFECTS, type ParamReach } from '../effects/index.js';
import { valueOf, type Frames } from '../units/index.js';
import type { HandTable } from './hands.js';
import type { MixLoops } from './mixLoops.js';
import { NodeInsert } from './nodeInsert.js';
import type { ControlPlan, InsertPlan, MixPlan, NodePlan } from './plan.js';

/** A block of sound, and where it is. */
export type Sound = Pick<MixLoops, 'inputLeft' | 'inputRight' | 'inputAt'>;

/** The inserts of a node, one after the other. Allocates nothing after its making. */
export class InsertRack {
  readonly #inserts: readonly NodeInsert[];
  /** Those that were taken out and are still to be heard for a moment. */
  readonly #going: readonly NodeInsert[];
  /** All, in the order in which they are gone through; and in which they will be, once those that have another place in it are aside. */
  #order: readonly NodeInsert[];
  readonly #ordered: readonly NodeInsert[];
  readonly #moving: readonly NodeInsert[];
  /** Something in it has two sides, so that both have to be there. */
  readonly #isWide: boolean;

  constructor(
    readonly plan: NodePlan,
    mix: MixPlan,
    before: InsertRack | null = null,
  ) {
    let sides: 1 | 2 = plan.isStereo ? 2 : 1;
    this.#inserts = plan.inserts.map((insert) => {
      if (EFFECTS.get(insert.effect)!.makesStereo) sides = 2;
      const was = before ? before.#like(insert, sides) : null;
      return new NodeInsert(insert, sides, mix, was);
    });
    const all = before ? before.#order : [];
    const stayed = all.map(({ kernel }) => this.#inserts.find((one) => one.kernel === kernel));
    this.#going = all.filter((one, i) => !stayed[i] && !one.isGone);
    const ordered = [...this.#inserts];
    for (const one of this.#going) ordered.splice(all.indexOf(one), 0, one);
    this.#ordered = ordered;
    const placed = this.#inserts.map((one) => stayed.indexOf(one));
    const inPlace = new Set(longestRise(placed.filter((place) => place >= 0)));
    this.#moving = this.#inserts.filter((_, i) => placed[i]! >= 0 && !inPlace.has(placed[i]!));
    this.#order = this.#moving.length ? orderUntilThen(all, stayed, ordered) : ordered;
    this.#isWide = plan.isWide || this.#going.some((one) => one.sides === 2);
  }

  #like(insert: InsertPlan, sides: 1 | 2): NodeInsert | null {
    return this.#inserts.find((one) => one.isLike(insert, sides)) ?? null;
  }

  /** Whether there is anything in it to be heard. */
  get hasSound(): boolean {
    return this.#inserts.length > 0 || this.#goesOn;
  }

  /** Whether silence goes through it as silence, as if it were not there: none has anything left of what it has heard. */
  get #isAtRest(): boolean {
    if (this.#order !== this.#ordered || this.#goesOn) return false;
    for (let i = 0; i < this.#inserts.length; i++) if (!this.#inserts[i]!.kernel.isAtRest) return false;
    return true;
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

  /** Takes on the order that is to be, if there is another and nobody hears it come. */
  #reorder(): void {
    if (this.#order === this.#ordered) return;
    for (let i = 0; i < this.#moving.length; i++) if (!this.#moving[i]!.isAside) return;
    this.#order = this.#ordered;
    for (let i = 0; i < this.#moving.length; i++) this.#moving[i]!.stepIn();
  }

  heed(hands: HandTable): void {
    for (let i = 0; i < this.#inserts.length; i++) this.#inserts[i]!.heed(hands);
  }

  locate(frame: Frames, hands: HandTable | null): void {
    this.#order = this.#ordered;
    for (const insert of this.#inserts) insert.locate(frame, hands);
    for (const insert of this.#going) insert.end();
  }

  wrap(frame: Frames, hands: HandTable | null): void {
    for (const insert of this.#order) insert.wrap(frame, hands);
  }

  /**
   * Goes on at a frame from the inserts of another plan: those that stay go on sounding, new ones come and others go over 2 ms; what
   * has another place goes aside over 2 ms, and comes there over as long.
   */
  follow(before: InsertRack | null, frame: Frames, hands: HandTable | null): void {
    for (const insert of this.#inserts) {
      if (hands) insert.heed(hands);
      const was = before ? before.#inserts.find((one) => one.kernel === insert.kernel) : undefined;
      if (was) insert.follow(was, frame, hands);
      else insert.come(frame, hands);
    }
    for (const insert of this.#going) insert.go();
    for (const insert of this.#moving) insert.stepAside();
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
    this.#reorder();
    if (!sounds) {
      if (this.#isAtRest) return false;
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
    if (isBroken(left, count) || (this.#isWide && isBroken(right, count)))
      this.#recover(left, right, frame + count, hands);
    return true;
  }

  /** What came out is no sound, and would go on being none for as long as any of them remembers it: all of them begin anew, in silence. */
  #recover(left: Float32Array, right: Float32Array, frame: Frames, hands: HandTable | null): void {
    left.fill(0);
    right.fill(0);
    for (let i = 0; i < this.#order.length; i++) this.#order[i]!.recover(frame, hands);
  }
}

/** Whether any of the first samples of a sound is none: not a number, or not finite. */
function isBroken(sound: Float32Array, count: Frames): boolean {
  let sum = 0;
  for (let i = 0; i < count; i++) sum += sound[i]!;
  return sum - sum !== 0;
}

/** The order in which inserts are gone through until those that have another place are aside: that of before, new ones where they will be. */
function orderUntilThen(
  all: readonly NodeInsert[],
  stayed: readonly (NodeInsert | undefined)[],
  ordered: readonly NodeInsert[],
): readonly NodeInsert[] {
  const order = all.map((one, i) => stayed[i] ?? one).filter((one) => ordered.includes(one));
  for (const [i, one] of ordered.entries()) if (!order.includes(one)) order.splice(i, 0, one);
  return order;
}

/** The most numbers of a list, left where they are, that rise. */
function longestRise(numbers: readonly number[]): readonly number[] {
  const rises: (readonly number[])[] = [];
  for (const [i, number] of numbers.entries())
    rises.push([...longest(rises.filter((_, k) => numbers[k]! < number)), numbers[i]!]);
  return longest(rises);
}

const longest = (lists: readonly (readonly number[])[]): readonly number[] =>
  lists.reduce((most, one) => (one.length > most.length ? one : most), []);

/** What a control comes to with nobody's hand on it, in its unit. */
function reachOf({ law, rest, curve, trim, sway }: ControlPlan): ParamReach {
  if (sway || trim) return { least: valueOf(law, 0), most: valueOf(law, 1), isMoving: true };
  if (!curve) return { least: valueOf(law, rest), most: valueOf(law, rest), isMoving: false };
  const least = curve.x.reduce((x, other) => Math.min(x, other), 1);
  const most = curve.x.reduce((x, other) => Math.max(x, other), 0);
  return { least: valueOf(law, least), most: valueOf(law, most), isMoving: true };
}

/** So long the inserts of a node may sound in a bounce after their input has ended, all together; −1 where there is no telling. */
export function tailInBounce({ inserts }: NodePlan, { controls, sampleRate }: MixPlan): Frames {
  let sec = 0;
  for (const { effect, params, standIn, settings } of inserts) {
    const reach = params.map((slot) => reachOf(controls[slot]!));
    if (standIn) {
      const { values } = standIn;
      const isMoving = new Set(values).size > 1;
      reach[standIn.param] = { least: Math.min(...values), most: Math.max(...values), isMoving };
    }
    const own = EFFECTS.get(effect)!.tailSec(reach, settings);
    if (own === null) return -1;
    sec += own;
  }
  return Math.round(sec * sampleRate);
}
