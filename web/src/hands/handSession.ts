import {
  LATE,
  OrderedHands,
  passState,
  type Doing,
  type HandEvent,
  type Moment,
  type Deed,
  type PassRecorder,
  type PassState,
  type Told,
} from '@sure-hand/core/pass';
import { loggedLanes, type Edit, type LoggedLane, type Receipt } from '@sure-hand/core/edits';
import { controlsOf, type ControlId, type Song, layerLaw } from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import { travelOf, type Law, type Seconds } from '@sure-hand/core/units';
import { DOES, type HandTable } from '@sure-hand/core/mix';
import type { SessionClock } from '../engine/pageClock.js';

/** What a hand session needs of the engine. Moments are of the page's clock, in milliseconds. */
export type HandEngine = {
  readonly hands: HandTable;
  readonly isPlaying: boolean;
  readonly isPlanPending: boolean;
  slotOf(id: ControlId): number;
  setSong(song: Song): void;
  play(from: Seconds, loops?: boolean): Promise<string | null>;
  stop(nowMs: number): Seconds;
  locate(t: Seconds): void;
  /** Where the song was heard to be at a moment; of one before the last stop, where it was then. */
  positionAt(nowMs: number): Seconds;
  /** How often the loop had wrapped by a moment since the last play. */
  heardWraps(nowMs: number): number;
  tick(nowMs: number): void;
};

/** What a pass led to, as it is told of: its receipt, the lanes it changed, and the name it goes by until it has a number. */
export type PassMade = { readonly receipt: Receipt; readonly lanes: readonly LoggedLane[]; readonly key: string };

/** Edits that hands led to. `key`: the journal's name for the pass among them, if one ended, be it one that wrote nothing. */
export type EditsMade = {
  readonly edits: readonly Edit[];
  readonly key: string | null;
  /** Whether the song rolled as it was done. */
  readonly rolled: boolean;
  readonly before: Song;
  readonly after: Song;
};

/** Where a hand session says what came of things. */
export type HandListener = {
  /** Edits to be applied to the song and kept, in order, with the song before and after them. */
  onEdits(made: EditsMade): void;
  /** A pass, or a lap, has ended; told again where a hand's late event has changed it. */
  onPass(made: PassMade): void;
  /** Rolling or not, fingers, spans: something that is shown has changed. */
  onChange(): void;
  /** A hand comes down, or moves: what is compared gives way to the song as it stands. */
  onHand(): void;
  /** Something could not be done; the sentence says what and why. */
  onTrouble(sentence: string): void;
};

/** Where an open pass is written down while it rolls, so that it can be made again after a crash. */
export type HandJournal = {
  begin(began: PassState, events: readonly HandEvent[], at: Seconds): void;
  note(event: HandEvent): void;
  /** How far the pass is, and whether it writes just now: then that is worth writing down, though no hand moves. */
  reached(t: Seconds, isWriting: boolean): void;
  /** The pass has ended; gives back the key under which it is to be kept. */
  end(): string;
};
let passes = 0;
const NO_JOURNAL: HandJournal = {
  begin: () => undefined,
  note: () => undefined,
  reached: () => undefined,
  end: () => `pass ${passes++}`,
};

/** Whether all values that a hand gives are numbers: one that is none, as a field half typed has it, moves nothing. */
function isSound(act: HandAct): boolean {
  if (act.do === 'move') return Number.isFinite(act.value);
  return act.do !== 'aside' || Object.values(act.values).every(Number.isFinite);
}

/** What is listened to without a pass: in words, and whether it comes round again and again. */
export type Listening = { readonly what: string; readonly isAgain: boolean };

/** A play or a stop: the phase that it began, and when. */
type Turn = { readonly phase: number; readonly at: number; readonly rolls: boolean };

/** A clock that only tells the time: its owner calls {@link HandSession.tick}. */
const BARE_CLOCK: SessionClock = { now: () => performance.now(), run: () => () => undefined };

/** An event as a hand makes it, without its time. */
export type HandAct = Exclude<HandEvent, { do: 'play' } | { do: 'stop' }>;

/**
 * Where all hands meet: pointer, keys and, later, fader banks become the same events, get the song time as heard,
 * and go to the recorder; what it says each touched control now does goes to the audio thread. It keeps its own time:
 * laps, ends, journals and listening go on whatever view is drawn.
 */
export class HandSession {
  readonly recorder: PassRecorder;
  readonly #hands: OrderedHands;
  /** Controls that are not (or were not just now) on their curve: what the audio thread has to be told of. */
  readonly #off = new Set<ControlId>();
  /** Plays, wraps and stops so far: the phase that is under way. */
  #phase = 0;
  #wraps = 0;
  /** The last plays and stops, the latest last, each with the phase that it began; what comes late may be of one before. */
  #turns: readonly Turn[] = [{ phase: 0, at: -Infinity, rolls: false }];
  #starting = false;
  /** What is starting is not begun after all. */
  #isGivenUp = false;
  #playFrom: Seconds = 0;
  /** Another state of the song that is heard in its place. */
  #compared: Song | null = null;
  /** Passages still to be listened to; null while nothing is. Where the one that plays ends, and where the line was. */
  #passages: Range[] | null = null;
  #listening: Listening | null = null;
  #lastMoved: ControlId | null = null;
  #listenTo: Seconds = 0;
  #backTo: Seconds | null = null;
  /** What stopped hands did since the last stop: poised values go into the next pass. */
  #whileStopped: HandEvent[] = [];
  /** While edits are told, the song that comes back with each of them is not from elsewhere: the last is taken over after all. */
  #isTelling = false;
  #toldSong: Song | null = null;
  /** The song was left: whatever was still starting is not begun. */
  #isLeft = false;
  #endClock: (() => void) | null = null;

  constructor(
    song: Song,
    readonly engine: HandEngine,
    readonly listener: HandListener,
    readonly journal: HandJournal = NO_JOURNAL,
    readonly clock: SessionClock = BARE_CLOCK,
  ) {
    this.#hands = new OrderedHands(song);
    this.recorder = this.#hands.recorder;
  }

  get isRolling(): boolean {
    return this.recorder.roll !== null;
  }

  /** Whether a passage is only listened to: the song moves, and no pass does. */
  get isListening(): boolean {
    return this.#passages !== null;
  }

  /** The control that a hand moved last, from wherever; null before any was. */
  get lastMoved(): ControlId | null {
    const id = this.#lastMoved;
    return id !== null && controlsOf(this.recorder.song).has(id) ? id : null;
  }

  /** What is listened to; null while nothing is. */
  get listeningTo(): Listening | null {
    return this.isListening ? this.#listening : null;
  }

  /** Whether a play was asked for that has not begun yet. */
  get isStarting(): boolean {
    return this.#starting && !this.isListening && !this.#isGivenUp;
  }

  /** Gives up a play that has not begun yet: whoever presses once more before it does wants none. */
  giveUpStart(): void {
    this.#isGivenUp = this.#starting;
    this.listener.onChange();
  }

  /** Whether the song moves, be it in a pass or to be listened to. */
  get isMoving(): boolean {
    return this.isRolling || this.isListening;
  }

  /** Whether something was done that is not handed over yet: what was made late may still come in before it. */
  get waits(): boolean {
    return this.#hands.waits;
  }

  /** The song as it is heard: as it stands, or another state of it that it is compared with. */
  get heardSong(): Song {
    return this.#compared ?? this.recorder.song;
  }

  /** Lets another state of the song be heard in its place, without a gap; null: as it stands again. */
  hear(song: Song | null): void {
    if (this.#compared === song) return;
    this.#compared = song;
    this.engine.setSong(this.heardSong);
    this.listener.onChange();
  }

  /** Where the last play began. */
  get playFrom(): Seconds {
    return this.#playFrom;
  }

  /** The song as it is after an edit, from here or elsewhere: what it changes of modes and guards counts from now on. */
  setSong(song: Song): void {
    if (this.#isTelling) return void (this.#toldSong = song);
    if (song === this.recorder.song) return;
    const now = this.clock.now();
    this.#do({ phase: this.#phase, at: now }, { do: 'adopt', song });
    this.engine.setSong(this.heardSong);
    this.#mirrorAll(this.engine.positionAt(now));
  }

  /** The audio thread has taken over what it was given last: what waited for that is given back to its curve. */
  planned(): void {
    this.#mirrorAll(this.engine.positionAt(this.clock.now()));
  }

  /** Takes what a hand does at a moment of the page's clock, however late it comes. */
  act(act: HandAct, atMs: number): void {
    if (!isSound(act)) return;
    // A hand is on the song as it stands: whoever rides hears what is ridden over.
    if (act.do === 'touch' || act.do === 'move') this.listener.onHand();
    if (act.do === 'move') this.#lastMoved = act.control;
    if (this.isRolling) this.#catchWraps(this.clock.now());
    const { moment, rolled } = this.#momentOf(atMs);
    const lap = this.engine.heardWraps(atMs);
    const event = rolled ? { ...act, t: this.engine.positionAt(atMs), lap } : act;
    // Of what comes late only what belongs to the pass that is open is written down with it: the one before has its journal's end.
    if (this.isRolling && moment.phase >= this.#phase - (this.#wraps === 0 ? 1 : 0)) this.journal.note(event);
    else if (!this.isRolling && !rolled) this.#whileStopped.push(event);
    if ('control' in act && act.control !== undefined) this.#off.add(act.control);
    this.#do(moment, { do: 'hand', event });
    this.listener.onChange();
  }

  /** Which phase a moment belongs to, and whether the song rolled then. */
  #momentOf(at: number): { readonly moment: Moment; readonly rolled: boolean } {
    const { phase, rolls } = this.#turns.findLast((turn) => turn.at <= at) ?? this.#turns[0]!;
    return { moment: { phase: rolls ? phase + this.engine.heardWraps(at) : phase, at }, rolled: rolls };
  }

  /** A play or a stop opens a phase of its own. */
  #turn(at: number, rolls: boolean): void {
    this.#phase++;
    const isOver = (i: number): boolean => this.#turns[i + 1] !== undefined && at - this.#turns[i + 1]!.at > LATE.ms;
    this.#turns = [...this.#turns.filter((_, i) => !isOver(i)), { phase: this.#phase, at, rolls }];
  }

  /**
   * Plays passages one after the other to be listened to, once or again and again: no pass, so nothing is written whatever the
   * modes are. After the last, or as it is stopped, the line is back where it was.
   */
  async listen(passages: readonly Range[], nowMs: number, to: Listening): Promise<void> {
    if (this.#starting || this.isRolling || !passages.length) return;
    const back = this.#backTo ?? this.engine.positionAt(nowMs);
    if (this.isListening) this.engine.stop(nowMs);
    this.#passages = [...passages];
    this.#listening = to;
    this.#backTo = back;
    await this.#listenToNext();
  }

  async #listenToNext(): Promise<void> {
    const next = this.#passages?.shift();
    if (!next) return this.#endListening(this.clock.now());
    if (this.#listening?.isAgain) this.#passages!.push(next);
    this.#listenTo = next[1];
    const back = this.#backTo;
    this.#starting = true;
    const wrong = await this.engine.play(next[0], false).finally(() => (this.#starting = false));
    if (wrong) {
      this.#endListening(this.clock.now());
      return this.listener.onTrouble(wrong);
    }
    // Given up while it was starting: the line is back where it was, wherever that has begun.
    if (!this.isListening) {
      this.engine.stop(this.clock.now());
      if (back !== null) this.engine.locate(back);
      return this.listener.onChange();
    }
    this.#keepTime();
    this.listener.onChange();
  }

  #endListening(nowMs: number): void {
    if (this.engine.isPlaying) this.engine.stop(nowMs);
    this.#passages = null;
    const back = this.#backTo;
    this.#backTo = null;
    if (back !== null) {
      this.engine.locate(back);
      this.recorder.locate(back);
    }
    this.listener.onChange();
  }

  /** Starts a pass at a place; the recorder begins as the engine does. */
  async play(from: Seconds): Promise<void> {
    if (this.isListening) this.#endListening(this.clock.now());
    // Wanted once more before it was given up.
    if (this.#starting) this.#isGivenUp = false;
    if (this.#starting || this.isRolling) return;
    this.#starting = true;
    this.#isGivenUp = false;
    this.listener.onChange();
    try {
      const wrong = await this.engine.play(from);
      if (this.#isLeft || this.#isGivenUp) return void this.engine.stop(this.clock.now());
      if (wrong) return this.listener.onTrouble(wrong);
      this.#wraps = 0;
      this.#playFrom = from;
      const now = this.clock.now();
      this.#turn(now, true);
      this.journal.begin(passState(this.recorder.song), [...this.#whileStopped, { do: 'play', from }], from);
      this.#whileStopped = [];
      this.#do({ phase: this.#phase, at: now }, { do: 'hand', event: { do: 'play', from } });
      this.#keepTime();
    } finally {
      this.#starting = false;
      this.listener.onChange();
    }
  }

  /** Stops the song and ends the pass, at the place that is heard. */
  stop(nowMs: number): void {
    if (this.isListening) return this.#endListening(nowMs);
    if (!this.isRolling) return;
    this.#catchWraps(nowMs);
    const t = this.engine.stop(nowMs);
    this.#turn(nowMs, false);
    this.#do({ phase: this.#phase, at: nowMs }, { do: 'hand', event: { do: 'stop', t } }, this.journal.end());
    this.#whileStopped = this.recorder.tryoutEvents();
    this.listener.onChange();
  }

  /**
   * A stop, with all that a stop does; fingers that are still down come up, as what they set is kept as they do; and what it led to is
   * handed over at once: the page may be gone the next moment.
   */
  stopForGood(nowMs: number): void {
    this.stop(nowMs);
    const ownHands = this.recorder.touched.filter((control) => this.recorder.leaderOf(control) === null);
    for (const control of ownHands) this.act({ do: 'release', control }, nowMs);
    this.#tell(true);
  }

  /**
   * While the song stands, what hands led to is handed over now, though something late could still come before it: whoever acts on
   * it, or takes it back, acts on what is there.
   */
  settle(): void {
    if (!this.isRolling) this.#tell(true);
  }

  /** Leaves the song: a stop for good. */
  leave(nowMs: number): void {
    this.#isLeft = true;
    this.stopForGood(nowMs);
    this.#endClock?.();
    this.#endClock = null;
  }

  /** The song has come to its end by itself. */
  ended(nowMs: number): void {
    if (this.isListening) void this.#passageEnds(nowMs);
    else this.stop(nowMs);
  }

  /** Goes to a place: while rolling this ends the pass, and the song goes on from there as a new one. */
  async locate(t: Seconds, nowMs: number): Promise<void> {
    const rolled = this.isRolling;
    this.stop(nowMs);
    this.engine.locate(t);
    this.recorder.locate(t);
    this.listener.onChange();
    if (rolled) await this.play(t);
  }

  /** Lets time pass: for the recorder, for what is listened to, for what waits to be kept; and keeps the audio thread told. */
  tick(nowMs: number): void {
    this.engine.tick(nowMs);
    const t = this.engine.positionAt(nowMs);
    if (this.isRolling) {
      this.#catchWraps(nowMs);
      this.#do({ phase: this.#phase, at: nowMs }, { do: 'time', t: this.engine.positionAt(nowMs) });
      this.journal.reached(t, this.recorder.roll?.takes.some((take) => take.isOpen) ?? false);
    } else this.#tell();
    this.#mirrorAll(t);
    if (this.isListening && !this.#starting) {
      this.recorder.locate(t);
      if (t >= this.#listenTo || !this.engine.isPlaying) void this.#passageEnds(nowMs);
    }
    if (!this.isMoving && !this.#hands.waits) {
      this.#endClock?.();
      this.#endClock = null;
    }
  }

  async #passageEnds(nowMs: number): Promise<void> {
    if (this.engine.isPlaying) this.engine.stop(nowMs);
    await this.#listenToNext();
  }

  #keepTime(): void {
    this.#endClock ??= this.clock.run((nowMs) => this.tick(nowMs));
  }

  /** The loop has come round: the lap ends as a pass of its own. */
  #catchWraps(nowMs: number): void {
    for (const heard = this.engine.heardWraps(nowMs); this.#wraps < heard;) {
      this.#wraps++;
      this.#phase++;
      const key = this.journal.end();
      this.#do({ phase: this.#phase, at: nowMs }, { do: 'wrap' }, key);
      const from = this.recorder.roll?.now ?? 0;
      this.journal.begin(
        passState(this.recorder.song),
        [...this.recorder.tryoutEvents(), ...this.recorder.fingersDown(from), { do: 'play', from }],
        from,
      );
      this.listener.onChange();
    }
  }

  /** Does something, lets it be heard, and says what came of it: passes at once, edits once nothing can come before them. */
  #do(moment: Moment, deed: Deed, key: string | null = null): void {
    const fresh = this.#hands.take(moment, deed, key);
    for (const take of this.recorder.roll?.takes ?? []) this.#off.add(take.control);
    for (const id of this.recorder.poised.keys()) this.#off.add(id);
    for (const id of this.recorder.tryout.held.keys()) this.#off.add(id);
    // Companions of what a hand moved, too.
    for (const id of this.recorder.touched) this.#off.add(id);
    if (fresh.some((one) => one.before !== one.after) && deed.do !== 'adopt') this.engine.setSong(this.heardSong);
    for (const told of fresh) this.#sayPass(told);
    if (deed.do !== 'time') this.#mirrorAll(this.engine.positionAt(this.clock.now()));
    this.#tell();
    if (this.#hands.waits) this.#keepTime();
  }

  #sayPass({ receipts, before, after, key }: Told): void {
    for (const receipt of receipts) {
      const ids = receipt.lanes.map((lane) => lane.control);
      this.listener.onPass({ receipt, lanes: loggedLanes(before, after, ids), key: key ?? '' });
    }
  }

  /** Hands over what is settled, or all there is. */
  #tell(all = false): void {
    const told = this.#hands.tell(this.clock.now(), all);
    const made = told.filter(({ edits, key }) => edits.length > 0 || key !== null);
    if (!made.length) return;
    this.#isTelling = true;
    try {
      for (const one of made) this.listener.onEdits(one);
    } finally {
      this.#isTelling = false;
    }
    const song = this.#toldSong;
    this.#toldSong = null;
    if (song) this.setSong(song);
    this.listener.onChange();
  }

  #mirrorAll(t: Seconds): void {
    const known = controlsOf(this.recorder.song);
    for (const id of [...this.#off])
      if (known.has(id)) this.#mirror(id, this.recorder.doing(id, t), t);
      // What has gone from the song has no place in the audio thread any more.
      else this.#off.delete(id);
  }

  /** Tells the audio thread what one control does. Back on its curve it is given only once the thread has that curve. */
  #mirror(id: ControlId, doing: Doing, t: Seconds): void {
    const { hands } = this.engine;
    const slot = this.engine.slotOf(id);
    const lawOf = (layer: 'base' | 'trim'): Law => layerLaw(this.recorder.song, id, layer);
    switch (doing.what) {
      case 'hand':
        return hands.hold(slot, doing.layer === 'trim', travelOf(lawOf(doing.layer), doing.value));
      case 'aside':
        return hands.hold(slot, false, travelOf(lawOf('base'), doing.value));
      case 'return': {
        if (hands.does(slot) === DOES.line) return;
        const law = lawOf(doing.layer);
        const { from, lands } = doing.line;
        return hands.line(slot, doing.layer === 'trim', from.t, travelOf(law, from.v), lands.t, travelOf(law, lands.v));
      }
      case 'curve':
        if (this.engine.isPlanPending) return;
        hands.letGo(slot);
        if (!this.recorder.roll?.takes.some((take) => take.control === id && t < (take.spans.at(-1)?.to ?? Infinity)))
          this.#off.delete(id);
    }
  }
}
