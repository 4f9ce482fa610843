import { travelOf, valueOf, clamp, type Seconds } from '@sure-hand/core/units';
import type { Range } from '@sure-hand/core/curve';
import { type Remedy } from '@sure-hand/core/pass';
import {
  applyEdit,
  isLogged,
  type Applied,
  type Edit,
  type LoggedLane,
  type PassSide,
  versionsOf,
  whyNotMade,
} from '@sure-hand/core/edits';
import {
  channelOf,
  controlOf,
  isLevel,
  controlsOf,
  controlsOfChannel,
  fullName,
  isSwitch,
  laneOf,
  ownGuards,
  layerLaw,
  modeInForce,
  shapedClip,
  type Channel,
  type ChannelKey,
  type Clip,
  type ClipShaping,
  type ControlId,
  type ControlKind,
  type Mode,
  type Settings,
  type Song,
} from '@sure-hand/core/song';
import type { SongEngine } from '../engine/songEngine.js';
import { carryEdits, type Carry, type SpanChange } from './carrying.js';
import type { HandAct, HandSession } from './handSession.js';
import { wasRefused } from './reasonWords.js';

/** How far one press of an arrow moves a cap, in travel; and with Shift. */
const NUDGE = { coarse: 0.01, fine: 0.0025 } as const;
/** How much pointer movement is the whole travel; with Shift four times as much (screens). */
export const HAND_PX = { coarse: 600, fine: 2400 } as const;

/** The edges of a range are played from this long before each to this long after. */
const EDGE_LEAD_SEC: Seconds = 2;
/** How often a key that scrubs moves the song on. */
const SCRUB_EVERY_MS = 15;
/** A range is listened to from this long before it. */
const PRE_ROLL_SEC: Seconds = 2;

/** What the control needs of the rest of the application. */
export type ControlHost = {
  makeEdit(edit: Edit): void;
  step(which: 'undo' | 'redo'): Promise<void>;
  /** Works out elsewhere what an edit of some lanes comes to, where that takes long; null where it may as well be done here. */
  workAhead(song: Song, edit: Edit, controls: readonly ControlId[]): Promise<void> | null;
  say(sentence: string): void;
  /** The spans of the last pass were carried on, or all of it was put earlier or later. */
  onSpanChange(change: SpanChange | null): void;
  /** A play begins: what the last pass left on screen goes. */
  onPlay(): void;
};

/** Everything a person can do to the open song, whichever way it is asked for: the keys, the buttons and the pointer all call these. */
export class SongControl {
  readonly #before: Seconds[] = [];
  /** What is worked out ahead of being done: what takes a step back waits for it. */
  #ahead: { readonly now: () => void; readonly done: Promise<void> } | null = null;
  #isLeft = false;
  #scrubRun: ReturnType<typeof setInterval> | undefined;

  constructor(
    readonly session: HandSession,
    readonly engine: SongEngine,
    readonly host: ControlHost,
  ) {}

  get position(): Seconds {
    return this.engine.positionAt(performance.now());
  }

  async togglePlay(): Promise<void> {
    this.scrubEnd();
    if (this.session.isMoving) return this.session.stop(performance.now());
    if (this.session.isStarting) return this.session.giveUpStart();
    const { length } = this.session.recorder.song;
    this.host.onPlay();
    await this.session.play(this.position >= length - 0.01 ? 0 : this.position);
  }

  /** Goes to a place; where one came from can be stepped back to. */
  async locate(t: Seconds): Promise<void> {
    this.scrubEnd();
    const { length } = this.session.recorder.song;
    const to = clamp(t, 0, length);
    this.#before.push(this.position);
    if (this.#before.length > 100) this.#before.shift();
    await this.session.locate(to, performance.now());
  }

  /** Moves the line without keeping where it was: scrolling, which is one long locate. */
  scrollTo(t: Seconds): void {
    if (this.session.isMoving) return;
    const { length } = this.session.recorder.song;
    this.engine.locate(clamp(t, 0, length));
    this.session.recorder.locate(clamp(t, 0, length));
    this.session.listener.onChange();
  }

  // ---- scrubbing: the song heard as it is drawn under the line

  /** Whether the song is drawn under the line by a hand, and heard. */
  get isScrubbing(): boolean {
    return this.engine.isScrubbing;
  }

  /** A hand takes hold of the song under the line; while it moves by itself there is nothing to take hold of. */
  scrubBegin(): void {
    if (this.session.isMoving || this.session.isStarting) return;
    this.scrollBegins();
    this.engine.scrub(true);
    this.session.listener.onChange();
  }

  /** The song stands where the hand has drawn it to. */
  scrubEnd(): void {
    clearInterval(this.#scrubRun);
    if (!this.engine.isScrubbing) return;
    this.engine.scrub(false);
    this.session.listener.onChange();
  }

  /** Draws the song under the line at an even speed, as long as a key is held. */
  scrubRun(speed: number): void {
    this.scrubEnd();
    this.scrubBegin();
    if (!this.engine.isScrubbing) return;
    const from = this.position;
    const begun = performance.now();
    this.#scrubRun = setInterval(
      () => this.scrollTo(from + (speed * (performance.now() - begun)) / 1000),
      SCRUB_EVERY_MS,
    );
  }

  /** Keeps where scrolling began as the place to step back to. */
  scrollBegins(): void {
    this.#before.push(this.position);
  }

  async stepBack(): Promise<void> {
    const t = this.#before.pop();
    if (t !== undefined) await this.session.locate(t, performance.now());
  }

  get canStepBack(): boolean {
    return this.#before.length > 0;
  }

  /** Back to where play last began. */
  async returnToStart(): Promise<void> {
    await this.locate(this.session.playFrom);
  }

  letGo(): void {
    this.session.act({ do: 'letgo' }, performance.now());
  }

  setMode(channel: ChannelKey, mode: Mode): void {
    this.session.act({ do: 'mode', channel, mode }, performance.now());
  }

  /** Sets the mode of several channels at once: of those of a gang that links modes one reaches the others. */
  setModes(channels: readonly ChannelKey[], mode: Mode): void {
    for (const key of channels) if (this.#channel(key).mode !== mode) this.setMode(key, mode);
  }

  setTrims(channels: readonly ChannelKey[], on: boolean): void {
    for (const key of channels) if (this.#channel(key).trim !== on) this.setTrim(key, on);
  }

  #channel(key: ChannelKey): Channel {
    return channelOf(this.session.recorder.song, key)!;
  }

  // ---- guards, trim, what passes may write

  setTrim(channel: ChannelKey, on: boolean): void {
    this.session.act({ do: 'trim', channel, on }, performance.now());
  }

  setDesk(mode: Mode | null): void {
    this.session.act({ do: 'desk', mode }, performance.now());
  }

  setScope(kinds: readonly ControlKind[]): void {
    this.session.act({ do: 'scope', kinds }, performance.now());
  }

  /** Sets a guard. While the song stands it counts for all that is done from now on: nothing late is waited for. */
  #guard(act: HandAct): void {
    this.session.act(act, performance.now());
    this.session.settle();
  }

  /** Makes one control safe, or takes that away. */
  toggleSafe(id: ControlId): void {
    const { safe } = ownGuards(this.session.recorder.song, id);
    this.#guard({ do: 'safe', control: id, on: !safe });
  }

  /** Makes all controls of a kind safe on a channel, or takes that away. */
  toggleSafeKind(channel: ChannelKey, kind: ControlKind): void {
    const { safe } = channelOf(this.session.recorder.song, channel)!;
    const kinds = safe.includes(kind) ? safe.filter((one) => one !== kind) : [...safe, kind];
    this.#guard({ do: 'safe', channel, kinds });
  }

  togglePark(id: ControlId): void {
    const { parked } = ownGuards(this.session.recorder.song, id);
    this.#guard({ do: 'park', control: id, on: !parked });
  }

  toggleParkChannel(channel: ChannelKey): void {
    const { parked } = channelOf(this.session.recorder.song, channel)!;
    this.#guard({ do: 'park', channel, on: !parked });
  }

  toggleParkSong(): void {
    const { parked } = this.session.recorder.song.settings;
    this.#guard({ do: 'park', on: !parked });
  }

  /** Folds what trim waits, of one channel or of all; what is guarded keeps its trim, and is named. */
  foldTrim(channel: ChannelKey | null): void {
    const { song } = this.session.recorder;
    const channels = song.channels.filter(({ key }) => channel === null || key === channel);
    const controls = channels
      .flatMap((one) => controlsOfChannel(song, one).map((control) => control.id))
      .filter((id) => laneOf(song, id).trim.length > 0);
    if (!controls.length)
      return this.host.say(channel === null ? 'No trim waits anywhere.' : 'No trim waits on this channel.');
    const edit: Edit = { kind: 'foldTrim', controls };
    this.ahead(edit, controls, (now) => {
      // Somebody was quicker: what waits by now is another matter.
      if (now === song) this.#fold(edit);
      else this.foldTrim(channel);
    });
  }

  /**
   * Has an act done once what an edit of some lanes comes to was worked out: elsewhere where that takes long. It is told the song, which
   * may be another by then.
   */
  ahead(edit: Edit, controls: readonly ControlId[], act: (song: Song) => void): void {
    const { recorder } = this.session;
    const work = this.host.workAhead(recorder.song, edit, controls);
    if (!work) return act(recorder.song);
    let isDone = false;
    const now = (): void => {
      if (isDone || this.#isLeft) return;
      isDone = true;
      if (this.#ahead?.now === now) this.#ahead = null;
      act(recorder.song);
    };
    this.#ahead = { now, done: work.then(now) };
  }

  /** Does here and now what is still worked out elsewhere: whatever a person does next comes after it. */
  finish(): void {
    while (this.#ahead) this.#ahead.now();
  }

  /** The song is left: nothing that was worked out comes later, to another song. */
  leave(): void {
    this.finish();
    this.#isLeft = true;
  }

  #fold(edit: Edit): void {
    const { song } = this.session.recorder;
    const { clamped = [] } = this.#editLanes(edit);
    const held = clamped.map(({ control }) => fullName(song, control)).join(', ');
    const top = clamped.every(({ control }) => isLevel(controlOf(song, control))) ? '+12 dB' : 'the end of its throw';
    if (held) this.host.say(`Folded; ${top} held ${held} from being where the trim had it. Undo brings the trim back.`);
  }

  /**
   * Has an edit kept, on top of all that hands have done: what a stop led to, and waits to be handed over, comes before it. Whether the song
   * could take it by then.
   */
  #make(edit: Edit): boolean {
    this.session.settle();
    const wrong = whyNotMade(this.session.recorder.song, edit);
    if (wrong) this.host.say(wrong);
    else this.host.makeEdit(edit);
    return !wrong;
  }

  /** Makes an edit of lanes, and says which of them the core leaves alone, being safe or parked. */
  #editLanes(edit: Edit): Applied {
    const { song } = this.session.recorder;
    const applied = applyEdit(song, edit);
    // Channels and sends come and go without a lane.
    if (applied.song !== song && !this.#make(edit)) return { song, inverse: null, changed: [], refused: [] };
    // Of a placing what is left alone is told with what it did.
    const left = isLogged(edit)
      ? ''
      : applied.refused.map(({ control, reason }) => `${fullName(song, control)} (${wasRefused(reason)})`).join(', ');
    if (left) this.host.say(`Left as it is: ${left}.`);
    return applied;
  }

  /**
   * Makes an edit of a curve, as a gesture or a key asks for it: what it did. What is safe or parked is left alone, and named. One
   * that the song can't take, since it has been changed meanwhile, says so and does nothing.
   */
  mend(edit: Edit): Applied {
    const { song } = this.session.recorder;
    const wrong = whyNotMade(song, edit);
    if (wrong === null) return this.#editLanes(edit);
    this.host.say(wrong);
    return { song, inverse: null, changed: [], refused: [] };
  }

  /** The same of what need not be about a lane: whether the song is another by it. */
  takes(edit: Edit): boolean {
    const { song } = this.session.recorder;
    return this.mend(edit).song !== song;
  }

  /** Punches over a range, or no more. */
  setPunch(range: Range | null): void {
    this.#make({ kind: 'settings', changes: { punch: range } });
  }

  changeSettings(changes: Partial<Settings>): void {
    this.#make({ kind: 'settings', changes });
  }

  /** Does what takes the reason away for which a control is not written. */
  remedy(remedy: Remedy): void {
    if (remedy.do === 'punchOff') this.setPunch(null);
    else this.#guard(remedy);
  }

  /** Draws ends of fresh spans on to a later time, or their beginnings back to an earlier one, in one step. */
  carry(asked: readonly Carry[]): void {
    const carries = asked.filter(({ from, to }) => from !== to);
    if (!carries.length) return;
    const edits = carryEdits(carries);
    const { changed } = this.#editLanes(edits.length === 1 ? edits[0]! : { kind: 'together', edits, as: 'Carry on' });
    if (changed.length) this.host.onSpanChange({ carries });
  }

  /** Mends all that the last pass wrote; `shift` says how much earlier or later it stands then. It stays the last pass. */
  mendPass(edit: Edit, shift: Seconds): Applied {
    const applied = this.mend(edit);
    if (applied.changed.length) this.host.onSpanChange(shift ? { shift } : null);
    return applied;
  }

  /** Brings lanes back as a pass found or left them, whole or over a range. */
  bringBack(pass: number, lanes: readonly LoggedLane[], side: PassSide, range: Range | null): void {
    this.#editLanes({ kind: 'bringBack', pass, side, versions: versionsOf(lanes, side, range) });
  }

  // ---- hearing it again

  /** Plays what leads into each of some ranges and out of it, from {@link EDGE_LEAD_SEC} before each edge to as long after. */
  async playEdges(ranges: readonly Range[]): Promise<void> {
    this.scrubEnd();
    const { length } = this.session.recorder.song;
    const passages = ranges.flatMap(([from, to]): Range[] => {
      const into: Range = [Math.max(0, from - EDGE_LEAD_SEC), Math.min(length, from + EDGE_LEAD_SEC)];
      const out: Range = [Math.max(0, to - EDGE_LEAD_SEC), Math.min(length, to + EDGE_LEAD_SEC)];
      return out[0] <= into[1] ? [[into[0], out[1]]] : [into, out];
    });
    await this.session.listen(passages, performance.now(), { what: 'the edges', isAgain: false });
  }

  /** Plays a range from a little before it, once or again and again; then the line is back where it was. The same once more stops. */
  async playRange([from, to]: Range, isAgain: boolean): Promise<void> {
    this.scrubEnd();
    if (this.session.isListening) return this.session.stop(performance.now());
    const passage: Range = [Math.max(0, from - PRE_ROLL_SEC), to];
    await this.session.listen([passage], performance.now(), { what: 'the range', isAgain });
  }

  /** An edit that no hand on a control makes: of sections, notes, tempo, clips, names. */
  makeEdit(edit: Edit): void {
    this.#make(edit);
  }

  /** Gives a clip other fades or another gain. */
  shapeClip(channel: ChannelKey, clip: Clip, changes: ClipShaping): void {
    const add = shapedClip(clip, changes);
    if (add !== clip) this.#make({ kind: 'clip', channel, remove: clip, add });
  }

  toggleSolo(channel: ChannelKey): void {
    const { solo } = channelOf(this.session.recorder.song, channel)!;
    this.#make({ kind: 'channel', channel, changes: { solo: !solo } });
  }

  /** Solos one channel and no other; the same once more solos none. */
  soloAlone(channel: ChannelKey): void {
    const { channels } = this.session.recorder.song;
    const isAlone = channels.every(({ key, solo }) => solo === (key === channel));
    this.#setSolos(isAlone ? [] : [channel]);
  }

  /** No channel is soloed any more. */
  clearSolos(): void {
    this.#setSolos([]);
  }

  #setSolos(soloed: readonly ChannelKey[]): void {
    for (const { key, solo } of this.session.recorder.song.channels)
      if (solo !== soloed.includes(key)) this.#make({ kind: 'channel', channel: key, changes: { solo: !solo } });
  }

  setLoop(range: Range | null): void {
    this.#make({ kind: 'settings', changes: { loop: range } });
  }

  /** Whether a hand leaves the others of a gang out, as long as a key is held. */
  isAlone = false;

  touch(id: ControlId, atMs: number, alone = this.isAlone): void {
    this.session.act({ do: 'touch', control: id, ...(alone ? { alone } : {}) }, atMs);
  }

  /** Moves a touched control to a place on its throw. One that has gone from under the hand moves nothing. */
  moveTo(id: ControlId, travel: number, atMs: number): void {
    if (!controlsOf(this.session.recorder.song).has(id)) return;
    this.session.act({ do: 'move', control: id, value: this.#valueAt(id, clamp(travel, 0, 1)) }, atMs);
  }

  release(id: ControlId, atMs: number): void {
    this.session.act({ do: 'release', control: id }, atMs);
  }

  /** Where a control's cap stands now, as travel. */
  travelNow(id: ControlId): number {
    const { recorder } = this.session;
    return travelOf(layerLaw(recorder.song, id, recorder.layerOf(id)), recorder.capAt(id, this.position));
  }

  #valueAt(id: ControlId, travel: number): number {
    const { recorder } = this.session;
    const { song } = recorder;
    if (isSwitch(controlOf(song, id))) return travel >= 0.5 ? 1 : 0;
    return valueOf(layerLaw(song, id, recorder.layerGiven(id)), travel);
  }

  /** One step of an arrow key. A switch goes on or off. */
  nudge(id: ControlId, direction: 1 | -1, fine: boolean): void {
    const { song } = this.session.recorder;
    const step = isSwitch(controlOf(song, id)) ? 1 : fine ? NUDGE.fine : NUDGE.coarse;
    const to = clamp(this.travelNow(id) + direction * step, 0, 1);
    this.#moveOnce(id, this.#valueAt(id, to));
  }

  /** Sets a typed value. Where it is heard only, it says how to keep it. */
  typeValue(id: ControlId, value: number): void {
    const { recorder, isRolling } = this.session;
    this.#moveOnce(id, value);
    if (
      isRolling ||
      recorder.tryout.held.has(id) ||
      recorder.poised.has(id) ||
      recorder.capAt(id, this.position) === value
    )
      return;
    const { song } = recorder;
    const mode = modeInForce(song, controlOf(song, id).channel);
    this.host.say(
      `${fullName(song, id)} has a curve, and in ${mode} a stopped hand is not kept. Put the channel in latch or write to keep the value for the next pass, or ride it while the song rolls.`,
    );
  }

  /** A move of a hand without a touch sensor: while rolling it lets go by itself, stopped it is done at once. */
  #moveOnce(id: ControlId, value: number): void {
    const now = performance.now();
    const { recorder, isRolling } = this.session;
    // One that another hand leads is taken over.
    const held = recorder.touched.includes(id) && recorder.leaderOf(id) === null;
    const alone = this.isAlone ? { alone: true } : {};
    if (isRolling || held) return this.session.act({ do: 'move', control: id, value, ...alone }, now);
    this.touch(id, now);
    this.session.act({ do: 'move', control: id, value }, now);
    this.session.act({ do: 'release', control: id }, now);
  }

  /** A key held on a control: a switch is turned over, anything else is touched. */
  press(id: ControlId, atMs: number): void {
    if (isSwitch(controlOf(this.session.recorder.song, id))) this.pressSwitch(id, atMs);
    else this.touch(id, atMs);
  }

  /** Turns a switch over for as long as the key is held, as touch has it; latch and write hold it on by themselves. */
  pressSwitch(id: ControlId, atMs: number): void {
    this.touch(id, atMs);
    this.session.act({ do: 'move', control: id, value: this.travelNow(id) >= 0.5 ? 0 : 1 }, atMs);
  }

  undo(): Promise<void> {
    return this.#step('undo');
  }

  redo(): Promise<void> {
    return this.#step('redo');
  }

  async #step(which: 'undo' | 'redo'): Promise<void> {
    // The step that is meant is the one that was asked for last, be it still worked out.
    while (this.#ahead) await this.#ahead.done;
    this.session.settle();
    return this.host.step(which);
  }
}
