import type { Seconds } from '../units/index.js';
import { frameRate, type TimeFormat } from './clockTime.js';
import { meterAt, placeAt, quartersAt, timeOfPlace, timeOfQuarters, type MeterMap } from './meterMap.js';

/** What times snap to (rules, 1). The fractions are of a whole note; `T` marks triplets. */
export const GRIDS = [
  'bar',
  'beat',
  '1/2',
  '1/4',
  '1/8',
  '1/16',
  '1/32',
  '1/4T',
  '1/8T',
  '1/16T',
  'section',
  'frame',
] as const;
export type Grid = (typeof GRIDS)[number];

/** What a snap needs to know of the song. */
export type GridSong = {
  readonly map: MeterMap;
  readonly sections: readonly { readonly t: Seconds }[];
  readonly format: TimeFormat;
};

const nearer = (x: number, a: number, b: number): number => (x - a <= b - x ? a : b);

/** Quarter notes from one line to the next of a note grid, counted from the bar's start. */
function stepInQuarters(grid: Grid, map: MeterMap, t: Seconds): number {
  if (grid === 'beat') return 4 / meterAt(map, t).unit;
  const triplet = grid.endsWith('T');
  const part = Number(grid.replace('T', '').split('/')[1]);
  return (4 / part) * (triplet ? 2 / 3 : 1);
}

/** The nearest grid line to t; halfway goes to the earlier one. */
export function snap(song: GridSong, grid: Grid, t: Seconds): Seconds {
  const { map } = song;
  if (grid === 'frame') {
    const { perSec } = frameRate(song.format);
    return Math.round(t * perSec) / perSec;
  }
  if (grid === 'section') {
    const lines = song.sections.map((s) => s.t);
    return lines.length ? lines.reduce((best, line) => (Math.abs(line - t) < Math.abs(best - t) ? line : best)) : t;
  }
  const { bar } = placeAt(map, t);
  const barStart = timeOfPlace(map, { bar, beat: 1, hundredths: 0 });
  const nextBar = timeOfPlace(map, { bar: bar + 1, beat: 1, hundredths: 0 });
  if (grid === 'bar') return nearer(t, barStart, nextBar);
  const step = stepInQuarters(grid, map, t);
  const from = quartersAt(map, barStart);
  const steps = Math.floor((quartersAt(map, t) - from) / step + 1e-9);
  const before = timeOfQuarters(map, from + steps * step);
  const after = Math.min(nextBar, timeOfQuarters(map, from + (steps + 1) * step));
  return nearer(t, before, after);
}
