import { PassRecorder, passState, type Doing, type HandEvent, type PassState } from '@sure-hand/core/pass';
import { controlOf, type ControlId, type Edit, type Receipt, type Song } from '@sure-hand/core/song';
import { TRIM_LAW, travelOf, type Law, type Seconds } from '@sure-hand/core/units';
import { DOES, type HandTable } from '@sure-hand/core/mix';

/** What a hand session needs of the engine. */
export type HandEngine = {
  readonly hands: HandTable;
  readonly isPlaying: boolean;
  readonly isPlanPending: boolean;
  slotOf(id: ControlId): number;
  setSong(song: Song): void;
  play(from: Seconds): Promise<string | null>;
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
  /** A pass, or a lap, has ended. */
  onReceipt(receipt: Receipt): void;
  /** Rolling or not, fingers, spans: something that is shown has changed. */
  onChange(): void;
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

  /** Where the last play began. */
  get playFrom(): Seconds {
    return this.#playFrom;
  }

  /** The song as it is after an edit, from here or elsewhere. */
  setSong(song: Song): void {
    this.recorder.adopt(song);
    this.engine.setSong(song);
    this.#mirrorAll(this.#now());
  }

  /** Takes what a hand does at a moment of the page's clock. */
  act(act: HandAct, nowMs: number): void {
    if (this.isRolling) this.#catchWraps(nowMs);
    const t = this.engine.positionAt(nowMs);
    const event = this.isRolling ? { ...act, t } : act;
    if (this.isRolling) this.journal.note(event);
    else this.#whileStopped.push(event);
    const { edits, receipts } = this.recorder.handle(event);
    if ('control' in act && act.control !== undefined) this.#off.add(act.control);
    this.#tell(edits, receipts, t);
  }

  /** Starts a pass at a place; the recorder begins as the engine does. */
  async play(from: Seconds): Promise<void> {
    if (this.#starting || this.isRolling) return;
    this.#starting = true;
    try {
      const wrong = await this.engine.play(from);
      if (wrong) return this.listener.onTrouble(wrong);
      this.#wraps = 0;
      this.#playFrom = from;
      this.journal.begin(passState(this.recorder.song), [...this.#whileStopped, { do: 'play', from }], from);
      this.#whileStopped = [];
      const { edits, receipts } = this.recorder.handle({ do: 'play', from });
      this.#tell(edits, receipts, from);
    } finally {
      this.#starting = false;
    }
  }

  /** Stops the song and ends the pass, at the place that is heard. */
  stop(nowMs: number): void {
    if (!this.isRolling) return;
    this.#catchWraps(nowMs);
    const t = this.engine.stop(nowMs);
    const { edits, receipts } = this.recorder.handle({ do: 'stop', t });
    this.#tell(edits, receipts, t, this.journal.end());
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
    return t;
  }

  #now(): Seconds {
    return this.engine.positionAt(performance.now());
  }

  /** The loop has come round: the lap ends as a pass of its own. */
  #catchWraps(nowMs: number): void {
    for (const heard = this.engine.heardWraps(nowMs); this.#wraps < heard; this.#wraps++) {
      const { edits, receipts } = this.recorder.wrap();
      const key = this.journal.end();
      const from = this.recorder.roll?.now ?? 0;
      this.journal.begin(passState(this.recorder.song), [...this.#fingersDown(from), { do: 'play', from }], from);
      this.#tell(edits, receipts, from, key);
    }
  }

  /** Fingers that are down, as events before a play: a lap begins with them. */
  #fingersDown(t: Seconds): HandEvent[] {
    return this.recorder.touched.flatMap((control): HandEvent[] => [
      { do: 'touch', control },
      { do: 'move', control, value: this.recorder.capAt(control, t) },
    ]);
  }

  #tell(edits: readonly Edit[], receipts: readonly Receipt[], t: Seconds, key: string | null = null): void {
    for (const take of this.recorder.roll?.takes ?? []) this.#off.add(take.control);
    for (const id of this.recorder.poised.keys()) this.#off.add(id);
    if (edits.length || key !== null) this.listener.onEdits(edits, key);
    for (const receipt of receipts) this.listener.onReceipt(receipt);
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
