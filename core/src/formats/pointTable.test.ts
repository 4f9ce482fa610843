import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { SHAPES, linePoint } from '../curve/index.js';
import { meterMap, parseTime, printTimecode, type TimeFormat } from '../time/index.js';
import { curves } from '../test/curves.js';
import { LEVEL_SCALE, MUTE_SCALE, PAN_SCALE, TRIM_SCALE, numberScale, parseValue, plainValue } from '../units/index.js';
import { pointsOfRows, printPointTable, readPointTable } from './pointTable.js';

const terms = {
  scale: LEVEL_SCALE,
  map: meterMap([{ t: 0, bpm: 120 }], []),
  format: 'bars' as const,
  length: 86_400,
};
const read = (text: string, more: object = {}): ReturnType<typeof readPointTable> =>
  readPointTable(text, { ...terms, ...more });

describe('points as a table', () => {
  test('come back from a spreadsheet as they went, to the last bit', () => {
    fc.assert(
      fc.property(curves, (points) => {
        const { rows, wrong } = read(printPointTable(points, terms));
        expect(wrong).toEqual([]);
        const plain = points.map((p) => ({ ...p, bend: p.shape === 'line' || p.shape === 'hold' ? 0 : p.bend }));
        expect(pointsOfRows(rows, plain)).toEqual(plain);
      }),
      { numRuns: 200 },
    );
  });

  test('are read by the words over their columns, in any order, with the separators of spreadsheets', () => {
    const { rows, wrong } = read('Shape;Bar;Value (dB)\ns;3·1.00;−4,5\nhold;0:07.25;-inf\n;;\n');
    expect(wrong).toEqual([]);
    expect(rows).toEqual([
      { row: 2, point: { t: 4, v: -4.5, shape: 's', bend: 0.5 } },
      { row: 3, point: { t: 7.25, v: -144, shape: 'hold', bend: 0 } },
    ]);
    // Without heads: seconds, value, shape, bend.
    expect(read('1.5,-3\n2,-6,bend,-0.25').rows.map(({ point }) => point)).toEqual([
      linePoint(1.5, -3),
      { t: 2, v: -6, shape: 'bend', bend: -0.25 },
    ]);
  });

  test('with a wrong cell are refused by row and reason, and the rest goes in', () => {
    const { rows, wrong } = read(
      'Seconds\tValue\tShape\tBend\n1\t-3\n2\tloud\n-3\t0\n4\t40\n5\t-3\tcurly\n6\t-3\tbend\t7\nsoon\t0\n7\t-1\n7\t-2\n7\t-3\n60\t-4\n60.5\t-4',
      { length: 60 },
    );
    expect(rows.map(({ row }) => row)).toEqual([2, 9, 10, 12]);
    expect(wrong.map(({ sentence }) => sentence)).toEqual([
      'Row 3 has no value that fits: “loud” is no level. Type a number of dB, such as −6.5, or −inf for silence.',
      'Row 4 has no time of a song: -3 s.',
      'Row 5 has no value that fits: 40.0 dB is outside −∞ dB … 12.0 dB.',
      `Row 6 has the shape “curly”; there are ${SHAPES.join(', ')}.`,
      'Row 7 has the bend “7”, which is none of −1 … 1.',
      'Row 8 has no time: “soon” is neither seconds nor a bar.',
      'Row 11 is the third at its time; two may be.',
      'Row 13 stands past the end of the song, 1:00.000.',
    ]);
  });

  test('of a switch hold, and are on or off', () => {
    expect(read('1\tmuted\n2\toff', { scale: MUTE_SCALE }).rows.map(({ point }) => [point.v, point.shape])).toEqual([
      [1, 'hold'],
      [0, 'hold'],
    ]);
  });
});

test('a value stands in a table as one can type it, of every scale', () => {
  const freq = numberScale({ kind: 'log', min: 20, max: 20_000 }, { unit: 'Hz', digits: 0, rest: 1000 });
  for (const [scale, value] of [
    [LEVEL_SCALE, -144],
    [LEVEL_SCALE, -6.2345],
    [TRIM_SCALE, 3.125],
    [PAN_SCALE, -0.4025],
    [PAN_SCALE, 0],
    [MUTE_SCALE, 1],
    [freq, 440.1234],
  ] as const) {
    expect(parseValue(scale, plainValue(scale, value))).toEqual({ ok: true, value });
  }
});

test('timecode that is typed is where it is printed, in every format; frames that are left out are none', () => {
  const map = meterMap([], []);
  for (const format of ['tc24', 'tc25', 'tc29.97df', 'tc30'] as const satisfies readonly TimeFormat[])
    for (const t of [0, 1.04, 59.99, 60.1, 123.456, 599.99, 600, 3661.5]) {
      const back = parseTime(printTimecode(format, t), map, format)!;
      expect(t - back).toBeGreaterThan(-1e-6);
      expect(t - back).toBeLessThan(1 / 23.9);
      expect(printTimecode(format, back)).toBe(printTimecode(format, t));
    }
  expect(parseTime('0:01:00;00', map, 'tc29.97df')).toBeNull();
  expect(parseTime('0:10:00;00', map, 'tc29.97df')).toBeCloseTo(600, 1);
  expect(parseTime('0:00:01:25', map, 'tc25')).toBeNull();
});
