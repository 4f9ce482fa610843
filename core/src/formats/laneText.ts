import { Curve, CurveMaker, SHAPES, type Point, type Shape } from '../curve/index.js';
import { MOST_SECONDS } from '../song/schemaParts.js';
import { rangeOf, type Law, type Seconds } from '../units/index.js';
import type { Read } from './songDocument.js';

/** A stretch of a curve by itself, from 0 to its length: what is copied, as it lies on the clipboard. */
export type LanePiece = {
  /** What it was copied from, to be read by a person. */
  readonly name: string;
  readonly law: Law;
  readonly length: Seconds;
  readonly points: Curve;
};

const TITLE = 'Sure Hand curve';
const HEADS = ['time', 'value', 'shape', 'bend', 'from', 'to'] as const;
/** More rows than that are no curve that was copied. */
const MOST_ROWS = 1_000_000;

const lawWords = (law: Law): string => ('min' in law ? `${law.kind} ${law.min} ${law.max}` : law.kind);

function lawOfWords(words: string): Law | null {
  const [kind, ...ends] = words.trim().split(/\s+/);
  if (kind === 'level' || kind === 'trim' || kind === 'switch') return ends.length ? null : { kind };
  const [min, max] = ends.map(Number);
  if (ends.length !== 2 || !(min! < max!) || !Number.isFinite(min) || !Number.isFinite(max)) return null;
  if (kind === 'linear') return { kind, min: min!, max: max! };
  return kind === 'log' && min! > 0 ? { kind, min: min!, max: max! } : null;
}

/** A piece as text that a person, or a spreadsheet, can read: a line that says what it is, and a line for each point. */
export function printPiece({ name, law, length, points }: LanePiece): string {
  const rows = [...points].map(({ t, v, shape, bend, part }) => [t, v, shape, bend, ...(part ?? [])].join('\t'));
  return [[TITLE, name.replaceAll(/\s+/g, ' '), lawWords(law), length].join('\t'), HEADS.join('\t'), ...rows, ''].join(
    '\n',
  );
}

/** Whether a text says that it is a copied curve. */
export const isPiece = (text: string): boolean => text.startsWith(TITLE);

/** A piece from text; or the sentence that says which line is wrong, and why. */
export function readPiece(text: string): Read<LanePiece> {
  const wrong = (sentence: string): Read<LanePiece> => ({ ok: false, sentence });
  if (!isPiece(text)) return wrong('What was copied is no curve: copy a range of a lane first.');
  const lines = text.split(/\r?\n/).filter((line) => line.trim());
  if (lines.length > MOST_ROWS)
    return wrong(`The copied curve has ${lines.length} lines, which is more than can be pasted.`);
  const [, name = '', words = '', span = ''] = lines[0]!.split('\t');
  const law = lawOfWords(words);
  const length = Number(span);
  if (!law) return wrong(`Line 1 of the copied curve says “${words.slice(0, 40)}”, which is no kind of control.`);
  if (!(length > 0 && length <= MOST_SECONDS)) return wrong('Line 1 of the copied curve says no length in seconds.');
  const maker = new CurveMaker(lines.length);
  let last = 0;
  for (const [i, line] of lines.slice(2).entries()) {
    const point = readPoint(line, law, length);
    if (typeof point === 'string') return wrong(`Line ${i + 3} of the copied curve ${point}.`);
    if (point.t < last) return wrong(`Line ${i + 3} of the copied curve comes before the one it follows.`);
    if (maker.timeFromEnd(2) === point.t)
      return wrong(`Line ${i + 3} of the copied curve is the third at ${point.t} s; two may be.`);
    last = point.t;
    maker.add(point);
  }
  return maker.length
    ? { ok: true, value: { name: name.slice(0, 200), law, length, points: maker.make() } }
    : wrong('The copied curve has no points.');
}

/** The point of a line; or what is wrong with it, as the end of a sentence. */
function readPoint(line: string, law: Law, length: Seconds): Point | string {
  const [time, value, shape = 'line', bend = '0', from, to] = line.split('\t').map((cell) => cell.trim());
  const [t, v, b] = [Number(time || NaN), Number(value || NaN), Number(bend || 0)];
  const { min, max } = rangeOf(law);
  if (!(t >= 0 && t <= length)) return `has no time between 0 and ${length} s`;
  if (!(v >= min && v <= max) || (law.kind === 'switch' && v !== 0 && v !== 1))
    return `has no value between ${min} and ${max}`;
  if (!SHAPES.includes((shape || 'line') as Shape))
    return `has the shape “${shape.slice(0, 20)}”; there are ${SHAPES.join(', ')}`;
  if (!(b >= -1 && b <= 1)) return 'has a bend outside −1 … 1';
  const point: Point = { t, v, shape: (shape || 'line') as Shape, bend: b };
  if (!from && !to) return point;
  const [u0, u1] = [Number(from || NaN), Number(to || NaN)];
  return u0 >= 0 && u0 <= u1 && u1 <= 1 ? { ...point, part: [u0, u1] } : 'is no part of a shape';
}
