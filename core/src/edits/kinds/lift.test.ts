import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { valueArriving, valueAt } from '../../curve/index.js';
import { readEdit } from '../../formats/index.js';
import { laneOf } from '../../song/index.js';
import { curves, expectNear, FOOT, share } from '../../test/curves.js';
import { pairs, testSong } from '../../test/songs.js';
import { LEVEL_LAW, TRIM_LAW, clamp, travelOf, valueOf } from '../../units/index.js';
import { applyEdit, nameOfEdit } from '../registry.js';
import type { LiftEdit } from './lift.js';

const LEVEL = 'voice/level';
const lift = (changes: Partial<LiftEdit>): LiftEdit => ({
  kind: 'lift',
  controls: [LEVEL],
  range: [8, 16],
  travel: 0.1,
  ...changes,
});
test('makes four points on an even lane, two on each edge', () => {
  const { song } = applyEdit(testSong(), lift({ travel: 0.25, edge: 1 }));
  const up = valueOf(LEVEL_LAW, travelOf(LEVEL_LAW, -6) + 0.25);
  expect(pairs(laneOf(song, LEVEL).points)).toEqual([
    [0, -6],
    [8, -6],
    [9, up],
    [15, up],
    [16, -6],
  ]);
});

test('moves the inside by its travel, within the throw at every time, and nothing outside', () => {
  const edges = fc.constantFrom(0, 0.1, 1, 30);
  const ranges = fc.tuple(share, share).map(([a, b]) => [20 * a, 20 * a + 0.5 + 20 * b] as const);
  const by = fc.double({ min: -1, max: 1, noNaN: true }).filter((x) => Math.abs(x) > 1e-3);
  fc.assert(
    fc.property(
      curves,
      ranges,
      edges,
      by,
      fc.array(share, { minLength: 20, maxLength: 20 }),
      (points, range, edge, travel, shares) => {
        const before = testSong({ lanes: { [LEVEL]: { rest: -9, points } } });
        const { song, inverse } = applyEdit(before, lift({ range, travel, edge }));
        const [was, is] = [laneOf(before, LEVEL), laneOf(song, LEVEL)];
        const at = (of: typeof was, t: number): number =>
          travelOf(LEVEL_LAW, valueAt(of.points, LEVEL_LAW, of.rest, t));
        const [a, b] = range;
        const run = Math.min(edge, (b - a) / 2);
        const upAt = (t: number): number => clamp(at(was, t) + travel, 0, 1);
        const arriving = (t: number): number => travelOf(LEVEL_LAW, valueArriving(was.points, LEVEL_LAW, was.rest, t));
        for (const x of shares) {
          const t = 50 * x;
          if (t < a || t >= b) expectNear(at(is, t), at(was, t));
          else if (t >= a + run && t < b - run) expectNear(at(is, t), upAt(t));
          const s = run * x;
          if (!run || !s || s === run) continue;
          const [up, down] = [upAt(a + run), clamp(arriving(b - run) + travel, 0, 1)];
          if (2 * run < b - a) expectNear(at(is, b - s), at(was, b) + (down - at(was, b)) * x, FOOT);
          expectNear(at(is, a + s), arriving(a) + (up - arriving(a)) * x, FOOT);
        }
        expect(applyEdit(song, inverse!).song).toEqual(before);
      },
    ),
    { numRuns: 400 },
  );
});

test('lifts trim on its own layer, leaves guarded lanes alone by name, and is refused on a switch', () => {
  const song = testSong({ lanes: { 'fiddle/level': { safe: true } } });
  const { song: after, changed, refused } = applyEdit(song, lift({ controls: [LEVEL, 'fiddle/level'], layer: 'trim' }));
  expect(changed).toEqual([LEVEL]);
  expect(refused).toEqual([{ control: 'fiddle/level', reason: 'safe' }]);
  expect(laneOf(after, LEVEL).points).toBe(laneOf(song, LEVEL).points);
  expect(valueAt(laneOf(after, LEVEL).trim, TRIM_LAW, 0, 12)).toBeCloseTo(2.4, 9);
  expect(nameOfEdit(song, lift({}), null)).toBe('Lift of Voice level');
  const sentences = [
    { controls: ['voice/mute'] },
    { range: [9, 9] as const },
    { controls: ['voice/pan'], layer: 'trim' as const },
  ].map((wrong) => readEdit(song, lift(wrong)));
  expect(sentences.map((read) => !read.ok && read.sentence)).toEqual([
    'voice/mute is a switch, which can’t be lifted.',
    'The range to lift ends at 9 s, not after its beginning at 9 s.',
    'voice/pan is not in dB, so it has no trim.',
  ]);
});
