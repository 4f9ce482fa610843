import { closeSync, existsSync, mkdirSync, openSync, readSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable, Logger, type BeforeApplicationShutdown } from '@nestjs/common';
import { packed } from '@sure-hand/core/formats';
import type { Subscription } from 'rxjs';
import { AudioShelf } from '../audio/audioShelf.js';
import { WorkPool } from '../jobs/workPool.js';
import { SongStore } from '../songs/songStore.js';
import { writeDocument } from './documentFile.js';
import { IN_SONG } from './layout.js';

/** A song that nobody has changed for so long is written out. */
const QUIET_MS = 20_000;

/** So much of a document is read for its head. */
const HEAD_BYTES = 8192;

/** What the first bytes of a document that stands beside its audio say: which song it is, and of which revision. */
export type DocumentHead = { readonly name: string; readonly revision: number };

/**
 * The document of every song as it is, in the folder of its audio: whoever has that folder has the song, also without the
 * database. It is written once nobody changes the song any more, as the server ends, and as it starts where that did not come about.
 */
@Injectable()
export class DocumentCopies implements BeforeApplicationShutdown {
  readonly #log = new Logger('Documents');
  readonly #waiting = new Map<number, NodeJS.Timeout>();
  #watching: Subscription | null = null;
  #isEnding = false;
  /** One after the other: they are for later, and hold nobody up. */
  #last: Promise<void> = Promise.resolve();

  constructor(
    private readonly store: SongStore,
    private readonly shelf: AudioShelf,
    private readonly pool: WorkPool,
  ) {}

  /** Begins: writes those that an earlier run did not come to, and from now on what is changed. */
  async begin(): Promise<void> {
    this.#watching = this.store.changed.subscribe(({ songId }) => this.#changed(songId));
    for (const { id, revision } of await this.store.revisions())
      if ((documentHead(this.shelf.folder(id))?.revision ?? -1) < revision) this.#writeNow(id);
  }

  async beforeApplicationShutdown(): Promise<void> {
    this.#isEnding = true;
    this.#watching?.unsubscribe();
    for (const id of this.#waiting.keys()) this.#writeNow(id);
    await this.#last;
  }

  #changed(id: number): void {
    clearTimeout(this.#waiting.get(id));
    const timer = setTimeout(() => this.#writeNow(id), QUIET_MS);
    timer.unref();
    this.#waiting.set(id, timer);
  }

  #writeNow(id: number): void {
    clearTimeout(this.#waiting.get(id));
    this.#waiting.delete(id);
    this.#last = this.#last.then(() =>
      this.#write(id).catch((error: Error) =>
        this.#log.error(`Song ${id} is not beside its audio yet: ${error.message}`),
      ),
    );
  }

  async #write(id: number): Promise<void> {
    const kept = await this.store.find(id);
    if (!kept) return;
    const folder = this.shelf.folder(id);
    mkdirSync(folder, { recursive: true });
    const { revision, song } = kept;
    const path = join(folder, IN_SONG.document);
    // Nobody is held up any more as the server ends, and a thread would take longer to come.
    if (this.#isEnding) return writeDocument(song, revision, path);
    const task = { song: packed(song), revision, path };
    await this.pool.run('copyWorker', task, { report: () => undefined, signal: new AbortController().signal });
  }
}

/** The head of the document in a folder; null where there is none, or none that says what it is. */
export function documentHead(folder: string): DocumentHead | null {
  const path = join(folder, IN_SONG.document);
  if (!existsSync(path)) return null;
  const head = Buffer.alloc(HEAD_BYTES);
  const fd = openSync(path, 'r');
  try {
    const text = head.toString('utf8', 0, readSync(fd, head, 0, HEAD_BYTES, 0));
    const found = /^\{\s*"revision":\s*(\d+),\s*"name":\s*("(?:[^"\\]|\\.)*")/.exec(text);
    return found ? { revision: Number(found[1]), name: JSON.parse(found[2]!) as string } : null;
  } finally {
    closeSync(fd);
  }
}
