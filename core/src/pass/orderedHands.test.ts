import { expect, test } from '@jest/globals';
import { applyEdit } from '../edits/index.js';
import { laneOf } from '../song/index.js';
import { testSong } from '../test/songs.js';
import type { HandEvent } from './handEvent.js';
import { OrderedHands, type Deed } from './orderedHands.js';

const LEVEL = 'voice/level';
const hand = (event: HandEvent): Deed => ({ do: 'hand', event });

test('a move made before a wrap and delivered after it belongs to the lap before', () => {
  const hands = new OrderedHands(testSong({ settings: { loop: [2, 4] } }));
  hands.take({ phase: 1, at: 0 }, hand({ do: 'play', from: 2 }));
  hands.take({ phase: 1, at: 1000 }, hand({ t: 3, lap: 0, do: 'touch', control: LEVEL }));
  hands.take({ phase: 2, at: 2010 }, { do: 'wrap' });
  hands.take({ phase: 2, at: 2015 }, hand({ t: 2.015, lap: 1, do: 'move', control: LEVEL, value: -9 }));
  expect([...hands.recorder.song.lanes[LEVEL]!.points].some((p) => p.v === -1)).toBe(false);
  hands.take({ phase: 1, at: 1990 }, hand({ t: 3.99, lap: 0, do: 'move', control: LEVEL, value: -1 }));
  const [first] = hands.tell(2060).flatMap(({ receipts }) => receipts);
  expect(first).toBeUndefined();
  const told = hands.tell(2111);
  expect(told.flatMap(({ receipts }) => receipts)).toMatchObject([{ lap: 0, lanes: [{ spans: [[3, 4]], moves: 1 }] }]);
  expect(hands.recorder.roll).toMatchObject({ lap: 1, now: 2.015 });
  expect([...laneOf(hands.recorder.song, LEVEL).points].some((p) => p.t === 3.99 && p.v === -1)).toBe(true);
  expect(hands.recorder.capAt(LEVEL, 2.02)).toBe(-9);
});

test('a song from elsewhere is taken over with what it does not know of yet on top', () => {
  const song = testSong();
  const hands = new OrderedHands(song);
  hands.take({ phase: 1, at: 0 }, hand({ do: 'play', from: 0 }));
  hands.take({ phase: 1, at: 100 }, hand({ t: 0.1, do: 'touch', control: LEVEL }));
  hands.take({ phase: 1, at: 200 }, hand({ t: 0.2, do: 'move', control: LEVEL, value: -1 }));
  hands.take({ phase: 2, at: 300 }, hand({ t: 0.3, do: 'stop' }));
  hands.take({ phase: 2, at: 310 }, { do: 'adopt', song: { ...song, name: 'From elsewhere' } });
  expect(hands.recorder.song.name).toBe('From elsewhere');
  expect(laneOf(hands.recorder.song, LEVEL).points.length).toBeGreaterThan(1);
  // Late, before the stop: it is in what is told.
  hands.take({ phase: 1, at: 290 }, hand({ t: 0.29, do: 'move', control: LEVEL, value: 3 }));
  expect(hands.tell(320).flatMap(({ edits }) => edits)).toEqual([]);
  const [pass] = hands.tell(500).flatMap(({ edits }) => edits);
  expect(pass).toMatchObject({ kind: 'pass', receipt: { lanes: [{ moves: 2 }] } });
  expect(hands.recorder.song.name).toBe('From elsewhere');
  expect([...laneOf(hands.recorder.song, LEVEL).points].some((p) => p.v === 3)).toBe(true);
});

test('a mode set before a song from elsewhere was taken over, and delivered after it, is not lost by it', () => {
  const song = testSong();
  const hands = new OrderedHands(song);
  const mode = (): string => hands.recorder.song.channels.find(({ key }) => key === 'voice')!.mode;
  hands.take({ phase: 1, at: 0 }, hand({ do: 'play', from: 0 }));
  hands.take({ phase: 1, at: 200 }, { do: 'adopt', song: { ...song, name: 'From elsewhere' } });
  hands.take({ phase: 1, at: 190 }, hand({ t: 0.19, do: 'mode', channel: 'voice', mode: 'latch' }));
  expect(hands.recorder.song.name).toBe('From elsewhere');
  expect(mode()).toBe('latch');
  // Known of by then, it is not done a second time where a hand has turned it over since.
  const told = hands.tell(200).flatMap(({ edits }) => edits);
  expect(told).toHaveLength(1);
  hands.take({ phase: 1, at: 210 }, { do: 'adopt', song: { ...song, name: 'Later', channels: song.channels } });
  expect(mode()).toBe('touch');
});

test('what a song from elsewhere does not know of stays on top of it, however long that has been told when something comes before it', () => {
  const song = testSong();
  const hands = new OrderedHands(song);
  const [first, second] = ['voice/pan', 'fiddle/pan'] as const;
  const safe = (): boolean[] => [first, second].map((id) => laneOf(hands.recorder.song, id).safe);
  hands.take({ phase: 0, at: 0 }, hand({ do: 'safe', control: first, on: true }));
  hands.take({ phase: 0, at: 50 }, hand({ do: 'safe', control: second, on: true }));
  const [edit] = hands.tell(100).flatMap(({ edits }) => edits);
  const known = applyEdit(song, edit!).song;
  hands.take({ phase: 0, at: 110 }, { do: 'adopt', song: { ...known, name: 'From elsewhere' } });
  hands.take({ phase: 0, at: 120 }, hand({ do: 'touch', control: LEVEL }));
  expect(hands.tell(215).flatMap(({ edits }) => edits)).toHaveLength(1);
  expect(safe()).toEqual([true, true]);
  hands.take({ phase: 0, at: 119 }, hand({ do: 'touch', control: 'fiddle/level' }));
  expect([...safe(), hands.recorder.song.name]).toEqual([true, true, 'From elsewhere']);
});

test('a stopped hand that comes after the play it was made before still waits for it: nothing is told before its time', () => {
  const song = testSong({ lanes: { 'fiddle/level': { rest: -6, points: [] } } });
  const hands = new OrderedHands(song);
  hands.take({ phase: 0, at: 0 }, hand({ do: 'mode', channel: 'fiddle', mode: 'latch' }));
  hands.tell(0);
  hands.take({ phase: 0, at: 20 }, hand({ do: 'move', control: 'voice/pan', value: 0.5 }));
  expect(hands.tell(20, true).flatMap(({ edits }) => edits.map(({ kind }) => kind))).toEqual(['rest']);
  hands.take({ phase: 1, at: 60 }, hand({ do: 'play', from: 2 }));
  hands.take({ phase: 0, at: 50 }, hand({ do: 'move', control: 'fiddle/level', value: -9 }));
  hands.take({ phase: 2, at: 1060 }, hand({ t: 3, do: 'stop' }));
  const told = hands.tell(1060, true);
  expect(told.flatMap(({ receipts }) => receipts)).toMatchObject([
    { lanes: [{ control: 'fiddle/level', spans: [[2, 3]] }], rested: ['voice/pan'] },
  ]);
});

test('a change of mode is told at once, in mid-pass too, and again after one made before it; what a stop led to only when nothing can come before it', () => {
  const hands = new OrderedHands(testSong());
  hands.take({ phase: 1, at: 0 }, hand({ do: 'play', from: 0 }));
  hands.take({ phase: 1, at: 100 }, hand({ t: 0.1, do: 'touch', control: LEVEL }));
  hands.take({ phase: 1, at: 150 }, hand({ t: 0.15, do: 'mode', channel: 'voice', mode: 'latch' }));
  expect(hands.tell(150).flatMap(({ edits }) => edits)).toMatchObject([
    { kind: 'channel', changes: { mode: 'latch' } },
  ]);
  // Made before, delivered after it.
  hands.take({ phase: 1, at: 145 }, hand({ t: 0.145, do: 'mode', channel: 'voice', mode: 'off' }));
  expect(hands.tell(160).flatMap(({ edits }) => edits)).toMatchObject([
    { kind: 'channel', changes: { mode: 'off' } },
    { kind: 'channel', changes: { mode: 'latch' } },
  ]);
  hands.take({ phase: 2, at: 400 }, hand({ t: 0.4, do: 'stop' }));
  hands.take({ phase: 2, at: 410 }, hand({ do: 'mode', channel: 'voice', mode: 'read' }));
  expect(hands.tell(420)).not.toContainEqual(expect.objectContaining({ edits: [expect.anything()] }));
  expect(hands.waits).toBe(true);
  expect(hands.tell(420, true).flatMap(({ edits }) => edits.map(({ kind }) => kind))).toEqual(['pass', 'channel']);
});
