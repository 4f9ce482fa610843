import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt, type Curve } from '../curve/index.js';
import { curve, testSong } from '../test/songs.js';
import { LEVEL_LAW, SILENCE_DB } from '../units/index.js';
import { laneOf, type Song } from '../song/index.js';
import type { LaneVersion } from './kinds/bringBack.js';
import { applyEdit } from './registry.js';
import {
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
