import { randomUUID } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { rename, writeFile, readFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { Inject, Injectable, NotFoundException } from '@nestjs/common';
import { WavFile } from '@sure-hand/audio-files';
import type { WavInfo } from '@sure-hand/core/formats';
import { isPlainFileName } from '@sure-hand/core/song';
import { IN_SONG, MAKING, REMOVING, freePath, lostIn, songsIn, stampOf } from '../folder/layout.js';
import { linkOrCopy } from '../folder/linkOrCopy.js';
import { WorkPool } from '../jobs/workPool.js';
import { SETTINGS, type ServerSettings } from '../settings.js';

/** What is known of an audio file: where its samples lie, or the sentence why it cannot be played. */
export type ShelvedFile = { readonly info: WavInfo } | { readonly missing: string };

/** A song's number, or the name of a folder in which one is being made. */
export type SongFolder = number | string;

/** File systems take no longer names: what is there may have one that nothing new is given. */
const MOST_NAME_BYTES = 255;
const OWN_NAMES = new Set<string>(Object.values(IN_SONG));

/** Whether a file of a song's folder can be called so: a plain name, and none that the folder has for other things. */
export const isAudioName = (name: string): boolean => isPlainFileName(name, MOST_NAME_BYTES) && !OWN_NAMES.has(name);

export const isFile = (path: string): boolean => statSync(path, { throwIfNoEntry: false })?.isFile() ?? false;

/** Puts a new song's files where they belong, once its number is known; gives back what is still to be done once the song is kept. */
export type Settling = (id: number) => () => void;

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
    return join(songsIn(this.settings.dataFolder), String(songId));
  }

  /** The path of a song's audio file; refuses names that lead elsewhere. */
  path(songId: SongFolder, name: string): string {
    if (!isAudioName(name)) throw new NotFoundException(`“${name}” is no audio file of this song.`);
    return join(this.folder(songId), name);
  }

  /** A folder for the audio of a song that is still being made, in place of a song's number. */
  beginFolder(): string {
    const name = `${MAKING}${randomUUID()}`;
    mkdirSync(this.folder(name), { recursive: true });
    return name;
  }

  /**
   * What was put into a folder is a song's from now on. It is marked as half made until the song itself is kept: what is given
   * back says so.
   */
  becomes(from: SongFolder): Settling {
    return (songId) => {
      this.setAside(songId);
      const mark = (folder: SongFolder): string => join(this.folder(folder), IN_SONG.halfMade);
      writeFileSync(mark(from), '');
      renameSync(this.folder(from), this.folder(songId));
      return () => rmSync(mark(songId), { force: true });
    };
  }

  /** Puts what lies where a song's files belong, and is none of its, among what was lost; gives back where it is now, null where there was nothing. */
  setAside(songId: SongFolder): string | null {
    const folder = this.folder(songId);
    if (!existsSync(folder)) return null;
    const lost = lostIn(this.settings.dataFolder);
    mkdirSync(lost, { recursive: true });
    const aside = freePath(lost, `${songId} found ${stampOf(new Date())}`);
    renameSync(folder, aside);
    return aside;
  }

  /** Takes a song's files out of the way in one act; `forget` what is given back once its rows are gone. */
  beginRemoval(songId: number): SongFolder {
    const gone = `${REMOVING}${songId}`;
    this.forget(gone);
    if (existsSync(this.folder(songId))) renameSync(this.folder(songId), this.folder(gone));
    return gone;
  }

  /** Puts a song's audio and peaks into another's folder. */
  copy(from: number, to: SongFolder): void {
    for (const sub of ['.', IN_SONG.peaks]) this.#link(join(this.folder(from), sub), join(this.folder(to), sub), false);
  }

  /** Puts all of a lost folder, whatever is in it, into one that a song is being made in. */
  copyFrom(lost: string, to: SongFolder): void {
    this.#link(lost, this.folder(to), true);
  }

  /** Audio is never changed in place, so both may share it on disk. */
  #link(from: string, to: string, isWhole: boolean): void {
    if (!existsSync(from)) return;
    mkdirSync(to, { recursive: true });
    for (const entry of readdirSync(from, { withFileTypes: true })) {
      const [source, target] = [join(from, entry.name), join(to, entry.name)];
      if (entry.isFile() && entry.name !== IN_SONG.document) linkOrCopy(source, target);
      else if (isWhole && entry.isDirectory()) this.#link(source, target, true);
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
    if (!isAudioName(name)) return { missing: `“${name}” is no plain name of a file beside the song.` };
    const path = this.path(songId, name);
    if (!isFile(path))
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
    return join(this.folder(songId), IN_SONG.peaks, `${name}.peaks`);
  }

  /** The peaks of a file as bytes, made in a worker thread where they are not there yet. */
  async peaks(songId: number, name: string): Promise<Buffer> {
    const path = this.path(songId, name);
    if (!isFile(path)) throw new NotFoundException(`The audio file ${name} is missing.`);
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
