import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linePoint, valueAt, type Point } from '../curve/index.js';
import { laneOf, type Song } from '../song/index.js';
import { curves, expectNear, share } from '../test/curves.js';
import { testSong } from '../test/songs.js';
import { LEVEL_LAW, travelOf, valueOf } from '../units/index.js';
import { addedPoint, bendThrough, bentThrough, canBend, shapedSegment, shoulderedPoint } from './mends.js';
import { applyEdit } from './registry.js';

const OF = { control: 'voice/level', layer: 'base' } as const;
const withLevel = (points: readonly Point[]): Song => testSong({ lanes: { [OF.control]: { rest: -9, points } } });
const at = (song: Song, t: number): number => {
  const { points, rest } = laneOf(song, OF.control);
  return travelOf(LEVEL_LAW, valueAt(points, LEVEL_LAW, rest, t));
};

describe('a point put on a curve', () => {
  test('changes nothing anywhere, whatever the segment it cuts', () => {
    fc.assert(
      fc.property(curves, share, fc.array(share, { minLength: 20, maxLength: 20 }), (points, x, shares) => {
        const t = 30 * x;
        const before = withLevel(points);
        if (points.some((p) => p.t === t)) return;
        const { song } = applyEdit(before, addedPoint(before, OF, t));
        expect(laneOf(song, OF.control).points.length).toBe(points.length + 1);
        for (const s of shares) if (points.length) expectNear(at(song, 60 * s), at(before, 60 * s));
      }),
      { numRuns: 300 },
    );
  });

  test('at a value of its own changes its two segments alone', () => {
    const before = withLevel([linePoint(2, -20), linePoint(6, -20), linePoint(10, -20), linePoint(14, -20)]);
    const { song } = applyEdit(before, addedPoint(before, OF, 8, -6));
    for (const t of [1, 3, 6, 10, 12]) expectNear(at(song, t), at(before, t));
    expectNear(at(song, 8), travelOf(LEVEL_LAW, -6));
  });
});

describe('shoulders of a lone point', () => {
  const moved = (before: Song, i: number, by: { t: number; travel: number }): Song => {
    const { t } = laneOf(before, OF.control).points;
    return applyEdit(before, { kind: 'move', controls: [OF.control], points: { [OF.control]: [t[i]!] }, by }).song;
  };

  test('keep what is beyond them as it was before the point was moved, bent or straight', () => {
    fc.assert(
      fc.property(curves, share, share, fc.array(share, { minLength: 30, maxLength: 30 }), (points, x, y, shares) => {
        const at0 = Math.floor(x * points.length);
        const lone = points[at0];
        if (!lone || points.some((p, k) => k !== at0 && p.t === lone.t)) return;
        const before = withLevel(points);
        const after = moved(before, at0, { t: 0, travel: 0.4 * y - 0.2 });
        const was = laneOf(before, OF.control).points;
        const edit = shoulderedPoint(after, OF, at0, { reach: 0.5, was });
        if (!edit) return;
        const { song } = applyEdit(after, edit);
        expectNear(at(song, lone.t), at(after, lone.t));
        const [prev, next] = [points[at0 - 1], points[at0 + 1]];
        const [has0, has1] = [lone.t - 0.5 > (prev?.t ?? -1), lone.t + 0.5 < (next?.t ?? Infinity)];
        for (const t of shares.map((s) => 60 * s)) {
          const isBefore = t <= lone.t - 0.5 && has0 && lone.t >= 0.5;
          const isAfter = t >= lone.t + 0.5 && has1;
          if (isBefore || isAfter) expectNear(at(song, t), at(before, t));
        }
      }),
      { numRuns: 300 },
    );
  });

  test('are none where its neighbours stand nearer, and none of a switch', () => {
    const near = withLevel([linePoint(2, -20), linePoint(2.2, -9), linePoint(2.4, -20)]);
    const { points } = laneOf(near, OF.control);
    expect(shoulderedPoint(near, OF, 1, { reach: 0.5, was: points })).toBeNull();
    const mute = { control: 'voice/mute', layer: 'base' } as const;
    const song = testSong({ lanes: { [mute.control]: { points: [{ t: 9, v: 1, shape: 'hold', bend: 0 }] } } });
    expect(shoulderedPoint(song, mute, 0, { reach: 1, was: laneOf(song, mute.control).points })).toBeNull();
  });
});

describe('a segment', () => {
  const song = withLevel([
    linePoint(2, valueOf(LEVEL_LAW, 0.2)),
    linePoint(6, valueOf(LEVEL_LAW, 0.8)),
    linePoint(9, -20),
  ]);

  test('bends through where it is drawn to, as far as a bend goes', () => {
    for (const x of [0.25, 0.4, 0.5, 0.7]) {
      const { song: after } = applyEdit(song, bentThrough(song, OF, 0, 4, x));
      expectNear(at(after, 4), x);
      for (const t of [1, 2, 6, 8, 20]) expectNear(at(after, t), at(song, t));
    }
    // Past either end of it the bend is at its most.
    expect(bendThrough(0.5, 2)).toBe(-1);
    expect(bendThrough(0.5, -2)).toBe(1);
    expect(bendThrough(0.5, 0.5)).toBeCloseTo(0, 9);
  });

  test('that holds, is even, or leads nowhere can’t be bent', () => {
    const other = withLevel([
      { t: 1, v: -9, shape: 'hold', bend: 0 },
      linePoint(3, -3),
      linePoint(5, -3),
      linePoint(7, -9),
    ]);
    expect([-1, 0, 1, 2, 3].map((i) => canBend(other, OF, i))).toEqual([false, false, false, true, false]);
    const held = applyEdit(song, shapedSegment(song, OF, 0, 'hold', 0.4)).song;
    expect(laneOf(held, OF.control).points.point(0)).toMatchObject({ shape: 'hold', bend: 0 });
  });
});
