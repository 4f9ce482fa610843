import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { parseTime, printBars, printClock, printTimecode } from './clockTime.js';
import { snap } from './grid.js';
import { barLines, meterMap, placeAt, quartersAt, timeOfPlace, timeOfQuarters } from './meterMap.js';

/** 4/4 at 120, one bar of 2/4 from 16 s, back to 4/4 at 17 s; the tempo halves at 20 s. */
const map = meterMap(
  [
    { t: 0, bpm: 120 },
    { t: 20, bpm: 60 },
  ],
  [
    { t: 0, beats: 4, unit: 4 },
    { t: 16, beats: 2, unit: 4 },
    { t: 17, beats: 4, unit: 4 },
  ],
);

describe('bars and beats', () => {
  test.each([
    [0, '1·1.00'],
    [0.5, '1·2.00'],
    [1.75, '1·4.50'],
    [2, '2·1.00'],
    [16, '9·1.00'],
    [16.5, '9·2.00'],
    [17, '10·1.00'],
    [21, '11·4.00'],
  ])('%f s is %s', (t, bars) => {
    expect(printBars(map, t)).toBe(bars);
  });

  test('a meter change off the bar line starts a bar of its own', () => {
    const early = meterMap(
      [{ t: 0, bpm: 120 }],
      [
        { t: 0, beats: 4, unit: 4 },
        { t: 3, beats: 3, unit: 4 },
      ],
    );
    expect(placeAt(early, 2.5)).toMatchObject({ bar: 2, beat: 2 });
    expect(placeAt(early, 3)).toMatchObject({ bar: 3, beat: 1 });
  });

  test('a place and its time agree both ways, over tempo and meter changes', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 60, noNaN: true }), (t) => {
        expect(timeOfPlace(map, placeAt(map, t))).toBeCloseTo(t, 5);
        expect(timeOfQuarters(map, quartersAt(map, t))).toBeCloseTo(t, 9);
      }),
    );
  });

  test('bar lines fall where the bars begin', () => {
    expect(barLines(map, 14, 20).map((l) => [l.bar, l.t])).toEqual([
      [8, 14],
      [9, 16],
      [10, 17],
      [11, 19],
    ]);
  });
});

describe('clock and timecode', () => {
  test('minutes, seconds, milliseconds', () => {
    expect(printClock(125.4124)).toBe('2:05.412');
    expect(printClock(59.9996)).toBe('1:00.000');
  });

  test('whole-number rates count straight on', () => {
    expect(printTimecode('tc25', 3723.48)).toBe('01:02:03:12');
    expect(printTimecode('tc24', 0.5)).toBe('00:00:00:12');
    expect(printTimecode('tc30', 61)).toBe('00:01:01:00');
  });

  test('drop-frame leaves out two numbers a minute but not each tenth (SMPTE ST 12-1)', () => {
    const at = (frame: number): string => printTimecode('tc29.97df', (frame * 1001) / 30000);
    expect(at(1799)).toBe('00:00:59;29');
    expect(at(1800)).toBe('00:01:00;02');
    expect(at(17981)).toBe('00:09:59;29');
    expect(at(17982)).toBe('00:10:00;00');
    expect(at(107892)).toBe('01:00:00;00');
  });

  test.each([
    ['10', 17],
    ['9·2.00', 16.5],
    ['9 2', 16.5],
    ['9.2', 16.5],
    ['9.2.50', 16.75],
    ['9 1.5', 16.25],
    ['9/1,25', 16.125],
    [' 9 | 2 ', 16.5],
    ['1:02.5', 62.5],
    ['0', null],
    ['9 0', null],
    ['9 2 3 4', null],
    ['soon', null],
    ['-3', null],
  ])('typed, %s is read as bars or as clock time', (typed, t) => {
    expect(parseTime(typed, map)).toBe(t);
  });

  test('a place that is printed is read back, to a hundredth of a beat', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 60, noNaN: true }), (t) => {
        const read = parseTime(printBars(map, t), map)!;
        expect(Math.abs(read - t)).toBeLessThan(0.0101);
      }),
    );
  });
});

describe('snapping', () => {
  const song = { map, sections: [{ t: 0 }, { t: 17 }], format: 'tc25' as const };
  test.each([
    ['bar', 16.4, 16],
    ['bar', 16.6, 17],
    ['beat', 0.7, 0.5],
    ['1/8', 0.7, 0.75],
    ['1/4T', 0.6, 2 / 3],
    ['1/2', 16.9, 17],
    ['section', 9, 17],
    ['section', 8, 0],
    ['frame', 1.03, 1.04],
  ] as const)('to %s, %f s goes to %f s', (grid, t, to) => {
    expect(snap(song, grid, t)).toBeCloseTo(to, 9);
  });
});
