import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { SHAPES, type Point } from '@sure-hand/core/curve';
import { blobOfPoints, pointsOfBlob } from './pointsBlob.js';

const number = fc.double({ noNaN: true, noDefaultInfinity: true });
const share = fc.double({ min: 0, max: 1, noNaN: true });
const point: fc.Arbitrary<Point> = fc
  .record({
    t: number,
    v: number,
    shape: fc.constantFrom(...SHAPES),
    bend: fc.double({ min: -1, max: 1, noNaN: true }),
    part: fc.option(fc.tuple(share, share), { nil: undefined }),
  })
  .map(({ part, bend, ...rest }) => ({ ...rest, bend: bend === 0 ? 0 : bend, ...(part ? { part } : {}) }));

test('points survive as bytes, to the last bit', () => {
  fc.assert(fc.property(fc.array(point), (points) => expect(pointsOfBlob(blobOfPoints(points))).toEqual(points)));
});

test('a plain point takes 17 bytes; bytes of another version are refused, not guessed', () => {
  const blob = blobOfPoints([{ t: 1, v: 2, shape: 'line', bend: 0 }]);
  expect(blob.length).toBe(5 + 17);
  blob.writeUInt8(9, 0);
  expect(() => pointsOfBlob(blob)).toThrow('version 9');
});
