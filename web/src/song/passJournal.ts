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

/**
 * Writes down what hands do while a pass is open, with the server and, for when that is away, in the browser: every
 * quarter of a second where something was done, every second where the pass only writes on, and never where no hand
 * has done anything. What was written is dropped once the pass is kept.
 */
export class PassJournalist {
  #key: string | null = null;
  #began: PassState | null = null;
  #events: HandEvent[] = [];
  #at: Seconds = 0;
  #isWriting = false;
  #seq = 0;
  #wroteMs = 0;
  /** How many of the events are there from before: what was poised, and play. */
  #given = 0;
  #timer: ReturnType<typeof setInterval> | null = null;
  /** Pieces go one after the other; dropping comes after the last. */
  #sending: Promise<unknown> = Promise.resolve();

  constructor(
    readonly songId: number,
    readonly now: () => number = () => performance.now(),
  ) {}

  /** A pass, or a lap, begins: how the song stood, and what hands had done before play, play itself last. */
  begin(began: PassState, events: readonly HandEvent[], at: Seconds): void {
    this.#key = crypto.randomUUID();
    this.#began = began;
    this.#events = [...events];
    this.#given = events.length;
    this.#at = at;
    this.#isWriting = false;
    this.#seq = 0;
    this.#timer ??= setInterval(() => this.write(), WRITE_EVERY_MS);
  }

  note(event: HandEvent): void {
    if (this.#key) this.#events.push(event);
  }

  reached(t: Seconds, isWriting: boolean): void {
    this.#at = t;
    this.#isWriting = isWriting;
  }

  /** The pass is over: the key under which it is to be kept. */
  end(): string {
    const key = this.#key ?? crypto.randomUUID();
    this.#key = null;
    if (this.#timer !== null) clearInterval(this.#timer);
    this.#timer = null;
    return key;
  }

  /** Nothing was written by the pass, or it is kept: its journal is of no use any more. `isKept`: the server drops its own. */
  forget(key: string, isKept: boolean): void {
    const { songId } = this;
    this.#inTurn(async () => {
      await Promise.allSettled([shelf.dropAll(songId, key), ...(isKept ? [] : [dropJournal(songId, key)])]);
    });
  }

  /** Writes down what there is to be written; called by itself while a pass is open. */
  write(): void {
    const key = this.#key;
    if (!key || !this.#isWorthWriting()) return;
    const piece: JournalPiece = {
      seq: this.#seq,
      events: this.#events,
      at: this.#at,
      ...(this.#began && this.#seq === 0 ? { began: this.#began } : {}),
    };
    this.#events = [];
    this.#given = 0;
    this.#seq++;
    this.#wroteMs = this.now();
    // Each by itself: a browser that keeps nothing, or a server that is away, stops not the other.
    this.#inTurn(async () => {
      await Promise.allSettled([
        shelf.put(this.songId, nameOf(key, piece.seq), { ...piece, key }),
        sendJournal(this.songId, key, piece),
      ]);
    });
  }

  #isWorthWriting(): boolean {
    if (this.#events.length > this.#given) return true;
    return (this.#isWriting || this.#seq > 0) && this.now() - this.#wroteMs >= BEAT_MS;
  }

  #inTurn(act: () => Promise<void>): void {
    this.#sending = this.#sending.then(act).catch(() => undefined);
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
