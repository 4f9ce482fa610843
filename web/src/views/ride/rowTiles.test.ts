import { afterEach, beforeEach, expect, test } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { LOOKS } from '../../parts/look.js';
import { testSong } from '../../test/songs.js';
import { NO_FILTER } from '../../hands/laneFilter.js';
import { layRows, type RideRow } from './rideLayout.js';
import { RowTiles } from './rowTiles.js';

/** Canvases draw nothing here; how tall each was as it was drawn on tells whose tile was made. */
let made: number[] = [];
/** Every canvas there is. */
let canvases: { width: number; height: number }[] = [];
const nothing = (): unknown => new Proxy({}, { get: () => () => ({ width: 0 }), set: () => true });
const kept = globalThis.document;
beforeEach(() => {
  made = [];
  canvases = [];
  const createElement = (): object => {
    const canvas = { width: 0, height: 0, getContext: () => (made.push(canvas.height), nothing()) };
    canvases.push(canvas);
    return canvas;
  };
  globalThis.document = { createElement } as unknown as Document;
});
afterEach(() => void (globalThis.document = kept));

/** Heights by which rows are told apart: the family, the slim voice, and the fiddle, which is in hand. */
const [SLIM, TALL, FAMILY] = [28, 200, 22];
const open = { front: {}, stacked: {}, chosen: [], folded: [], pinned: [] };
const view = { ...open, filter: NO_FILTER, desk: { open: [] }, slimPx: SLIM, tallPx: TALL };
const rowsOf = (song: Song, inHand: string | null = 'fiddle'): RideRow[] =>
  layRows(song, view, { inHand, written: {} }).filter((row) => row.kind === 'family' || row.channel.key !== 'main');

/** What is seen of a song, tile by tile: two of each row, and the one that comes next. `left`: rows there was no time for. */
function tiles(now = () => 0): {
  draw: (song: Song, rows: readonly RideRow[], pxPerSec?: number) => number[];
  left: () => string[];
} {
  const tiles = new RowTiles(now);
  let left: string[] = [];
  const map = meterMap(testSong().tempo, testSong().meter);
  return {
    draw: (song, rows, pxPerSec = 100) => {
      made = [];
      tiles.show({ song, map, look: LOOKS.lamp, pxPerSec, peaks: new Map(), peakCount: 0 }, 1);
      const place = { songPx: 0, width: 1000, x: 14, y: 0 };
      const bare = tiles.draw(nothing() as CanvasRenderingContext2D, place, rows);
      left = [...bare].flatMap((row) => (row.kind === 'channel' ? [row.channel.key] : []));
      return [...made].sort((a, b) => a - b);
    },
    left: () => left,
  };
}
const edited = (song: Song, edit: Edit): Song => applyEdit(song, edit).song;
const level = (song: Song, channel: string, v: number): Song =>
  edited(song, {
    kind: 'lanes',
    lanes: {
      [`${channel}/level`]: {
        rest: 0,
        safe: false,
        parked: false,
        ...song.lanes[`${channel}/level`],
        points: Curve.of([linePoint(1, v)]),
        trim: Curve.EMPTY,
      },
    },
  });

test('a lane that became other draws the tiles of its row anew, and no others', () => {
  const { draw } = tiles();
  const song = testSong();
  const rows = rowsOf(song);
  expect(draw(song, rows)).toEqual([FAMILY, FAMILY, FAMILY, FAMILY, FAMILY, FAMILY, SLIM, SLIM, SLIM, TALL, TALL]);
  // What comes next of the fiddle, one with each picture; then all there is.
  expect(draw(song, rows)).toEqual([TALL]);
  expect(draw(song, rows)).toEqual([]);
  const ridden = level(song, 'voice', -9);
  expect(draw(ridden, rows)).toEqual([SLIM, SLIM, SLIM]);
  const both = level(ridden, 'fiddle', -3);
  expect(draw(both, rows)).toEqual([TALL, TALL, TALL]);
  expect(draw(edited(both, { kind: 'rest', values: { 'voice/pan': 0.5 } }), rows)).toEqual([]);
  // A tall row shows its other lanes too.
  expect(draw(edited(both, { kind: 'rest', values: { 'fiddle/pan': 0.5 } }), rows)).toEqual([TALL, TALL, TALL]);
});

test('rows that move keep their tiles; one that grows, and all at another zoom, are drawn anew', () => {
  const { draw } = tiles();
  const song = testSong();
  for (let k = 0; k < 3; k++) draw(song, rowsOf(song));
  const moved = rowsOf(song).map((row) => ({ ...row, top: row.top + 300 }));
  expect(draw(song, moved)).toEqual([]);
  // The voice comes into hand, and the fiddle grows slim.
  expect(draw(song, rowsOf(song, 'voice'))).toEqual([SLIM, SLIM, TALL, TALL, TALL]);
  expect(draw(song, rowsOf(song, 'voice'), 200)).toHaveLength(11);
});

test('a picture takes no longer than it has time: rows that are left get their ground alone, and their tiles with the next ones', () => {
  // Every tile that is made takes a while.
  const { draw, left } = tiles(() => 3 * made.length);
  const song = testSong();
  const rows = rowsOf(song);
  const keys = rows.flatMap((row) => (row.kind === 'channel' ? [row.channel.key] : []));
  const before: string[][] = [];
  for (let k = 0; k < 20 && (k === 0 || left().length); k++) {
    draw(song, rows);
    before.push(left());
  }
  expect(before[0]!.length).toBeGreaterThan(0);
  expect(before.at(-1)).toEqual([]);
  // Each picture has all rows: with their lanes, or left to be drawn by whoever asked.
  for (const [k, some] of before.entries()) {
    expect(keys).toEqual(expect.arrayContaining(some));
    if (k > 0) expect(some.length).toBeLessThan(before[k - 1]!.length);
  }
});

test('what was out of sight for long takes no room', () => {
  const { draw } = tiles();
  const song = testSong();
  for (let k = 0; k < 3; k++) draw(song, rowsOf(song));
  const room = (): number => canvases.reduce((sum, { width, height }) => sum + width * height, 0);
  const whole = room();
  for (let k = 0; k < 700; k++) draw(song, []);
  expect(whole).toBeGreaterThan(0);
  expect(room()).toBe(0);
  // What comes back is drawn again.
  expect(draw(song, rowsOf(song)).length).toBeGreaterThan(5);
});
