import type { SampleSource } from '@sure-hand/core/mix';
import { PAGE_FRAMES, tableStarts, type SharedViews, type StreamedFile } from './sharedLayout.js';

/** Reads samples from the pages in shared memory; a page that is not there yet is silence, and counted. */
export class PagedSource implements SampleSource {
  readonly #starts: number[][];
  /** The files in the plan's order; −1 for one that cannot be played. */
  readonly #of: Int32Array;

  constructor(
    readonly files: readonly StreamedFile[],
    names: readonly string[],
    readonly views: SharedViews,
  ) {
    this.#starts = tableStarts(files);
    this.#of = Int32Array.from(names, (name) => files.findIndex((file) => file.name === name));
  }

  channels(file: number): number {
    const at = this.#of[file]!;
    return at < 0 ? 1 : this.files[at]!.info.channels;
  }

  read(file: number, channel: number, from: number, count: number, out: Float32Array, at: number): boolean {
    const which = this.#of[file]!;
    if (which < 0) {
      out.fill(0, at, at + count);
      return true;
    }
    const { frames } = this.files[which]!.info;
    const start = this.#starts[which]![channel]!;
    const { table, pages } = this.views;
    let whole = true;
    let done = 0;
    while (done < count) {
      const frame = from + done;
      if (frame >= frames) {
        out.fill(0, at + done, at + count);
        break;
      }
      const page = Math.floor(frame / PAGE_FRAMES);
      const inPage = frame - page * PAGE_FRAMES;
      const n = Math.min(count - done, PAGE_FRAMES - inPage);
      const place = Atomics.load(table, start + page);
      if (place < 0) {
        out.fill(0, at + done, at + done + n);
        whole = false;
      } else {
        const base = place * PAGE_FRAMES + inPage;
        for (let i = 0; i < n; i++) out[at + done + i] = pages[base + i]!;
      }
      done += n;
    }
    return whole;
  }
}
