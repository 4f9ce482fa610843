import { Injectable } from '@nestjs/common';
import { newSong, unpacked, type NewTrack } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import { AudioShelf } from '../audio/audioShelf.js';
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
    const plain = name
      .replace(/[^\p{L}\p{N}._ ()&+-]/gu, '_')
      .replace(/^\.+/, '_')
      .slice(-120);
    const base = plain.replace(/\.wav$/i, '');
    let file = `${base}.wav`;
    for (let n = 2; taken.has(file.toLowerCase()); n++) file = `${base} (${n}).wav`;
    taken.add(file.toLowerCase());
    return file;
  });
}

/** Makes songs of uploaded stems, or of a document with its audio. */
@Injectable()
export class SongMaking {
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
      const made = newSong({ name, sampleRate, tracks, tempo: [{ t: 0, bpm }], meter, sections: inOrder(sections) });
      if (!made.ok) throw new JobTrouble(made.sentence);
      return made.value;
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
    const files = eachOnce(
      stems.map((stem) => stem.fileName),
      this.shelf.names(songId),
    );
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
      const songId = await this.store.create(songOf(taken), (id) => this.shelf.becomes(folder, id));
      return { songId, sentence: wrong.length ? `Left out: ${wrong.join(' ')}` : null };
    } catch (error) {
      this.shelf.forget(folder);
      throw error;
    }
  }
}

const inOrder = <T extends { readonly t: number }>(marks: readonly T[] | undefined): T[] =>
  [...(marks ?? [])].sort((a, b) => a.t - b.t);
