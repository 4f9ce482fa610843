import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { Injectable } from '@nestjs/common';
import { WavFile } from '@sure-hand/audio-files';
import { guessTrack, newSong, unpacked, type NewTrack, type Read } from '@sure-hand/core/formats';
import { plainFileName, type Song } from '@sure-hand/core/song';
import { AudioShelf } from '../audio/audioShelf.js';
import { IN_SONG } from '../folder/layout.js';
import { JobTrouble, type Work, type WorkDone } from '../jobs/jobBoard.js';
import { WorkPool } from '../jobs/workPool.js';
import { SongStore } from '../songs/songStore.js';
import type { MoreStemsDto, NewSongDto } from './imports.dto.js';
import { unpackSong } from './songZip.js';
import type { ClaimedStems } from './stagedStems.js';
import { StemIntake, type Intake, type TakenIn } from './stemIntake.js';

/** Names of files, each once, and none of those that are there: `voice.wav`, `voice (2).wav`. */
function eachOnce(names: readonly string[], there: readonly string[] = []): string[] {
  const taken = new Set(there.map((name) => name.toLowerCase()));
  return names.map((name) => {
    const base = name
      .replace(/[^\p{L}\p{N}._ ()&+-]/gu, '_')
      .replace(/^\.+/, '_')
      .replace(/\.wav$/i, '');
    let file = plainFileName(base, '.wav');
    for (let n = 2; taken.has(file.toLowerCase()); n++) file = plainFileName(base, ` (${n}).wav`);
    taken.add(file.toLowerCase());
    return file;
  });
}

/** Makes songs of uploaded stems, or of a document with its audio. */
@Injectable()
export class SongMaking {
  /** Names that files have which are still being taken into a song: nobody else's are called so. */
  readonly #onTheWay = new Map<number, Set<string>>();

  constructor(
    private readonly intake: StemIntake,
    private readonly store: SongStore,
    private readonly shelf: AudioShelf,
    private readonly pool: WorkPool,
  ) {}

  /** The song of a staging. What was left out, and why, is in the sentence; where nothing was left there is no song. */
  async fromStems({ stems }: ClaimedStems, asked: NewSongDto, work: Work): Promise<WorkDone> {
    const files = eachOnce(stems.map((stem) => stem.fileName));
    const all = stems.map(({ fileName, path }, i) => ({
      name: fileName,
      path,
      file: files[i]!,
      words: asked.tracks[i]!,
    }));
    return await this.#withAudio(asked.sampleRate, all, work, (taken) => {
      const tracks = taken.flatMap(({ from, taken: stem }) =>
        stem ? [{ ...from.words, file: from.file, seconds: stem.frames / asked.sampleRate }] : [],
      );
      const { name, sampleRate, bpm, beats, unit, sections } = asked;
      const meter = [{ t: 0, beats, unit }];
      return made(newSong({ name, sampleRate, tracks, tempo: [{ t: 0, bpm }], meter, sections: inOrder(sections) }));
    });
  }

  /**
   * Takes stems into a song's own folder, under names that nothing there has. They are files of it then, and no more: the page
   * makes tracks of them, as edits. Nothing stays where it is given up or fails.
   */
  async intoSong(
    { stems }: ClaimedStems,
    { songId, sampleRate }: { readonly songId: number; readonly sampleRate: number },
    asked: MoreStemsDto,
    work: Work,
  ): Promise<WorkDone> {
    const onTheWay = this.#onTheWay.get(songId) ?? new Set();
    this.#onTheWay.set(songId, onTheWay);
    const files = eachOnce(
      stems.map((stem) => stem.fileName),
      [...this.shelf.names(songId), ...onTheWay],
    );
    for (const file of files) onTheWay.add(file);
    const all = stems.map(({ fileName, path }, i) => ({
      name: fileName,
      path,
      file: files[i]!,
      words: asked.tracks[i]!,
    }));
    try {
      const taken = await this.intake.take(songId, sampleRate, all, work);
      const wrong = taken.flatMap((one) => (one.taken ? [] : [one.sentence]));
      if (wrong.length === all.length) throw new JobTrouble(wrong.join(' '));
      const made = taken.flatMap(({ from, taken: stem }): NewTrack[] => {
        const { name, family } = from.words;
        return stem ? [{ file: from.file, seconds: stem.frames / sampleRate, name, family }] : [];
      });
      return { songId, sentence: wrong.length ? `Left out: ${wrong.join(' ')}` : null, result: { stems: made } };
    } catch (error) {
      for (const file of files) this.shelf.forgetFile(songId, file);
      throw error;
    } finally {
      for (const file of files) onTheWay.delete(file);
    }
  }

  /** The song of a zip that was uploaded to `path`, unpacked into `folder` on the way. */
  async fromZip(path: string, folder: string, work: Work): Promise<WorkDone> {
    const half = (from: number) => ({
      ...work,
      report: (share: number, doing?: string) => work.report(from + share / 2, doing),
    });
    const { song, files, missing } = await unpackSong(path, folder, {
      work: half(0),
      readDocument: (at) => this.#readDocument(at, work),
    });
    const done = await this.#withAudio(song.sampleRate, files, half(0.5), () => song);
    if (!missing.length) return done;
    const gone = `The zip lacks ${missing.join(', ')}: those clips are silent.`;
    return { ...done, sentence: [done.sentence, gone].filter(Boolean).join(' ') };
  }

  /**
   * The song of a folder that was lost: of the document beside its audio, or where there is none that can be read a new one of its
   * audio files. The folder stays as it is.
   */
  async fromFolder(path: string, name: string, work: Work): Promise<WorkDone> {
    const document = join(path, IN_SONG.document);
    const read = existsSync(document)
      ? await this.#readLost(document, work)
      : 'No song document stands beside the audio';
    if (typeof read !== 'string') {
      const making = this.shelf.beginFolder();
      try {
        this.shelf.copyFrom(path, making);
        const songId = await this.store.create(read, this.shelf.becomes(making));
        return { songId, sentence: `${read.name} is back as it was last left; its undo and log of passes are not.` };
      } catch (error) {
        this.shelf.forget(making);
        throw error;
      }
    }
    const found = readdirSync(path).filter((file) => /\.wav$/i.test(file));
    const files = eachOnce(found);
    const all = found.map((file, i) => ({
      ...{ name: file, path: join(path, file), file: files[i]! },
      words: guessTrack(file),
    }));
    if (!all.length) throw new JobTrouble(`${read}, and there is no WAV file in ${path}.`);
    const sampleRate = rateOf(all.map((one) => one.path));
    const done = await this.#withAudio(sampleRate, all, work, (taken) => {
      const tracks = taken.flatMap(({ from, taken: stem }) =>
        stem ? [{ ...from.words, file: from.file, seconds: stem.frames / sampleRate }] : [],
      );
      return made(newSong({ name, sampleRate, tracks }));
    });
    const sentence = [
      `${read}: the audio files are a new song, a track each; what was found stays in lost, too.`,
      done.sentence,
    ];
    return { ...done, sentence: sentence.filter(Boolean).join(' ') };
  }

  /** The document of a lost song; the reason where it can't be read. */
  async #readLost(document: string, work: Work): Promise<Song | string> {
    try {
      const { revision: _revision, ...song } = (await this.#readDocument(document, work)) as Song & {
        revision?: number;
      };
      return song;
    } catch (error) {
      if (error instanceof JobTrouble) return error.message.replace(/\.$/, '');
      throw error;
    }
  }

  /** Reads a document in a worker thread: it may be large, and anything at all. */
  async #readDocument(path: string, work: Work): Promise<Song> {
    const task = { ...work, report: () => undefined };
    return unpacked(await this.pool.run<Uint8Array>('documentWorker', { path }, task)) as Song;
  }

  /** Takes the audio into a folder of its own first, and makes the song of it once all is there. */
  async #withAudio<T extends Intake>(
    sampleRate: number,
    all: readonly T[],
    work: Work,
    songOf: (taken: readonly TakenIn<T>[]) => Song,
  ): Promise<WorkDone> {
    const folder = this.shelf.beginFolder();
    try {
      const taken = await this.intake.take(folder, sampleRate, all, work);
      const wrong = taken.flatMap((one) => (one.taken ? [] : [one.sentence]));
      if (all.length && wrong.length === all.length) throw new JobTrouble(wrong.join(' '));
      const songId = await this.store.create(songOf(taken), this.shelf.becomes(folder));
      return { songId, sentence: wrong.length ? `Left out: ${wrong.join(' ')}` : null };
    } catch (error) {
      this.shelf.forget(folder);
      throw error;
    }
  }
}

const inOrder = <T extends { readonly t: number }>(marks: readonly T[] | undefined): T[] =>
  [...(marks ?? [])].sort((a, b) => a.t - b.t);

/** What was made; throws the sentence where nothing was. */
function made(read: Read<Song>): Song {
  if (!read.ok) throw new JobTrouble(read.sentence);
  return read.value;
}

/** The rate that most of some audio files have. */
function rateOf(paths: readonly string[]): number {
  const count = new Map<number, number>();
  for (const path of paths) {
    const opened = WavFile.open(path);
    if (!opened.ok) continue;
    opened.value.close();
    const { sampleRate } = opened.value.info;
    count.set(sampleRate, (count.get(sampleRate) ?? 0) + 1);
  }
  return [...count].sort((a, b) => b[1] - a[1])[0]?.[0] ?? 48000;
}
