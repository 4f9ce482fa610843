import { expect, test } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { blobOfCurve, curveOfBlob } from './curveBlob.js';

const curve = Curve.of([
  linePoint(1, -15),
  { t: 3, v: 0, shape: 's', bend: 0.5 },
  { t: 5, v: -30, shape: 'bend', bend: -0.25, part: [0.25, 0.75] },
  { t: 6, v: -3, shape: 'hold', bend: 0 },
]);

test('a curve survives in the database; bytes of another version are refused, not guessed', () => {
  const blob = blobOfCurve(curve);
  expect(curveOfBlob(blob)).toEqual(curve);
  blob.writeUInt8(9, 0);
  expect(() => curveOfBlob(blob)).toThrow('version 9');
});

test('a curve that was kept point after point, before curves were columns, is read as ever', () => {
  const old = Buffer.alloc(5 + 17 + 25 + 41 + 17);
  old.writeUInt8(1, 0);
  old.writeUInt32LE(4, 1);
  let at = 5;
  for (const [flags, ...numbers] of [
    [0, 1, -15],
    [3 + 4, 3, 0, 0.5],
    [2 + 4 + 8, 5, -30, -0.25, 0.25, 0.75],
    [1, 6, -3],
  ] as const) {
    at = old.writeUInt8(flags, at);
    for (const x of numbers) at = old.writeDoubleLE(x, at);
  }
  expect(curveOfBlob(old)).toEqual(curve);
  expect(() => curveOfBlob(old.subarray(0, 60))).toThrow('out of range');
});
