import { applyEdit, type Edit, type Receipt } from '../edits/index.js';
import {
  controlOf,
  controlsOf,
  layerValueAt,
  loopOf,
  type ControlId,
  type Layer,
  type Reason,
  type Song,
} from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { Fingers } from './fingers.js';
import { followChange } from './followChange.js';
import { isThere, type HandEvent } from './handEvent.js';
import { HeldHands, type HandsMark } from './heldHands.js';
import type { ReturnLine } from './laneTake.js';
import { layerUnder } from './leading.js';
import type { Waiting } from './waiting.js';
import { layerInHand, whyNotRecalled, whyNotWritten, writesByItself } from './mayWrite.js';
import { recallSnapshot } from './recalling.js';
import { Roll, type RollMark } from './roll.js';
import type { Tryout } from './tryout.js';
import { turnsOf } from './turnOf.js';

/** What an event led to: edits to be kept, in order, and the receipts of passes it ended. */
export type Outcome = { readonly edits: readonly Edit[]; readonly receipts: readonly Receipt[] };

/**
 * What a control does now, for the sound and for the drawing: it follows its curve, or a hand has it, or it is on
 * its way back, or it is held aside. `writes` is false where the hand is heard only; `poised` where it waits for the pass.
 */
export type Doing =
  | { readonly what: 'curve' }
  | {
      readonly what: 'hand';
      readonly layer: Layer;
      readonly value: number;
      readonly finger: boolean;
      readonly writes: boolean;
      readonly poised: boolean;
    }
  | { readonly what: 'aside'; readonly value: number; readonly finger: boolean }
  | { readonly what: 'return'; readonly layer: Layer; readonly line: ReturnLine };

/** A recorder as it was at a moment: see {@link PassRecorder.mark}. */
export type RecorderMark = {
  readonly song: Song;
  readonly roll: Roll | null;
  readonly rolled: RollMark | null;
  readonly hands: HandsMark;
  readonly position: Seconds;
};

/**
 * The pass recorder: takes what hands do, in order, and decides what is written, where, and why not (rules, 4 and 5).
 * The sound, the drawing, the receipts and the command line all ask this one. It holds the song as its own edits leave
 * it; the host applies the same edits to what it keeps. Events must come in time order.
 */
export class PassRecorder {
  #song: Song;
  #roll: Roll | null = null;
  readonly #hands = new HeldHands();
  readonly #fingers: Fingers;
  #position: Seconds = 0;
  #edits: Edit[] = [];
  #receipts: Receipt[] = [];

  constructor(song: Song) {
    this.#song = song;
    this.#fingers = new Fingers(this.#hands, {
      song: () => this.#song,
      roll: () => this.#roll,
      position: () => this.#position,
      capAt: (id, t) => this.capAt(id, t),
      layerOf: (id) => this.layerOf(id),
      whyNot: (id, t) => this.whyNot(id, t),
      isRecalled: (id) => this.isRecalled(id),
      hear: (edit) => (this.#song = applyEdit(this.#song, edit).song),
      keep: (edit) => this.#edits.push(edit),
    });
  }

  /** The song as it stands, resting values and modes set by hands included; an open pass is not in it. */
  get song(): Song {
    return this.#song;
  }

  /** The open pass; null while stopped. */
  get roll(): Roll | null {
    return this.#roll;
  }

  get poised(): ReadonlyMap<ControlId, number> {
    return this.#hands.poised;
  }

  /** Controls with a finger on them. */
  get touched(): readonly ControlId[] {
    return this.#hands.touched;
  }

  /** The control that leads another now, as the gang of both has it; null where none does. */
  leaderOf(id: ControlId): ControlId | null {
    return this.#hands.fingers.get(id)?.led?.by ?? null;
  }

  /** Fingers that are down by hands of their own, as the events that put them where they are: a pass begins with them. */
  fingersDown(t: Seconds): HandEvent[] {
    return this.touched
      .filter((id) => this.leaderOf(id) === null)
      .flatMap((control): HandEvent[] => [
        { do: 'touch', control, led: this.#fingers.ledFrom(control) },
        { do: 'move', control, value: this.capAt(control, t) },
      ]);
  }

  /** What is held aside, and whether what a hand touches is. */
  get tryout(): Pick<Tryout, 'isOn' | 'isBefore' | 'takes'> & { readonly held: ReadonlyMap<ControlId, number> } {
    return this.#hands.tryout;
  }

  /** What waits for the pass to come, and what no pass writes. */
  get waiting(): Waiting {
    const recalled = new Set([...this.#hands.recalled].filter((id) => this.isRecalled(id)));
    return { poised: new Set(this.poised.keys()), recalled, aside: new Set(this.tryout.held.keys()) };
  }

  /** Events after which another recorder holds aside what this one does: a pass's journal begins with them. */
  tryoutEvents(): HandEvent[] {
    const { isOn, held } = this.#hands.tryout;
    const aside: HandEvent[] = held.size ? [{ do: 'aside', values: Object.fromEntries(held) }] : [];
    return [{ do: 'tryout', on: isOn }, { do: 'drop' }, ...aside];
  }

  /** Whether a snapshot has a control poised or written: its channel's mode and trim do not count for it. */
  isRecalled(id: ControlId): boolean {
    if (!this.#hands.recalled.has(id)) return false;
    const take = this.#roll?.take(id, 'base');
    return take?.isOpen ?? this.#hands.poised.has(id);
  }

  /** Why a control is not written at a time, null where it may be; with `t` null, stopped, the punch range says nothing yet. */
  whyNot(id: ControlId, t: Seconds | null): Reason | null {
    return this.isRecalled(id) ? whyNotRecalled(this.#song, id, t) : whyNotWritten(this.#song, id, t);
  }

  /** Which layer of a control a hand gives values of, the one that is on it or one that comes now. */
  layerGiven(id: ControlId): Layer {
    const { fingers, tryout } = this.#hands;
    const finger = fingers.get(id);
    if (finger?.holds) return layerUnder(this.#song, id, finger);
    return tryout.takes(id) || this.isRecalled(id) ? 'base' : layerInHand(this.#song, id);
  }

  /** Which layer of a control its cap stands on: what a hand has there, or what is written, or else what a hand would give. */
  layerOf(id: ControlId): Layer {
    const given = this.layerGiven(id);
    if (given === layerInHand(this.#song, id) || !this.#isTrimming(id)) return given;
    return 'trim';
  }

  /** Whether trim that no finger is on is written, on its way back, or poised: a tryout that came on since leaves it so. */
  #isTrimming(id: ControlId): boolean {
    const { fingers, tryout, poised } = this.#hands;
    if (fingers.get(id)?.holds || tryout.held.has(id) || this.isRecalled(id)) return false;
    const trim = this.#roll?.take(id, 'trim');
    return poised.has(id) || (trim?.isOpen ?? false) || (trim?.lineAt(this.#roll!.now) ?? null) !== null;
  }

  /** Why the finger on a control writes nothing now; null where it writes, or where no finger is. */
  refusalOf(id: ControlId): Reason | null {
    const finger = this.#hands.fingers.get(id);
    if (!finger || finger.aside || this.#roll?.take(id, this.layerOf(id))?.isOpen) return null;
    return this.whyNot(id, this.#roll?.now ?? null);
  }

  /** Whether write mode was let go of on a control's channel: it does not begin again in this pass. */
  isWriteLetGo(id: ControlId): boolean {
    return this.#roll?.writeLetGo.has(controlOf(this.#song, id).channel) ?? false;
  }

  /**
   * Takes over a song that was changed elsewhere: by another page, an undo, the command line. Modes, guards, trim, scope
   * and the punch range count from now on, as if a hand here had set them; edits of lanes act under the open spans.
   */
  adopt(song: Song): void {
    const before = this.#song;
    this.#song = song;
    if (controlsOf(before) !== controlsOf(song)) this.#forgetGone();
    // What a finger that is still down has set is not kept by an edit yet.
    for (const [id, finger] of this.#hands.fingers)
      if (finger.restToKeep !== null)
        this.#song = applyEdit(this.#song, { kind: 'rest', values: { [id]: finger.restToKeep } }).song;
    if (before.lanes !== song.lanes) this.#roll?.follow(this.#song);
    this.#followChange(before);
  }

  /** Controls that the song does not have any more leave the hands that had them, and what was written of them goes too. */
  #forgetGone(): void {
    const known = controlsOf(this.#song);
    const isGone = (id: ControlId): boolean => !known.has(id);
    this.#hands.forget(isGone);
    this.#roll?.forget(isGone);
  }

  /** The recorder as it is now, to come {@link back} to where something turns out to have come before what followed. */
  mark(): RecorderMark {
    return {
      song: this.#song,
      roll: this.#roll,
      rolled: this.#roll?.mark() ?? null,
      hands: this.#hands.mark(),
      position: this.#position,
    };
  }

  /** Forgets all that came since a mark. Marks that were made after it are of no use any more. */
  back(mark: RecorderMark): void {
    this.#song = mark.song;
    this.#roll = mark.roll;
    if (mark.rolled) mark.roll?.back(mark.rolled);
    this.#hands.back(mark.hands);
    this.#position = mark.position;
    this.#edits = [];
    this.#receipts = [];
  }

  /** Says where the song stands while it is stopped: what is under the now line there is what a cap is at. */
  locate(t: Seconds): void {
    this.#position = t;
  }

  /** Takes one event; see {@link HandEvent}. */
  handle(event: HandEvent): Outcome {
    if (event.t !== undefined) this.#advance(event.t);
    // A hand on what has gone meanwhile moves nothing.
    if (isThere(this.#song, event)) this.#take(event);
    this.#forgetRecalled();
    return this.#outcome();
  }

  /** Lets time go on to t: fingers without a sensor let go, the punch range begins and ends; and works off what the end would have to do. */
  advance(t: Seconds): Outcome {
    this.#advance(t);
    this.#roll?.workOff();
    return this.#outcome();
  }

  #advance(t: Seconds): void {
    const roll = this.#roll;
    if (roll) {
      const to = Math.min(t, this.#song.length);
      for (;;) {
        const next = this.#nextDue(roll, to);
        if (!next) break;
        roll.now = Math.max(roll.now, next.t);
        next.act();
      }
      roll.now = Math.max(roll.now, to);
    }
  }

  /** The song wraps from the loop's end to its start: the lap ends as its own pass and the next one begins. */
  wrap(): Outcome {
    const loop = loopOf(this.#song);
    const roll = this.#roll;
    if (roll && loop && roll.from < loop[1]) {
      this.#advance(loop[1]);
      this.#endPass(loop[1], true);
      this.#hands.shiftReleases(loop[0] - loop[1]);
      this.#beginPass(loop[0], roll.lap + 1);
    }
    return this.#outcome();
  }

  /** What a control does at t. */
  doing(id: ControlId, t: Seconds): Doing {
    const layer = this.layerOf(id);
    const take = this.#roll?.take(id, layer);
    const finger = this.#hands.fingers.get(id);
    const touching = !!finger && !finger.letGo;
    const { held, isBefore } = this.#hands.tryout;
    const aside = held.get(id);
    if (aside !== undefined && (touching || !isBefore)) return { what: 'aside', value: aside, finger: touching };
    if (take?.isOpen) {
      return { what: 'hand', layer, value: take.capAt(t)!, finger: touching, writes: true, poised: false };
    }
    const line = take?.lineAt(t);
    if (line && !touching) return { what: 'return', layer, line };
    if (touching) {
      const poised = !this.#roll && this.#hands.poised.has(id);
      return { what: 'hand', layer, value: finger.value, finger: true, writes: false, poised };
    }
    const waiting = this.#hands.poised.get(id);
    if (waiting === undefined) return { what: 'curve' };
    return { what: 'hand', layer, value: waiting, finger: false, writes: false, poised: true };
  }

  /** Where a control's cap stands at t, in the unit of the layer in hand. */
  capAt(id: ControlId, t: Seconds): number {
    const doing = this.doing(id, t);
    if (doing.what === 'hand' || doing.what === 'aside') return doing.value;
    return this.#valueOn(id, this.layerOf(id), t);
  }

  /** Where one layer of a control stands at t, whatever a hand on the other does: what was written or returns, or the curve. */
  #valueOn(id: ControlId, layer: Layer, t: Seconds): number {
    return this.#roll?.take(id, layer)?.capAt(t) ?? layerValueAt(this.#song, id, layer, t);
  }

  /** What a snapshot had begun and is over: what comes next on those controls goes by their modes again. */
  #forgetRecalled(): void {
    for (const id of this.#hands.recalled) if (!this.isRecalled(id)) this.#hands.recalled.delete(id);
  }

  #outcome(): Outcome {
    const outcome = { edits: this.#edits, receipts: this.#receipts };
    this.#edits = [];
    this.#receipts = [];
    return outcome;
  }

  #apply(edit: Edit): void {
    this.#song = applyEdit(this.#song, edit).song;
    this.#edits.push(edit);
  }

  #take(event: HandEvent): void {
    switch (event.do) {
      case 'play':
        if (this.#roll) this.#endPass(this.#roll.now, false);
        return this.#beginPass(event.from, 0);
      case 'stop':
        if (this.#roll) this.#endPass(this.#roll.now, false);
        return;
      case 'touch':
        return this.#fingers.touch(event.control, event.alone ?? false, event.led ?? null);
      case 'move':
        return this.#fingers.move(event.control, event.value, event.alone ?? false);
      case 'release':
        return this.#fingers.release(event.control);
      case 'letgo':
        return this.#fingers.letGo();
      case 'snapshot':
        return recallSnapshot(event, { song: this.#song, roll: this.#roll, hands: this.#hands });
      case 'tryout':
        this.#hands.tryout.isOn = event.on;
        return;
      case 'aside':
        return this.#fingers.holdAside(event.values);
      case 'drop':
        return this.#fingers.drop(event.controls ?? this.#hands.tryout.held.keys());
      case 'before':
        this.#hands.tryout.isBefore = event.on && this.#hands.tryout.held.size > 0;
        return;
      default:
        return this.#change(turnsOf(this.#song, event));
    }
  }

  // ---- passes

  #beginPass(from: Seconds, lap: number): void {
    const roll = new Roll(from, lap, this.#hands.takeStopped());
    this.#roll = roll;
    this.#refusePoised(roll);
    this.#beginSpans(roll, [...controlsOf(this.#song).keys()]);
  }

  #endPass(t: Seconds, atWrap: boolean): void {
    const roll = this.#roll!;
    for (const take of roll.takes) {
      take.end(t);
      if (atWrap) take.cutLine(t);
    }
    if (!atWrap) this.#fingers.refuseIdle(roll);
    this.#fingers.keepRested();
    const { receipt, pass } = roll.finish(this.#song, t);
    this.#receipts.push(receipt);
    if (pass) this.#apply(pass);
    this.#hands.poised.clear();
    this.#hands.recalled.clear();
    this.#roll = null;
    this.#position = t;
    if (!atWrap) this.#hands.releaseSensorless();
    this.#fallBackFromWrite();
  }

  #fallBackFromWrite(): void {
    const { deskMode, afterWrite } = this.#song.settings;
    if (afterWrite === 'write') return;
    if (deskMode === 'write') return this.#apply({ kind: 'settings', changes: { deskMode: afterWrite } });
    if (deskMode !== null) return;
    for (const { key, mode } of this.#song.channels)
      if (mode === 'write') this.#apply({ kind: 'channel', channel: key, changes: { mode: afterWrite } });
  }

  /**
   * Begins, at the current time, every span that begins by itself: of fingers already down, of poised values, and of
   * controls in write, which start from the value under the now line.
   */
  #beginSpans(roll: Roll, ids: readonly ControlId[]): void {
    for (const id of ids) {
      if (this.#hands.tryout.held.has(id)) continue;
      const finger = this.#hands.fingers.get(id);
      const layer = this.isRecalled(id) ? 'base' : layerUnder(this.#song, id, finger?.counts ? finger : undefined);
      if (roll.take(id, layer)?.isOpen || this.whyNot(id, roll.now)) continue;
      const poised = this.#hands.poised.get(id);
      if (finger?.counts) {
        roll.begin(this.#song, id, layer, finger.value, true);
        finger.wrote = true;
      } else if (poised !== undefined) roll.begin(this.#song, id, layer, poised, false);
      else if (this.#beginsByItself(roll, id)) {
        const value = layer === this.layerOf(id) ? this.capAt(id, roll.now) : this.#valueOn(id, layer, roll.now);
        roll.begin(this.#song, id, layer, value, false);
      }
    }
  }

  #beginsByItself(roll: Roll, id: ControlId): boolean {
    return writesByItself(this.#song, id) && !roll.writeLetGo.has(controlOf(this.#song, id).channel);
  }

  /** Poised values that a guard, set since, keeps from being written: the receipt says so. */
  #refusePoised(roll: Roll): void {
    for (const id of this.#hands.poised.keys()) {
      const reason = this.whyNot(id, null);
      if (reason) roll.refused.push({ control: id, reason });
    }
  }

  /** The next thing that time alone brings about, up to `to`. */
  #nextDue(roll: Roll, to: Seconds): { readonly t: Seconds; readonly act: () => void } | null {
    let due: { t: Seconds; act: () => void } | null = null;
    const consider = (t: Seconds, act: () => void): void => {
      if (t <= to && (!due || t < due.t)) due = { t, act };
    };
    for (const [id, finger] of this.#hands.fingers)
      if (finger.releaseAt !== null) consider(finger.releaseAt, () => this.#fingers.release(id));
    const { punch } = this.#song.settings;
    if (punch && !roll.punchedIn && roll.from < punch[0])
      consider(punch[0], () => {
        roll.punchedIn = true;
        this.#beginSpans(roll, [...controlsOf(this.#song).keys()]);
      });
    if (punch && !roll.punchedOut && roll.from < punch[1])
      consider(punch[1], () => {
        roll.punchedOut = true;
        for (const take of roll.takes) {
          take.end(roll.now);
          take.cutLine(roll.now);
        }
      });
    return due;
  }

  // ---- modes and guards

  #change(edits: readonly Edit[]): void {
    // What was set to rest under a hand was set before: it is kept first, whatever the change then guards.
    this.#fingers.keepRested();
    const before = this.#song;
    for (const edit of edits) this.#apply(edit);
    this.#followChange(before);
  }

  /** What a change of modes, guards, trim, scope, gangs or punch range ends and begins, by whomever it was made (rules, 4 to 6). */
  #followChange(before: Song): void {
    if (before.gangs !== this.#song.gangs || controlsOf(before) !== controlsOf(this.#song))
      this.#fingers.followGangs(before);
    followChange(before, {
      song: this.#song,
      roll: this.#roll,
      hands: this.#hands,
      position: this.#position,
      whyNot: (id, t) => this.whyNot(id, t),
      release: (roll, take) => this.#fingers.letReturn(roll, take),
      beginSpans: (roll, ids) => this.#beginSpans(roll, ids),
    });
  }
}
