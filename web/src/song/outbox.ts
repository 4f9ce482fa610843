import type { Edit } from '@sure-hand/core/edits';
import type { Refusal as LaneRefusal } from '@sure-hand/core/song';
import { Refusal, fetchRevision, keysOf, sendEdit } from './songApi.js';
import type { PendingEdit } from './songSlice.js';
import { TabShelf } from './tabKeeping.js';

/** An edit on its way to the server, and the name under which the browser keeps it: names are in the order of making. */
type Waiting = PendingEdit & { readonly name: string };

/** Where a browser keeps what waits; a browser that keeps nothing still sends everything. */
export type OutboxShelf = Pick<TabShelf<PendingEdit>, 'put' | 'putNow' | 'drop' | 'takeLeft' | 'all'>;

/** Where the outbox says how things stand: how many edits wait for each song, whether the server is away, what it said no to. */
export type OutboxListener = {
  onWaiting(counts: { readonly [songId: number]: number }): void;
  onAway(isAway: boolean): void;
  /** An edit was refused with a sentence, or part of a pass was left alone, and no view is there to say it. */
  onRefused(songId: number, sentence: string): void;
};

/** How long it waits before it tries again. */
export const RETRY_MS = 1500;
/** How often it looks for what tabs that are gone have left. */
const GATHER_EVERY_MS = 5000;

/** What was left alone of an edit, in a sentence; null where nothing was. */
export type LeftAlone = (edit: Edit, refused: readonly LaneRefusal[]) => string | null;

/**
 * All edits of this browser that the server has not got, of whatever song: kept in the browser from the moment they are
 * made, and sent in each song's order until none is left, from whatever view is open. The song that is open here is
 * sent by its own sync, which knows what it looks like; all others by the outbox itself.
 */
export class Outbox {
  readonly #bySong = new Map<number, Waiting[]>();
  /** Songs that a sync has taken over, with what it is given that is found later. */
  readonly #held = new Map<number, (edits: readonly PendingEdit[]) => void>();
  #gathering: Promise<void> = Promise.resolve();
  readonly #sending = new Map<number, Promise<void>>();
  readonly #sent = new Set<number>();
  #count = 0;
  #isAway = false;
  #keeping: Promise<unknown> = Promise.resolve();

  constructor(
    readonly listener: OutboxListener,
    readonly leftAlone: LeftAlone,
    readonly shelf: OutboxShelf = new TabShelf<PendingEdit>('outbox'),
    readonly wait: (ms: number) => Promise<void> = (ms) => new Promise((done) => setTimeout(done, ms)),
  ) {}

  /** Whether anything waits at all: then closing the page warns. */
  get isEmpty(): boolean {
    return [...this.#bySong.values()].every((list) => !list.length);
  }

  /** Looks for what tabs that are gone have left, now and again. */
  watch(): () => void {
    void this.gather();
    const timer = setInterval(() => void this.gather(), GATHER_EVERY_MS);
    return () => clearInterval(timer);
  }

  /** Takes over what tabs that are gone have left, and sends it. One after the other: what is found is found once. */
  gather(): Promise<void> {
    this.#gathering = this.#gathering.then(() => this.#gatherNow());
    return this.#gathering;
  }

  async #gatherNow(): Promise<void> {
    const left = await this.shelf.takeLeft(null).catch(() => []);
    const fresh = left.filter(({ songId, name, thing }) => this.#put(songId, { ...thing, name }));
    if (!fresh.length) return;
    this.#changed();
    for (const songId of new Set(fresh.map((one) => one.songId)))
      this.#held.get(songId)?.(fresh.flatMap((one) => (one.songId === songId ? [one.thing] : [])));
  }

  /** Edits of a song were made: they wait, and outlive the tab. */
  add(songId: number, edits: readonly PendingEdit[]): void {
    for (const { key, edit } of edits) {
      const name = `${String(Date.now()).padStart(15, '0')} ${String(this.#count++).padStart(6, '0')} ${key}`;
      this.#put(songId, { key, edit, name });
      this.#keep(() => this.shelf.put(songId, name, { key, edit }));
    }
    this.#changed();
  }

  /** The page is being left: whatever waits is kept before it is gone. Where there is no room for all, what came first is. */
  keepNow(): void {
    for (const [songId, list] of this.#bySong)
      for (const { key, edit, name } of list) if (!this.shelf.putNow(songId, name, { key, edit })) break;
  }

  /** The server has answered for an edit, and for good. */
  answered(songId: number, key: string): void {
    const list = this.#bySong.get(songId) ?? [];
    for (const one of list) if (one.key === key) this.#keep(() => this.shelf.drop(songId, one.name));
    this.#bySong.set(
      songId,
      list.filter((one) => one.key !== key),
    );
    this.#changed();
  }

  /** What waits for a song here, in order. */
  of(songId: number): readonly PendingEdit[] {
    return (this.#bySong.get(songId) ?? []).map(({ key, edit }) => ({ key, edit }));
  }

  /** Keys of everything that waits for a song in any tab of this browser. */
  async keysOf(songId: number): Promise<Set<string>> {
    const all = await this.shelf.all(songId).catch(() => []);
    return new Set([...all, ...this.of(songId)].map(({ key }) => key));
  }

  /**
   * A sync sends this song's edits from now on; resolves once none of them is under way from here: they are those {@link of}
   * it then. `take`: is given what is found of tabs that go away later.
   */
  async hold(songId: number, take: (edits: readonly PendingEdit[]) => void): Promise<void> {
    this.#held.set(songId, () => undefined);
    await this.gather();
    await this.#sending.get(songId);
    if (this.#held.has(songId)) this.#held.set(songId, take);
  }

  /** Whether anything of a song was sent from here since the page began: what was asked of it before may be older. */
  hasSent(songId: number): boolean {
    return this.#sent.has(songId);
  }

  /** The song is left: whatever waits for it is sent from here. */
  release(songId: number): void {
    this.#held.delete(songId);
    this.#changed();
  }

  /** Says whether the server can be reached; what waits is sent at once when it is back. */
  say(isAway: boolean): void {
    if (this.#isAway === isAway) return;
    this.#isAway = isAway;
    this.listener.onAway(isAway);
  }

  /** Gives up all edits that wait for a song: a person asked for it. */
  giveUp(songId: number): void {
    for (const { key } of this.of(songId)) this.answered(songId, key);
  }

  /** Whether it is there only now. */
  #put(songId: number, one: Waiting): boolean {
    const list = this.#bySong.get(songId) ?? [];
    if (list.some(({ key }) => key === one.key)) return false;
    this.#bySong.set(
      songId,
      [...list, one].sort((a, b) => (a.name < b.name ? -1 : 1)),
    );
    return true;
  }

  #keep(act: () => Promise<void>): void {
    this.#keeping = this.#keeping.then(act).catch(() => undefined);
  }

  #changed(): void {
    const counts = [...this.#bySong].filter(([, list]) => list.length).map(([id, list]) => [id, list.length] as const);
    this.listener.onWaiting(Object.fromEntries(counts));
    for (const [songId] of counts) if (!this.#held.has(songId)) this.#send(songId);
  }

  #send(songId: number): void {
    // What was told that it waits may have given it up by now.
    if (this.#sending.has(songId) || !this.#bySong.get(songId)?.length) return;
    this.#sent.add(songId);
    this.#sending.set(songId, this.#sendAll(songId));
  }

  /** Sends what waits for a song that is not open here, one after the other; a hand over to a sync ends it. */
  async #sendAll(songId: number): Promise<void> {
    try {
      let revision: number | null = null;
      for (;;) {
        const [first] = this.#bySong.get(songId) ?? [];
        if (!first || this.#held.has(songId)) return;
        revision = await this.#sendOne(songId, first, revision);
      }
    } finally {
      // At once: what comes to wait from now on, before anybody hears of the end, begins anew.
      this.#sending.delete(songId);
    }
  }

  /** Sends one edit on top of a revision, asked for where it is not known; gives back the one it is known to have come to. */
  async #sendOne(songId: number, { edit, key }: Waiting, known: number | null): Promise<number | null> {
    let revision = known;
    try {
      revision ??= await fetchRevision(songId);
      const answer = await sendEdit(songId, revision, edit, key);
      this.say(false);
      if ('stale' in answer && answer.stale) {
        if (keysOf(answer).includes(key)) this.answered(songId, key);
        return answer.revision;
      }
      this.answered(songId, key);
      const left = 'refused' in answer ? this.leftAlone(edit, answer.refused) : null;
      if (left) this.listener.onRefused(songId, left);
      return answer.revision;
    } catch (error) {
      if (!isRefusal(error)) {
        this.say(true);
        await this.wait(RETRY_MS);
        return null;
      }
      this.answered(songId, key);
      this.listener.onRefused(songId, error.message);
      return revision;
    }
  }
}

/** Only an answer that names a reason takes an edit back; all else is tried again. */
export const isRefusal = (error: unknown): error is Refusal =>
  error instanceof Refusal && (error.status === 422 || error.status === 413);
