import { SHAPES, type Point, type Shape } from '../curve/index.js';
import { MOST_SECONDS } from '../song/schemaParts.js';
import { parseTime, printTime, type MeterMap, type TimeFormat } from '../time/index.js';
import { parseValue, plainValue, type Seconds, type ValueScale } from '../units/index.js';

/** What points are printed and read with: the scale of their values, how the song counts time, and how long it is. */
export type TableTerms = {
  readonly scale: ValueScale;
  readonly map: MeterMap;
  readonly format: TimeFormat;
  readonly length: Seconds;
};

/** A row that is no point: counted from 1 with the row of heads, and what is wrong with it. */
export type WrongRow = { readonly row: number; readonly sentence: string };

/** A point read from a table, and the row it stood in. */
export type RowOfTable = { readonly row: number; readonly point: Point };

const HEADS = ['Seconds', 'Value', 'Shape', 'Bend'] as const;
/** Decimals of a second: a hundredth of what lies between two samples. */
const TIME_DIGITS = 7;
/** More rows than that are no table of one lane. */
const MOST_ROWS = 200_000;

/** Points as a table that a spreadsheet takes: a row of heads, then one for each, parted by tabs. */
export function printPointTable(points: Iterable<Point>, { scale }: Pick<TableTerms, 'scale'>): string {
  const rows = [...points].map(({ t, v, shape, bend }) =>
    [Number(t.toFixed(TIME_DIGITS)), plainValue(scale, v), shape, Number(bend.toFixed(4))].join('\t'),
  );
  return [HEADS.join('\t'), ...rows, ''].join('\n');
}

/** What a column of a table is, by the word over it. */
const COLUMNS: Readonly<Record<string, keyof Cells>> = {
  seconds: 'seconds',
  time: 'time',
  bar: 'time',
  timecode: 'time',
  value: 'value',
  shape: 'shape',
  bend: 'bend',
};
type Cells = { seconds?: string; time?: string; value?: string; shape?: string; bend?: string };
/** Without a row of heads a table is of these. */
const USUAL: readonly (keyof Cells)[] = ['seconds', 'value', 'shape', 'bend'];

const columnOf = (head: string): keyof Cells | undefined => {
  const [word = ''] = /[a-z]+/i.exec(head) ?? [];
  return Object.hasOwn(COLUMNS, word.toLowerCase()) ? COLUMNS[word.toLowerCase()] : undefined;
};

const separatorOf = (text: string): string => ['\t', ';', ','].find((one) => text.includes(one)) ?? '\t';

/**
 * Points from a table, each with its row, in the order of the rows; and the rows that are none, with what is wrong. Rows that are
 * empty are passed over. Times are in seconds, or as one types them where the column says so.
 */
export function readPointTable(
  text: string,
  terms: TableTerms,
): { readonly rows: readonly RowOfTable[]; readonly wrong: readonly WrongRow[] } {
  const separator = separatorOf(text);
  const lines = text
    .split(/\r?\n/)
    .map((line) => line.split(separator).map((cell) => cell.trim().replace(/^"|"$/g, '')));
  if (lines.length > MOST_ROWS)
    return {
      rows: [],
      wrong: [
        { row: MOST_ROWS, sentence: `The table has ${lines.length} rows; one lane takes no more than ${MOST_ROWS}.` },
      ],
    };
  const heads = lines[0]!.map(columnOf);
  const hasHeads = heads.some((one) => one !== undefined);
  const columns = hasHeads ? heads : USUAL;
  const rows: RowOfTable[] = [];
  const wrong: WrongRow[] = [];
  const counts = new Map<Seconds, number>();
  for (const [i, cells] of lines.entries()) {
    if ((hasHeads && i === 0) || cells.every((cell) => cell === '')) continue;
    const row = i + 1;
    const read = readRow(cellsOf(cells, columns), terms);
    const point = typeof read === 'string' ? null : read;
    const count = point ? (counts.get(point.t) ?? 0) + 1 : 0;
    if (point) counts.set(point.t, count);
    const sentence = typeof read === 'string' ? read : count > 2 ? 'is the third at its time; two may be' : null;
    if (sentence) wrong.push({ row, sentence: `Row ${row} ${sentence}.` });
    else rows.push({ row, point: point! });
  }
  return { rows, wrong };
}

function cellsOf(row: readonly string[], columns: readonly (keyof Cells | undefined)[]): Cells {
  const cells: Cells = {};
  columns.forEach((column, i) => {
    if (column && cells[column] === undefined && row[i] !== undefined) cells[column] = row[i];
  });
  return cells;
}

/** The point of a row; or what is wrong with it, as the end of a sentence. */
function readRow(
  { seconds, time, value = '', shape = '', bend = '' }: Cells,
  { scale, map, format, length }: TableTerms,
): Point | string {
  const said = seconds || time || '';
  const plain = Number(said.replace(',', '.').replace('−', '-'));
  const t = seconds && said !== '' && Number.isFinite(plain) ? plain : parseTime(said, map, format);
  if (t === null) return `has no time: “${said.slice(0, 20)}” is neither seconds nor a bar`;
  if (!(t >= 0 && t <= MOST_SECONDS)) return `has no time of a song: ${said.slice(0, 20)} s`;
  if (t > length) return `stands past the end of the song, ${printTime('clock', map, length)}`;
  const v = parseValue(scale, value);
  if (!v.ok) return `has no value that fits: ${v.sentence.replace(/\.$/, '')}`;
  const isSwitch = scale.law.kind === 'switch';
  const word = (shape || (isSwitch ? 'hold' : 'line')).toLowerCase();
  if (!SHAPES.includes(word as Shape)) return `has the shape “${shape.slice(0, 20)}”; there are ${SHAPES.join(', ')}`;
  const b = bend === '' ? (word === 's' ? 0.5 : 0) : Number(bend.replace(',', '.').replace('−', '-'));
  if (!(b >= -1 && b <= 1)) return `has the bend “${bend.slice(0, 20)}”, which is none of −1 … 1`;
  return { t, v: v.value, shape: word as Shape, bend: word === 'line' || word === 'hold' ? 0 : b };
}

/** How near a row stands to a point, in seconds and its unit, to be that point as it was printed. */
const SAME = { t: 1e-6, v: 1e-3 } as const;

/**
 * Rows as points, each of them that is a point of the lane just as that was printed being that point, to the last bit and with the part of
 * its shape that it is.
 */
export function pointsOfRows(rows: readonly RowOfTable[], now: Iterable<Point>): Point[] {
  const there = [...now];
  let at = 0;
  return rows
    .map(({ point }) => point)
    .sort((a, b) => a.t - b.t)
    .map((point) => {
      while (at < there.length && there[at]!.t < point.t - SAME.t) at++;
      const same = there
        .slice(at, at + 2)
        .find(
          (one) =>
            Math.abs(one.t - point.t) <= SAME.t &&
            Math.abs(one.v - point.v) <= SAME.v &&
            one.shape === point.shape &&
            Math.abs(one.bend - point.bend) <= SAME.v,
        );
      return same ?? point;
    });
}
