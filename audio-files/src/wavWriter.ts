import { closeSync, fsyncSync, openSync, renameSync, rmSync, writeSync } from 'node:fs';
import { FrameEncoder, isLongWav, wavHeader, type SampleFormat } from '@sure-hand/core/formats';

/** Writes a file whole or not at all: beside it first, and on the disk, then in its place. */
export function writeWhole<T>(file: string, write: (temporary: string) => T): T {
  const temporary = `${file}.part`;
  try {
    const result = write(temporary);
    syncToDisk(temporary);
    renameSync(temporary, file);
    return result;
  } catch (error) {
    rmSync(temporary, { force: true });
    throw error;
  }
}

/** Comes back once a file is on the disk: not before is anything said to be there. */
export function syncToDisk(file: string): void {
  const fd = openSync(file, 'r+');
  try {
    fsyncSync(fd);
  } finally {
    closeSync(fd);
  }
}

/** Writes all the bytes there are, at a place or where the last ended; throws where the system takes no more of them. */
function writeAll(fd: number, bytes: Uint8Array, at: number | null = null): void {
  for (let done = 0; done < bytes.length;) {
    const taken = writeSync(fd, bytes, done, bytes.length - done, at === null ? null : at + done);
    if (!taken) throw new Error(`ENOSPC: ${bytes.length - done} of ${bytes.length} bytes were not written`);
    done += taken;
  }
}

/** How a file is to be written. 16 bit is dithered unless the samples were 16 bit before. */
export type WavTo = {
  readonly format: SampleFormat;
  readonly channels: number;
  readonly sampleRate: number;
  readonly dither?: boolean;
  /** At most so many frames: over 4 GB of them become a file with long sizes. */
  readonly most: number;
};

/**
 * Writes a WAV file block by block, whole or not at all; how many frames it has is known at its end. Throws where there
 * are more than its writer had said.
 */
export function writeWav<T>(
  file: string,
  { format, channels, sampleRate, dither, most }: WavTo,
  fill: (add: (columns: readonly Float32Array[], frames: number) => void) => T,
): T {
  return writeWhole(file, (temporary) => {
    const fd = openSync(temporary, 'w');
    try {
      const encoder = new FrameEncoder(format, dither);
      let written = 0;
      const isLong = isLongWav(format, channels, most);
      writeAll(fd, wavHeader(format, channels, sampleRate, 0, isLong));
      const result = fill((columns, frames) => {
        writeAll(fd, encoder.encode(columns.slice(0, channels), frames));
        written += frames;
      });
      if (written > most) throw new Error(`${written} frames of ${most} written to ${file}`);
      writeAll(fd, wavHeader(format, channels, sampleRate, written, isLong), 0);
      return result;
    } finally {
      closeSync(fd);
    }
  });
}
