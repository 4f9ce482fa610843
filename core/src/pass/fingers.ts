import { companionsOf } from '../groups/index.js';
import { type Edit } from '../edits/index.js';
import {
  controlOf,
  controlsOf,
  isSwitch,
  layerLaw,
  layerValueAt,
  modeInForce,
  type ControlId,
  type Layer,
  type Reason,
  type Song,
} from '../song/index.js';
import { clamp, valueOf, type Seconds, type Travel } from '../units/index.js';
import { Finger } from './finger.js';
import { HAND, type LedFrom } from './handEvent.js';
import type { HeldHands } from './heldHands.js';
import type { LaneTake } from './laneTake.js';
import { layerUnder, senseOf, travelUnder } from './leading.js';
import { isCurved, keepsPoised, setsRest, whyGuarded } from './mayWrite.js';
import type { Roll } from './roll.js';

/** What fingers have of the recorder that they are on. */
export type Recorded = {
  readonly song: () => Song;
  readonly roll: () => Roll | null;
  readonly position: () => Seconds;
  readonly capAt: (id: ControlId, t: Seconds) => number;
  /** Which layer of a control its cap stands on. */
  readonly layerOf: (id: ControlId) => Layer;
  /** Why a control is not written at a time; stopped, with null. */
  readonly whyNot: (id: ControlId, t: Seconds | null) => Reason | null;
  /** Whether a snapshot has a control poised or written: its channel's mode does not count for it. */
  readonly isRecalled: (id: ControlId) => boolean;
  /** Takes an edit into the song as it is heard; it is kept later. */
  readonly hear: (edit: Edit) => void;
  /** Has an edit kept whose change is heard already. */
  readonly keep: (edit: Edit) => void;
};

/**
 * What fingers do to controls: press, move, leave, and lead the companions of their gang, each as if by a hand of its own
 * (rules, 4 to 6). The recorder gives them their time and song.
 */
export class Fingers {
  constructor(
    readonly hands: HeldHands,
    readonly on: Recorded,
  ) {}

  /** A finger comes down, with a sensor that will tell when it leaves. */
  touch(id: ControlId, alone: boolean, led: LedFrom | null): void {
    this.#touch(id, null, alone, led);
  }

  #touch(id: ControlId, releaseAt: Seconds | null, alone: boolean, led: LedFrom | null = null): void {
    if (this.hands.fingers.get(id)?.isSure) return;
    this.#press(id, releaseAt);
    if (alone) this.#freeLed(id);
    else this.#lead(id, led);
  }

  /** A finger on a control, from the value that its cap has: its own hand's, or one that is led. */
  #press(id: ControlId, releaseAt: Seconds | null, isAside = this.hands.tryout.takes(id)): Finger {
    const song = this.on.song();
    const roll = this.on.roll();
    const known = this.hands.fingers.get(id);
    const reason = isAside ? null : this.on.whyNot(id, roll?.now ?? null);
    const finger = new Finger(isAside ? this.#asideFrom(id) : this.on.capAt(id, this.#now), reason, releaseAt);
    finger.aside = isAside;
    finger.isOnBase = isAside || this.on.isRecalled(id);
    if (known?.holds) finger.takeOver(known);
    this.hands.fingers.set(id, finger);
    if (isAside) this.#putAside(id, finger.value);
    if (!roll || reason || isAside) return finger;
    const layer = layerUnder(song, id, finger);
    const take = roll.take(id, layer);
    if (take?.isOpen) take.touch(roll.now);
    else roll.begin(song, id, layer, finger.value, true);
    finger.wrote = true;
    return finger;
  }

  get #now(): Seconds {
    return this.on.roll()?.now ?? this.on.position();
  }

  /** Where a hand finds the base of a control as it begins to hold it aside. */
  #asideFrom(id: ControlId): number {
    const held = this.hands.tryout.held.get(id);
    if (held !== undefined) return held;
    if (this.on.layerOf(id) === 'base') return this.on.capAt(id, this.#now);
    return this.on.roll()?.take(id, 'base')?.capAt(this.#now) ?? layerValueAt(this.on.song(), id, 'base', this.#now);
  }

  /** Held aside: what is written of a control ends, and what waits for the pass waits no more. */
  #putAside(id: ControlId, value: number): void {
    const roll = this.on.roll();
    for (const layer of ['base', 'trim'] as const) {
      const take = roll?.take(id, layer);
      take?.end(roll!.now);
      take?.cutLine(roll!.now);
    }
    this.hands.poised.delete(id);
    this.hands.tryout.hold(id, value);
    this.hands.tryout.isBefore = false;
  }

  /** Holds controls aside at values. What the song does not have is passed over; what a hand has is its own. */
  holdAside(values: { readonly [id: ControlId]: number }): void {
    for (const [id, value] of Object.entries(values))
      if (controlsOf(this.on.song()).has(id) && !this.hands.fingers.get(id)?.holds) this.#putAside(id, value);
  }

  /** Puts controls back on their curves: hands still on them, and what those lead, count for nothing until they touch anew. */
  drop(ids: Iterable<ControlId>): void {
    for (const id of this.hands.tryout.drop(ids)) {
      const finger = this.hands.fingers.get(id);
      if (!finger?.aside) continue;
      finger.letGo = true;
      for (const [, led] of this.#ledBy(id)) led.letGo = true;
    }
  }

  /** Takes along those companions that no hand holds or leads. */
  #lead(id: ControlId, from: LedFrom | null): void {
    const leader = this.hands.fingers.get(id)!;
    for (const one of companionsOf(this.on.song(), id)) {
      const known = this.hands.fingers.get(one);
      if (known?.holds || (from && !Object.hasOwn(from, one))) continue;
      const finger = this.#press(one, null, leader.aside || this.hands.tryout.takes(one));
      finger.beneath = known?.led ? known.beneath : (known ?? null);
      finger.led = {
        by: id,
        offset: from?.[one] ?? this.#offset(travelUnder(this.on.song(), one, finger), id, leader),
      };
    }
  }

  #offset(at: Travel, by: ControlId, leads: Finger): Travel {
    const song = this.on.song();
    return at - senseOf(song, by) * travelUnder(song, by, leads);
  }

  /** The companions that a finger leads now, each with how far it stands from it. */
  ledFrom(id: ControlId): LedFrom {
    return Object.fromEntries(this.#ledBy(id).map(([one, { led }]) => [one, led!.offset]));
  }

  /** Where a companion goes when its leader is at a value: its own way from its own beginning, held at its throw's ends. */
  #ledTo(id: ControlId, layer: Layer, offset: Travel, by: ControlId, leads: Finger): number {
    const song = this.on.song();
    if (isSwitch(controlOf(song, id))) return leads.value;
    const x = offset + senseOf(song, by) * travelUnder(song, by, leads);
    return valueOf(layerLaw(song, id, layer), clamp(x, 0, 1));
  }

  #ledBy(id: ControlId): readonly (readonly [ControlId, Finger])[] {
    return [...this.hands.fingers].filter(([, { led }]) => led?.by === id);
  }

  /** A hand moves a control; without a touch before it, it is one that no sensor tells of. */
  move(id: ControlId, value: number, alone: boolean): void {
    const roll = this.on.roll();
    const known = this.hands.fingers.get(id);
    // A hand that was let go of moves nothing, though its control is led meanwhile.
    if (known?.beneath) return;
    if (!roll) return this.#moveStopped(id, value, alone);
    const releaseAt = roll.now + HAND.sensorlessReleaseSec;
    if (!known || known.led) this.#touch(id, releaseAt, alone);
    else if (known.releaseAt !== null) known.releaseAt = releaseAt;
    const finger = this.hands.fingers.get(id)!;
    if (finger.letGo) return;
    this.#moveFinger(roll, id, finger, value);
    for (const [one, led] of this.#ledBy(id)) this.#moveFinger(roll, one, led, this.#whereLed(one, led, id, finger));
  }

  #whereLed(id: ControlId, finger: Finger, by: ControlId, leads: Finger): number {
    return this.#ledTo(id, layerUnder(this.on.song(), id, finger), finger.led!.offset, by, leads);
  }

  #moveFinger(roll: Roll, id: ControlId, finger: Finger, value: number): void {
    finger.value = value;
    if (finger.aside && !finger.letGo) return this.hands.tryout.hold(id, value);
    if (finger.spent || finger.letGo) return;
    const song = this.on.song();
    const take = roll.take(id, layerUnder(song, id, finger));
    if (take?.isOpen && take.hasFinger) return take.move(roll.now, value);
    const curved = isCurved(song, id) || (roll.take(id, 'base')?.spans.length ?? 0) > 0;
    if (setsRest(song, id, true, curved)) this.#rest(id, finger, roll.rested);
  }

  #moveStopped(id: ControlId, value: number, alone: boolean): void {
    const known = this.hands.fingers.get(id);
    if (known && !known.led) {
      if (known.letGo) return;
      this.#moveStoppedFinger(id, known, value);
      for (const [one, led] of this.#ledBy(id)) this.#moveStoppedFinger(one, led, this.#whereLed(one, led, id, known));
      return;
    }
    // Touch, move and release in one (rules, 6): what leads it meanwhile has to leave it.
    const finger = this.#passing(id, this.hands.tryout.takes(id));
    const song = this.on.song();
    const led = (alone ? [] : companionsOf(song, id))
      .filter((one) => !this.hands.fingers.get(one)?.holds)
      .map((one) => {
        const passing = this.#passing(one, finger.aside || this.hands.tryout.takes(one));
        return { one, passing, offset: this.#offset(travelUnder(song, one, passing), id, finger) };
      });
    if (known) this.#free(id, known);
    this.#moveOnce(id, finger, value);
    for (const { one, passing, offset } of led)
      this.#moveOnce(one, passing, this.#ledTo(one, layerUnder(song, one, passing), offset, id, finger));
  }

  /** A finger that is not there to stay: it touches, moves and leaves in one. */
  #passing(id: ControlId, isAside: boolean): Finger {
    const finger = new Finger(isAside ? this.#asideFrom(id) : this.on.capAt(id, this.on.position()), null, null);
    finger.aside = isAside;
    finger.isOnBase = isAside || this.on.layerOf(id) === 'base';
    return finger;
  }

  #moveOnce(id: ControlId, finger: Finger, value: number): void {
    this.#moveStoppedFinger(id, finger, value, false);
    this.#keepRest(id, finger);
  }

  /** A move while the song stands: it waits for the pass, sets where the control rests, or is only heard. */
  #moveStoppedFinger(id: ControlId, finger: Finger, value: number, hasSensor = true): void {
    const song = this.on.song();
    finger.value = value;
    if (finger.aside) {
      if (!finger.letGo) this.#putAside(id, value);
    } else if (keepsPoised(song, id) || this.on.isRecalled(id)) this.#poise(id, finger, hasSensor);
    else if (setsRest(song, id, false, isCurved(song, id))) this.#rest(id, finger, this.hands.stopped.rested);
  }

  #poise(id: ControlId, finger: Finger, hasSensor: boolean): void {
    const reason = this.on.whyNot(id, null);
    if (!reason) this.hands.poised.set(id, finger.value);
    else {
      const { refused } = this.hands.stopped;
      const said = hasSensor ? finger.refusedStopped : refused.some((one) => one.control === id);
      if (!said) refused.push({ control: id, reason });
      finger.refusedStopped = finger.reported = true;
    }
  }

  /** A finger leaves, and with it all that it leads. */
  release(id: ControlId): void {
    const finger = this.hands.fingers.get(id);
    if (!finger) return;
    if (!finger.led) {
      this.#free(id, finger);
      this.#freeLed(id);
    } else if (finger.beneath) {
      // The hand that was let go of leaves; what leads its control goes on.
      const roll = this.on.roll();
      if (roll) this.#refuseIfIdle(roll, id, finger.beneath);
      finger.beneath = null;
    }
  }

  #freeLed(id: ControlId): void {
    for (const [one, led] of this.#ledBy(id)) this.#free(one, led);
  }

  /** Gangs or channels have changed: what is led by one that has gone, or that it has no gang with any more, is let off. */
  followGangs(before: Song): void {
    const song = this.on.song();
    for (const [id, finger] of this.hands.fingers) {
      const { led } = finger;
      if (!led) continue;
      const leader = this.hands.fingers.get(led.by);
      if (!leader || !companionsOf(song, led.by).includes(id)) this.#free(id, finger);
      else {
        const turns = senseOf(before, led.by) - senseOf(song, led.by);
        finger.led = { ...led, offset: led.offset + turns * travelUnder(song, led.by, leader) };
      }
    }
  }

  #free(id: ControlId, finger: Finger): void {
    if (finger.beneath) this.hands.fingers.set(id, finger.beneath);
    else this.hands.fingers.delete(id);
    this.#keepRest(id, finger);
    const roll = this.on.roll();
    if (!roll || finger.aside) return;
    const take = roll.take(id, layerUnder(this.on.song(), id, finger));
    if (take?.isOpen && take.hasFinger) this.#letOff(roll, take);
    else if (finger.counts && this.#isBeforePunch(roll, id)) {
      this.hands.poised.set(id, finger.value);
      return;
    }
    this.#refuseIfIdle(roll, id, finger);
  }

  /** A finger leaves an open span: in touch it returns to the curve, else it is held on. */
  #letOff(roll: Roll, take: LaneTake): void {
    const song = this.on.song();
    const isHeldOn =
      this.on.isRecalled(take.control) || modeInForce(song, controlOf(song, take.control).channel) !== 'touch';
    if (isHeldOn) take.hasFinger = false;
    else this.letReturn(roll, take);
  }

  /** An open span goes back to the curve over the return time; the line is cut where the punch range or the song ends. */
  letReturn(roll: Roll, take: LaneTake): void {
    const { settings, length } = this.on.song();
    take.release(roll.now, settings.returnTime, Math.min(length, settings.punch?.[1] ?? length));
  }

  /** Whether a release now, in the pre-roll, leaves a value poised for the punch range to come. */
  #isBeforePunch(roll: Roll, id: ControlId): boolean {
    const song = this.on.song();
    const { punch } = song.settings;
    if (!punch || roll.now >= punch[0]) return false;
    return this.on.isRecalled(id) || (keepsPoised(song, id) && !whyGuarded(song, id));
  }

  /** Esc: every cap is out of its hand; fingers still down count for nothing until they touch anew (rules, 5). */
  letGo(): void {
    const roll = this.on.roll();
    this.hands.poised.clear();
    this.keepRested();
    for (const finger of this.hands.fingers.values()) finger.letGo = true;
    if (!roll) return;
    for (const { key } of this.on.song().channels) roll.writeLetGo.add(key);
    for (const take of roll.takes) if (take.isOpen) this.letReturn(roll, take);
  }

  /** Says of every finger still down as the pass ends what it wanted to write and could not. */
  refuseIdle(roll: Roll): void {
    for (const [id, finger] of this.hands.fingers) {
      if (finger.beneath) this.#refuseIfIdle(roll, id, finger.beneath);
      this.#refuseIfIdle(roll, id, finger);
    }
  }

  /** Puts a touch that wrote nothing and set nothing on the receipt, with the reason it was pressed under. */
  #refuseIfIdle(roll: Roll, id: ControlId, finger: Finger): void {
    if (finger.wrote || finger.rested || finger.reported || !finger.reason) return;
    finger.reported = true;
    roll.refused.push({ control: id, reason: finger.reason });
  }

  #rest(id: ControlId, finger: Finger, rested: Set<ControlId>): void {
    // Heard and read at once; the edit that keeps it is made once, when the hand lets go.
    this.on.hear({ kind: 'rest', values: { [id]: finger.value } });
    this.on.roll()?.take(id, 'base')?.follow(this.on.song());
    finger.rested = true;
    finger.restToKeep = finger.value;
    rested.add(id);
  }

  /** Resting values that fingers still down have set are kept. */
  keepRested(): void {
    for (const [id, finger] of this.hands.fingers) this.#keepRest(id, finger);
  }

  #keepRest(id: ControlId, finger: Finger): void {
    if (finger.restToKeep === null) return;
    this.on.keep({ kind: 'rest', values: { [id]: finger.restToKeep } });
    finger.restToKeep = null;
  }
}
