import { readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { AudioTrouble, bounceToFile, withWav, writeWhole, type Bounced } from '@sure-hand/audio-files';
import { parseMoves, parseSong, readEdit, type Read, type SampleFormat } from '@sure-hand/core/formats';
import { effectiveValueAt, ownBySong } from '@sure-hand/core/groups';
import { Programme, type LoudnessReport } from '@sure-hand/core/loudness';
import { preflight, runMoves, type Preflight } from '@sure-hand/core/pass';
import { applyEdit, editTable, type Applied, type Receipt } from '@sure-hand/core/edits';
import { unknownControl, type Song } from '@sure-hand/core/song';
import { SILENCE_DB } from '@sure-hand/core/units';
import { Refused } from './refused.js';
import { say } from './say.js';

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

/** Writes a file whole or not at all; says which one where it cannot. */
function writeOut<T>(file: string, write: () => T): T {
  try {
    return write();
  } catch (error) {
    if (error instanceof AudioTrouble) throw error;
    throw new Refused(`${file} can’t be written: ${(error as Error).message}.`);
  }
}

/** Whether two paths lead to one file, by whatever names. */
function isSameFile(a: string, b: string): boolean {
  if (resolve(a) === resolve(b)) return true;
  const [one, other] = [a, b].map((path) => {
    try {
      return statSync(path);
    } catch {
      return null;
    }
  });
  return Boolean(one && other && one.dev === other.dev && one.ino === other.ino);
}

/** Refuses to write over what was given in: the song's recordings, and files that `out` is not meant to take the place of. */
function refuseOver(
  out: string,
  song: Song,
  { songFile, others }: { songFile: string; others: readonly string[] },
): void {
  const folder = dirname(resolve(songFile));
  for (const { name, clips } of song.channels)
    if (clips.some(({ file }) => isSameFile(out, join(folder, file))))
      throw new Refused(`--out ${out} is a recording of the song, played by ${name}. Give another file.`);
  const other = others.find((file) => isSameFile(out, file));
  if (other) throw new Refused(`--out ${out} is the file ${other} that was given in. Give another file.`);
}

const readSongFile = (file: string): Song => must(parseSong(readText(file)), file);

/** `ride`: runs moves against a song, writes the song after it, gives back what is printed. */
export function ride(options: { song: string; moves: string; out: string }): { receipts: readonly Receipt[] } {
  const song = readSongFile(options.song);
  const moves = must(parseMoves(readText(options.moves)), options.moves);
  refuseOver(options.out, song, { songFile: options.song, others: [options.moves] });
  const ridden = runMoves(song, moves);
  if (!ridden.ok) throw new Refused(`${options.moves}: ${ridden.sentence}`);
  writeSong(options.out, ridden.song);
  return { receipts: ridden.receipts.map(asPrinted) };
}

/** A receipt as the contract has it (rules, 9): where spans came back by a line is for those who carry them on. */
const asPrinted = (receipt: Receipt): Receipt => ({
  ...receipt,
  lanes: receipt.lanes.map(({ returns: _returns, ...lane }) => lane),
});

function writeSong(file: string, song: Song): void {
  const text = `${JSON.stringify(song, null, 1)}\n`;
  writeOut(file, () => writeWhole(file, (to) => writeFileSync(to, text)));
}

/** `preflight`: what a pass from a time would write, of every control there is, and what not and why. */
export function preflightOf(options: { song: string; at: string }): Preflight {
  const song = readSongFile(options.song);
  const at = Number(options.at);
  if (!options.at.trim() || !(at >= 0) || at >= song.length)
    throw new Refused(`--at “${options.at}” is no place in the song. Give seconds from 0 up to ${song.length}.`);
  return preflight(song, at);
}

/** Every kind of edit, its fields and what it does, a paragraph each; a field with a `?` may be left out. */
export const kindsOfEdit = (): string =>
  editTable()
    .map(({ kind, fields, does }) => `  ${kind}: ${fields.replaceAll('`', '')}\n      ${does}`)
    .join('\n');

/** `edit`: applies one edit to a song; gives back what is printed. `clamped` and `thinned` are there only where something was. */
export function editSong(options: {
  song: string;
  edit: string;
  out: string;
}): Pick<Applied, 'changed' | 'refused' | 'gone' | 'clamped' | 'thinned'> {
  const song = readSongFile(options.song);
  refuseOver(options.out, song, { songFile: options.song, others: [options.edit] });
  let json: unknown;
  try {
    json = JSON.parse(readText(options.edit));
  } catch (error) {
    if (error instanceof Refused) throw error;
    throw new Refused(`${options.edit} is no JSON: ${(error as Error).message}.`);
  }
  const applied = applyEdit(song, must(readEdit(song, json), options.edit));
  writeSong(options.out, applied.song);
  const { changed, refused, gone, clamped, thinned } = applied;
  return {
    changed,
    refused,
    ...(gone ? { gone } : {}),
    ...(clamped ? { clamped } : {}),
    ...(thinned ? { thinned } : {}),
  };
}

/** One time of what `value` prints, in the control's unit. */
export type ValueAt = { readonly t: number; readonly base: number; readonly trim: number; readonly effective: number };

/** `value`: a control's base with its sway in it, its trim, and its effective value at times. */
export function value(options: { song: string; control: string; at: string }): ValueAt[] {
  const song = readSongFile(options.song);
  const unknown = unknownControl(song, options.control);
  if (unknown) throw new Refused(unknown);
  return options.at.split(',').map((text) => {
    const t = Number(text);
    if (!text.trim() || !Number.isFinite(t) || t < 0)
      throw new Refused(`--at “${text}” is no time. Give seconds, such as 0,0.5,1.`);
    const { base, trim } = ownBySong(song, t)(options.control);
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
export function bounceSong(options: { song: string; out: string; bits: string; range?: string }): Bounced & {
  readonly out: string;
} {
  const format = FORMATS[options.bits];
  if (!format) throw new Refused(`--bits ${options.bits} is not one of 16, 24 or 32f.`);
  const song = readSongFile(options.song);
  const range = rangeOption(song, options.range);
  refuseOver(options.out, song, { songFile: options.song, others: [options.song] });
  const folder = dirname(resolve(options.song));
  const order = { song, folder, out: options.out, format, range, onNoSound: say };
  const bounced = writeOut(options.out, () => bounceToFile(order));
  return { out: options.out, ...bounced };
}

/** `loudness`: measures a WAV file. A mono file counts as the same on both sides. */
export function loudness(file: string): LoudnessReport {
  try {
    return withWav(file, (wav) => {
      const programme = new Programme(wav.info.sampleRate);
      wav.forEachBlock((columns, frames) => programme.add(columns[0]!, columns.at(-1)!, frames));
      if (wav.noSound) say(`${file} ${wav.noSound}: it is measured as silence.`);
      return programme.report();
    });
  } catch (error) {
    if (error instanceof AudioTrouble) throw new Refused(`${file}: ${error.message}`);
    throw new Refused(`${file} can’t be read: ${(error as Error).message}.`);
  }
}
