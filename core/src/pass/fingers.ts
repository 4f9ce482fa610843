import { companionsOf } from '../groups/index.js';
import { type Edit } from '../edits/index.js';
import { controlOf, isSwitch, layerLaw, modeInForce, type ControlId, type Song } from '../song/index.js';
import { clamp, valueOf, type Seconds, type Travel } from '../units/index.js';
import { Finger } from './finger.js';
import { HAND, type LedFrom } from './handEvent.js';
import type { HeldHands } from './heldHands.js';
import type { LaneTake } from './laneTake.js';
import { senseOf, travelInHand } from './leading.js';
import { isCurved, keepsPoised, layerInHand, setsRest, whyGuarded, whyNotWritten } from './mayWrite.js';
import type { Roll } from './roll.js';

/** What fingers have of the recorder that they are on. */
export type Recorded = {
  readonly song: () => Song;
  readonly roll: () => Roll | null;
  readonly position: () => Seconds;
  readonly capAt: (id: ControlId, t: Seconds) => number;
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
  #press(id: ControlId, releaseAt: Seconds | null): Finger {
    const song = this.on.song();
    const roll = this.on.roll();
    const known = this.hands.fingers.get(id);
    const reason = whyNotWritten(song, id, roll?.now ?? null);
    const finger = new Finger(this.on.capAt(id, roll?.now ?? this.on.position()), reason, releaseAt);
    if (known?.holds) finger.takeOver(known);
    this.hands.fingers.set(id, finger);
    if (!roll || reason) return finger;
    const layer = layerInHand(song, id);
    const take = roll.take(id, layer);
    if (take?.isOpen) take.touch(roll.now);
    else roll.begin(song, id, layer, finger.value, true);
    finger.wrote = true;
    return finger;
  }

  /** Takes along those companions that no hand holds or leads. */
  #lead(id: ControlId, from: LedFrom | null): void {
    const leader = this.hands.fingers.get(id)!;
    for (const one of companionsOf(this.on.song(), id)) {
      const known = this.hands.fingers.get(one);
      if (known?.holds || (from && !Object.hasOwn(from, one))) continue;
      const finger = this.#press(one, null);
      finger.beneath = known?.led ? known.beneath : (known ?? null);
      finger.led = { by: id, offset: from?.[one] ?? this.#offset(one, finger.value, id, leader.value) };
    }
  }

  #offset(id: ControlId, value: number, by: ControlId, leads: number): Travel {
    const song = this.on.song();
    return travelInHand(song, id, value) - senseOf(song, by) * travelInHand(song, by, leads);
  }

  /** The companions that a finger leads now, each with how far it stands from it. */
  ledFrom(id: ControlId): LedFrom {
    return Object.fromEntries(this.#ledBy(id).map(([one, { led }]) => [one, led!.offset]));
  }

  /** Where a companion goes when its leader is at a value: its own way from its own beginning, held at its throw's ends. */
  #ledTo(id: ControlId, offset: Travel, by: ControlId, leads: number): number {
    const song = this.on.song();
    if (isSwitch(controlOf(song, id))) return leads;
    const x = offset + senseOf(song, by) * travelInHand(song, by, leads);
    return valueOf(layerLaw(song, id, layerInHand(song, id)), clamp(x, 0, 1));
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
    for (const [one, led] of this.#ledBy(id))
      this.#moveFinger(roll, one, led, this.#ledTo(one, led.led!.offset, id, value));
  }

  #moveFinger(roll: Roll, id: ControlId, finger: Finger, value: number): void {
    finger.value = value;
    if (finger.spent) return;
    const song = this.on.song();
    const take = roll.take(id, layerInHand(song, id));
    if (take?.isOpen && take.hasFinger) return take.move(roll.now, value);
    const curved = isCurved(song, id) || (roll.take(id, 'base')?.spans.length ?? 0) > 0;
    if (setsRest(song, id, true, curved)) this.#rest(id, finger, roll.rested);
  }

  #moveStopped(id: ControlId, value: number, alone: boolean): void {
    const known = this.hands.fingers.get(id);
    if (known && !known.led) {
      if (known.letGo) return;
      this.#moveStoppedFinger(id, known, value);
      for (const [one, led] of this.#ledBy(id))
        this.#moveStoppedFinger(one, led, this.#ledTo(one, led.led!.offset, id, value));
      return;
    }
    // Touch, move and release in one (rules, 6): what leads it meanwhile has to leave it.
    const at = this.on.position();
    const from = this.on.capAt(id, at);
    const companions = alone ? [] : companionsOf(this.on.song(), id);
    const led = companions
      .filter((one) => !this.hands.fingers.get(one)?.holds)
      .map((one) => [one, this.#offset(one, this.on.capAt(one, at), id, from)] as const);
    if (known) this.#free(id, known);
    this.#moveStoppedFinger(id, null, value);
    for (const [one, offset] of led) this.#moveStoppedFinger(one, null, this.#ledTo(one, offset, id, value));
  }

  /** A move while the song stands: it waits for the pass, sets where the control rests, or is only heard. */
  #moveStoppedFinger(id: ControlId, held: Finger | null, value: number): void {
    const song = this.on.song();
    const finger = held ?? new Finger(value, null, null);
    finger.value = value;
    if (keepsPoised(song, id)) this.#poise(id, finger, held !== null);
    else if (setsRest(song, id, false, isCurved(song, id))) {
      this.#rest(id, finger, this.hands.stopped.rested);
      if (!held) this.#keepRest(id, finger);
    }
  }

  #poise(id: ControlId, finger: Finger, hasSensor: boolean): void {
    const reason = whyNotWritten(this.on.song(), id, null);
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
        finger.led = { ...led, offset: led.offset + turns * travelInHand(song, led.by, leader.value) };
      }
    }
  }

  #free(id: ControlId, finger: Finger): void {
    if (finger.beneath) this.hands.fingers.set(id, finger.beneath);
    else this.hands.fingers.delete(id);
    this.#keepRest(id, finger);
    const roll = this.on.roll();
    if (!roll) return;
    const take = roll.take(id, layerInHand(this.on.song(), id));
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
    if (modeInForce(song, controlOf(song, take.control).channel) === 'touch') this.letReturn(roll, take);
    else take.hasFinger = false;
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
    return !!punch && roll.now < punch[0] && keepsPoised(song, id) && !whyGuarded(song, id);
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
