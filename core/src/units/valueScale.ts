import { quoted } from './quoted.js';
import { LEVEL_LAW, PAN_LAW, SWITCH_LAW, TRIM_LAW, rangeOf, travelOf, type Law } from './travel.js';
import { SILENCE_DB, clamp, type Db, type Travel } from './unit.js';

/** A value that is marked beside a throw, with its words; one is the main one, where the eye begins. */
export type ScaleMark = { readonly value: number; readonly label: string; readonly isMain: boolean };

/** How values of one kind stand on their throw, are printed and typed, and what is marked beside the throw. */
export type ValueScale = {
  readonly law: Law;
  /** For reading, with its unit: `−6.0 dB`, `L 40`, `muted`. */
  readonly print: (value: number) => string;
  /** What a person typed, as a number; or the sentence that says why it is none. Minus signs and commas are plain ones. */
  readonly read: (text: string) => number | string;
  /** What a spreadsheet takes for a value, where that is no plain number of its unit. */
  readonly plain?: (value: number) => string;
  readonly marks: readonly ScaleMark[];
  /** The same, finer, where a part of the throw is looked at by itself. */
  readonly fineMarks?: readonly ScaleMark[];
};

/** A typed value, or the sentence that says why it is none. */
export type ParsedValue =
  | { readonly ok: true; readonly value: number }
  | { readonly ok: false; readonly sentence: string };

/** How many decimals of a value stand in a table: finer than any ear. */
const PLAIN_DIGITS = 4;
const MINUS = '−';
const signed = (x: number, digits: number): string => {
  const text = Math.abs(x).toFixed(digits);
  return x < 0 && Number(text) !== 0 ? MINUS + text : text;
};

/** A level or offset for reading: `−6.0 dB`, `−∞ dB`. With `plus`, offsets above 0 carry their sign. */
export function printDb(db: number, plus = false): string {
  if (db <= SILENCE_DB) return `${MINUS}∞ dB`;
  const text = signed(db, 1);
  return `${plus && db > 0 && text !== '0.0' ? '+' : ''}${text} dB`;
}

/** A pan for reading: `L 40`, `C`, `R 40`, in per cent. */
export function printPan(pan: number): string {
  const percent = Math.round(Math.abs(pan) * 100);
  return percent === 0 ? 'C' : `${pan < 0 ? 'L' : 'R'} ${percent}`;
}

function readDb(text: string): number | string {
  if (/^[-]?\s*(∞|inf(inity)?|silence)$/i.test(text)) return SILENCE_DB;
  const value = Number(text.replace(/\s*db$/i, ''));
  return Number.isFinite(value) && /\d/.test(text)
    ? value
    : `${quoted(text)} is no level. Type a number of dB, such as −6.5, or −inf for silence.`;
}

function readPan(text: string): number | string {
  if (/^(c|centre|center|0)$/i.test(text)) return 0;
  const found = /^(?:([lr])\s*(\d+(?:\.\d+)?)|(\d+(?:\.\d+)?)\s*([lr]))\s*%?$/i.exec(text);
  if (!found) return `${quoted(text)} is no pan. Type L 40, C or R 40.`;
  const side = (found[1] ?? found[4] ?? '').toLowerCase();
  return ((side === 'l' ? -1 : 1) * Number(found[2] ?? found[3])) / 100;
}

function readSwitch(text: string): number | string {
  if (/^(on|1|mute[d]?|yes)$/i.test(text)) return 1;
  if (/^(off|0|open|no)$/i.test(text)) return 0;
  return `${quoted(text)} is neither on nor off. Type on or off.`;
}

const marked = (marks: readonly (readonly [value: number, label: string, isMain?: boolean])[]): ScaleMark[] =>
  marks.map(([value, label, isMain = false]) => ({ value, label, isMain }));
const ofLevel = (db: Db): readonly [number, string, boolean] => [
  db,
  db === 12 ? '+12' : printDb(db).replace(/( dB|\.0)+$/, ''),
  db === 0,
];

/** Levels, silence to +12 dB. */
export const LEVEL_SCALE: ValueScale = {
  law: LEVEL_LAW,
  print: (db) => printDb(db),
  read: (text) => {
    const db = readDb(text);
    return typeof db === 'number' ? Math.max(db, SILENCE_DB) : db;
  },
  marks: marked([12, 0, -15, -30, -60, SILENCE_DB].map(ofLevel)),
  fineMarks: marked(
    [12, 9, 6, 3, 0, -3, -6, -9, -12, -15, -18, -21, -24, -30, -36, -45, -60, SILENCE_DB].map((db) => [
      db,
      printDb(db).replace(' dB', ''),
      db === 0,
    ]),
  ),
};

/** Offsets in dB, which carry their sign. */
export const TRIM_SCALE: ValueScale = {
  law: TRIM_LAW,
  print: (db) => printDb(db, true),
  read: readDb,
  marks: marked([
    [12, '+12'],
    [6, '+6'],
    [0, '0', true],
    [-6, '−6'],
    [-12, '−12'],
  ]),
};

/** Pans, left to right. */
export const PAN_SCALE: ValueScale = {
  law: PAN_LAW,
  print: printPan,
  read: readPan,
  marks: marked([
    [1, 'R'],
    [0.5, ''],
    [0, 'C', true],
    [-0.5, ''],
    [-1, 'L'],
  ]),
};

const switchScale = (on: string, off: string): ValueScale => ({
  law: SWITCH_LAW,
  print: (value) => (value >= 0.5 ? on : off),
  read: readSwitch,
  marks: marked([
    [1, on],
    [0, off, true],
  ]),
});
/** Mutes: on is muted. */
export const MUTE_SCALE = switchScale('muted', 'open');
/** Whatever is on or off. */
export const SWITCH_SCALE = switchScale('on', 'off');

/** A sway reaches so far either side of the line it is on, in travel. */
export const MOST_SWAY: Travel = 0.5;
/** Depths of a sway, in per cent of the throw of what sways. */
export const SWAY_SCALE: ValueScale = {
  law: { kind: 'linear', min: 0, max: MOST_SWAY },
  print: (depth) => `${signed(100 * depth, 1)} %`,
  plain: (depth) => String(Number((100 * depth).toFixed(PLAIN_DIGITS))),
  read: (text) => {
    const value = Number(text.replace(/\s*%$/, ''));
    return /\d/.test(text) && Number.isFinite(value)
      ? value / 100
      : `${quoted(text)} is no depth. Type how far it sways either side, in per cent of the throw, such as 5.`;
  },
  marks: marked([
    [0, '0', true],
    [0.25, '25'],
    [0.5, '50 %'],
  ]),
};

/** A scale of plain numbers of a unit over the range of a law, marked at its ends and at the value that it rests at. */
export function numberScale(
  law: Law,
  { unit, digits, rest }: { unit: string; digits: number; rest: number },
): ValueScale {
  const print = (value: number): string => `${signed(value, digits)}${unit && ` ${unit}`}`;
  const { min, max } = rangeOf(law);
  const ends = [max, min].filter((value) => value !== rest);
  const isUnit = new RegExp(`\\s*${unit}$`, 'i');
  return {
    law,
    print,
    read: (text) => {
      const value = Number(text.replace(isUnit, ''));
      return text !== '' && Number.isFinite(value) ? value : `${quoted(text)} is no number.`;
    },
    marks: marked([
      [rest, signed(rest, digits), true],
      ...ends.map((value) => [value, signed(value, digits)] as const),
    ]),
  };
}

/** A value as a spreadsheet takes it, which {@link parseValue} reads back: a plain number of its unit; `L 40.25`, `on`, `-inf`. */
export function plainValue({ law, print, plain }: ValueScale, value: number): string {
  if (plain) return plain(value);
  if (law === PAN_LAW) {
    const percent = Number((Math.abs(value) * 100).toFixed(PLAIN_DIGITS - 2));
    return percent === 0 ? 'C' : `${value < 0 ? 'L' : 'R'} ${percent}`;
  }
  if (law.kind === 'switch') return print(value);
  if (law.kind === 'level' && value <= SILENCE_DB) return '-inf';
  return String(Number(value.toFixed(PLAIN_DIGITS)));
}

/** A value as it is said aloud. */
export const speakValue = (scale: ValueScale, value: number): string =>
  scale.print(value).replace(`${MINUS}∞ dB`, 'silence').replace(MINUS, 'minus ');

/** What a person typed, without what their keyboard or eye makes of a minus and a point. */
const plainTyped = (typed: string): string => typed.trim().replaceAll(MINUS, '-').replace(',', '.');

/** A plain number as a person types one; null where it is none: nothing, a sign or a point alone, one past all bounds. */
export function readNumber(typed: string): number | null {
  const text = plainTyped(typed);
  const value = /^[-+]?(\d+\.?\d*|\.\d+)(e[-+]?\d+)?$/i.test(text) ? Number(text) : NaN;
  return Number.isFinite(value) ? value : null;
}

/** Reads what a person typed into a value field; a value past the range is refused, naming the range. */
export function parseValue(scale: ValueScale, typed: string): ParsedValue {
  const read = scale.read(plainTyped(typed));
  if (typeof read !== 'number') return { ok: false, sentence: read };
  const { min, max } = rangeOf(scale.law);
  if (read === clamp(read, min, max)) return { ok: true, value: read };
  const [value, from, to] = [read, min, max].map(scale.print);
  return { ok: false, sentence: `${value} is outside ${from} … ${to}.` };
}

/** A mark as it stands beside a throw. */
export type ThrowMark = { readonly travel: Travel; readonly label: string; readonly isMain: boolean };

/** The marks of a scale by where they stand on the throw. */
export const throwMarks = ({ law }: ValueScale, marks: readonly ScaleMark[]): ThrowMark[] =>
  marks.map(({ value, label, isMain }) => ({ travel: travelOf(law, value), label, isMain }));
