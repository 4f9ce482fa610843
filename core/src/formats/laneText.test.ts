import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, cutOut, linePoint } from '../curve/index.js';
import { curves } from '../test/curves.js';
import { LEVEL_LAW, PAN_LAW } from '../units/index.js';
import { isPiece, printPiece, readPiece } from './laneText.js';

test('a curve on the clipboard comes back to the last bit, parts of shapes and steps with it', () => {
  fc.assert(
    fc.property(curves, (points) => {
      const cut = cutOut(Curve.of(points), LEVEL_LAW, -9, [0, 17.3]);
      const piece = { name: 'Lead level', law: LEVEL_LAW, length: 17.3, points: cut };
      const text = printPiece(piece);
      expect(isPiece(text)).toBe(true);
      const read = readPiece(text.replaceAll('\n', '\r\n'));
      expect(read).toEqual({ ok: true, value: piece });
    }),
    { numRuns: 200 },
  );
});

test('what is wrong is said by its line', () => {
  const text = printPiece({
    name: 'Pan',
    law: PAN_LAW,
    length: 4,
    points: Curve.of([linePoint(0, 0), linePoint(2, 0.5)]),
  });
  const sentence = (changed: string): string => {
    const read = readPiece(changed);
    return read.ok ? 'taken' : read.sentence;
  };
  expect(sentence(text)).toBe('taken');
  expect(sentence('something else')).toBe('What was copied is no curve: copy a range of a lane first.');
  expect(sentence(text.replace('2\t0.5', '2\t1.5'))).toBe('Line 4 of the copied curve has no value between -1 and 1.');
  expect(sentence(text.replace('2\t0.5', '5\t0.5'))).toBe('Line 4 of the copied curve has no time between 0 and 4 s.');
  expect(sentence(text.replace('0.5\tline', '0.5\twavy'))).toBe(
    'Line 4 of the copied curve has the shape “wavy”; there are line, hold, bend, s.',
  );
  expect(sentence(text.replace('linear -1 1', 'loudish'))).toBe(
    'Line 1 of the copied curve says “loudish”, which is no kind of control.',
  );
});

test('mutilated text is refused by a sentence or is a curve, never an error', () => {
  const text = printPiece({
    name: 'Lead level',
    law: LEVEL_LAW,
    length: 9,
    points: Curve.of(Array.from({ length: 12 }, (_, i) => linePoint(i / 2, -i))),
  });
  const changes = fc.array(
    fc.record({
      at: fc.double({ min: 0, max: 1, noNaN: true }),
      drop: fc.nat(12),
      put: fc.constantFrom('', '\t', '\n', '-', '1e9', 'NaN', 'x', '\u0000', '"', '9'.repeat(400)),
    }),
    { minLength: 1, maxLength: 4 },
  );
  let refused = 0;
  fc.assert(
    fc.property(changes, (made) => {
      let changed = text;
      for (const { at, drop, put } of made) {
        const i = Math.floor(at * changed.length);
        changed = changed.slice(0, i) + put + changed.slice(i + drop);
      }
      const read = readPiece(changed);
      if (!read.ok) refused++;
      else expect(read.value.points.length).toBeGreaterThan(0);
    }),
    { numRuns: 500 },
  );
  expect(refused).toBeGreaterThan(50);
});
