import { decodeFrames } from '@sure-hand/core/formats';
import type { ClipPlan } from '@sure-hand/core/mix';
import { PAGE_FRAMES, morePages, tableStarts, type SharedViews, type StreamedFile } from './sharedLayout.js';

/** A page of a file, all its channels together. */
type Page = { readonly file: number; readonly page: number };
/** One that is wanted, and in how many frames it will sound; less than 0 where it has. */
type Wanted = Page & { readonly inFrames: number };

/**
 * How far ahead pages are kept: all of them for the next `sureSec`, those after it up to `aheadSec` once a request brings several,
 * since each costs as much, however many that are.
 */
export const KEEP = { aheadSec: 3, sureSec: 1.5, behindSec: 0.4, pagesARequest: 4, requests: 6 } as const;

/** A stretch of the song in frames, half open. */
type FrameRange = readonly [from: number, to: number];

/** Fetches a stretch of a file's sample bytes, from a byte on. */
export type FetchBytes = (file: StreamedFile, from: number, length: number) => Promise<Uint8Array>;

/**
 * Keeps the pages round the line in shared memory: those that will sound in the next seconds are fetched, the soonest
 * first, those gone by give their place away. Memory stays what it was made with, however long the song.
 */
export class PageKeeper {
  #starts: number[][];
  readonly #free: number[];
  #files: readonly StreamedFile[];
  /** The next page of the pool that is for files that come. */
  #spare: number;
  /** Pages in memory or on their way, by file and page. */
  readonly #held = new Map<string, number[] | 'coming'>();
  #clips: readonly ClipPlan[] = [];
  #coming = 0;
  #failed: string | null = null;

  /** `poolPages`: how many pages of the pool the files have; those after them are for files that come. */
  constructor(
    files: readonly StreamedFile[],
    readonly views: SharedViews,
    readonly fetchBytes: FetchBytes,
    readonly sampleRate: number,
    poolPages: number,
  ) {
    this.#files = files;
    this.#starts = tableStarts(files);
    this.#free = Array.from({ length: poolPages }, (_, i) => i);
    this.#spare = poolPages;
  }

  /** Files that come while the song is open, after those that are there. */
  addFiles(more: readonly StreamedFile[]): void {
    this.#files = [...this.#files, ...more];
    this.#starts = tableStarts(this.#files);
    const pages = Math.min(morePages(more), this.views.pages.length / PAGE_FRAMES - this.#spare);
    for (let i = 0; i < pages; i++) this.#free.push(this.#spare++);
  }

  /** The sentence for the last fetch that failed; null while all is well. */
  get failed(): string | null {
    return this.#failed;
  }

  /** Clips whose `file` counts in this keeper's files. */
  setClips(clips: readonly ClipPlan[]): void {
    this.#clips = clips;
  }

  /** Whether everything that sounds in the first `sec` of playing from a frame on is in memory. */
  isReady(frame: number, sec: number, loop: FrameRange | null = null): boolean {
    return this.#wantedFrom(frame, 0, sec, loop).every((wanted) => Array.isArray(this.#held.get(keyOf(wanted))));
  }

  /** Asks for what will be played next from a frame on, round the loop where there is one, and is not there. */
  tend(frame: number, loop: FrameRange | null = null): void {
    const wanted = this.#wantedFrom(frame, KEEP.behindSec, KEEP.aheadSec, loop);
    const keys = new Set(wanted.map(keyOf));
    for (const first of wanted) {
      if (this.#coming >= KEEP.requests) return;
      if (this.#held.has(keyOf(first))) continue;
      const run = this.#runFrom(first, keys);
      if (!run.isFull && first.inFrames > KEEP.sureSec * this.sampleRate) continue;
      const places = this.#makeRoom(run.pages * this.#files[first.file]!.info.channels, keys);
      if (!places) return;
      this.#fetch(first, run.pages, places);
    }
  }

  /**
   * How many pages one request brings from one on, and whether no other would ever come with them. Files take turns: they do not all
   * ask for theirs at the same time.
   */
  #runFrom({ file, page }: Page, keys: ReadonlySet<string>): { readonly pages: number; readonly isFull: boolean } {
    for (let pages = 1; ; pages++) {
      const next = { file, page: page + pages };
      if (next.page % KEEP.pagesARequest === file % KEEP.pagesARequest) return { pages, isFull: true };
      if (this.#held.has(keyOf(next))) return { pages, isFull: true };
      if (!keys.has(keyOf(next))) return { pages, isFull: false };
    }
  }

  /**
   * Pages that sound round a frame, the soonest first: a little of what lies behind it, then so many seconds of what is
   * played. What lies past the loop’s end is not: there is room for so many seconds, and the loop’s beginning needs it.
   */
  #wantedFrom(frame: number, behindSec: number, aheadSec: number, loop: FrameRange | null): Wanted[] {
    const from = frame - behindSec * this.sampleRate;
    const to = frame + aheadSec * this.sampleRate;
    if (!loop || frame >= loop[1] || to <= loop[1]) return this.#wantedIn(from, to, frame);
    const round = Math.min(to - loop[1], loop[1] - loop[0]);
    // What stands at the loop's beginning sounds after its end.
    return [
      ...this.#wantedIn(from, loop[1], frame),
      ...this.#wantedIn(loop[0], loop[0] + round, frame - loop[1] + loop[0]),
    ];
  }

  #wantedIn(first: number, to: number, heard: number): Wanted[] {
    const from = Math.max(0, first);
    const found: Wanted[] = [];
    for (const clip of this.#clips) {
      const a = Math.max(from, clip.from);
      const b = Math.min(to, clip.to);
      if (a >= b || !this.#files[clip.file]) continue;
      const { frames } = this.#files[clip.file]!.info;
      const toFile = clip.fileFrom - clip.from;
      const last = Math.min(b + toFile, frames) - 1;
      for (let page = Math.floor((a + toFile) / PAGE_FRAMES); page * PAGE_FRAMES <= last; page++)
        found.push({ file: clip.file, page, inFrames: Math.max(a, page * PAGE_FRAMES - toFile) - heard });
    }
    return found.sort((one, other) => one.inFrames - other.inFrames);
  }

  #makeRoom(count: number, keep: ReadonlySet<string>): number[] | null {
    for (const [key, places] of this.#held) {
      if (this.#free.length >= count) break;
      if (places === 'coming' || keep.has(key)) continue;
      this.#drop(key, places);
    }
    return this.#free.length >= count ? this.#free.splice(0, count) : null;
  }

  #drop(key: string, places: readonly number[]): void {
    const [file, page] = key.split(':').map(Number) as [number, number];
    this.#held.delete(key);
    places.forEach((place, channel) => {
      Atomics.store(this.views.table, this.#starts[file]![channel]! + page, -1);
      this.#free.push(place);
    });
  }

  #fetch(first: Page, pages: number, places: number[]): void {
    const file = this.#files[first.file]!;
    const { info } = file;
    for (let i = 0; i < pages; i++) this.#held.set(keyOf({ ...first, page: first.page + i }), 'coming');
    this.#coming++;
    const from = first.page * PAGE_FRAMES;
    const frames = Math.min(pages * PAGE_FRAMES, info.frames - from);
    void this.fetchBytes(file, info.dataOffset + from * info.bytesPerFrame, frames * info.bytesPerFrame)
      .then((bytes) => {
        this.#failed = null;
        for (let i = 0; i < pages; i++) this.#store({ ...first, page: first.page + i }, places, bytes, i);
      })
      .catch((error: unknown) => {
        this.#failed = `${file.name} could not be fetched: ${(error as Error).message}`;
        this.#free.push(...places);
        for (let i = 0; i < pages; i++) this.#held.delete(keyOf({ ...first, page: first.page + i }));
      })
      .finally(() => this.#coming--);
  }

  #store(wanted: Page, places: number[], bytes: Uint8Array, i: number): void {
    const { info } = this.#files[wanted.file]!;
    const mine = places.slice(i * info.channels, (i + 1) * info.channels);
    const columns = mine.map((place) => this.views.pages.subarray(place * PAGE_FRAMES, (place + 1) * PAGE_FRAMES));
    const page = bytes.subarray(i * PAGE_FRAMES * info.bytesPerFrame);
    const frames = Math.min(PAGE_FRAMES, Math.floor(page.length / info.bytesPerFrame));
    decodeFrames(page, info, columns, { frames });
    for (const column of columns) column.fill(0, frames);
    mine.forEach((place, channel) =>
      Atomics.store(this.views.table, this.#starts[wanted.file]![channel]! + wanted.page, place),
    );
    this.#held.set(keyOf(wanted), mine);
  }
}

const keyOf = ({ file, page }: Page): string => `${file}:${page}`;
