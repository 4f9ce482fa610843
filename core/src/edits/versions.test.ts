import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linePoint, valueAt, type Curve } from '../curve/index.js';
import { curve, testSong } from '../test/songs.js';
import { LEVEL_LAW, SILENCE_DB } from '../units/index.js';
import { laneOf, type Song } from '../song/index.js';
import type { LaneVersion } from './kinds/bringBack.js';
import { applyEdit } from './registry.js';
import {
  curvesAgree,
  inSight,
  sectionRanges,
  sidesAlong,
  songWith,
  standsAs,
  versionsInRange,
  versionsOf,
  type LoggedLane,
} from './versions.js';

const LEVEL = 'voice/level';
const before = curve(linePoint(0, -6));
const after = curve(
  linePoint(0, -6),
  linePoint(8, -6),
  { t: 8, v: -3, shape: 's', bend: 0.5 },
  linePoint(24, 0),
  linePoint(24, -6),
);
const lane: LoggedLane = { control: LEVEL, layer: 'base', rest: -6, before, after };
const song = testSong({ lanes: { [LEVEL]: { rest: -6, points: after } } });
const bring = (on: Song, side: 'before' | 'after', range: readonly [number, number] | null): Song =>
  applyEdit(on, { kind: 'bringBack', pass: 1, side, versions: versionsOf([lane], side, range) }).song;
const version = (side: 'before' | 'after'): Omit<LaneVersion, 'range'> => ({
  control: LEVEL,
  layer: 'base',
  rest: -6,
  points: lane[side],
});

describe('a version of a lane', () => {
  test('brought back in a range stands there, bent segments and all; outside nothing changes', () => {
    const mixed = bring(song, 'before', [12, 16]);
    const at = (t: number): number => valueAt(laneOf(mixed, LEVEL).points, LEVEL_LAW, -6, t);
    for (const t of [12, 14, 15.99]) expect(at(t)).toBe(-6);
    for (const t of [8, 11.99, 16, 20, 23.9]) expect(at(t)).toBeCloseTo(valueAt(after, LEVEL_LAW, -6, t), 9);
    expect(standsAs(mixed, version('before'), [12, 16])).toBe(true);
    expect(standsAs(mixed, version('after'), [12, 16])).toBe(false);
    expect(standsAs(mixed, version('after'), [16, 40])).toBe(true);
    // And back again: it is what the pass left, whole.
    const again = bring(mixed, 'after', [12, 16]);
    expect(standsAs(again, version('after'), [0, song.length])).toBe(true);
  });

  test('is heard with everything else as it is now', () => {
    const now = applyEdit(song, { kind: 'rest', values: { 'voice/pan': 0.3 } }).song;
    const heard = songWith(now, [lane], 'before');
    expect(laneOf(heard, LEVEL).points).toBe(before);
    expect(laneOf(heard, 'voice/pan').rest).toBe(0.3);
    expect(songWith(now, [{ ...lane, control: 'gone/level' }], 'before').lanes).toEqual(now.lanes);
  });

  test('of a lane that had no curve is its rest there', () => {
    const bare = { ...lane, before: curve(), rest: -20 };
    const edit = {
      kind: 'bringBack',
      pass: 1,
      side: 'before',
      versions: versionsOf([bare], 'before', [10, 12]),
    } as const;
    const { points } = laneOf(applyEdit(song, edit).song, LEVEL);
    expect(valueAt(points, LEVEL_LAW, -6, 11)).toBe(-20);
  });
});

test('both sides are read at the same times, silence counting as −60 dB where they are compared', () => {
  const silent: LoggedLane = { ...lane, before: curve(linePoint(0, SILENCE_DB)), after: curve(linePoint(0, -10)) };
  const { difference, unit, before: was } = sidesAlong(song, silent, [0, 10], 4);
  expect(unit).toBe('dB');
  expect(difference).toEqual([50, 50, 50, 50, 50]);
  expect(was).toEqual([0, 0, 0, 0, 0]);
  const pan: LoggedLane = {
    control: 'voice/pan',
    layer: 'base',
    rest: 0,
    before: curve(linePoint(0, 0)),
    after: curve(linePoint(0, 0.5)),
  };
  expect(sidesAlong(song, pan, [0, 10], 1)).toMatchObject({ unit: '%', difference: [25, 25] });
  const steps = sidesAlong(song, lane, [6, 10], 2);
  expect(Math.max(...steps.difference)).toBeGreaterThan(2.9);
  expect(steps.t.length).toBe(steps.after.length);
});

test('of a lane of very many points what is seen has the highest and the lowest of each column, and the rest not', () => {
  const points = (up: number): Curve =>
    curve(
      ...Array.from({ length: 80_000 }, (_, i) => linePoint(i / 4000, -20 + up * Math.sin(i * i) - (i % 997) / 100)),
    );
  const sides = sidesAlong(song, { ...lane, before: points(3), after: points(9) }, [0, 20], 400);
  expect(sides.t.length).toBeGreaterThan(150_000);
  const seen = inSight(sides, 100);
  expect(seen.t.length).toBeLessThanOrEqual(602);
  expect([seen.t[0], seen.t.at(-1)]).toEqual([0, 20]);
  for (const line of ['before', 'after', 'difference'] as const)
    for (const column of [0, 37, 99]) {
      const ends = (all: typeof sides): number[] => {
        const inside = all[line].filter((_, i) => Math.floor(5 * all.t[i]!) === column);
        return [inside.reduce((a, b) => Math.min(a, b)), inside.reduce((a, b) => Math.max(a, b))];
      };
      expect(ends(seen)).toEqual(ends(sides));
    }
  // Of one that has no more than can be seen nothing goes.
  const few = sidesAlong(song, lane, [0, 20], 10);
  expect(inSight(few, 100)).toBe(few);
});

test('two curves agree in a range where they are the same at all times in it', () => {
  const drawn = fc.array(fc.tuple(fc.nat(12), fc.integer({ min: -3, max: 0 })), { minLength: 1, maxLength: 6 });
  fc.assert(
    fc.property(drawn, drawn, fc.nat(8), fc.integer({ min: 1, max: 4 }), (one, other, from, long) => {
      const [a, b] = [one, other].map((all) =>
        curve(...new Map(all.sort(([s], [t]) => s - t).map(([t, v]) => [t, linePoint(t, v)])).values()),
      ) as [Curve, Curve];
      const times = Array.from({ length: 400 }, (_, i) => from + (long * (i + 0.5)) / 400);
      const same = times.every((t) => Math.abs(valueAt(a, LEVEL_LAW, 0, t) - valueAt(b, LEVEL_LAW, 0, t)) < 1e-6);
      expect(curvesAgree(LEVEL_LAW, { points: a, rest: 0 }, { points: b, rest: 0 }, [from, from + long])).toBe(same);
    }),
  );
});

test('sections are ranges up to the next one; what lies before the first has none of their names', () => {
  const of = (sections: { t: number; name: string }[]): unknown =>
    sectionRanges(sections, 60).map(({ name, range }) => [name, ...range]);
  expect(of([])).toEqual([['Song', 0, 60]]);
  expect(
    of([
      { t: 0, name: 'Verse' },
      { t: 20, name: 'Chorus' },
    ]),
  ).toEqual([
    ['Verse', 0, 20],
    ['Chorus', 20, 60],
  ]);
  expect(of([{ t: 5, name: 'Verse' }])).toEqual([
    ['', 0, 5],
    ['Verse', 5, 60],
  ]);
});

describe('whose version stands in a section', () => {
  const state = (v: number, from: number, to: number, under = before): Curve =>
    applyEdit(testSong({ lanes: { [LEVEL]: { rest: -6, points: under } } }), {
      kind: 'pass',
      pieces: [
        { control: LEVEL, layer: 'base', span: [from, to], points: curve(linePoint(from, v), linePoint(to, v)) },
      ],
      receipt: { lap: 0, from, to, lanes: [], refused: [], rested: [] },
    }).song.lanes[LEVEL]!.points;
  // Pass 1 wrote the verse, pass 2 the chorus on top, pass 3 the verse once more.
  const one = state(-3, 2, 6);
  const two = state(0, 12, 16, one);
  const three = state(-1, 3, 5, two);
  const versions = [three, two, one, before].map((points) => ({ points, rest: -6 }));
  const told = (points: Curve, range: readonly [number, number]) =>
    versionsInRange(
      testSong({ lanes: { [LEVEL]: { rest: -6, points } } }),
      { control: LEVEL, layer: 'base' },
      versions,
      range,
    );

  test('is the one that brought what is there; versions that changed nothing there are not told from those before', () => {
    expect(told(three, [0, 10])).toEqual({ differs: [true, false, true, false], stands: 0 });
    expect(told(three, [10, 20])).toEqual({ differs: [false, true, false, false], stands: 1 });
    expect(told(three, [20, 60])).toEqual({ differs: [false, false, false, false], stands: 3 });
    expect(told(two, [0, 10]).stands).toBe(2);
    expect(told(before, [10, 20]).stands).toBe(3);
  });

  test('is none where somebody has changed it since', () => {
    expect(told(state(5, 13, 14, three), [10, 20]).stands).toBeNull();
    expect(told(state(5, 13, 14, three), [0, 10]).stands).toBe(0);
  });
});
