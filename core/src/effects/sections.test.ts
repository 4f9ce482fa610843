import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import { GRID_FRAMES, parameterTableText, sectionResponse, settingTableText } from './index.js';
import { RATE, impulse, magnitudeDb, silence, through, type Values } from '../test/effects.js';
import { firstOther } from '../test/often.js';

/** The magnitude by the note's own formulas, which the sound is not worked out with. */
const formulaDb = (
  shape: Parameters<typeof sectionResponse>[0],
  hz: number,
  q: number,
  db: number,
  at: number,
): number => sectionResponse(shape, { hz, q, db }, RATE)(at);

/** Twenty frequencies over the whole range. */
const TWENTY = Array.from({ length: 20 }, (_, i) => 20 * 1000 ** (i / 19));
const SEC = 2.5;

function holdsTo(name: string, settings: object, values: Values, formula: (hz: number) => number): void {
  const { left, right } = through(name, { settings, left: impulse(SEC), values: () => values });
  expect(firstOther(right, left)).toBe(-1);
  for (const hz of TWENTY) {
    const should = formula(hz);
    const is = magnitudeDb(left, hz);
    if (should > -60) expect(Math.abs(is - should)).toBeLessThan(0.1);
    else expect(is).toBeLessThan(-58);
  }
}

describe('the equaliser has the magnitude of the note’s formulas, at twenty frequencies', () => {
  test.each([
    ['lowShelf', 90, 0.7071, 12],
    ['lowShelf', 2000, 2, -18],
    ['peak', 50, 10, 18],
    ['peak', 1000, 0.1, -18],
    ['peak', 15_000, 3, 9],
    ['highShelf', 6000, 0.7071, -12],
    ['highShelf', 400, 1.5, 18],
  ])('%s at %d Hz, Q %d, %d dB', (shape, hz, q, db) => {
    const shapes = [shape, 'peak', 'peak', 'peak'];
    holdsTo('equaliser', { shapes }, { freq1: hz, q1: q, gain1: db }, (at) => formulaDb(shape, hz, q, db, at));
  });

  test('its four bands come one on top of the other; at rest it changes no bit', () => {
    const bands = {
      freq1: 80,
      gain1: 6,
      freq2: 300,
      gain2: -9,
      q2: 2,
      freq3: 3000,
      gain3: 4,
      q3: 4,
      freq4: 9000,
      gain4: -6,
    };
    holdsTo('equaliser', {}, bands, (at) => {
      const low = formulaDb('lowShelf', 80, 0.7071, 6, at) + formulaDb('peak', 300, 2, -9, at);
      return low + formulaDb('peak', 3000, 4, 4, at) + formulaDb('highShelf', 9000, 0.7071, -6, at);
    });
    const noise = Float32Array.from({ length: 5000 }, (_, n) => Math.sin(n * n));
    expect(through('equaliser', { left: noise }).left).toEqual(noise);
  });
});

test('an equaliser that has come to its values from others sounds as one that had them from the start, to the last bit', () => {
  const left = silence(0.05);
  left[2 * GRID_FRAMES * 10] = 1;
  const shapes = ['peak', 'lowShelf', 'highShelf', 'peak'];
  const there: Values = { freq1: 90, gain1: 7, q1: 3, freq2: 700, gain2: -5, gain3: 4, q3: 2, freq4: 9000, gain4: -9 };
  const before: Values = { freq1: 300, gain2: 12, freq3: 60, q4: 0.3 };
  for (const block of [GRID_FRAMES, 48]) {
    const moved = through('equaliser', {
      settings: { shapes },
      left,
      block,
      values: (n) => (n < 640 ? before : there),
    });
    expect(moved).toEqual(through('equaliser', { settings: { shapes }, left, values: () => there }));
    expect(moved.left).not.toEqual(through('equaliser', { settings: { shapes }, left, values: () => before }).left);
  }
});

describe('the filter has the magnitude of the note’s formulas, at twenty frequencies', () => {
  test.each([
    ['low', 500, 0.7071, 12],
    ['low', 2000, 12, 24],
    ['high', 120, 4, 12],
    ['high', 120, 0.7071, 24],
    ['band', 1000, 2, 12],
    ['notch', 1000, 0.5, 24],
  ] as const)('%s pass at %d Hz, resonance %d, %d dB an octave', (shape, cutoff, resonance, slope) => {
    holdsTo(
      'filter',
      { shape, slope },
      { cutoff, resonance },
      (at) => (slope / 12) * formulaDb(shape, cutoff, resonance, 0, at),
    );
  });

  test('frequencies stop at 0.49 of the sample rate; a high pass rests where it takes nothing away', () => {
    const tone = Float32Array.from({ length: 48_000 }, (_, n) => Math.sin((2 * Math.PI * 1000 * n) / RATE));
    const level = (settings: object): number =>
      Math.max(...through('filter', { settings, left: tone }).left.subarray(24_000));
    expect(level({ shape: 'high' })).toBeCloseTo(1, 3);
    expect(level({ shape: 'low' })).toBeCloseTo(1, 3);
  });
});

test('the docs list every parameter and every setting, as page 8 has them', () => {
  const page = readFileSync(join(dirname(fileURLToPath(import.meta.url)), '../../../docs/effects.md'), 'utf8');
  expect(page).toContain(parameterTableText());
  expect(page).toContain(settingTableText());
  for (const row of [
    /`equaliser` +\| `freq3` +\| 20 … 20000 +\| Hz +\| log +\| 2500 /,
    /`equaliser` +\| `gain1` +\| -18 … 18 +\| dB +\| linear +\| 0 /,
    /`compressor` +\| `release` +\| 10 … 2000 +\| ms +\| log +\| 120 /,
    /`reverb` +\| `before` +\| 0 … 200 +\| ms +\| linear +\| 20 /,
    /`chorus` +\| `feedback` +\| -0.9 … 0.9 +\| share +\| linear +\| 0 /,
    /`reducer` +\| `bits` +\| 1 … 16 +\| +\| linear +\| 16 /,
    /`delay` +\| `beats` +\| null or a number/,
  ])
    expect(page).toMatch(row);
});
