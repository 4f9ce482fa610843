import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, rmSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { basename, join } from 'node:path';
import type { Readable } from 'node:stream';
import {
  ConflictException,
  Inject,
  Injectable,
  NotFoundException,
  PayloadTooLargeException,
  UnprocessableEntityException,
} from '@nestjs/common';
import { WavFile } from '@sure-hand/audio-files';
import { guessTrack, type TrackWords, type WavInfo } from '@sure-hand/core/formats';
import { SETTINGS, type ServerSettings } from '../settings.js';

/** The most that one uploaded file may have, in bytes, and how many files one song may be made of. */
export const UPLOAD_LIMITS = { fileBytes: 8e9, files: 400 } as const;

/** A stem that was dropped on the page: what it is, or the sentence why it cannot be used. */
export type StagedStem = {
  readonly id: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly info: WavInfo | null;
  readonly sentence: string | null;
  readonly guess: TrackWords;
};

type Staging = { readonly folder: string; readonly stems: Map<string, StagedStem>; isClaimed: boolean };
/** Stems of which a song is being made: nobody throws them away meanwhile. */
export type ClaimedStems = {
  readonly stems: readonly (StagedStem & { readonly path: string })[];
  /** The song is made: they are of no use any more. */
  used(): void;
  /** No song came of it: it can be tried again. */
  giveBack(): void;
};

/** Stems on their way to becoming a song: uploaded into a folder of their own, looked at, not yet part of anything. */
@Injectable()
export class StagedStems {
  readonly #stagings = new Map<string, Staging>();

  constructor(@Inject(SETTINGS) private readonly settings: ServerSettings) {}

  get root(): string {
    return join(this.settings.dataFolder, 'staging');
  }

  /** What an earlier run left half done is of no use. */
  clear(): void {
    rmSync(this.root, { recursive: true, force: true });
  }

  begin(): string {
    const id = randomUUID();
    const folder = join(this.root, id);
    mkdirSync(folder, { recursive: true });
    this.#stagings.set(id, { folder, stems: new Map(), isClaimed: false });
    return id;
  }

  /** Takes in one file as it comes over the wire, and looks at its header. Nothing stays of one that breaks off. */
  async take(id: string, fileName: string, body: Readable): Promise<StagedStem> {
    const { folder, stems } = this.#staging(id);
    if (stems.size >= UPLOAD_LIMITS.files)
      throw new PayloadTooLargeException(`A song is made of at most ${UPLOAD_LIMITS.files} files.`);
    const stem = randomUUID();
    const path = join(folder, stem);
    const bytes = await receive(body, path, fileName);
    const plain = basename(fileName.replaceAll('\\', '/')) || 'stem.wav';
    const opened = WavFile.open(path);
    if (opened.ok) opened.value.close();
    const staged: StagedStem = {
      id: stem,
      fileName: plain,
      bytes,
      info: opened.ok ? opened.value.info : null,
      sentence: opened.ok ? null : opened.sentence,
      guess: guessTrack(plain),
    };
    if (!opened.ok) rmSync(path, { force: true });
    stems.set(stem, staged);
    return staged;
  }

  /** Stems that a song is to be made of, each one that can be used; a second song of the same upload has to wait. */
  claim(id: string, wanted: readonly string[]): ClaimedStems {
    const staging = this.#staging(id);
    const stems = wanted.map((stem) => {
      const staged = staging.stems.get(stem);
      if (!staged) throw new NotFoundException('One of the stems is not there any more; drop it on the page again.');
      if (staged.sentence !== null) throw new UnprocessableEntityException(`${staged.fileName}: ${staged.sentence}`);
      return { ...staged, path: join(staging.folder, stem) };
    });
    if (staging.isClaimed) throw new ConflictException('A song is being made of these stems already.');
    staging.isClaimed = true;
    const giveBack = (): void => {
      staging.isClaimed = false;
      if (this.#stagings.get(id) !== staging) rmSync(staging.folder, { recursive: true, force: true });
    };
    const used = (): void => {
      this.#stagings.delete(id);
      giveBack();
    };
    return { stems, used, giveBack };
  }

  /** Throws stems away; those of which a song is being made, once it is. */
  drop(id: string): void {
    const staging = this.#stagings.get(id);
    this.#stagings.delete(id);
    if (staging && !staging.isClaimed) rmSync(staging.folder, { recursive: true, force: true });
  }

  #staging(id: string): Staging {
    const staging = this.#stagings.get(id);
    if (!staging || !existsSync(staging.folder))
      throw new NotFoundException('What was dropped here is gone, since the server was started anew. Drop it again.');
    return staging;
  }
}

/** So much of what comes for a file that can't be kept is still listened to: whoever sends hears an answer only at its end. */
const HEARD_OUT_BYTES = 4e9;

/** Writes a request's body to a file, and gives back its size; nothing stays where it breaks off, is too much, or has no room. */
export async function receive(
  body: Readable,
  path: string,
  name: string,
  most: number = UPLOAD_LIMITS.fileBytes,
): Promise<number> {
  let bytes = 0;
  let trouble: Error | null = null;
  let heardOut = 0;
  const file = await open(path, 'w');
  try {
    for await (const chunk of body as AsyncIterable<Buffer>) {
      bytes += chunk.length;
      if (bytes > most)
        trouble ??= new PayloadTooLargeException(`${name} is larger than ${Math.floor(most / 1e9)} GB.`);
      if (trouble) {
        heardOut += chunk.length;
        if (heardOut > HEARD_OUT_BYTES) break;
      } else
        await file.appendFile(chunk).catch(async (error: Error) => {
          trouble = error;
          // What has no room makes room.
          await file.truncate(0).catch(() => undefined);
        });
    }
    if (trouble) throw trouble as Error;
  } catch (error) {
    rmSync(path, { force: true });
    throw error;
  } finally {
    await file.close();
  }
  return bytes;
}
