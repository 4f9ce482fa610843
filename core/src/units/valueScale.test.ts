import { expect, test } from '@jest/globals';
import {
  LEVEL_SCALE,
  MUTE_SCALE,
  PAN_SCALE,
  TRIM_SCALE,
  numberScale,
  parseValue,
  printDb,
  printPan,
  speakValue,
  throwMarks,
} from './valueScale.js';

test('levels print with one decimal, silence as −∞, never as minus nothing', () => {
  expect([-6, -144, -200, 0, -0.04, 11.96].map((v) => printDb(v))).toEqual([
    '−6.0 dB',
    '−∞ dB',
    '−∞ dB',
    '0.0 dB',
    '0.0 dB',
    '12.0 dB',
  ]);
  expect(printDb(2.5, true)).toBe('+2.5 dB');
});

test('pans print in per cent, switches as words', () => {
  expect([-0.4, 0, 0.404].map(printPan)).toEqual(['L 40', 'C', 'R 40']);
  expect(MUTE_SCALE.print(1)).toBe('muted');
});

test.each([
  [LEVEL_SCALE, '−4,5 dB', -4.5],
  [LEVEL_SCALE, '-inf', -144],
  [LEVEL_SCALE, '−∞', -144],
  [LEVEL_SCALE, '0', 0],
  [PAN_SCALE, 'L40', -0.4],
  [PAN_SCALE, '25 r', 0.25],
  [PAN_SCALE, 'c', 0],
  [MUTE_SCALE, 'on', 1],
] as const)('typed into a field of %o, %s is %f', (scale, typed, value) => {
  expect(parseValue(scale, typed)).toEqual({ ok: true, value });
});

test.each([
  [LEVEL_SCALE, 'loud', 'no level'],
  [LEVEL_SCALE, '13', 'outside −∞ dB … 12.0 dB'],
  [LEVEL_SCALE, '', 'no level'],
  [PAN_SCALE, 'L 140', 'outside L 100 … R 100'],
  [MUTE_SCALE, 'maybe', 'neither on nor off'],
] as const)('a field of %o refuses what it cannot take, in a sentence', (scale, typed, part) => {
  const read = parseValue(scale, typed);
  expect(read).toMatchObject({ ok: false, sentence: expect.stringContaining(part) });
});

test('numbers of a declared unit print, are typed and marked in it', () => {
  const hz = numberScale({ kind: 'log', min: 20, max: 20000 }, { unit: 'Hz', digits: 0, rest: 400 });
  expect(hz.print(2500)).toBe('2500 Hz');
  expect(['2500', '2500 hz', '−3', 'low'].map((typed) => parseValue(hz, typed))).toEqual([
    { ok: true, value: 2500 },
    { ok: true, value: 2500 },
    { ok: false, sentence: '−3 Hz is outside 20 Hz … 20000 Hz.' },
    { ok: false, sentence: '“low” is no number.' },
  ]);
  expect(throwMarks(hz, hz.marks).map(({ travel, label }) => [Math.round(1000 * travel) / 1000, label])).toEqual([
    [0.434, '400'],
    [1, '20000'],
    [0, '20'],
  ]);
});

test('values are said aloud without signs that are read as nothing', () => {
  expect([-144, -6, 3].map((db) => speakValue(LEVEL_SCALE, db))).toEqual(['silence', 'minus 6.0 dB', '3.0 dB']);
  expect(speakValue(TRIM_SCALE, 1.5)).toBe('+1.5 dB');
});
