import type { Edit } from '@sure-hand/core/song';
import type { KeptAnswer } from '@sure-hand/server';
import { Refusal, ServerAway, fetchSong, sendEdit, sendStep, type StaleAnswer } from './songApi.js';
import {
  editKept,
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

  /** Applies an edit here and sees that it is kept. */
  make(edit: Edit): void {
    this.store.dispatch(editMade(edit));
    void this.flush();
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
      const [edit] = pending;
      if (id === null || !edit) return;
      try {
        const answer = await sendEdit(id, revision, edit);
        if (this.#state.id !== id) return;
        this.store.dispatch(serverAway(false));
        if (isStale(answer)) this.#cameFirst(answer);
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

  #cameFirst({ changes, revision }: StaleAnswer): void {
    this.store.dispatch(editsCameFirst({ changes, revision }));
  }
}

const isStale = (answer: KeptAnswer | StaleAnswer): answer is StaleAnswer => 'stale' in answer && answer.stale;
