import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Inject, Injectable, NotFoundException } from '@nestjs/common';
import { AudioShelf } from '../audio/audioShelf.js';
import { SETTINGS, type ServerSettings } from '../settings.js';
import { SongStore } from '../songs/songStore.js';
import { documentHead } from './documentCopies.js';
import { linkOrCopy } from './linkOrCopy.js';
import { IN_SONG, MAKING, REMOVING, freePath, lostIn, songsIn, stampOf } from './layout.js';

/** A folder of audio that belongs to no song any more. */
export type LostSong = {
  /** The folder's name, by which it is asked for. */
  readonly folder: string;
  /** What the song was called; null where no document stands beside the audio. */
  readonly name: string | null;
  readonly files: number;
  readonly bytes: number;
};

/** A removed song can be put back for so long. */
const KEPT_AFTER_REMOVAL_MS = 7 * 24 * 3600 * 1000;

/**
 * What lies in the folder of songs and is none that the database knows: nothing of it is deleted but what says of itself that
 * it is half made. All else is put into a folder of its own, told, and can be brought back.
 */
@Injectable()
export class LostAndFound {
  constructor(
    @Inject(SETTINGS) private readonly settings: ServerSettings,
    private readonly store: SongStore,
    private readonly shelf: AudioShelf,
  ) {}

  /** Goes through the folder of songs as the server starts; gives back what there is to say of it. */
  async tidy(): Promise<string[]> {
    for (const id of await this.store.longRemoved(new Date(Date.now() - KEPT_AFTER_REMOVAL_MS))) await this.forget(id);
    const songs = songsIn(this.settings.dataFolder);
    if (!existsSync(songs)) return [];
    const known = new Map((await this.store.revisions()).map(({ id, revision }) => [String(id), revision]));
    return readdirSync(songs).flatMap((name) => this.#look(name, known.get(name) ?? null) ?? []);
  }

  /** Forgets a song for good, its files first out of the way: ended in the midst, it is begun again. */
  async forget(id: number): Promise<void> {
    const files = this.shelf.beginRemoval(id);
    await this.store.forget(id);
    this.shelf.forget(files);
  }

  #look(name: string, revision: number | null): string | null {
    const folder = this.shelf.folder(name);
    const mark = join(folder, IN_SONG.halfMade);
    if (name.startsWith(MAKING) || name.startsWith(REMOVING) || (revision === null && existsSync(mark)))
      this.shelf.forget(name);
    else if (revision !== null) {
      rmSync(mark, { force: true });
      return this.#keepNewer(name, revision);
    } else if (statSync(folder, { throwIfNoEntry: false })?.isDirectory()) {
      // What is no folder is nobody's song, and in nobody's way.
      const head = documentHead(folder);
      const aside = this.shelf.setAside(name)!;
      return `${head ? `The song “${head.name}”` : `What lies in songs/${name}`} is not in the database. It is in ${aside} now; the list of songs offers it.`;
    }
    return null;
  }

  /** Keeps a document that is newer than its song, as where an older database was put back: with its audio it is a song of its own. */
  #keepNewer(name: string, revision: number): string | null {
    const folder = this.shelf.folder(name);
    const head = documentHead(folder);
    if (!head || head.revision <= revision) return null;
    const lost = lostIn(this.settings.dataFolder);
    mkdirSync(lost, { recursive: true });
    const aside = freePath(lost, `${name} newer, found ${stampOf(new Date())}`);
    mkdirSync(aside);
    for (const entry of readdirSync(folder, { withFileTypes: true }))
      if (entry.isFile() && entry.name !== IN_SONG.document)
        linkOrCopy(join(folder, entry.name), join(aside, entry.name));
    renameSync(join(folder, IN_SONG.document), join(aside, IN_SONG.document));
    return `The song “${head.name}” is older in the database than beside its audio (${revision} changes against ${head.revision}). The newer one is in ${aside} now; the list of songs offers it.`;
  }

  list(): LostSong[] {
    const lost = lostIn(this.settings.dataFolder);
    if (!existsSync(lost)) return [];
    return readdirSync(lost, { withFileTypes: true })
      .filter((entry) => entry.isDirectory())
      .map(({ name: folder }) => {
        const path = join(lost, folder);
        const files = readdirSync(path, { withFileTypes: true }).filter(
          (entry) => entry.isFile() && entry.name !== IN_SONG.document,
        );
        const bytes = files.reduce((sum, entry) => sum + statSync(join(path, entry.name)).size, 0);
        return { folder, name: documentHead(path)?.name ?? null, files: files.length, bytes };
      });
  }

  /** Where a lost folder lies; throws where there is none of that name. */
  path(folder: string): string {
    if (!this.list().some((one) => one.folder === folder))
      throw new NotFoundException(`There is no lost song “${folder}” any more; look at the list again.`);
    return join(lostIn(this.settings.dataFolder), folder);
  }

  /** Whether a song's document is in a lost folder: then all of it is that song's. */
  hasDocument(folder: string): boolean {
    return documentHead(this.path(folder)) !== null;
  }

  /** Deletes a lost folder for good. */
  forgetLost(folder: string): void {
    rmSync(this.path(folder), { recursive: true, force: true });
  }
}
