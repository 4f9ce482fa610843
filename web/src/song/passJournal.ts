import { recoverPass, type HandEvent, type PassJournal, type PassState } from '@sure-hand/core/pass';
import type { Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import type { JournalPiece, OpenJournal } from '@sure-hand/server';
import { dropJournal, fetchJournals, fetchKept, sendJournal } from './songApi.js';
import type { CutShort } from './songSlice.js';
import { TabShelf } from './tabKeeping.js';

/** An open pass is written down so often. */
const WRITE_EVERY_MS = 250;

/** A piece with the key of its journal, as the browser keeps it. */
type KeptPiece = JournalPiece & { readonly key: string };
const shelf = new TabShelf<KeptPiece>('journal');
const nameOf = (key: string, seq: number): string => `${key} ${String(seq).padStart(6, '0')}`;

/** Where nothing happens but a pass writes on, that it does is written down so often: others would take it for cut short. */
const BEAT_MS = 1000;
/** What could not be written is tried again after so long. */
const AGAIN_MS = 1000;
/** So many events go with a piece at most: what could not be written may have become a lot. */
const MOST_EVENTS = 2000;

/** A place where journals are written down. */
export type JournalPlace = {
  readonly put: (key: string, piece: JournalPiece) => Promise<unknown>;
  readonly drop: (key: string) => Promise<unknown>;
};

/** The browser, for when the server is away, and the server, for when the browser is gone. */
const placesFor = (songId: number): { readonly browser: JournalPlace; readonly server: JournalPlace } => ({
  browser: {
    put: (key, piece) => shelf.put(songId, nameOf(key, piece.seq), { ...piece, key }),
    drop: (key) => shelf.dropAll(songId, key),
  },
  server: {
    put: (key, piece) => sendJournal(songId, key, piece),
    drop: (key) => dropJournal(songId, key),
  },
});

/**
 * Writes an open pass down in one place, one piece on its way at a time: what comes meanwhile goes with the next. What did not
 * arrive goes again, as the same piece, before all that came after it.
 */
class PieceWriter {
  /** The last piece that was on its way. */
  last: Promise<void> = Promise.resolve();
  #seq = 0;
  #at: Seconds = 0;
  #events: HandEvent[];
  #hasNews = false;
  #isOnItsWay = false;
  #notBefore = -Infinity;

  constructor(
    readonly key: string,
    readonly place: JournalPlace,
    readonly began: PassState,
    events: readonly HandEvent[],
  ) {
    this.#events = [...events];
  }

  note(event: HandEvent): void {
    this.#events.push(event);
    this.#hasNews = true;
  }

  /** Writes what there is, and how far the pass is. `isBeat`: though nothing has happened. */
  write(at: Seconds, isBeat: boolean, now: () => number): void {
    if (this.#isOnItsWay || !(this.#hasNews || isBeat) || now() < this.#notBefore) return;
    const events = this.#events.slice(0, MOST_EVENTS);
    const isAll = events.length === this.#events.length;
    // It never goes back: what is less far would be taken for late.
    this.#at = Math.max(this.#at, isAll ? at : (events.at(-1)!.t ?? at));
    const piece: JournalPiece = {
      seq: this.#seq,
      events,
      at: this.#at,
      ...(this.#seq === 0 ? { began: this.began } : {}),
    };
    this.#hasNews = !isAll;
    this.#isOnItsWay = true;
    this.last = this.place.put(this.key, piece).then(
      () => {
        this.#isOnItsWay = false;
        this.#seq++;
        this.#events = this.#events.slice(events.length);
      },
      () => {
        this.#isOnItsWay = false;
        this.#hasNews = true;
        this.#notBefore = now() + AGAIN_MS;
      },
    );
  }
}

/**
 * Writes down what hands do while a pass is open, with the server and, for when that is away, in the browser: every
 * quarter of a second where something was done, every second where the pass only writes on, and never where no hand
 * has done anything. Each by itself: a browser that keeps nothing, or a server that is slow or away, holds up not the other.
 * What was written is dropped once the pass is kept.
 */
export class PassJournalist {
  #key: string | null = null;
  #writers: readonly PieceWriter[] = [];
  #at: Seconds = 0;
  #isWriting = false;
  /** Whether anything of the pass was worth writing down. */
  #hasBegun = false;
  #wroteMs = 0;
  #timer: ReturnType<typeof setInterval> | null = null;
  /** Dropping comes after the last piece. */
  #settled: Promise<unknown> = Promise.resolve();
  readonly #places: { readonly browser: JournalPlace; readonly server: JournalPlace };

  constructor(
    songId: number,
    readonly now: () => number = () => performance.now(),
    places = placesFor(songId),
  ) {
    this.#places = places;
  }

  /** A pass, or a lap, begins: how the song stood, and what hands had done before play, play itself last. */
  begin(began: PassState, events: readonly HandEvent[], at: Seconds): void {
    const key = crypto.randomUUID();
    const { browser, server } = this.#places;
    this.#key = key;
    this.#writers = [browser, server].map((place) => new PieceWriter(key, place, began, events));
    this.#at = at;
    this.#isWriting = false;
    this.#hasBegun = false;
    this.#timer ??= setInterval(() => this.write(), WRITE_EVERY_MS);
  }

  note(event: HandEvent): void {
    if (this.#key === null) return;
    this.#hasBegun = true;
    for (const writer of this.#writers) writer.note(event);
  }

  reached(t: Seconds, isWriting: boolean): void {
    this.#at = t;
    this.#isWriting = isWriting;
  }

  /** The pass is over: the key under which it is to be kept. */
  end(): string {
    const key = this.#key ?? crypto.randomUUID();
    this.#settled = Promise.allSettled([this.#settled, ...this.#writers.map(({ last }) => last)]);
    this.#key = null;
    this.#writers = [];
    if (this.#timer !== null) clearInterval(this.#timer);
    this.#timer = null;
    return key;
  }

  /** Nothing was written by the pass, or it is kept: its journal is of no use any more. `isKept`: the server drops its own. */
  forget(key: string, isKept: boolean): void {
    const { browser, server } = this.#places;
    this.#settled = this.#settled.then(() =>
      Promise.allSettled([browser.drop(key), ...(isKept ? [] : [server.drop(key)])]),
    );
  }

  /** Writes down what there is to be written; called by itself while a pass is open. */
  write(): void {
    const isBeat = (this.#isWriting || this.#hasBegun) && this.now() - this.#wroteMs >= BEAT_MS;
    if (isBeat) {
      this.#hasBegun = true;
      this.#wroteMs = this.now();
    }
    for (const writer of this.#writers) writer.write(this.#at, isBeat, this.now);
  }
}

/** Puts pieces together to journals, the first of each having how things stood. */
function journalsOf(pieces: readonly KeptPiece[]): OpenJournal[] {
  const byKey = new Map<string, KeptPiece[]>();
  for (const piece of pieces) byKey.set(piece.key, [...(byKey.get(piece.key) ?? []), piece]);
  return [...byKey].flatMap(([key, own]) => {
    const began = own[0]?.began;
    return began ? [{ key, began, events: own.flatMap((piece) => piece.events), at: own.at(-1)!.at }] : [];
  });
}

/**
 * Passes of a song that were cut short, as they can be kept: those the server has, and those only this browser has. One
 * that was finished is none, whether it still waits to be sent (`waiting`) or is kept already.
 */
export async function findCutShort(song: Song, songId: number, waiting: ReadonlySet<string>): Promise<CutShort[]> {
  const [theirs, ours] = await Promise.all([
    fetchJournals(songId).catch(() => []),
    shelf.takeLeft(songId).then(
      (left) => journalsOf(left.map(({ thing }) => thing)),
      () => [],
    ),
  ]);
  const furthest = new Map<string, PassJournal>();
  for (const { key, ...journal } of [...theirs, ...ours])
    if (journal.at >= (furthest.get(key)?.at ?? -1)) furthest.set(key, journal);
  // Where the server is away nothing can be said of what it has kept: they are looked for again once it is back.
  const kept = new Set(await fetchKept(songId, [...furthest.keys()]));
  return [...furthest].flatMap(([key, journal]) => {
    const recovered = kept.has(key) || waiting.has(key) ? null : recoverPass(song, journal);
    if (recovered) return [{ key, ...recovered }];
    if (!waiting.has(key)) void dropCutShort(songId, key);
    return [];
  });
}

/** Nobody wants a pass that was cut short, or it is kept now. */
export async function dropCutShort(songId: number, key: string): Promise<void> {
  await Promise.allSettled([shelf.dropAll(songId, key), dropJournal(songId, key)]);
}
