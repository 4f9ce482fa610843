import { recoverPass, type HandEvent, type PassJournal, type PassState } from '@sure-hand/core/pass';
import type { Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import type { JournalPiece, OpenJournal } from '@sure-hand/server';
import { dropJournal, fetchJournals, sendJournal } from './songApi.js';
import type { CutShort } from './songSlice.js';
import { TabShelf } from './tabKeeping.js';

/** An open pass is written down so often. */
const WRITE_EVERY_MS = 250;

/** A piece with the key of its journal, as the browser keeps it. */
type KeptPiece = JournalPiece & { readonly key: string };
const shelf = new TabShelf<KeptPiece>('journal');
const nameOf = (key: string, seq: number): string => `${key} ${String(seq).padStart(6, '0')}`;

/**
 * Writes down what hands do while a pass is open, every quarter of a second, with the server and, for when that is away,
 * in the browser. What was written is dropped once the pass is kept.
 */
export class PassJournalist {
  #key: string | null = null;
  #began: PassState | null = null;
  #events: HandEvent[] = [];
  #at: Seconds = 0;
  #seq = 0;
  #timer: ReturnType<typeof setInterval> | null = null;
  /** Pieces go one after the other; dropping comes after the last. */
  #sending: Promise<unknown> = Promise.resolve();

  constructor(readonly songId: number) {}

  /** A pass, or a lap, begins: how the song stood, and what hands had done before play, play itself last. */
  begin(began: PassState, events: readonly HandEvent[], at: Seconds): void {
    this.#key = crypto.randomUUID();
    this.#began = began;
    this.#events = [...events];
    this.#at = at;
    this.#seq = 0;
    this.#timer ??= setInterval(() => this.#write(), WRITE_EVERY_MS);
  }

  note(event: HandEvent): void {
    if (this.#key) this.#events.push(event);
  }

  reached(t: Seconds): void {
    this.#at = t;
  }

  /** The pass is over: the key under which it is to be kept. */
  end(): string {
    const key = this.#key ?? crypto.randomUUID();
    this.#key = null;
    if (this.#timer !== null) clearInterval(this.#timer);
    this.#timer = null;
    return key;
  }

  /** Nothing was written by the pass, or it is kept: its journal is of no use any more. */
  forget(key: string, isKept: boolean): void {
    const { songId } = this;
    this.#inTurn(async () => {
      await shelf.dropAll(songId, key);
      if (!isKept) await dropJournal(songId, key);
    });
  }

  #write(): void {
    const key = this.#key;
    if (!key) return;
    const piece: JournalPiece = {
      seq: this.#seq,
      events: this.#events,
      at: this.#at,
      ...(this.#began && this.#seq === 0 ? { began: this.#began } : {}),
    };
    this.#events = [];
    this.#seq++;
    this.#inTurn(async () => {
      await shelf.put(this.songId, nameOf(key, piece.seq), { ...piece, key });
      await sendJournal(this.songId, key, piece);
    });
  }

  #inTurn(act: () => Promise<void>): void {
    // The ride goes on whether or not it can be written down: the server may be away, the browser may keep nothing.
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

/** Passes of a song that were cut short, as they can be kept: those the server has, and those only this browser has. */
export async function findCutShort(song: Song, songId: number): Promise<CutShort[]> {
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
  return [...furthest].flatMap(([key, journal]) => {
    const recovered = recoverPass(song, journal);
    if (recovered) return [{ key, ...recovered }];
    void dropCutShort(songId, key);
    return [];
  });
}

/** Nobody wants a pass that was cut short, or it is kept now. */
export async function dropCutShort(songId: number, key: string): Promise<void> {
  await Promise.allSettled([shelf.dropAll(songId, key), dropJournal(songId, key)]);
}
