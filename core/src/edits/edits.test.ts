import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt } from '../curve/index.js';
import { laneOf } from '../song/index.js';
import { curve, pairs, testSong } from '../test/songs.js';
import { LEVEL_LAW } from '../units/index.js';
import { editTableText } from './editTable.js';
import type { Receipt } from './kinds/pass.js';
import { applyEdit, isUndoStep, nameOfEdit, type Edit } from './registry.js';

const receipt: Receipt = {
  lap: 0,
  from: 1,
  to: 4,
  lanes: [
    { control: 'voice/level', layer: 'base', spans: [[2, 3]], moves: 1, points: 2, maxDeviation: 0, clamped: [] },
    { control: 'fiddle/pan', layer: 'base', spans: [[2, 3]], moves: 1, points: 2, maxDeviation: 0, clamped: [] },
  ],
  refused: [],
  rested: [],
};
const pass: Edit = {
  kind: 'pass',
  receipt,
  pieces: [
    { control: 'voice/level', layer: 'base', span: [2, 3], points: curve(linePoint(2, 0), linePoint(3, 0)) },
    { control: 'voice/level', layer: 'base', span: [3, 4], points: curve(linePoint(3, -12)) },
    { control: 'voice/level', layer: 'trim', span: [2, 3], points: curve(linePoint(2, 1.5), linePoint(3, 1.5)) },
  ],
};

describe('the edit of a pass', () => {
  test('replaces each span, base and trim apart, one piece after the other', () => {
    const { song, changed } = applyEdit(testSong(), pass);
    expect(changed).toEqual(['voice/level']);
    expect(pairs(laneOf(song, 'voice/level').points)).toEqual([
      [0, -6],
      [2, -6],
      [2, 0],
      [3, 0],
      [3, -12],
      [4, -6],
    ]);
    expect(valueAt(laneOf(song, 'voice/level').trim, LEVEL_LAW, 0, 2.5)).toBe(1.5);
  });

  test('of one song is the very same act however often it is asked for, and another one of another song or edit', () => {
    const song = testSong();
    const once = applyEdit(song, pass);
    expect(applyEdit(song, pass)).toBe(once);
    const other = applyEdit(song, { kind: 'rest', values: { 'voice/level': -3 } });
    expect(laneOf(other.song, 'voice/level')).toEqual({ ...laneOf(song, 'voice/level'), rest: -3 });
    expect(applyEdit(song, pass)).toEqual(once);
    expect(laneOf(applyEdit(other.song, pass).song, 'voice/level').rest).toBe(-3);
  });

  test('is taken back exactly, and leaves lanes it did not write the same objects', () => {
    const before = testSong({ lanes: { 'fiddle/pan': { rest: 0.5 } } });
    const { song, inverse } = applyEdit(before, pass);
    expect(song.lanes['fiddle/pan']).toBe(before.lanes['fiddle/pan']);
    expect(song.channels).toBe(before.channels);
    expect(applyEdit(song, inverse!).song).toEqual(before);
    expect(applyEdit(applyEdit(song, inverse!).song, pass).song).toEqual(song);
  });

  test('taken back keeps guards set since on other lanes, and is refused on its own', () => {
    const { song, inverse } = applyEdit(testSong(), pass);
    const other = applyEdit(song, { kind: 'guard', control: 'fiddle/pan', changes: { safe: true } }).song;
    expect(laneOf(applyEdit(other, inverse!).song, 'fiddle/pan').safe).toBe(true);
    const own = applyEdit(song, { kind: 'guard', control: 'voice/level', changes: { parked: true } }).song;
    const refused = applyEdit(own, inverse!);
    expect(refused.refused).toEqual([{ control: 'voice/level', reason: 'parked' }]);
    expect(refused.song).toBe(own);
    expect(refused.inverse).toBeNull();
  });

  test('is an undo step by its number and lanes; modes and settings are none', () => {
    const song = testSong();
    expect(nameOfEdit(song, pass, 12)).toBe('Pass 12: Voice level and 1 more');
    expect(nameOfEdit(song, { kind: 'rest', values: { 'fiddle/pan': 0 } }, null)).toBe('Rest of Fiddle pan');
    expect(isUndoStep(pass)).toBe(true);
    expect(isUndoStep({ kind: 'channel', channel: 'voice', changes: { mode: 'latch' } })).toBe(false);
    expect(isUndoStep({ kind: 'settings', changes: { loop: null } })).toBe(false);
  });
});

test('the docs list every kind of edit with its fields', () => {
  const here = dirname(fileURLToPath(import.meta.url));
  expect(readFileSync(join(here, '../../../docs/edits.md'), 'utf8')).toContain(editTableText());
  for (const part of [
    '| `carry` ',
    '`layer`? (`base`, `trim`)',
    '`list` (`sections`, `notes`, `tempo`, `meter`), `remove`, `add`',
  ])
    expect(editTableText()).toContain(part);
});
