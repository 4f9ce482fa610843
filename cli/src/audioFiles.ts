import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { basename, join } from 'node:path';
import { decodeFrames, readWavInfo, type WavInfo } from '@sure-hand/core/formats';
import type { SampleSource } from '@sure-hand/core/mix';

/** A sentence for the person at the command line: what was wrong, where, what to do. */
export class Refused extends Error {}

const HEAD_BYTES = 65536;
/** Frames decoded at a time: a bounce reads each file once, from front to back. */
const PAGE_FRAMES = 65536;

type OpenFile = { readonly fd: number; readonly info: WavInfo; page: number; readonly columns: Float32Array[] };

/** The WAV files of a song, beside its document, read page by page. */
export class AudioFiles implements SampleSource {
  readonly #files: OpenFile[];

  /** Opens every file; throws {@link Refused} naming the first that is missing or cannot be read. */
  constructor(folder: string, names: readonly string[], sampleRate: number) {
    this.#files = names.map((name) => openFile(folder, name, sampleRate));
  }

  info(file: number): WavInfo {
    return this.#files[file]!.info;
  }

  channels(file: number): number {
    return this.info(file).channels;
  }

  read(file: number, channel: number, from: number, count: number, out: Float32Array, at: number): boolean {
    const open = this.#files[file]!;
    let done = 0;
    while (done < count) {
      const frame = from + done;
      const page = Math.floor(frame / PAGE_FRAMES);
      this.#load(open, page);
      const inPage = frame - page * PAGE_FRAMES;
      const n = Math.min(count - done, PAGE_FRAMES - inPage);
      out.set(open.columns[channel]!.subarray(inPage, inPage + n), at + done);
      done += n;
    }
    return true;
  }

  close(): void {
    for (const { fd } of this.#files) closeSync(fd);
  }

  #load(open: OpenFile, page: number): void {
    if (open.page === page) return;
    open.page = page;
    const { info, fd, columns } = open;
    const first = page * PAGE_FRAMES;
    const frames = Math.max(0, Math.min(PAGE_FRAMES, info.frames - first));
    const bytes = new Uint8Array(frames * info.bytesPerFrame);
    if (frames) readSync(fd, bytes, 0, bytes.length, info.dataOffset + first * info.bytesPerFrame);
    decodeFrames(bytes, info, columns, { frames });
    for (const column of columns) column.fill(0, frames);
  }
}

function openFile(folder: string, name: string, sampleRate: number): OpenFile {
  if (basename(name) !== name)
    throw new Refused(`The audio file “${name}” must lie beside the song document, with a plain name.`);
  let fd: number;
  try {
    fd = openSync(join(folder, name), 'r');
  } catch {
    throw new Refused(`The audio file “${name}” is not in ${folder}. Put it there, or take its clips out of the song.`);
  }
  const head = new Uint8Array(HEAD_BYTES);
  const got = readSync(fd, head, 0, HEAD_BYTES, 0);
  const read = readWavInfo(head.subarray(0, got), fstatSync(fd).size);
  if (!read.ok) throw new Refused(`${name}: ${read.sentence}`);
  if (read.value.sampleRate !== sampleRate)
    throw new Refused(
      `${name} is at ${read.value.sampleRate} Hz, the song at ${sampleRate} Hz. Convert the file to the song’s rate.`,
    );
  const columns = Array.from({ length: read.value.channels }, () => new Float32Array(PAGE_FRAMES));
  return { fd, info: read.value, page: -1, columns };
}
