import { randomUUID } from 'node:crypto';
import { existsSync, linkSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { rename, writeFile, readFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { Inject, Injectable, NotFoundException } from '@nestjs/common';
import { WavFile } from '@sure-hand/audio-files';
import type { WavInfo } from '@sure-hand/core/formats';
import { WorkPool } from '../jobs/workPool.js';
import { SETTINGS, type ServerSettings } from '../settings.js';

/** What is known of an audio file: where its samples lie, or the sentence why it cannot be played. */
export type ShelvedFile = { readonly info: WavInfo } | { readonly missing: string };

/** A song's number, or the name of a folder in which one is being made. */
export type SongFolder = number | string;

/** The audio of every song in the data folder: WAV files, and the peaks drawn from them, made once. */
@Injectable()
export class AudioShelf {
  /** Peaks that are being made, by where they will be kept: two pages that ask at one time get the same. */
  readonly #making = new Map<string, Promise<Buffer>>();

  constructor(
    @Inject(SETTINGS) private readonly settings: ServerSettings,
    private readonly pool: WorkPool,
  ) {}

  folder(songId: SongFolder): string {
    return join(this.settings.dataFolder, 'songs', String(songId));
  }

  /** The path of a song's audio file; refuses names that lead elsewhere. */
  path(songId: SongFolder, name: string): string {
    if (basename(name) !== name || name.startsWith('.'))
      throw new NotFoundException(`“${name}” is no audio file of this song.`);
    return join(this.folder(songId), name);
  }

  /** A folder for the audio of a song that is still being made, in place of a song's number. */
  beginFolder(): string {
    const name = `making-${randomUUID()}`;
    mkdirSync(this.folder(name), { recursive: true });
    return name;
  }

  /** What was put into such a folder is a song's from now on. */
  becomes(making: string, songId: number): void {
    this.forget(songId);
    renameSync(this.folder(making), this.folder(songId));
  }

  /** What an earlier run left half made is of no use: folders in the making, and those of songs that never came to be. */
  clearHalfMade(songs: readonly number[]): void {
    const all = join(this.settings.dataFolder, 'songs');
    if (!existsSync(all)) return;
    const known = new Set(songs.map(String));
    for (const name of readdirSync(all))
      if (name.startsWith('making-') || (/^\d+$/.test(name) && !known.has(name))) this.forget(name);
  }

  /** Puts a song's audio and peaks into another's folder. Audio is never changed in place, so both may share it on disk. */
  copy(from: number, to: SongFolder): void {
    for (const sub of ['.', 'peaks']) {
      const folder = join(this.folder(from), sub);
      if (!existsSync(folder)) continue;
      mkdirSync(join(this.folder(to), sub), { recursive: true });
      for (const entry of readdirSync(folder, { withFileTypes: true }))
        if (entry.isFile()) linkSync(join(folder, entry.name), join(this.folder(to), sub, entry.name));
    }
  }

  /** Removes all of a song's files. */
  forget(songId: SongFolder): void {
    rmSync(this.folder(songId), { recursive: true, force: true });
  }

  /** The names of all files in a song's folder. */
  names(songId: SongFolder): string[] {
    const folder = this.folder(songId);
    return existsSync(folder) ? readdirSync(folder) : [];
  }

  /** Removes one audio file with its peaks. */
  forgetFile(songId: SongFolder, name: string): void {
    rmSync(this.path(songId, name), { force: true });
    rmSync(this.peaksPath(songId, name), { force: true });
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

  /** Where the peaks of a file are kept. */
  peaksPath(songId: SongFolder, name: string): string {
    return join(this.folder(songId), 'peaks', `${name}.peaks`);
  }

  /** The peaks of a file as bytes, made in a worker thread where they are not there yet. */
  async peaks(songId: number, name: string): Promise<Buffer> {
    const path = this.path(songId, name);
    if (!existsSync(path)) throw new NotFoundException(`The audio file ${name} is missing.`);
    const kept = this.peaksPath(songId, name);
    if (existsSync(kept)) return readFile(kept);
    const making = this.#making.get(kept) ?? this.#makePeaks(path, kept).finally(() => this.#making.delete(kept));
    this.#making.set(kept, making);
    return making;
  }

  async #makePeaks(path: string, kept: string): Promise<Buffer> {
    const nobodyWaits = { report: () => undefined, signal: new AbortController().signal };
    const bytes = Buffer.from(await this.pool.run<Uint8Array>('peakWorker', { path }, nobodyWaits));
    mkdirSync(dirname(kept), { recursive: true });
    await writeFile(`${kept}.part`, bytes);
    await rename(`${kept}.part`, kept);
    return bytes;
  }
}
