import { expect, test } from '@jest/globals';
import { applyEdit } from '../edits/index.js';
import { laneOf } from '../song/index.js';
import { pairs, testSong } from '../test/songs.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';
import { passState, recoverPass } from './recover.js';

const events: readonly HandEvent[] = [
  { do: 'play', from: 1 },
  { t: 2, do: 'touch', control: 'voice/level' },
  { t: 2.5, do: 'move', control: 'voice/level', value: -1 },
  { t: 4, do: 'mode', channel: 'voice', mode: 'latch' },
  { t: 5, do: 'release', control: 'voice/level' },
];

test('a pass cut short comes back as it would have been, stopped there', () => {
  const song = testSong();
  const journal = { began: passState(song), events, at: 6 };
  // What was sent of it before the crash: its change of mode, not the pass.
  const after = applyEdit(song, { kind: 'channel', channel: 'voice', changes: { mode: 'latch' } }).song;
  const recovered = recoverPass(after, journal)!;
  const whole = runMoves(song, [...events, { t: 6, do: 'stop' }]);
  if (!whole.ok) throw new Error(whole.sentence);
  expect(recovered.receipt).toEqual(whole.receipts[0]);
  const lanes = applyEdit(after, recovered.pass).song;
  expect(pairs(laneOf(lanes, 'voice/level').points)).toEqual(pairs(laneOf(whole.song, 'voice/level').points));
  expect(lanes.channels[0]!.mode).toBe('latch');
});

test('one that wrote nothing, or only on what is gone, is none', () => {
  const song = testSong();
  const began = passState(song);
  expect(recoverPass(song, { began, events: events.slice(0, 1), at: 9 })).toBeNull();
  const gone: HandEvent = { t: 2, do: 'touch', control: 'drum/level' };
  expect(recoverPass(song, { began, events: [events[0]!, gone], at: 9 })).toBeNull();
});

test('a poised value that waited for it is in it', () => {
  const song = testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' }] });
  const poise: HandEvent[] = [
    { do: 'touch', control: 'voice/level' },
    { do: 'move', control: 'voice/level', value: -3 },
    { do: 'release', control: 'voice/level' },
    { do: 'play', from: 8 },
  ];
  const expected = [{ control: 'voice/level', spans: [[8, 9.5]] }];
  const { receipt } = recoverPass(song, { began: passState(song), events: poise, at: 9.5 })!;
  expect(receipt.lanes).toMatchObject(expected);
  // The hand's events may come, and be written down, after the play that they were made before.
  const late = [poise[0]!, poise[3]!, poise[1]!, poise[2]!];
  expect(recoverPass(song, { began: passState(song), events: late, at: 9.5 })!.receipt).toEqual(receipt);
});
