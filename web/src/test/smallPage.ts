import { configureStore } from '@reduxjs/toolkit';
import type { Receipt } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { HandKeeping } from '../open/handKeeping.js';
import { HandSession, type EditsMade, type HandAct, type PassMade } from '../hands/handSession.js';
import { Outbox } from '../song/outbox.js';
import { PassJournalist } from '../song/passJournal.js';
import { songClosed, songReducer, type PendingEdit } from '../song/songSlice.js';
import { SongSync, leftAloneWords, type Settled } from '../song/songSync.js';
import { QuietEngine } from './quietEngine.js';
import { SmallShelf } from './smallServer.js';

/** What a browser keeps of its tabs, those that are gone among them. */
export class SmallBrowser {
  readonly shelf = new SmallShelf<PendingEdit>();
  readonly gone = new Set<string>();
  #tabs = 0;

  newTab(): string {
    return `tab ${this.#tabs++}`;
  }
}

const soon = (): Promise<void> => new Promise((tick) => setTimeout(tick, 1));

/** A page with a song open: its hands, its outbox and its journal are the real ones, only the sound and the screen are not there. */
export class SmallPage {
  readonly tab: string;
  readonly outbox: Outbox;
  readonly sync: SongSync;
  /** What the outbox or the sync named as refused. */
  readonly refused: string[] = [];
  readonly settled: Settled[] = [];
  /** Keys of passes that are on their way to being kept. */
  readonly handed = new Set<string>();
  /** Receipts of passes that came to an end, by the keys they go by. */
  readonly receipts = new Map<string, Receipt>();
  /** Called before the page takes over a song from elsewhere. */
  onAdopt: (song: Song) => void = () => undefined;
  engine!: QuietEngine;
  session!: HandSession;
  journal!: PassJournalist;
  readonly #store = configureStore({
    reducer: { song: songReducer },
    middleware: (defaults) => defaults({ immutableCheck: false, serializableCheck: false }),
  });
  #unsubscribe: () => void = () => undefined;

  constructor(
    readonly browser: SmallBrowser,
    readonly id: number,
  ) {
    this.tab = browser.newTab();
    const listener = {
      onWaiting: () => undefined,
      onAway: () => undefined,
      onRefused: (_id: number, sentence: string) => void this.refused.push(sentence),
    };
    const shelf = browser.shelf.of(this.tab, browser.gone);
    this.outbox = new Outbox(
      listener,
      leftAloneWords(() => null),
      shelf,
      soon,
    );
    this.sync = new SongSync(this.#store, this.outbox, soon);
  }

  get state(): ReturnType<typeof songReducer> {
    return this.#store.getState().song;
  }

  /** Opens the song; tried until the server is there. */
  async open(): Promise<void> {
    while (this.state.status !== 'open') await this.sync.open(this.id);
    const song = this.state.song!;
    this.engine = new QuietEngine(song);
    this.journal = new PassJournalist(this.id);
    const keeping = new HandKeeping(this.sync, this.journal);
    this.sync.onSettled((settled) => {
      keeping.settled(settled);
      this.settled.push(settled);
    });
    const listener = {
      onEdits: (made: EditsMade) => {
        keeping.made(made);
        if (made.key !== null && made.edits.some(({ kind }) => kind === 'pass')) this.handed.add(made.key);
      },
      onPass: ({ receipt, key }: PassMade) => void this.receipts.set(key, receipt),
      onHand: () => undefined,
      onTrouble: (sentence: string) => void this.refused.push(sentence),
      onChange: () => undefined,
    };
    this.session = new HandSession(song, this.engine, listener, this.journal, this.engine);
    let seen = song;
    this.#unsubscribe = this.#store.subscribe(() => {
      const now = this.state.song;
      if (!now || now === seen) return;
      seen = now;
      this.onAdopt(now);
      this.session.setSong(now);
    });
  }

  act(act: HandAct): void {
    this.session.act(act, this.engine.ms);
  }

  /** Time goes on: laps wrap, the song ends, and what no late hand can change any more is kept. */
  async goOn(sec: number): Promise<void> {
    const { loop } = this.session.recorder.song.settings;
    const to = this.engine.t + sec;
    if (!this.session.isRolling) this.engine.ms += 1000 * sec;
    else if (loop && this.session.playFrom < loop[1] && to >= loop[1]) this.engine.goTo(loop[0], 1);
    else if (to >= this.session.recorder.song.length) this.session.ended(this.engine.ms);
    else this.engine.goTo(to);
    this.engine.calls();
  }

  /** The page is left as a person leaves one, for the list or by closing it: that is a stop. */
  leave(): void {
    this.session.leave(this.engine.ms);
    this.#end();
  }

  /** The page is gone from one moment to the next, without a word; gives back the key of the pass that was open. */
  crash(): string {
    const key = this.journal.end();
    this.#end();
    return key;
  }

  #end(): void {
    this.#unsubscribe();
    this.#store.dispatch(songClosed());
    this.browser.gone.add(this.tab);
  }
}
