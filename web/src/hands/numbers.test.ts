import { describe, expect, test } from '@jest/globals';
import { Curve, linePoint, type Point } from '@sure-hand/core/curve';
import { applyEdit } from '@sure-hand/core/edits';
import { laneOf } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import { NUMBER_COLUMNS, cellText, changedPoint, pastedTable, sortedPlaces, typedCell } from './numbers.js';

const OF = { control: 'voice/level', layer: 'base' } as const;
const POINTS: readonly Point[] = [
  linePoint(2, -20),
  { t: 5, v: -10, shape: 's', bend: 0.5 },
  linePoint(8, -12),
  linePoint(11, -6),
];
const song = testSong({ lanes: { [OF.control]: { points: POINTS } } });
const typed = (column: (typeof NUMBER_COLUMNS)[number], text: string): Point | string =>
  typedCell(song, OF, POINTS[1]!, { column, text, format: 'bars' });

describe('points as numbers', () => {
  test('stand in the three formats of time, with value and shape, and are typed in each', () => {
    const cells = (format: 'bars' | 'tc24'): string[] =>
      NUMBER_COLUMNS.map((column) => cellText(song, OF, POINTS[1]!, column, format));
    expect(cells('bars')).toEqual(['3·3.00', '0:05.000', '00:00:05:00', '−10.0 dB', 's', '0.50']);
    expect(cells('tc24')[2]).toBe('00:00:05:00');
    expect(typed('bar', '4 1')).toMatchObject({ t: 6, v: -10 });
    expect(typed('clock', '0:06.5')).toMatchObject({ t: 6.5 });
    expect(typed('code', '0:00:06:05')).toMatchObject({ t: 6.2 });
    expect(typed('value', '−3,5')).toMatchObject({ v: -3.5, shape: 's' });
    expect(typed('shape', 'Hold')).toMatchObject({ shape: 'hold', bend: 0 });
    expect(typed('bend', '−0.25')).toMatchObject({ shape: 's', bend: -0.25 });
    expect([typed('bar', 'soon'), typed('value', '99'), typed('shape', 'zig'), typed('bend', '')]).toEqual([
      '“soon” is no time. Type a bar such as 17.3, or a time such as 1:02.5.',
      '99.0 dB is outside −∞ dB … 12.0 dB.',
      '“zig” is no shape; there are line, hold, bend, s.',
      '“” is no bend. Type a number from −1 to 1.',
    ]);
    // A number with an exponent is no bar and beat; of a page of text only its beginning is said; past its end the song has nothing.
    expect([
      typed('bar', '1e400'),
      typed('clock', 'The lead at −6 dB, softer.\n'.repeat(40)),
      typed('bar', '1 400'),
    ]).toEqual([
      '“1e400” is no time. Type a bar such as 17.3, or a time such as 1:02.5.',
      '“The lead at −6 dB, softe…” is no time. Type a bar such as 17.3, or a time such as 1:02.5.',
      expect.stringMatching(/^“1 400” is past the end of the song, \d+·\d/),
    ]);
  });

  test('that are typed change alone, and may pass each other', () => {
    const { song: after } = applyEdit(song, changedPoint(OF, POINTS[0]!, { ...POINTS[0]!, t: 9 }));
    expect([...laneOf(after, OF.control).points].map(({ t, v }) => [t, v])).toEqual([
      [5, -10],
      [8, -12],
      [9, -20],
      [11, -6],
    ]);
  });

  test('are sorted by any column, both ways', () => {
    const points = Curve.of(POINTS);
    expect(sortedPlaces(points, { by: 'time', isDown: true })).toEqual([3, 2, 1, 0]);
    expect(sortedPlaces(points, { by: 'value', isDown: false })).toEqual([0, 2, 1, 3]);
    expect(sortedPlaces(points, { by: 'shape', isDown: true })[0]).toBe(1);
  });

  test('come from a spreadsheet in the place of those at their times, or of those picked; wrong rows stay out by name', () => {
    const text = 'Seconds\tValue\n5\t-4\n6\t-3\n7\tloud\n8\t-12';
    const all = pastedTable(song, OF, text, { picked: [], format: 'bars' });
    expect([all.count, all.times, all.wrong.map(({ row }) => row)]).toEqual([3, [5, 6, 8], [4]]);
    const pairs = (edit: typeof all.edit): number[][] =>
      [...laneOf(applyEdit(song, edit!).song, OF.control).points].map(({ t, v }) => [t, v]);
    expect(pairs(all.edit)).toEqual([
      [2, -20],
      [5, -4],
      [6, -3],
      [8, -12],
      [11, -6],
    ]);
    // All of the lane picked: it becomes the table.
    const right = text.replace('loud', '-9');
    const whole = pastedTable(song, OF, right, { picked: [2, 5, 8, 11], format: 'bars' });
    expect(pairs(whole.edit)).toEqual([
      [5, -4],
      [6, -3],
      [7, -9],
      [8, -12],
    ]);
    // While a row is wrong nothing is lost that it was to replace.
    expect(pairs(pastedTable(song, OF, text, { picked: [2, 5, 8, 11], format: 'bars' }).edit)).toEqual(pairs(all.edit));
    const twice = pastedTable(song, OF, '2\t-1\n2\t-2\n2\t-3', { picked: [8], format: 'bars' });
    expect(twice.wrong.map(({ sentence }) => sentence)).toEqual(['Row 3 is the third at its time; two may be.']);
    expect(pairs(twice.edit).slice(0, 3)).toEqual([
      [2, -1],
      [2, -2],
      [5, -10],
    ]);
    expect(pastedTable(song, OF, 'a shopping list', { picked: [], format: 'bars' })).toMatchObject({
      edit: null,
      count: 0,
    });
  });

  test('twenty thousand of them come in whole', () => {
    const many = Array.from({ length: 20_000 }, (_, i) => `${i / 100}\t${-20 + (i % 30)}`).join('\n');
    const big = { ...song, length: 300 };
    const { edit, count } = pastedTable(big, OF, many, { picked: [], format: 'bars' });
    expect(count).toBe(20_000);
    expect(laneOf(applyEdit(big, edit!).song, OF.control).points.length).toBe(20_000);
  });
});
