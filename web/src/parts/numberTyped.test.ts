import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { numberTyped, numberWrong, pasteWrong } from './numberTyped.js';

const bounds = { min: -3, max: 20 };

test('what stands in a field of numbers is a number between its bounds, or none', () => {
  for (const none of [
    '',
    '-',
    '.',
    '-.',
    '+',
    ' ',
    '1e400',
    '-1e400',
    'NaN',
    'Infinity',
    '٣',
    '1.2.3',
    'a page of text',
    NaN,
    Infinity,
  ])
    expect([none, numberTyped(none, bounds)]).toEqual([none, null]);
  const right = [
    ['0.5', 0.5],
    ['0,5', 0.5],
    ['−2', -2],
    [' 7 ', 7],
    ['.25', 0.25],
    ['3.', 3],
    ['1e1', 10],
    ['999', 20],
    ['-999', -3],
    [2.5, 2.5],
    [1e300, 20],
  ] as const;
  for (const [typed, is] of right) expect([typed, numberTyped(typed, bounds)]).toEqual([typed, is]);
  expect([numberWrong('5,5', bounds), numberWrong(20, bounds)]).toEqual([null, null]);
  expect(numberWrong('-', bounds)).toBe('“-” is no number. Type one, -3 … 20.');
  expect(numberWrong('21', bounds)).toBe('21 is outside -3 … 20.');
  fc.assert(
    fc.property(fc.oneof(fc.string(), fc.double(), fc.constantFrom('1e', 'e5', '--1', '1-')), (typed) => {
      const read = numberTyped(typed, bounds);
      expect(read === null || (read >= bounds.min && read <= bounds.max)).toBe(true);
    }),
  );
});

test('what is pasted into a field of numbers is one number, perhaps with its unit; a page of text is none', () => {
  for (const one of ['3', ' −6 dB\n', '0,25 s', '.5', '1e1', '12.5 %', '4 kHz'])
    expect([one, pasteWrong(one, bounds)]).toEqual([one, null]);
  for (const none of [
    '',
    '-',
    '٣',
    'lead',
    '3 songs, 12 stems',
    '1:02.5',
    '1.2.3',
    '9'.repeat(400),
    'Softer from bar 12 on, please',
  ])
    expect([none, pasteWrong(none, bounds)]).toEqual([
      none,
      expect.stringContaining('is not one number. Type one, -3 … 20.'),
    ]);
  expect(pasteWrong('3 songs,\n12 stems: the lead at −6 dB'.repeat(40), bounds)).toBe(
    '“3 songs, 12 stems: the l…” is not one number. Type one, -3 … 20.',
  );
});
