import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { gainOfTravel, levelOfTravel, travelOf, travelOfLevel, valueOf, type Law } from './travel.js';
import { SILENCE_DB, gainOfDb } from './unit.js';

describe('the level throw', () => {
  test.each([
    [0.05, -60],
    [0.15, -45],
    [0.3, -30],
    [0.5, -15],
    [0.75, 0],
    [1, 12],
    [0.1, -52.5],
    [0.625, -7.5],
    [0.875, 6],
  ])('stands at travel %f for %f dB', (travel, db) => {
    expect(levelOfTravel(travel)).toBeCloseTo(db, 12);
    expect(travelOfLevel(db)).toBeCloseTo(travel, 12);
  });

  test('is linear in gain below −60 dB, down to exact silence', () => {
    expect(gainOfTravel(0.025)).toBeCloseTo(0.0005, 12);
    expect(gainOfTravel(0)).toBe(0);
    expect(levelOfTravel(0)).toBe(SILENCE_DB);
    expect(travelOfLevel(-144)).toBe(0);
    expect(travelOfLevel(-300)).toBe(0);
    expect(gainOfDb(-144)).toBe(0);
  });

  test('gives the gain of its dB everywhere', () => {
    fc.assert(
      fc.property(fc.double({ min: 0, max: 1, noNaN: true }), (x) => {
        expect(gainOfTravel(x)).toBeCloseTo(gainOfDb(levelOfTravel(x)), 12);
      }),
    );
  });
});

const laws: Law[] = [
  { kind: 'level' },
  { kind: 'trim' },
  { kind: 'switch' },
  { kind: 'linear', min: -1, max: 1 },
  { kind: 'log', min: 20, max: 20000 },
];

test.each(laws)('$kind goes to a value and back to 1e-9, above silence', (law) => {
  fc.assert(
    fc.property(fc.double({ min: 1e-5, max: 1, noNaN: true }), (x) => {
      expect(Math.abs(travelOf(law, valueOf(law, x)) - x)).toBeLessThan(1e-9);
    }),
  );
});

test('trim stands at (v + 12) / 24', () => {
  expect(travelOf({ kind: 'trim' }, -12)).toBe(0);
  expect(travelOf({ kind: 'trim' }, 3)).toBe(15 / 24);
});

test('a logarithmic parameter doubles over equal travel', () => {
  const law: Law = { kind: 'log', min: 100, max: 1600 };
  expect(valueOf(law, 0.25)).toBeCloseTo(200, 9);
  expect(valueOf(law, 0.5)).toBeCloseTo(400, 9);
});
