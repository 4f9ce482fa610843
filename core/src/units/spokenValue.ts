import { SILENCE_DB, clamp } from './unit.js';
import { rangeOf, type Law } from './travel.js';

/** How a control's value is printed and typed. */
export type Display = 'dB' | 'pan' | 'mute' | 'switch' | 'number';

/** A typed value, or the sentence that says why it is none. */
export type ParsedValue =
  { readonly ok: true; readonly value: number } | { readonly ok: false; readonly sentence: string };

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

/** Any control's value for reading. */
export function printValue(display: Display, value: number): string {
  switch (display) {
    case 'dB':
      return printDb(value);
    case 'pan':
      return printPan(value);
    case 'mute':
      return value >= 0.5 ? 'muted' : 'open';
    case 'switch':
      return value >= 0.5 ? 'on' : 'off';
    case 'number':
      return signed(value, 2);
  }
}

const wrong = (sentence: string): ParsedValue => ({ ok: false, sentence });

function parseDb(text: string): ParsedValue | number {
  if (/^[-]?\s*(∞|inf(inity)?|silence)$/i.test(text)) return SILENCE_DB;
  const value = Number(text.replace(/\s*db$/i, ''));
  return Number.isFinite(value) && /\d/.test(text)
    ? value
    : wrong(`“${text}” is no level. Type a number of dB, such as −6.5, or −inf for silence.`);
}

function parsePan(text: string): ParsedValue | number {
  if (/^(c|centre|center|0)$/i.test(text)) return 0;
  const found = /^(?:([lr])\s*(\d+(?:\.\d+)?)|(\d+(?:\.\d+)?)\s*([lr]))\s*%?$/i.exec(text);
  if (!found) return wrong(`“${text}” is no pan. Type L 40, C or R 40.`);
  const side = (found[1] ?? found[4] ?? '').toLowerCase();
  return ((side === 'l' ? -1 : 1) * Number(found[2] ?? found[3])) / 100;
}

function parseSwitch(text: string): ParsedValue | number {
  if (/^(on|1|mute[d]?|yes)$/i.test(text)) return 1;
  if (/^(off|0|open|no)$/i.test(text)) return 0;
  return wrong(`“${text}” is neither on nor off. Type on or off.`);
}

/** Reads what a person typed into a value field; a value past the range is refused, naming the range. */
export function parseValue(display: Display, law: Law, typed: string): ParsedValue {
  const text = typed.trim().replaceAll(MINUS, '-').replace(',', '.');
  const read =
    display === 'dB'
      ? parseDb(text)
      : display === 'pan'
        ? parsePan(text)
        : display === 'number'
          ? Number(text)
          : parseSwitch(text);
  if (typeof read !== 'number') return read;
  if (Number.isNaN(read) || text === '') return wrong(`“${typed}” is no number.`);
  const { min, max } = rangeOf(law);
  if (display === 'dB' && read <= SILENCE_DB && min === SILENCE_DB) return { ok: true, value: SILENCE_DB };
  if (read !== clamp(read, min, max))
    return wrong(`${printValue(display, read)} is outside ${printValue(display, min)} … ${printValue(display, max)}.`);
  return { ok: true, value: read };
}
