import { closeSync, openSync, readFileSync, renameSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { dirname, resolve } from 'node:path';
import { FrameEncoder, parseMoves, parseSong, wavHeader, type Read, type SampleFormat } from '@sure-hand/core/formats';
import { effectiveValueAt } from '@sure-hand/core/groups';
import { bounce, framesOf, mixPlan } from '@sure-hand/core/mix';
import { runMoves } from '@sure-hand/core/pass';
import { ownValueAt, unknownControl, type Receipt, type Song } from '@sure-hand/core/song';
import { SILENCE_DB } from '@sure-hand/core/units';
import { AudioFiles, Refused } from './audioFiles.js';

function must<T>(read: Read<T>, file: string): T {
  if (!read.ok) throw new Refused(`${file}: ${read.sentence}`);
  return read.value;
}

function readText(file: string): string {
  try {
    return readFileSync(file, 'utf8');
  } catch (error) {
    throw new Refused(`${file} can’t be read: ${(error as Error).message}.`);
  }
}

/** Writes a file whole or not at all: beside it first, then in its place. */
function writeWhole(file: string, write: (temporary: string) => void): void {
  const temporary = `${file}.part`;
  try {
    write(temporary);
    renameSync(temporary, file);
  } catch (error) {
    rmSync(temporary, { force: true });
    if (error instanceof Refused) throw error;
    throw new Refused(`${file} can’t be written: ${(error as Error).message}.`);
  }
}

const readSongFile = (file: string): Song => must(parseSong(readText(file)), file);

/** `ride`: runs moves against a song, writes the song after it, gives back what is printed. */
export function ride(options: { song: string; moves: string; out: string }): { receipts: readonly Receipt[] } {
  const song = readSongFile(options.song);
  const moves = must(parseMoves(readText(options.moves)), options.moves);
  const ridden = runMoves(song, moves);
  if (!ridden.ok) throw new Refused(`${options.moves}: ${ridden.sentence}`);
  writeWhole(options.out, (to) => writeFileSync(to, `${JSON.stringify(ridden.song, null, 1)}\n`));
  return { receipts: ridden.receipts };
}

/** One time of what `value` prints, in the control's unit. */
export type ValueAt = { readonly t: number; readonly base: number; readonly trim: number; readonly effective: number };

/** `value`: a control's base, trim and effective value at times. */
export function value(options: { song: string; control: string; at: string }): ValueAt[] {
  const song = readSongFile(options.song);
  const unknown = unknownControl(song, options.control);
  if (unknown) throw new Refused(unknown);
  return options.at.split(',').map((text) => {
    const t = Number(text);
    if (!text.trim() || !Number.isFinite(t) || t < 0)
      throw new Refused(`--at “${text}” is no time. Give seconds, such as 0,0.5,1.`);
    const { base, trim } = ownValueAt(song, options.control, t);
    const isLevel = base <= SILENCE_DB;
    return { t, base: isLevel ? SILENCE_DB : base, trim, effective: effectiveValueAt(song, options.control, t) };
  });
}

const FORMATS: Record<string, SampleFormat> = { '16': 'int16', '24': 'int24', '32f': 'float32' };

function rangeOption(song: Song, text: string | undefined): [number, number] | null {
  if (text === undefined) return null;
  const [from, to, ...more] = text.split(',').map(Number);
  if (more.length || !(from! >= 0) || !(to! > from!) || to! > song.length)
    throw new Refused(
      `--range “${text}” is no range of the song. Give two times in seconds between 0 and ${song.length}, such as 8,16.`,
    );
  return [from!, to!];
}

/** `bounce`: renders the mix to a WAV file; gives back what is printed. */
export function bounceSong(options: { song: string; out: string; bits: string; range?: string }): {
  out: string;
  frames: number;
  sampleRate: number;
  seconds: number;
  peak: number;
} {
  const format = FORMATS[options.bits];
  if (!format) throw new Refused(`--bits ${options.bits} is not one of 16, 24 or 32f.`);
  const song = readSongFile(options.song);
  const range = rangeOption(song, options.range);
  const folder = dirname(resolve(options.song));
  const { files, sampleRate } = mixPlan(song, { ignoreSolo: true });
  const audio = new AudioFiles(folder, files, sampleRate);
  try {
    const stereo = new Set(files.filter((_, file) => audio.channels(file) === 2));
    const plan = mixPlan(song, { ignoreSolo: true, stereo });
    const [from, to] = framesOf(plan, range);
    const encoder = new FrameEncoder(format);
    let peak = 0;
    writeWhole(options.out, (temporary) => {
      const fd = openSync(temporary, 'w');
      try {
        writeSync(fd, wavHeader(format, 2, sampleRate, to - from));
        bounce(plan, audio, [from, to], (left, right, count) => {
          for (let i = 0; i < count; i++) peak = Math.max(peak, Math.abs(left[i]!), Math.abs(right[i]!));
          writeSync(fd, encoder.encode([left, right], count));
        });
      } finally {
        closeSync(fd);
      }
    });
    return { out: options.out, frames: to - from, sampleRate, seconds: (to - from) / sampleRate, peak };
  } finally {
    audio.close();
  }
}
