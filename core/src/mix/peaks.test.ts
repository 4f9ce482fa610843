import { expect, test } from '@jest/globals';
import { PEAK_FRAMES, PeakMaker, peakBytes, peaksOf } from './peaks.js';

const column = Float32Array.from({ length: 5000 }, (_, i) =>
  i === 300 ? 0.9 : i === 4999 ? -0.5 : Math.sin(i / 9) * 0.1,
);

/** The pyramid of the column, given in pieces of a size. */
function pyramid(size: number): ReturnType<PeakMaker['finish']> {
  const maker = new PeakMaker(column.length);
  for (let at = 0; at < column.length; at += size) {
    const piece = column.subarray(at, at + size);
    maker.add([piece], piece.length);
  }
  return maker.finish();
}

test('peaks hold every sample of their bucket, whatever pieces the file comes in', () => {
  const { levels, frames } = pyramid(5000);
  expect(frames).toBe(5000);
  expect(levels.map((level) => level.length)).toEqual(PEAK_FRAMES.map((width) => 2 * Math.ceil(5000 / width)));
  levels.forEach((level, k) => {
    const isHeld = (x: number, i: number): boolean => {
      const bucket = Math.floor(i / PEAK_FRAMES[k]!);
      return level[2 * bucket]! / 127 <= x + 1e-6 && level[2 * bucket + 1]! / 127 >= x - 1e-6;
    };
    expect(column.findIndex((x, i) => !isHeld(x, i))).toBe(-1);
  });
  expect(levels[0]![3]).toBe(Math.ceil(0.9 * 127));
  expect(pyramid(77)).toEqual(pyramid(5000));
});

test('a stereo file shows both its sides together', () => {
  const maker = new PeakMaker(256);
  maker.add([new Float32Array(256).fill(0.25), new Float32Array(256).fill(-0.5)], 256);
  expect([...maker.finish().levels[0]!]).toEqual([-64, 32]);
});

test('as bytes they come back as they were', () => {
  const made = pyramid(1000);
  expect(peaksOf(peakBytes(made).buffer as ArrayBuffer)).toEqual(made);
});
