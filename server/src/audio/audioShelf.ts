import { existsSync, mkdirSync } from 'node:fs';
import { rename, writeFile, readFile } from 'node:fs/promises';
import { basename, join } from 'node:path';
import { Inject, Injectable, NotFoundException, type OnModuleDestroy } from '@nestjs/common';
import { WavFile } from '@sure-hand/audio-files';
import type { WavInfo } from '@sure-hand/core/formats';
import { Piscina } from 'piscina';
import { SETTINGS, type ServerSettings } from '../settings.js';

/** What is known of an audio file: where its samples lie, or the sentence why it cannot be played. */
export type ShelvedFile = { readonly info: WavInfo } | { readonly missing: string };

/** The audio of every song in the data folder: WAV files, and the peaks drawn from them, made once. */
@Injectable()
export class AudioShelf implements OnModuleDestroy {
  #pool: Piscina | null = null;

  constructor(@Inject(SETTINGS) private readonly settings: ServerSettings) {}

  async onModuleDestroy(): Promise<void> {
    await this.#pool?.destroy();
  }

  folder(songId: number): string {
    return join(this.settings.dataFolder, 'songs', String(songId));
  }

  /** The path of a song's audio file; refuses names that lead elsewhere. */
  path(songId: number, name: string): string {
    if (basename(name) !== name || name.startsWith('.'))
      throw new NotFoundException(`“${name}” is no audio file of this song.`);
    return join(this.folder(songId), name);
  }

  describe(songId: number, name: string, sampleRate: number): ShelvedFile {
    const path = this.path(songId, name);
    if (!existsSync(path))
      return { missing: `The audio file ${name} is missing from ${this.folder(songId)}; put it back there.` };
    const opened = WavFile.open(path);
    if (!opened.ok) return { missing: `${name}: ${opened.sentence}` };
    const { info } = opened.value;
    opened.value.close();
    if (info.sampleRate === sampleRate) return { info };
    return { missing: `${name} is at ${info.sampleRate} Hz, the song at ${sampleRate} Hz.` };
  }

  /** The peaks of a file as bytes, made in a worker thread where they are not there yet. */
  async peaks(songId: number, name: string): Promise<Buffer> {
    const path = this.path(songId, name);
    if (!existsSync(path)) throw new NotFoundException(`The audio file ${name} is missing.`);
    const folder = join(this.folder(songId), 'peaks');
    const kept = join(folder, `${name}.peaks`);
    if (existsSync(kept)) return readFile(kept);
    this.#pool ??= new Piscina({
      filename: new URL('./peakWorker.js', import.meta.url).href,
      minThreads: 0,
      maxThreads: 1,
      idleTimeout: 1000,
    });
    const bytes = Buffer.from((await this.#pool.run(path)) as Uint8Array);
    mkdirSync(folder, { recursive: true });
    await writeFile(`${kept}.part`, bytes);
    await rename(`${kept}.part`, kept);
    return bytes;
  }
}
