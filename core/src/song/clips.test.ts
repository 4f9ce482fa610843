import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Clip } from './document.js';
import { clipAt, shapedClip } from './clips.js';

const clip = (t: number, length: number, parts: Partial<Clip> = {}): Clip => ({
  t,
  file: 'voice.wav',
  offset: 0,
  length,
  gain: 0,
  fadeIn: 0,
  fadeOut: 0,
  fadeInShape: 'line',
  fadeOutShape: 'line',
  ...parts,
});

describe('the clip at a time', () => {
  const clips = [clip(2, 3), clip(8, 4)];
  test.each([
    [0, 2],
    [2, 2],
    [4.9, 2],
    [6, 2],
    [7, 8],
    [30, 8],
  ])('at %d s it is the one that begins at %d s', (t, from) => expect(clipAt({ clips }, t)!.t).toBe(from));

  test('is none where the channel has none', () => expect(clipAt({ clips: [] }, 3)).toBeNull());
});

describe('a clip shaped in place', () => {
  test('has the fades and the gain it is given, and is itself where nothing changes', () => {
    const was = clip(2, 3, { fadeOut: 1 });
    expect(shapedClip(was, { fadeIn: 0.5, fadeInShape: 's', gain: -3 })).toEqual(
      clip(2, 3, { fadeIn: 0.5, fadeInShape: 's', fadeOut: 1, gain: -3 }),
    );
    expect(shapedClip(was, { fadeOut: 1 })).toBe(was);
  });

  test('has fades that never overlap, whatever is asked for, and stays in its place', () => {
    const seconds = fc.double({ min: -2, max: 9, noNaN: true });
    fc.assert(
      fc.property(seconds, seconds, fc.double({ min: -300, max: 300, noNaN: true }), (fadeIn, fadeOut, gain) => {
        for (const changes of [{ fadeIn }, { fadeOut }, { fadeIn, fadeOut, gain }]) {
          const shaped = shapedClip(clip(2, 3, { fadeIn: 1, fadeOut: 1 }), changes);
          expect(shaped.fadeIn).toBeGreaterThanOrEqual(0);
          expect(shaped.fadeOut).toBeGreaterThanOrEqual(0);
          expect(shaped.fadeIn + shaped.fadeOut).toBeLessThanOrEqual(3 + 1e-9);
          expect(shaped.gain).toBeCloseTo(Math.min(24, Math.max(-144, 'gain' in changes ? gain : 0)), 12);
          expect([shaped.t, shaped.length, shaped.offset]).toEqual([2, 3, 0]);
        }
      }),
    );
  });
});
