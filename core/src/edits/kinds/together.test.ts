import { expect, test } from '@jest/globals';
import { linePoint } from '../../curve/index.js';
import { readEdit } from '../../formats/index.js';
import { laneOf } from '../../song/index.js';
import { curve, pairs, testSong } from '../../test/songs.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';

const LEVEL = 'voice/level';
const TRIM = 'fiddle/level';
const song = testSong({
  lanes: {
    [LEVEL]: { points: curve(linePoint(0, -9), linePoint(10, -9), linePoint(20, -3)) },
    [TRIM]: { points: curve(linePoint(0, -6)), trim: curve(linePoint(4, 2), linePoint(8, 0)) },
  },
});
const both: Edit = {
  kind: 'together',
  as: 'Shift the pass',
  edits: [
    { kind: 'move', controls: [LEVEL], range: [5, 15], by: { t: -1 } },
    { kind: 'move', controls: [TRIM], layer: 'trim', by: { t: -1 } },
    { kind: 'clear', controls: [LEVEL], points: { [LEVEL]: [9] } },
  ],
};

test('edits of curves are made in turn as one step: layers, lanes and what those before them left', () => {
  const { song: after, inverse, changed, refused } = applyEdit(song, both);
  expect(pairs(laneOf(after, LEVEL).points)).toEqual([
    [0, -9],
    [20, -3],
  ]);
  expect(pairs(laneOf(after, TRIM).trim)).toEqual([
    [3, 2],
    [7, 0],
  ]);
  expect([changed, refused]).toEqual([[LEVEL, TRIM], []]);
  expect(applyEdit(after, inverse!).song).toEqual(song);
  expect(nameOfEdit(song, both, null)).toBe('Shift the pass: Voice level and 1 more');
});

test('a guarded lane among them is left alone and named once; the others are changed', () => {
  const safe = applyEdit(song, { kind: 'guard', control: LEVEL, changes: { safe: true } }).song;
  const { song: after, changed, refused } = applyEdit(safe, both);
  expect(refused).toEqual([{ control: LEVEL, reason: 'safe' }]);
  expect(changed).toEqual([TRIM]);
  expect(laneOf(after, LEVEL)).toBe(laneOf(safe, LEVEL));
});

test('one that the song can’t take refuses them all, and says which it is', () => {
  const asked = (edits: unknown): string => {
    const read = readEdit(song, { kind: 'together', edits });
    return read.ok ? 'taken' : read.sentence;
  };
  const gone = { kind: 'clear', controls: ['gone/level'] };
  expect(asked([{ kind: 'thin', controls: [LEVEL], tolerance: 0.01 }, gone])).toContain(
    'Edit 2: There is no control “gone/level”',
  );
  expect(asked([{ kind: 'settings', changes: {} }])).toContain('The together edit is wrong at /edits/0');
  // What stands as JSON comes in with curves.
  expect(asked([{ kind: 'points', control: LEVEL, remove: [], add: [{ t: 3, v: -4 }] }])).toBe('taken');
});
