import {
  PassRecorder,
  passState,
  type Doing,
  type HandEvent,
  type Outcome,
  type PassState,
} from '@sure-hand/core/pass';
import {
  controlOf,
  loggedLanes,
  type ControlId,
  type Edit,
  type LoggedLane,
  type Receipt,
  type Song,
} from '@sure-hand/core/song';
import type { Range } from '@sure-hand/core/curve';
import { TRIM_LAW, travelOf, type Law, type Seconds } from '@sure-hand/core/units';
import { DOES, type HandTable } from '@sure-hand/core/mix';

/** What a hand session needs of the engine. */
export type HandEngine = {
  readonly hands: HandTable;
  readonly isPlaying: boolean;
  readonly isPlanPending: boolean;
  slotOf(id: ControlId): number;
  setSong(song: Song): void;
  play(from: Seconds, loops?: boolean): Promise<string | null>;
  stop(nowMs: number): Seconds;
  locate(t: Seconds): void;
  positionAt(nowMs: number): Seconds;
  heardWraps(nowMs: number): number;
  tick(nowMs: number): void;
};

/** Where a hand session says what came of things. */
export type HandListener = {
  /** Edits to be applied to the song and kept, in order. `key`: the journal's name for the pass among them, if it ended. */
  onEdits(edits: readonly Edit[], key: string | null): void;
  /** A pass, or a lap, has ended; `lanes` is what it changed, old and new. */
  onReceipt(receipt: Receipt, lanes: readonly LoggedLane[]): void;
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
  reached(t: Seconds): void;
  /** The pass has ended; gives back the key under which it is to be kept. */
  end(): string;
};
const NO_JOURNAL: HandJournal = {
  begin: () => undefined,
  note: () => undefined,
  reached: () => undefined,
  end: () => '',
};

/** A hand's event can reach the page this long after it was made; the recorder's own time waits for it. */
const EVENT_LAG_SEC = 0.06;

/** An event as a hand makes it, without its time. */
export type HandAct = Exclude<HandEvent, { do: 'play' } | { do: 'stop' }>;

/**
 * Where all hands meet: pointer, keys and, later, fader banks become the same events, get the song time as heard,
 * and go to the recorder; what it says each touched control now does goes to the audio thread.
 */
export class HandSession {
  readonly recorder: PassRecorder;
  /** Controls that are not (or were not just now) on their curve: what the audio thread has to be told of. */
  readonly #off = new Set<ControlId>();
  #wraps = 0;
  #starting = false;
  #playFrom: Seconds = 0;
  /** Another state of the song that is heard in its place. */
  #compared: Song | null = null;
  /** Passages still to be listened to; null while nothing is. Where the one that plays ends, and where the line was. */
  #passages: Range[] | null = null;
  #listenTo: Seconds = 0;
  #backTo: Seconds | null = null;
  /** What stopped hands did since the last stop: poised values go into the next pass. */
  #whileStopped: HandEvent[] = [];

  constructor(
    song: Song,
    readonly engine: HandEngine,
    readonly listener: HandListener,
    readonly journal: HandJournal = NO_JOURNAL,
  ) {
    this.recorder = new PassRecorder(song);
  }

  get isRolling(): boolean {
    return this.recorder.roll !== null;
  }

  /** Whether a passage is only listened to: the song moves, and no pass does. */
  get isListening(): boolean {
    return this.#passages !== null;
  }

  /** Whether the song moves, be it in a pass or to be listened to. */
  get isMoving(): boolean {
    return this.isRolling || this.isListening;
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

  /** The song as it is after an edit, from here or elsewhere. */
  setSong(song: Song): void {
    this.recorder.adopt(song);
    this.engine.setSong(this.heardSong);
    this.#mirrorAll(this.#now());
  }

  /** Takes what a hand does at a moment of the page's clock. */
  act(act: HandAct, nowMs: number): void {
    // A hand is on the song as it stands: whoever rides hears what is ridden over.
    if (act.do === 'touch' || act.do === 'move') this.listener.onHand();
    if (this.isRolling) this.#catchWraps(nowMs);
    const t = this.engine.positionAt(nowMs);
    const event = this.isRolling ? { ...act, t } : act;
    if (this.isRolling) this.journal.note(event);
    else this.#whileStopped.push(event);
    const before = this.recorder.song;
    const { edits, receipts } = this.recorder.handle(event);
    if ('control' in act && act.control !== undefined) this.#off.add(act.control);
    this.#tell({ before, edits, receipts }, t);
  }

  /**
   * Plays passages one after the other to be listened to: no pass, so nothing is written whatever the modes are. After
   * the last the line is back where it was.
   */
  async listen(passages: readonly Range[], nowMs: number): Promise<void> {
    if (this.#starting || this.isRolling || !passages.length) return;
    const back = this.#backTo ?? this.engine.positionAt(nowMs);
    if (this.isListening) this.engine.stop(nowMs);
    this.#passages = [...passages];
    this.#backTo = back;
    await this.#listenToNext();
  }

  async #listenToNext(): Promise<void> {
    const next = this.#passages?.shift();
    if (!next) return this.#endListening(performance.now());
    this.#listenTo = next[1];
    this.#starting = true;
    const wrong = await this.engine.play(next[0], false).finally(() => (this.#starting = false));
    if (wrong) {
      this.#endListening(performance.now());
      return this.listener.onTrouble(wrong);
    }
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
    if (this.isListening) this.#endListening(performance.now());
    if (this.#starting || this.isRolling) return;
    this.#starting = true;
    try {
      const wrong = await this.engine.play(from);
      if (wrong) return this.listener.onTrouble(wrong);
      this.#wraps = 0;
      this.#playFrom = from;
      this.journal.begin(passState(this.recorder.song), [...this.#whileStopped, { do: 'play', from }], from);
      this.#whileStopped = [];
      const before = this.recorder.song;
      this.#tell({ before, ...this.recorder.handle({ do: 'play', from }) }, from);
    } finally {
      this.#starting = false;
    }
  }

  /** Stops the song and ends the pass, at the place that is heard. */
  stop(nowMs: number): void {
    if (this.isListening) return this.#endListening(nowMs);
    if (!this.isRolling) return;
    this.#catchWraps(nowMs);
    const t = this.engine.stop(nowMs);
    const before = this.recorder.song;
    this.#tell({ before, ...this.recorder.handle({ do: 'stop', t }) }, t, this.journal.end());
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

  /** With every picture: lets time pass for the recorder, and keeps the audio thread told. */
  tick(nowMs: number): Seconds {
    this.engine.tick(nowMs);
    const t = this.engine.positionAt(nowMs);
    if (this.isRolling) {
      this.#catchWraps(nowMs);
      this.recorder.advance(t - EVENT_LAG_SEC);
      this.journal.reached(t);
      this.#mirrorAll(t);
    }
    if (this.isListening && !this.#starting) {
      this.recorder.locate(t);
      if (t >= this.#listenTo || !this.engine.isPlaying) void this.#passageEnds(nowMs);
    }
    return t;
  }

  async #passageEnds(nowMs: number): Promise<void> {
    if (this.engine.isPlaying) this.engine.stop(nowMs);
    await this.#listenToNext();
  }

  #now(): Seconds {
    return this.engine.positionAt(performance.now());
  }

  /** The loop has come round: the lap ends as a pass of its own. */
  #catchWraps(nowMs: number): void {
    for (const heard = this.engine.heardWraps(nowMs); this.#wraps < heard; this.#wraps++) {
      const before = this.recorder.song;
      const outcome = this.recorder.wrap();
      const key = this.journal.end();
      const from = this.recorder.roll?.now ?? 0;
      this.journal.begin(passState(this.recorder.song), [...this.#fingersDown(from), { do: 'play', from }], from);
      this.#tell({ before, ...outcome }, from, key);
    }
  }

  /** Fingers that are down, as events before a play: a lap begins with them. */
  #fingersDown(t: Seconds): HandEvent[] {
    return this.recorder.touched.flatMap((control): HandEvent[] => [
      { do: 'touch', control },
      { do: 'move', control, value: this.recorder.capAt(control, t) },
    ]);
  }

  #tell({ before, edits, receipts }: Outcome & { before: Song }, t: Seconds, key: string | null = null): void {
    for (const take of this.recorder.roll?.takes ?? []) this.#off.add(take.control);
    for (const id of this.recorder.poised.keys()) this.#off.add(id);
    if (edits.length || key !== null) this.listener.onEdits(edits, key);
    for (const receipt of receipts) {
      const ids = receipt.lanes.map((lane) => lane.control);
      this.listener.onReceipt(receipt, loggedLanes(before, this.recorder.song, ids));
    }
    this.#mirrorAll(t);
    this.listener.onChange();
  }

  #mirrorAll(t: Seconds): void {
    for (const id of [...this.#off]) this.#mirror(id, this.recorder.doing(id, t), t);
  }

  /** Tells the audio thread what one control does. Back on its curve it is given only once the thread has that curve. */
  #mirror(id: ControlId, doing: Doing, t: Seconds): void {
    const { hands } = this.engine;
    const slot = this.engine.slotOf(id);
    const lawOf = (layer: 'base' | 'trim'): Law =>
      layer === 'trim' ? TRIM_LAW : controlOf(this.recorder.song, id).law;
    switch (doing.what) {
      case 'hand':
        return hands.hold(slot, doing.layer === 'trim', travelOf(lawOf(doing.layer), doing.value));
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
