import { expect, test } from '@jest/globals';
import { parseValue, printDb, printPan, printValue } from './spokenValue.js';
import { LEVEL_LAW, PAN_LAW, SWITCH_LAW } from './travel.js';

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
  expect(printValue('mute', 1)).toBe('muted');
});

test.each([
  ['dB', '−4,5 dB', -4.5],
  ['dB', '-inf', -144],
  ['dB', '−∞', -144],
  ['dB', '0', 0],
  ['pan', 'L40', -0.4],
  ['pan', '25 r', 0.25],
  ['pan', 'c', 0],
  ['mute', 'on', 1],
] as const)('typed into a %s field, %s is %f', (display, typed, value) => {
  const law = display === 'dB' ? LEVEL_LAW : display === 'pan' ? PAN_LAW : SWITCH_LAW;
  expect(parseValue(display, law, typed)).toEqual({ ok: true, value });
});

test.each([
  ['dB', LEVEL_LAW, 'loud', 'no level'],
  ['dB', LEVEL_LAW, '13', 'outside −∞ dB … 12.0 dB'],
  ['dB', LEVEL_LAW, '', 'no level'],
  ['pan', PAN_LAW, 'L 140', 'outside L 100 … R 100'],
  ['mute', SWITCH_LAW, 'maybe', 'neither on nor off'],
] as const)('a %s field refuses what it cannot take, in a sentence', (display, law, typed, part) => {
  const read = parseValue(display, law, typed);
  expect(read).toMatchObject({ ok: false, sentence: expect.stringContaining(part) });
});
