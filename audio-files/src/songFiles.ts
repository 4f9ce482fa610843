import { basename, join } from 'node:path';
import type { SampleSource } from '@sure-hand/core/mix';
import { AudioTrouble } from './audioTrouble.js';
import { BLOCK_FRAMES, WavFile } from './wavFile.js';

type OpenFile = {
  readonly name: string;
  readonly wav: WavFile;
  page: number;
  readonly columns: Float32Array[];
};

/** The WAV files of a song in one folder, read page by page: where a bounce gets its samples. */
export class SongFiles implements SampleSource {
  readonly #files: OpenFile[] = [];

  /** Opens every file; throws a sentence naming the first that is missing or cannot be read. */
  constructor(folder: string, names: readonly string[], sampleRate: number) {
    try {
      for (const name of names) {
        const wav = openSongFile(folder, name, sampleRate);
        this.#files.push({ name, wav, page: -1, columns: wav.columns() });
      }
    } catch (error) {
      this.close();
      throw error;
    }
  }

  channels(file: number): number {
    return this.#files[file]!.wav.info.channels;
  }

  read(file: number, channel: number, from: number, count: number, out: Float32Array, at: number): boolean {
    const open = this.#files[file]!;
    for (let done = 0; done < count;) {
      const page = Math.floor((from + done) / BLOCK_FRAMES);
      if (open.page !== page) open.wav.read(page * BLOCK_FRAMES, open.columns);
      open.page = page;
      const inPage = from + done - page * BLOCK_FRAMES;
      const n = Math.min(count - done, BLOCK_FRAMES - inPage);
      out.set(open.columns[channel]!.subarray(inPage, inPage + n), at + done);
      done += n;
    }
    return true;
  }

  /** What was read of the files and is no sound, as sentences. */
  get noSound(): string[] {
    return this.#files.flatMap(({ name, wav }) =>
      wav.noSound ? [`${name} ${wav.noSound}: it is silence here. Write the file anew from where it was made.`] : [],
    );
  }

  close(): void {
    for (const { wav } of this.#files) wav.close();
  }
}

function openSongFile(folder: string, name: string, sampleRate: number): WavFile {
  if (basename(name) !== name)
    throw new AudioTrouble(`The audio file “${name}” must lie beside the song document, with a plain name.`);
  let opened: ReturnType<typeof WavFile.open>;
  try {
    opened = WavFile.open(join(folder, name));
  } catch {
    throw new AudioTrouble(
      `The audio file “${name}” is not in ${folder}. Put it there, or take its clips out of the song.`,
    );
  }
  if (!opened.ok) throw new AudioTrouble(`${name}: ${opened.sentence}`);
  const wav = opened.value;
  if (wav.info.sampleRate === sampleRate) return wav;
  wav.close();
  throw new AudioTrouble(
    `${name} is at ${wav.info.sampleRate} Hz, the song at ${sampleRate} Hz. Convert the file to the song’s rate.`,
  );
}
