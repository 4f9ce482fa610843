import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { decodeFrames, findWavInfo, type Read, type WavInfo } from '@sure-hand/core/formats';
import { AudioTrouble } from './audioTrouble.js';

/** Frames decoded at a time where a file is read from front to back. */
export const BLOCK_FRAMES = 65536;

/** A WAV file open for reading; any stretch of it as float columns, one a channel. */
export class WavFile {
  #noSoundAt: number | null = null;

  private constructor(
    readonly fd: number,
    readonly info: WavInfo,
  ) {}

  /** Opens a file; the sentence says what is wrong with it. Throws where it is not there. */
  static open(path: string): Read<WavFile> {
    const fd = openSync(path, 'r');
    const read = findWavInfo((at, length) => bytesOf(fd, at, length), fstatSync(fd).size);
    if (read.ok) return { ok: true, value: new WavFile(fd, read.value) };
    closeSync(fd);
    return read;
  }

  /** What of it that was read is no sound, and is given as silence: where the first of that is; null where all of it is. */
  get noSound(): string | null {
    if (this.#noSoundAt === null) return null;
    return `has a sample that is no number near ${(this.#noSoundAt / this.info.sampleRate).toFixed(1)} s`;
  }

  /** Columns that hold a block of it. */
  columns(frames = BLOCK_FRAMES): Float32Array[] {
    return Array.from({ length: this.info.channels }, () => new Float32Array(frames));
  }

  /** Fills the columns from a frame on; gives back how many frames there were, and leaves silence after them. */
  read(from: number, columns: readonly Float32Array[]): number {
    const { frames, bytesPerFrame, dataOffset } = this.info;
    const count = Math.max(0, Math.min(columns[0]!.length, frames - from));
    const bytes = bytesOf(this.fd, dataOffset + from * bytesPerFrame, count * bytesPerFrame);
    const got = Math.floor(bytes.length / bytesPerFrame);
    const noSound = decodeFrames(bytes, this.info, columns, { frames: got });
    if (noSound >= 0) this.#noSoundAt ??= from + noSound;
    for (const column of columns) column.fill(0, got);
    return got;
  }

  /** Gives the whole file, block by block; the columns are used again for the next. */
  forEachBlock(act: (columns: readonly Float32Array[], frames: number, from: number) => void): void {
    const columns = this.columns();
    for (let from = 0; from < this.info.frames; from += BLOCK_FRAMES) {
      const frames = this.read(from, columns);
      if (!frames) return;
      act(columns, frames, from);
    }
  }

  close(): void {
    closeSync(this.fd);
  }
}

function bytesOf(fd: number, at: number, length: number): Uint8Array {
  const bytes = new Uint8Array(length);
  let got = 0;
  while (got < length) {
    const n = readSync(fd, bytes, got, length - got, at + got);
    if (!n) break;
    got += n;
  }
  return bytes.subarray(0, got);
}

/** Opens a file, gives it to `act`, and closes it whatever comes; throws the sentence where it is no readable WAV file. */
export function withWav<T>(path: string, act: (file: WavFile) => T): T {
  const opened = WavFile.open(path);
  if (!opened.ok) throw new AudioTrouble(opened.sentence);
  try {
    return act(opened.value);
  } finally {
    opened.value.close();
  }
}
