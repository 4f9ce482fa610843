import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linePoint, valueAt, type Point, type Range } from '../curve/index.js';
import { laneOf, type Song } from '../song/index.js';
import { curves, expectNear, share } from '../test/curves.js';
import { curve, testSong } from '../test/songs.js';
import { LEVEL_LAW, travelOf, valueOf } from '../units/index.js';
import { applyEdit, nameOfEdit, whyNotMade } from './registry.js';
import { shiftWithin, shiftedSpans, type WrittenSpan } from './shifting.js';
import { loggedLanes, type LoggedLane } from './versions.js';
import { runs } from '../test/runs.js';

const LEVEL = 'voice/level';
const at = (song: Song, t: number): number => {
  const { points, rest } = laneOf(song, LEVEL);
  return travelOf(LEVEL_LAW, valueAt(points, LEVEL_LAW, rest, t));
};

/** A pass that has written some stretches of the level, and what it found there. */
function ridden(found: readonly Point[], spans: readonly Range[]): { song: Song; before: Song; lanes: LoggedLane[] } {
  const before = testSong({ lanes: { [LEVEL]: { rest: -9, points: found } } });
  const pieces = spans.map((span) => ({
    ...{ control: LEVEL, layer: 'base' as const, span },
    points: curve(linePoint(span[0], valueOf(LEVEL_LAW, 0.9)), linePoint(span[1], valueOf(LEVEL_LAW, 0.6))),
  }));
  const { song } = applyEdit(before, { kind: 'draw', pieces });
  return { song, before, lanes: loggedLanes(before, song, [LEVEL]) };
}
const written = (spans: readonly Range[]): WrittenSpan[] =>
  spans.map((span) => ({ control: LEVEL, layer: 'base', span }));

test('what a late hand wrote goes earlier whole; where it stood is what it had found, and nothing else moves', () => {
  const by = fc.double({ min: -3, max: 3, noNaN: true });
  fc.assert(
    fc.property(
      curves,
      share,
      share,
      by,
      fc.array(share, { minLength: 40, maxLength: 40 }),
      (found, a, b, d, shares) => {
        const spans: Range[] = [
          [4 + 4 * a, 9 + 4 * a],
          [15 + 4 * b, 17 + 4 * b],
        ];
        const { song, before, lanes } = ridden(found, spans);
        const edit = shiftedSpans(song, written(spans), lanes, d);
        if (!edit) return expect(Math.abs(d)).toBe(0);
        // Whatever the times come to in the last figure, the song takes it, and it ends where those who go on with it look.
        expect(whyNotMade(song, edit)).toBeNull();
        const put = edit.pieces.slice(-spans.length);
        expect(put.map(({ span }) => span)).toEqual(spans.map(([from, to]) => [from + d, to + d]));
        for (const { points, span } of put) expect([points.t[0], points.t.at(-1)]).toEqual(span);
        const { song: after, inverse } = applyEdit(song, edit);
        for (const t of shares.map((s) => 40 * s)) {
          const inside = spans.find(([from, to]) => t > from + d && t < to + d);
          // A step where it ends now says nothing of either side.
          if (spans.flat().some((edge) => Math.abs(edge + d - t) < 1e-6 || Math.abs(edge - t) < 1e-6)) continue;
          expectNear(at(after, t), inside ? at(song, t - d) : at(before, t));
        }
        expect(applyEdit(after, inverse!).song).toEqual(song);
        expect(nameOfEdit(song, edit, null)).toBe('Shift: Voice level');
      },
    ),
    { numRuns: runs(200) },
  );
});

test('it goes no further than the song’s ends, all of it alike', () => {
  const { song, lanes } = ridden(
    [linePoint(2, -20)],
    [
      [1, 3],
      [50, 58],
    ],
  );
  const spans = written([
    [1, 3],
    [50, 58],
  ]);
  expect(shiftWithin(song, spans, -5)).toBe(-1);
  expect(shiftWithin(song, spans, 5)).toBe(2);
  expect(shiftedSpans(song, spans, lanes, 0)).toBeNull();
  const after = applyEdit(song, shiftedSpans(song, spans, lanes, -5)!).song;
  expectNear(at(after, 0.5), at(song, 1.5));
  expectNear(at(after, 55), at(song, 56));
});
