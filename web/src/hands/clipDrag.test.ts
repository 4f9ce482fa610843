import { describe, expect, test } from '@jest/globals';
import type { Clip } from '@sure-hand/core/song';
import { ClipDrag, type ClipPart } from './clipDrag.js';

const clip: Clip = {
  t: 2,
  file: 'voice.wav',
  offset: 0,
  length: 10,
  gain: -2,
  fadeIn: 1,
  fadeOut: 1,
  fadeInShape: 'line',
  fadeOutShape: 's',
};
const dragged = (part: ClipPart, x: number, y: number, fine = false): Clip => {
  const drag = new ClipDrag({ channel: 'voice', clip, part, x: 100, y: 50, pxPerSec: 40 });
  drag.move(500, 500, false);
  drag.move(100 + x, 50 + y, fine);
  return drag.draft;
};

describe('a pointer that has hold of a clip', () => {
  test('moves its fades by what the pointer moved in time, from where they were', () => {
    expect(dragged('fadeIn', 80, 0)).toEqual({ ...clip, fadeIn: 3 });
    expect(dragged('fadeOut', -60, 0)).toEqual({ ...clip, fadeOut: 2.5 });
    expect(dragged('fadeIn', 80, 0, true)).toEqual({ ...clip, fadeIn: 1.5 });
  });

  test('stops where the other fade begins, and at none', () => {
    expect(dragged('fadeIn', 9999, 0).fadeIn).toBe(9);
    expect(dragged('fadeOut', -9999, 0).fadeOut).toBe(9);
    expect(dragged('fadeIn', -9999, 0).fadeIn).toBe(0);
  });

  test('moves its gain a decibel in 8 pixels, in tenths', () => {
    expect(dragged('gain', 0, -24)).toEqual({ ...clip, gain: 1 });
    expect(dragged('gain', 0, 33, true).gain).toBe(-3);
    expect(dragged('gain', 50, 0)).toBe(clip);
  });
});
