import { beforeEach, describe, expect, test } from '@jest/globals';
import { linePoint, type Point } from '@sure-hand/core/curve';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { laneOf, type Song } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import { copyRange, duplicateRange, pasteAtLine, type Clipboard } from './clipboard.js';
import {
  addPointAtLine,
  clearPoints,
  fadeRange,
  nudgePoints,
  pickPoints,
  type MendScene,
  type PickedPoints,
} from './mending.js';
import { clearEdit, clearWords } from './mendScopes.js';
import { changedPoints, pointsPickedOf, withShape } from './pickedPoints.js';
import { SongControl } from './songControl.js';
import { thinEdit, thinWords } from './thinning.js';
import { cyclesPerQuarter, waveEdit, waveWords } from './waves.js';

const LEVEL = 'voice/level';
const LANE: readonly Point[] = [linePoint(2, -20), linePoint(5, -10), linePoint(8, -12), linePoint(11, -6)];

/** A song with a curve on the voice, and what keys work on, as the frame gives it to them. */
class Desk {
  song: Song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  inHand = LEVEL;
  range: readonly [number, number] | null = null;
  picked: PickedPoints | null = null;
  position = 0;
  readonly said: string[] = [];
  readonly did: string[] = [];
  readonly made: Edit[] = [];

  get scene(): MendScene {
    const mend = (edit: Edit) => {
      const applied = applyEdit(this.song, edit);
      this.made.push(edit);
      this.song = applied.song;
      return applied;
    };
    return {
      song: this.song,
      control: { mend, position: this.position } as unknown as MendScene['control'],
      inHand: this.inHand,
      range: this.range,
      picked: this.picked,
      setRange: (range) => void (this.range = range),
      pick: (picked) => void (this.picked = picked?.times.length ? picked : null),
      say: (sentence) => void this.said.push(sentence),
      did: (sentence) => void this.did.push(sentence),
    };
  }

  pairs(id = LEVEL, layer: 'points' | 'trim' = 'points'): number[][] {
    return [...laneOf(this.song, id)[layer]].map(({ t, v }) => [t, Math.round(1e6 * v) / 1e6]);
  }
}

let desk: Desk;
beforeEach(() => (desk = new Desk()));

describe('mending by keys', () => {
  test('clears what is picked, or what stands in the range, and says how many of which lane', () => {
    pickPoints(desk.scene, 7);
    expect(desk.picked!.times).toEqual([8, 11]);
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toBe('2 points of Voice level cleared; 2 left.');
    expect(desk.picked).toBe(null);
    desk.range = [4, 6];
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toBe('1 point of Voice level cleared inside the range; its ends stay.');
    desk.range = null;
    clearPoints(desk.scene);
    expect(desk.said.at(-1)).toMatch(/^Nothing is picked: /);
    expect(desk.made).toHaveLength(2);
  });

  test('moves what is picked, which stays picked; lifts a range; and says when it can go no further', () => {
    desk.picked = { control: LEVEL, layer: 'base', times: [5, 8] };
    nudgePoints(desk.scene, { t: 0.5, travel: 0 });
    expect(desk.pairs().map(([t]) => t)).toEqual([2, 5.5, 8.5, 11]);
    expect(desk.picked.times).toEqual([5.5, 8.5]);
    expect(desk.did.at(-1)).toBe('2 points of Voice level moved: one of them +500 ms.');
    nudgePoints(desk.scene, { t: 0, travel: 0.3 });
    expect(desk.did.at(-1)).toMatch(/^2 points of Voice level moved: one of them \+\d+\.\d dB → /);
    desk.picked = { control: LEVEL, layer: 'base', times: [2] };
    nudgePoints(desk.scene, { t: -9, travel: 0 });
    nudgePoints(desk.scene, { t: -9, travel: 0 });
    expect(desk.said.at(-1)).toMatch(/^They can go no further/);
    desk.picked = null;
    desk.range = [6, 8];
    nudgePoints(desk.scene, { t: 0, travel: 0.01 });
    expect(desk.made.at(-1)).toMatchObject({ kind: 'lift', range: [6, 8], travel: 0.01 });
  });

  test('fades a level over the range from silence or to it, and the curve goes on after', () => {
    desk.range = [5, 8];
    fadeRange(desk.scene, 'out');
    expect(desk.pairs()).toEqual([
      [2, -20],
      [5, -10],
      [8, -144],
      [8, -12],
      [11, -6],
    ]);
    expect(desk.did.at(-1)).toBe('Voice level fades out to silence over the range; after it the curve goes on.');
    desk.range = [8, 11];
    fadeRange(desk.scene, 'in');
    expect(desk.pairs().slice(2)).toEqual([
      [8, -144],
      [11, -6],
    ]);
    desk.inHand = 'voice/pan';
    fadeRange(desk.scene, 'in');
    expect(desk.said.at(-1)).toBe('Voice pan is not in dB, so it has no silence to fade to.');
  });

  test('on a guarded lane does nothing, and says what would let it', () => {
    desk.song = applyEdit(desk.song, { kind: 'channel', channel: 'voice', changes: { safe: ['level'] } }).song;
    desk.range = [0, 20];
    clearPoints(desk.scene);
    addPointAtLine(desk.scene, 3);
    duplicateRange(desk.scene);
    expect(desk.made).toEqual([]);
    expect(new Set(desk.said)).toEqual(new Set(['Safe: Voice level stays as it is. Alt+J takes it out.']));
  });
});

describe('copying by keys', () => {
  let held = '';
  const clipboard: Clipboard = {
    readText: () => Promise.resolve(held),
    writeText: (text) => Promise.resolve(void (held = text)),
  };
  const barred: Clipboard = {
    readText: () => Promise.reject(new Error()),
    writeText: () => Promise.reject(new Error()),
  };

  test('puts a range elsewhere in time, on another channel, on another kind by travel, and on a trim as an offset', async () => {
    desk.range = [2, 8];
    await copyRange(desk.scene, clipboard);
    expect(held.split('\n')[0]).toBe('Sure Hand curve\tVoice level\tlevel\t6');
    expect(desk.did.at(-1)).toBe('6.00 s of Voice level copied.');
    desk.position = 20;
    desk.inHand = 'fiddle/level';
    await pasteAtLine(desk.scene, clipboard);
    expect(desk.pairs('fiddle/level')).toEqual(
      expect.arrayContaining([
        [20, -20],
        [23, -10],
      ]),
    );
    desk.inHand = 'fiddle/pan';
    await pasteAtLine(desk.scene, clipboard);
    expect(desk.did.at(-1)).toBe('6.00 s of Voice level pasted to Fiddle pan, by where it stands on the throw.');
    desk.song = applyEdit(desk.song, { kind: 'channel', channel: 'fiddle', changes: { trim: true } }).song;
    desk.inHand = 'fiddle/level';
    await pasteAtLine(desk.scene, clipboard);
    expect(desk.pairs('fiddle/level', 'trim')).toEqual(expect.arrayContaining([[20, 0]]));
    expect(desk.did.at(-1)).toBe('6.00 s of Voice level pasted to Fiddle level trim, as an offset in dB.');
  });

  test('works within the page where the clipboard is barred; a cut takes what it copied; what is no curve is refused', async () => {
    desk.range = [4, 9];
    await copyRange(desk.scene, barred, true);
    expect(desk.did.at(-1)).toBe('5.00 s of Voice level cut.');
    expect(desk.pairs().map(([t]) => t)).toEqual([2, 4, 9, 11]);
    desk.position = 30;
    await pasteAtLine(desk.scene, barred);
    expect(desk.pairs()).toEqual(
      expect.arrayContaining([
        [31, -10],
        [34, -12],
      ]),
    );
    held = 'A shopping list';
    await pasteAtLine(desk.scene, clipboard);
    expect(desk.said.at(-1)).toBe('What was copied is no curve: copy a range of a lane first.');
  });

  test('once more after itself the range goes along', () => {
    desk.range = [4, 9];
    duplicateRange(desk.scene);
    expect(desk.range).toEqual([9, 14]);
    expect(desk.pairs()).toEqual(
      expect.arrayContaining([
        [10, -10],
        [13, -12],
      ]),
    );
  });
});

test('thinning says beforehand what remains, and where it is furthest off', () => {
  const points = Array.from({ length: 400 }, (_, i) => linePoint(i / 10, -9 + Math.sin(i / 20) + 0.05 * (i % 2)));
  const song = testSong({ lanes: { [LEVEL]: { points } } });
  const edit = thinEdit(song, LEVEL, { scope: 'lane', range: null, tolerance: 0.01 });
  const words = thinWords(song, edit, 'clock');
  expect(words.counts).toMatch(/^400 points of Voice level become \d+\.$/);
  expect(words.worst).toMatch(/^Furthest off at 0:\d\d\.\d{3}: −\d+\.\d dB becomes −\d+\.\d dB\.$/);
  expect(thinEdit(song, 'voice/pan', { scope: 'lane', range: null, tolerance: 0.01 })).toBe(null);
  expect(thinEdit(song, LEVEL, { scope: 'range', range: null, tolerance: 0.01 })).toBe(null);
  expect(thinEdit(song, 'voice/pan', { scope: 'channel', range: null, tolerance: 0.01 })).toMatchObject({
    controls: [LEVEL],
  });
  const safe = applyEdit(song, { kind: 'guard', control: LEVEL, changes: { safe: true } }).song;
  expect(thinWords(safe, thinEdit(safe, LEVEL, { scope: 'song', range: null, tolerance: 0.01 }), 'clock').counts).toBe(
    'Nothing there has points to thin.',
  );
});

test('clearing by scope says how many points of which lanes will go, and which guards keep', () => {
  const few = [linePoint(1, -9), linePoint(3, -6)];
  const song = testSong({
    lanes: {
      [LEVEL]: { points: LANE },
      'voice/pan': { points: [linePoint(2, 0)] },
      'fiddle/level': { points: few, safe: true },
    },
  });
  const scene = { inHand: LEVEL, range: [4, 9] as const, onView: [LEVEL, 'fiddle/level'] };
  const will = (scope: 'range' | 'lane' | 'view' | 'channel' | 'song'): string => clearWords(song, scope, scene).will;
  expect(will('range')).toBe('2 points of Voice level will go.');
  expect(will('lane')).toBe('4 points of Voice level will go.');
  expect(will('channel')).toBe('5 points of 2 lanes: Voice level (4), Voice pan (1) will go.');
  expect(will('view')).toBe('4 points of Voice level will go. Fiddle level is guarded and stays.');
  expect(will('song')).toBe(
    '5 points of 2 lanes: Voice level (4), Voice pan (1) will go. Fiddle level is guarded and stays.',
  );
  const after = applyEdit(song, clearEdit(song, 'song', scene)!);
  expect(after.refused).toEqual([]);
  expect(clearWords(after.song, 'song', scene).will).toBe(
    'Nothing there has points to clear. Fiddle level is guarded and stays.',
  );
  expect(clearEdit(song, 'range', { ...scene, range: null })).toBe(null);
});

test('shapes take their rate from the meter, and say what they go between', () => {
  const song = testSong({ meter: [{ t: 0, beats: 3, unit: 4 }] });
  const rates = (['2 bars', '1 bar', '1/4', '1/8T'] as const).map((rate) => cyclesPerQuarter(song, rate, 0));
  [1 / 6, 1 / 3, 1, 3].forEach((wanted, i) => expect(rates[i]).toBeCloseTo(wanted, 12));
  const asked = { wave: 'sine', rate: '1 bar', depth: 0.25, centre: 0.5, phase: 0, seed: 1 } as const;
  const edit = waveEdit(song, LEVEL, [0, 6], asked);
  expect(waveWords(song, edit, asked)).toMatch(/^Voice level between −35\.0 dB and 0\.0 dB, \d+ points\.$/);
  expect(waveEdit(song, LEVEL, null, asked)).toBe(null);
});

test('picked points are changed together, and a shape that was cut becomes a whole one', () => {
  const song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  const of = { control: LEVEL, layer: 'base' } as const;
  const points = pointsPickedOf(song, { ...of, times: [5, 8, 77] });
  expect(points.map(({ t }) => t)).toEqual([5, 8]);
  const edit = changedPoints(of, points, (one) => withShape({ ...one, part: [0.2, 1] }, 's'));
  const after = [...laneOf(applyEdit(song, edit).song, LEVEL).points];
  expect(after.map(({ shape, bend, part }) => [shape, bend, part])).toEqual([
    ['line', 0, undefined],
    ['s', 0.5, undefined],
    ['s', 0.5, undefined],
    ['line', 0, undefined],
  ]);
});

test('an edit of points that were changed from elsewhere meanwhile does nothing, and says so', () => {
  const song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  const of = { control: LEVEL, layer: 'base' } as const;
  const edit = changedPoints(of, pointsPickedOf(song, { ...of, times: [5] }), (one) => ({ ...one, v: -3 }));
  const said: string[] = [];
  const made: Edit[] = [];
  const on = (now: Song): SongControl =>
    new SongControl(
      { recorder: { song: now } } as never,
      null as never,
      { say: (sentence: string) => said.push(sentence), makeEdit: (one: Edit) => made.push(one) } as never,
    );
  expect(on(song).mend(edit).changed).toEqual([LEVEL]);
  const other = applyEdit(song, { kind: 'clear', controls: [LEVEL], points: { [LEVEL]: [5] } }).song;
  expect(on(other).mend(edit).changed).toEqual([]);
  expect(made).toEqual([edit]);
  expect(said).toEqual([
    'voice/level has no point at 5 s with the value -10; it has been changed meanwhile, and nothing was done.',
  ]);
});
