import type { Edit } from '@sure-hand/core/song';
import type { KeptAnswer, SongChange, Stale } from '@sure-hand/server';
import { Refusal, ServerAway, fetchChanges, fetchSong, sendEdit, sendStep } from './songApi.js';
import {
  editKept,
  editKnown,
  editMade,
  editRefused,
  editsCameFirst,
  serverAway,
  songFailed,
  songOpened,
  songOpening,
  troubleCame,
  type SongState,
} from './songSlice.js';

/** What the sync needs of the store. */
export type SyncStore = { getState(): { readonly song: SongState }; dispatch(action: { type: string }): unknown };

/** How long it waits before it tries a server again that was away. */
const RETRY_MS = 1500;
const STEP_TRIES = 5;

/**
 * Carries edits to the server, one at a time and in order, and undo and redo after them. The server's order is the
 * truth: what came first from elsewhere is taken over, and ours goes on top.
 */
export class SongSync {
  #sending: Promise<void> | null = null;

  constructor(
    readonly store: SyncStore,
    readonly wait: (ms: number) => Promise<void> = (ms) => new Promise((done) => setTimeout(done, ms)),
  ) {}

  async open(id: number): Promise<void> {
    this.store.dispatch(songOpening(id));
    try {
      this.store.dispatch(songOpened(await fetchSong(id)));
    } catch (error) {
      this.store.dispatch(songFailed((error as Error).message));
    }
  }

  /** Applies an edit here and sees that it is kept. `key`: a name that it has already. */
  make(edit: Edit, key: string = crypto.randomUUID()): void {
    this.store.dispatch(editMade({ edit, key }));
    void this.flush();
  }

  /** Takes over what came from elsewhere, once it is told of; our own edits on their way find out by themselves. */
  async follow({ songId, revision }: SongChange): Promise<void> {
    await this.flush();
    const { id, status, revision: here } = this.#state;
    if (id !== songId || status !== 'open' || revision <= here) return;
    try {
      this.#cameFirst(await fetchChanges(songId, here));
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
    this.#sending ??= this.#sendAll().finally(() => (this.#sending = null));
    return this.#sending;
  }

  /** Takes the last step back or does it again; a refusal becomes the song's trouble. */
  async step(which: 'undo' | 'redo'): Promise<void> {
    await this.flush();
    const { id } = this.#state;
    try {
      for (let tries = 0; tries < STEP_TRIES && id !== null; tries++) {
        const answer = await sendStep(id, this.#state.revision, which);
        if (!isStale(answer)) return this.#kept(answer, true);
        this.#cameFirst(answer);
      }
    } catch (error) {
      this.store.dispatch(troubleCame((error as Error).message));
    }
  }

  get #state(): SongState {
    return this.store.getState().song;
  }

  async #sendAll(): Promise<void> {
    for (;;) {
      const { id, revision, pending } = this.#state;
      const [first] = pending;
      if (id === null || !first) return;
      try {
        const answer = await sendEdit(id, revision, first.edit, first.key);
        if (this.#state.id !== id) return;
        this.store.dispatch(serverAway(false));
        if (isStale(answer)) this.#cameFirst(answer);
        else if (answer.isKnown) this.store.dispatch(editKnown());
        else this.#kept(answer, false);
      } catch (error) {
        if (error instanceof Refusal) this.store.dispatch(editRefused(error.message));
        else if (error instanceof ServerAway) {
          this.store.dispatch(serverAway(true));
          await this.wait(RETRY_MS);
        } else throw error;
      }
    }
  }

  #kept({ edit, revision, history, passNumber }: KeptAnswer, isStep: boolean): void {
    this.store.dispatch(editKept({ edit, revision, history, passNumber, isStep }));
  }

  #cameFirst({ stale: _stale, ...changes }: Stale): void {
    this.store.dispatch(editsCameFirst(changes));
  }
}

const isStale = (answer: KeptAnswer | Stale): answer is Stale => 'stale' in answer && answer.stale;
