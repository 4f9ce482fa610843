import { completedEdit, isUndoStep, type Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import type { KeptAnswer, SongChange, Stale, StepOf } from '@sure-hand/server';
import { leftWords } from '../hands/reasonWords.js';
import { RETRY_MS, isRefusal, type LeftAlone, type Outbox } from './outbox.js';
import { Refusal, fetchChanges, fetchRevision, fetchSong, keysOf, sendEdit, sendStep } from './songApi.js';
import {
  editKept,
  editKnown,
  editNotKept,
  editRefused,
  editsCameFirst,
  editsMade,
  serverAway,
  songCaughtUp,
  songFailed,
  songOpened,
  songOpening,
  troubleCame,
  type PendingEdit,
  type SongState,
} from './songSlice.js';

/** What the sync needs of the store. */
export type SyncStore = { getState(): { readonly song: SongState }; dispatch(action: { type: string }): unknown };
/** What became of an edit made here. `passNumber`: of a pass that was kept, where the answer says it. */
export type Settled = {
  readonly key: string;
  readonly edit: Edit;
  readonly isKept: boolean;
  readonly passNumber: number | null;
};
/** What the sync needs of the outbox: where edits wait that the server has not got. */
export type SyncOutbox = Pick<Outbox, 'add' | 'answered' | 'hold' | 'hasSent' | 'release' | 'of' | 'say'>;

const STEP_TRIES = 5;

const OLDER =
  'The server has an older state of this song than before, as where a backup was put back. It is shown as it is there; what was not sent yet goes on top.';

/** What of a finished pass was left alone, since somebody had guarded it meanwhile; null where nothing was. */
export const leftAloneWords =
  (song: () => Song | null): LeftAlone =>
  (edit, refused) => {
    if (edit.kind !== 'pass' || !refused.length) return null;
    return `${leftWords(song(), refused)} What you rode there is kept under Passes; bring it back from there.`;
  };

/**
 * Carries edits of the open song to the server, one at a time and in order, and undo and redo after them. The server's
 * order is the truth: what came first from elsewhere is taken over, and ours goes on top.
 */
export class SongSync {
  #sending: Promise<void> | null = null;
  /** Steps go one after the other: what the next one means is what the one before has left. */
  #stepping: Promise<unknown> = Promise.resolve();
  readonly #leftAlone: LeftAlone;
  readonly #listeners = new Set<(settled: Settled) => void>();

  constructor(
    readonly store: SyncStore,
    readonly outbox: SyncOutbox,
    readonly wait: (ms: number) => Promise<void> = (ms) => new Promise((done) => setTimeout(done, ms)),
  ) {
    this.#leftAlone = leftAloneWords(() => this.#state.song);
  }

  /** Calls back as an edit made here is kept or refused; gives back what ends it. */
  onSettled(listener: (settled: Settled) => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  /** Opens a song, with whatever of it is still on its way to the server on top, be it found only while it opens. */
  async open(id: number): Promise<void> {
    this.store.dispatch(songOpening(id));
    const takeOver = (edits: readonly PendingEdit[]): void => {
      const { song, status } = this.#state;
      if (this.#state.id !== id || status !== 'open' || !song || !edits.length) return;
      // An earlier version of the program kept the points of what waited as lists.
      const whole = edits.map(({ key, edit }) => ({ key, edit: completedEdit(song, edit) }));
      this.store.dispatch(editsMade({ edits: whole }));
      void this.flush();
    };
    await this.outbox.hold(id, takeOver);
    try {
      const whole = await fetchSong(id, !this.outbox.hasSent(id));
      if (this.#state.id !== id) return;
      this.store.dispatch(songOpened(whole));
    } catch (error) {
      if (this.#state.id !== id) return;
      this.store.dispatch(songFailed((error as Error).message));
      this.outbox.release(id);
      return;
    }
    takeOver(this.outbox.of(id));
  }

  /** The song is left: whatever of it is still on its way is sent all the same. */
  close(id: number): void {
    this.outbox.release(id);
  }

  /** Applies an edit here and sees that it is kept. `key`: a name that it has already. */
  make(edit: Edit, key: string = crypto.randomUUID()): void {
    this.makeAll([{ edit, key }]);
  }

  /** The same for several at once; `known`: what they make of a song, where that was worked out already. */
  makeAll(edits: readonly PendingEdit[], known?: { readonly before: Song; readonly after: Song }): void {
    const { id } = this.#state;
    if (id === null || !edits.length) return;
    this.outbox.add(id, edits);
    this.store.dispatch(editsMade({ edits, known }));
    void this.flush();
  }

  /** Takes over what came from elsewhere, once it is told of; our own edits on their way find out by themselves. */
  async follow({ songId, revision, isLogShorter }: SongChange): Promise<void> {
    await this.flush();
    const { id, status, revision: here } = this.#state;
    if (id !== songId || status !== 'open' || (revision <= here && !isLogShorter)) return;
    try {
      const changes = await fetchChanges(songId, here);
      if (this.#state.id === songId) await this.#cameFirst(songId, changes);
    } catch {
      // The server went away again: the next edit or the next word of a change catches up.
    }
  }

  /** Takes over whatever came from elsewhere while the server could not tell of it. */
  async catchUp(): Promise<void> {
    const { id } = this.#state;
    if (id !== null) await this.follow({ songId: id, revision: Infinity });
  }

  /** Resolves once nothing is on its way any more. */
  flush(): Promise<void> {
    if (!this.#sending && this.#isWaiting) this.#sending = this.#sendAll();
    return this.#sending ?? Promise.resolve();
  }

  /**
   * Takes the last step back or does it again, the one that stands there as it is asked for; what that is called, null where it was not
   * done. A refusal becomes the song's trouble, and so does a step of somebody else's that came in between: that one is not meant.
   */
  step(which: 'undo' | 'redo'): Promise<string | null> {
    const stepped = this.#stepping.then(() => this.#step(which));
    this.#stepping = stepped.catch(() => undefined);
    return stepped;
  }

  async #step(which: 'undo' | 'redo'): Promise<string | null> {
    const { id, isAway, notKept } = this.#state;
    if (isAway && notKept === null)
      this.store.dispatch(troubleCame(`The server is away: ${which} comes as soon as it is back.`));
    const own = this.#state.pending.findLast(({ edit }) => isUndoStep(edit));
    const seen = this.#next(which);
    const isRefused = await this.#sent(own);
    // What was to be taken back is not there: what stands before it is not meant.
    if (isRefused || id === null || this.#state.id !== id) return null;
    const meant = own ? this.#next(which) : seen;
    try {
      for (let tries = 0; tries < STEP_TRIES && this.#state.id === id; tries++) {
        // Of one's own step the name is known once it is kept.
        const name = this.#state.history[which];
        const answer = await sendStep(id, which, { revision: this.#state.revision, step: meant?.step });
        if (this.#state.id !== id) return null;
        if (!isStale(answer)) {
          this.#kept(answer, answer.edit!, null);
          return name ?? '';
        }
        await this.#cameFirst(id, answer);
        if (meant && this.#next(which)?.step !== meant.step) {
          this.store.dispatch(troubleCame(this.#otherStepWords(which)));
          return null;
        }
      }
    } catch (error) {
      this.store.dispatch(troubleCame((error as Error).message));
    }
    return null;
  }

  /** What undo or redo would do now. */
  #next(which: 'undo' | 'redo'): StepOf | null {
    const { undoOf, redoOf } = this.#state.history;
    return which === 'undo' ? undoOf : redoOf;
  }

  /** Resolves once nothing is on its way any more: whether a certain edit was refused meanwhile. */
  async #sent(own: PendingEdit | undefined): Promise<boolean> {
    let isRefused = false;
    const end = this.onSettled(({ key, isKept }) => (isRefused ||= key === own?.key && !isKept));
    await this.flush();
    end();
    return isRefused;
  }

  #otherStepWords(which: 'undo' | 'redo'): string {
    const { undo, redo } = this.#state.history;
    const name = which === 'undo' ? undo : redo;
    const isNothing = name === null ? `there is nothing to ${which} any more` : `to ${which} “${name}”, ask once more`;
    return `The song has changed meanwhile, so nothing was ${which === 'undo' ? 'taken back' : 'done again'}: ${isNothing}.`;
  }

  get #state(): SongState {
    return this.store.getState().song;
  }

  get #isWaiting(): boolean {
    const { id, pending } = this.#state;
    return id !== null && pending.length > 0;
  }

  async #sendAll(): Promise<void> {
    try {
      while (this.#isWaiting) await this.#sendFirst();
    } finally {
      // At once, as nothing is found to wait: what is made from now on, before anybody hears of the end, begins anew.
      this.#sending = null;
    }
  }

  async #sendFirst(): Promise<void> {
    const { id, revision, pending } = this.#state;
    const [first] = pending;
    if (id === null || !first) return;
    try {
      const answer = await sendEdit(id, revision, first.edit, first.key);
      this.#reached(true);
      // The song was left while it was on its way: the outbox sees to it, and finds that it is known.
      if (this.#state.id !== id) return;
      if (isStale(answer)) return await this.#cameFirst(id, answer);
      this.outbox.answered(id, first.key);
      const edit = answer.isAsSent ? first.edit : answer.edit;
      if (answer.isKnown || !edit) {
        const { passNumber, history } = answer;
        this.store.dispatch(editKnown({ key: first.key, passNumber, history }));
      } else this.#kept(answer, edit, first.key);
      const left = this.#leftAlone(first.edit, answer.refused ?? []);
      if (left) this.store.dispatch(troubleCame(left));
      this.#say({ key: first.key, edit: first.edit, isKept: true, passNumber: answer.passNumber });
    } catch (error) {
      if (this.#state.id !== id) return;
      if (!isRefusal(error)) {
        if (error instanceof Refusal) this.store.dispatch(editNotKept(error.message));
        else this.#reached(false);
        return this.wait(RETRY_MS);
      }
      this.outbox.answered(id, first.key);
      this.store.dispatch(editRefused({ key: first.key, sentence: error.message }));
      this.#say({ key: first.key, edit: first.edit, isKept: false, passNumber: null });
    }
  }

  #reached(isThere: boolean): void {
    this.outbox.say(!isThere);
    this.store.dispatch(serverAway(!isThere));
  }

  #say(settled: Settled): void {
    for (const listener of this.#listeners) listener(settled);
  }

  #kept({ revision, history, passNumber }: KeptAnswer, edit: Edit, key: string | null): void {
    this.store.dispatch(editKept({ key, edit, revision, history, passNumber, isStep: key === null }));
  }

  /** Takes over what came first: change by change, or whole where that is less. */
  async #cameFirst(id: number, { stale: _stale, ...changes }: Stale): Promise<void> {
    const there = new Set(keysOf(changes));
    // An answer may come after a later one: only what the server says now tells whether its song is an older one.
    const isOlder = changes.revision < this.#state.revision && (await fetchRevision(id)) < this.#state.revision;
    const whole = changes.keys || isOlder ? await fetchSong(id) : null;
    if (this.#state.id !== id) return;
    if (whole && isOlder) {
      this.store.dispatch(songCaughtUp({ whole, keys: [], isOlder: OLDER }));
      return;
    }
    const kept = this.#state.pending.filter(({ key }) => there.has(key));
    for (const { key } of kept) this.outbox.answered(id, key);
    this.store.dispatch(whole ? songCaughtUp({ whole, keys: [...there] }) : editsCameFirst(changes));
    for (const { key, edit } of kept) this.#say({ key, edit, isKept: true, passNumber: null });
  }
}

const isStale = (answer: KeptAnswer | Stale): answer is Stale => 'stale' in answer && answer.stale;
