import { Curve, SHAPES, type Point, type Shape } from '@sure-hand/core/curve';
import type { Edit, LayerOf } from '@sure-hand/core/edits';
import { pointsOfRows, readPointTable, type WrongRow } from '@sure-hand/core/formats';
import { controlOf, laneOf, layerPoints, layerScale, type Song } from '@sure-hand/core/song';
import { meterMap, parseTime, printTime, type TimeFormat } from '@sure-hand/core/time';
import { clamp, parseValue, quoted, type Seconds } from '@sure-hand/core/units';
import { changedPoints, withShape } from './pickedPoints.js';

export const NUMBER_COLUMNS = ['bar', 'clock', 'code', 'value', 'shape', 'bend'] as const;
/** A column of the points of a lane as numbers. */
export type NumberColumn = (typeof NUMBER_COLUMNS)[number];

/** The timecode that stands in the table: the one the position is read in, else of 25 frames. */
const codeFormat = (format: TimeFormat): TimeFormat => (format.startsWith('tc') ? format : 'tc25');

/** What a cell of a point says. */
export function cellText(song: Song, of: LayerOf, point: Point, column: NumberColumn, format: TimeFormat): string {
  const map = meterMap(song.tempo, song.meter);
  switch (column) {
    case 'bar':
      return printTime('bars', map, point.t);
    case 'clock':
      return printTime('clock', map, point.t);
    case 'code':
      return printTime(codeFormat(format), map, point.t);
    case 'value':
      return layerScale(controlOf(song, of.control), of.layer).print(point.v);
    case 'shape':
      return point.shape;
    case 'bend':
      return point.shape === 'bend' || point.shape === 's' ? point.bend.toFixed(2).replace('-', '−') : '';
  }
}

/** A point with another cell, as it was typed; or the sentence that says why it can't be that. */
export function typedCell(
  song: Song,
  of: LayerOf,
  point: Point,
  { column, text, format }: { readonly column: NumberColumn; readonly text: string; readonly format: TimeFormat },
): Point | string {
  if (column === 'value') {
    const read = parseValue(layerScale(controlOf(song, of.control), of.layer), text);
    return read.ok ? { ...point, v: read.value } : read.sentence;
  }
  if (column === 'shape') {
    const word = text.trim().toLowerCase() as Shape;
    return SHAPES.includes(word)
      ? withShape(point, word)
      : `${quoted(text)} is no shape; there are ${SHAPES.join(', ')}.`;
  }
  if (column === 'bend') {
    const bend = Number(text.replace('−', '-').replace(',', '.'));
    if (text.trim() === '' || !Number.isFinite(bend)) return `${quoted(text)} is no bend. Type a number from −1 to 1.`;
    const shape = point.shape === 's' ? 's' : 'bend';
    return withShape(point, shape, clamp(bend, -1, 1));
  }
  const t = parseTime(text, meterMap(song.tempo, song.meter), codeFormat(format));
  if (t === null) return `${quoted(text)} is no time. Type a bar such as 17.3, or a time such as 1:02.5.`;
  const end = printTime(column === 'bar' ? 'bars' : 'clock', meterMap(song.tempo, song.meter), song.length);
  return t <= song.length ? { ...point, t } : `${quoted(text)} is past the end of the song, ${end}.`;
}

/** A pasted table as an edit of a lane, and the rows of it that do not go in. */
export type PastedTable = {
  readonly edit: Edit | null;
  readonly count: number;
  readonly wrong: readonly WrongRow[];
  readonly times: readonly Seconds[];
};

/**
 * A table of points put into a lane: in the place of what stands at the same times, and, while no row is wrong, of those that are
 * picked; beside all else. Rows that are wrong stay out and are named.
 */
export function pastedTable(
  song: Song,
  of: LayerOf,
  text: string,
  { picked, format }: { readonly picked: readonly Seconds[]; readonly format: TimeFormat },
): PastedTable {
  const map = meterMap(song.tempo, song.meter);
  const scale = layerScale(controlOf(song, of.control), of.layer);
  const terms = { scale, map, format: codeFormat(format), length: song.length };
  const { rows, wrong } = readPointTable(text, terms);
  const now = [...layerPoints(laneOf(song, of.control), of.layer)];
  const points = pointsOfRows(rows, now);
  // Where a row is wrong, nothing is taken out for which nothing comes: what it was to replace stays.
  const times = new Set(points.map(({ t }) => t));
  if (!wrong.length) for (const t of picked) times.add(t);
  const remove = now.filter(({ t }) => times.has(t)).map(({ t, v }) => ({ t, v }));
  const edit: Edit | null = points.length ? { kind: 'points', ...of, remove, add: Curve.of(points) } : null;
  return { edit, count: points.length, wrong, times: [...new Set(points.map(({ t }) => t))] };
}

/** The edit that changes one point of a lane. */
export const changedPoint = (of: LayerOf, was: Point, is: Point): Edit => changedPoints(of, [was], () => is);

/** By what the rows are sorted, and which way. */
export type Sorting = { readonly by: 'time' | 'value' | 'shape'; readonly isDown: boolean };

/** The places of a lane's points in the order of the table. */
export function sortedPlaces(points: Curve, { by, isDown }: Sorting): readonly number[] {
  const places = Array.from(points.t, (_, i) => i);
  const key = by === 'value' ? points.v : by === 'shape' ? points.shape : points.t;
  if (by !== 'time') places.sort((a, b) => key[a]! - key[b]! || a - b);
  return isDown ? places.reverse() : places;
}
