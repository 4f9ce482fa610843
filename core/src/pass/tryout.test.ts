import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt } from '../curve/index.js';
import { laneOf, snapshotWithDefaults, type Snapshot, type Song } from '../song/index.js';
import { pairs, testSong } from '../test/songs.js';
import { LEVEL_LAW } from '../units/index.js';
import { ownByHands, baseInHand, handDoes, playWrites } from './facts.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';
import { standings } from './preflight.js';
import { PassRecorder } from './recorder.js';
import { passState, recoverPass } from './recover.js';

const LEVEL = 'voice/level';
function recorded(song: Song): { recorder: PassRecorder; send: (...events: HandEvent[]) => void } {
  const recorder = new PassRecorder(song);
  return { recorder, send: (...events) => events.forEach((event) => recorder.handle(event)) };
}

describe('a tryout', () => {
  test('holds what is touched aside across stops and laps, and writes nothing of it; all else follows its mode', () => {
    const song = testSong({
      settings: { loop: [8, 10] },
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' },
        { key: 'fiddle', kind: 'track', name: 'Fiddle', mode: 'write' },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
    });
    const { recorder, send } = recorded(song);
    send({ do: 'tryout', on: true }, { do: 'touch', control: LEVEL }, { do: 'move', control: LEVEL, value: -2 });
    send({ do: 'release', control: LEVEL });
    expect(recorder.poised.size).toBe(0);
    send(
      { do: 'play', from: 8 },
      { do: 'touch', t: 9, control: LEVEL },
      { do: 'move', t: 9.2, control: LEVEL, value: -1 },
    );
    const lap = recorder.wrap();
    expect(lap.receipts[0]!.lanes.map(({ control }) => control)).toEqual(['fiddle/level', 'fiddle/pan', 'fiddle/mute']);
    send({ do: 'move', t: 8.5, control: LEVEL, value: 0 }, { do: 'release', t: 9, control: LEVEL });
    const { receipts } = recorder.handle({ do: 'stop', t: 9.5 });
    expect(receipts[0]).toMatchObject({ lanes: [], refused: [], rested: [] });
    expect([...recorder.tryout.held]).toEqual([[LEVEL, 0]]);
    expect(recorder.doing(LEVEL, 9.5)).toEqual({ what: 'aside', value: 0, finger: false });
    expect(laneOf(recorder.song, LEVEL)).toEqual(laneOf(song, LEVEL));
  });

  test('a hand gives base values even where its channel trims; trim and VCAs stay on top', () => {
    const song = testSong({
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', mode: 'touch', trim: true },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
      lanes: { [LEVEL]: { points: [linePoint(0, -6)], trim: [linePoint(0, 3)] } },
    });
    const { recorder, send } = recorded(song);
    expect([recorder.layerOf(LEVEL), recorder.capAt(LEVEL, 0)]).toEqual(['trim', 3]);
    send({ do: 'tryout', on: true });
    expect([recorder.layerOf(LEVEL), recorder.capAt(LEVEL, 0), handDoes(recorder, LEVEL)]).toEqual([
      'base',
      -6,
      'aside',
    ]);
    send({ do: 'touch', control: LEVEL }, { do: 'move', control: LEVEL, value: -1 }, { do: 'release', control: LEVEL });
    expect(ownByHands(recorder, song, 5)(LEVEL)).toEqual({ base: -1, trim: 3 });
    send({ do: 'tryout', on: false });
    expect(recorder.layerOf(LEVEL)).toBe('base');
    send({ do: 'drop' });
    expect([recorder.layerOf(LEVEL), recorder.capAt(LEVEL, 5)]).toEqual(['trim', 3]);
  });

  test('write mode that begins while it is on goes on from the trim where a channel trims, not from the base', () => {
    const song = testSong({
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', mode: 'write', trim: true },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
      lanes: { [LEVEL]: { points: [linePoint(0, -60)], trim: [linePoint(0, 3)] } },
    });
    const { recorder, send } = recorded(song);
    send({ do: 'tryout', on: true }, { do: 'play', from: 0 }, { do: 'stop', t: 2 });
    expect(pairs(laneOf(recorder.song, LEVEL).trim)).toEqual([
      [0, 3],
      [2, 3],
    ]);
    expect(pairs(laneOf(recorder.song, LEVEL).points)).toEqual([[0, -60]]);
  });

  test('what is being written as it is touched ends there, with a step; a finger that was down before it goes on', () => {
    const { recorder, send } = recorded(testSong());
    send(
      { do: 'play', from: 0 },
      { do: 'touch', t: 1, control: LEVEL },
      { do: 'move', t: 1, control: LEVEL, value: -3 },
    );
    send({ do: 'tryout', t: 2, on: true }, { do: 'move', t: 3, control: LEVEL, value: -4 });
    expect(recorder.doing(LEVEL, 3)).toMatchObject({ what: 'hand', writes: true, value: -4 });
    send({ do: 'release', t: 4, control: LEVEL }, { do: 'touch', t: 4.1, control: LEVEL });
    const { receipts } = recorder.handle({ do: 'stop', t: 6 });
    // The way back is cut where it was taken aside.
    expect(receipts[0]!.lanes[0]!.spans).toEqual([[1, 4.1]]);
    expect(recorder.tryout.held.get(LEVEL)).toBeCloseTo(-4.8, 1);
  });

  test('before and after by ear: the curves are heard until a hand comes, what is held stays held', () => {
    const { recorder, send } = recorded(testSong());
    send(
      { do: 'tryout', on: true },
      { do: 'aside', values: { [LEVEL]: -1, 'gone/level': 0 } },
      { do: 'before', on: true },
    );
    expect([recorder.capAt(LEVEL, 0), recorder.tryout.held.get(LEVEL)]).toEqual([-6, -1]);
    send({ do: 'touch', control: LEVEL });
    expect([recorder.tryout.isBefore, recorder.capAt(LEVEL, 0)]).toEqual([false, -1]);
  });

  test('letting go drops nothing of it; dropping puts it back, and a hand on it counts for nothing until it touches anew', () => {
    const { recorder, send } = recorded(testSong());
    send(
      { do: 'tryout', on: true },
      { do: 'touch', control: LEVEL },
      { do: 'move', control: LEVEL, value: -1 },
      { do: 'letgo' },
    );
    expect(recorder.tryout.held.size).toBe(1);
    send({ do: 'release', control: LEVEL }, { do: 'touch', control: LEVEL }, { do: 'drop', controls: [LEVEL] });
    send({ do: 'move', control: LEVEL, value: 5 });
    expect([recorder.tryout.held.size, recorder.capAt(LEVEL, 0)]).toEqual([0, -6]);
  });

  test('before play it is in no forecast; in the list it stands as held aside', () => {
    const song = testSong({ settings: { deskMode: 'write' } });
    const { recorder, send } = recorded(song);
    send({ do: 'aside', values: { [LEVEL]: -1 } });
    const reach = playWrites(song, 0, recorder.waiting)!;
    expect(reach.lanes.map(({ control }) => control)).not.toContain(LEVEL);
    expect(standings(recorder, 0).find(({ control }) => control === LEVEL)).toMatchObject({ stands: 'aside' });
  });

  test('a pass made again from its journal writes nothing of what was held aside', () => {
    const song = testSong();
    const { recorder, send } = recorded(song);
    send({ do: 'tryout', on: true }, { do: 'aside', values: { [LEVEL]: -1 } }, { do: 'tryout', on: false });
    const events: HandEvent[] = [
      ...recorder.tryoutEvents(),
      { do: 'play', from: 0 },
      { do: 'touch', t: 1, control: LEVEL },
      { do: 'move', t: 1.5, control: LEVEL, value: -9 },
      { do: 'touch', t: 2, control: 'voice/pan' },
      { do: 'move', t: 2.5, control: 'voice/pan', value: 1 },
    ];
    const recovered = recoverPass(song, { began: passState(song), events, at: 3 });
    expect(recovered!.receipt.lanes.map(({ control }) => control)).toEqual(['voice/pan']);
  });

  test('moves lists have it, each of its events checked', () => {
    const song = testSong();
    const run = (...events: HandEvent[]) => runMoves(song, events);
    expect(run({ do: 'aside', values: { [LEVEL]: 40 } })).toMatchObject({
      ok: false,
      sentence: expect.stringMatching(/^Event 1 \(aside\): voice\/level takes/),
    });
    expect(run({ do: 'aside', values: { 'gone/level': 0 } })).toMatchObject({ ok: false });
    expect(run({ do: 'tryout', on: true }, { do: 'move', control: LEVEL, value: -3 })).toMatchObject({
      ok: true,
      receipts: [],
    });
  });
});

describe('a snapshot in moves', () => {
  const verse: Snapshot = snapshotWithDefaults({
    key: 'verse-1',
    values: { [LEVEL]: -12, 'fiddle/level': -20, 'voice/pan': 0.5, 'gone/level': 0 },
  });
  const song = (more: Parameters<typeof testSong>[0] = {}): Song => ({ ...testSong(more), snapshots: [verse] });
  const curve = (after: Song, id: string) => pairs(laneOf(after, id).points);
  const ride = (of: Song, events: HandEvent[]) => {
    const ridden = runMoves(of, events);
    if (!ridden.ok) throw new Error(ridden.sentence);
    return ridden;
  };

  test('stopped it is poised, in any mode; play writes it from there until stop, guards heeded, what is gone said', () => {
    const guarded = song({ lanes: { 'voice/pan': { safe: true } } });
    const { song: after, receipts } = ride(guarded, [
      { do: 'snapshot', key: 'verse-1' },
      { do: 'play', from: 8 },
      { t: 12, do: 'stop' },
    ]);
    expect(receipts).toMatchObject([
      { refused: [{ control: 'voice/pan', reason: 'safe' }], gone: ['gone/level'], rested: [] },
    ]);
    expect(receipts[0]!.lanes.map(({ control, spans }) => [control, spans])).toEqual([
      [LEVEL, [[8, 12]]],
      ['fiddle/level', [[8, 12]]],
    ]);
    // The fiddle reads, and is written all the same; before and after it rests as ever.
    expect(curve(after, 'fiddle/level')).toEqual([
      [8, 0],
      [8, -20],
      [12, -20],
      [12, 0],
    ]);
  });

  test('rolling it writes from that moment on, on the base, whatever is in latch or trim there', () => {
    const trimming = song({
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch', trim: true },
        { key: 'fiddle', kind: 'track', name: 'Fiddle' },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
    });
    const { song: after, receipts } = ride(trimming, [
      { do: 'play', from: 8 },
      { t: 9, do: 'touch', control: LEVEL },
      { t: 9.5, do: 'move', control: LEVEL, value: 2 },
      { t: 10, do: 'release', control: LEVEL },
      { t: 11, do: 'snapshot', key: 'verse-1' },
      { t: 13, do: 'stop' },
    ]);
    const lanes = receipts[0]!.lanes.map(({ control, layer, spans }) => [`${control} ${layer}`, spans]);
    expect(lanes).toContainEqual([`${LEVEL} trim`, [[9, 11]]]);
    expect(lanes).toContainEqual([`${LEVEL} base`, [[11, 13]]]);
    expect(valueAt(laneOf(after, LEVEL).points, LEVEL_LAW, 0, 12)).toBe(-12);
  });

  test('a hand on it takes it over in any mode, and a release holds it on; a change to read ends it', () => {
    const { recorder, send } = recorded(song());
    send(
      { do: 'play', from: 0 },
      { t: 1, do: 'snapshot', key: 'verse-1' },
      { t: 2, do: 'touch', control: 'fiddle/level' },
    );
    send({ t: 3, do: 'move', control: 'fiddle/level', value: -3 }, { t: 4, do: 'release', control: 'fiddle/level' });
    expect(recorder.doing('fiddle/level', 5)).toMatchObject({ what: 'hand', value: -3, writes: true });
    expect(baseInHand(recorder, 'fiddle/level', 5)).toBe(-3);
    send({ t: 6, do: 'mode', channel: 'fiddle', mode: 'off' });
    expect(recorder.doing('fiddle/level', 6)).toEqual({ what: 'curve' });
    send({ t: 7, do: 'mode', channel: 'fiddle', mode: 'read' }, { t: 8, do: 'touch', control: 'fiddle/level' });
    expect(recorder.refusalOf('fiddle/level')).toBe('mode');
  });

  test('before the punch range it waits for it; what a finger holds, or is held aside, is left alone', () => {
    const { recorder, send } = recorded(song({ settings: { punch: [4, 6] } }));
    send(
      { do: 'aside', values: { 'voice/pan': -1 } },
      { do: 'play', from: 2 },
      { t: 2.5, do: 'touch', control: LEVEL },
    );
    send({ t: 3, do: 'snapshot', key: 'verse-1' });
    const { receipts } = recorder.handle({ do: 'stop', t: 8 });
    const spans = Object.fromEntries(receipts[0]!.lanes.map((lane) => [lane.control, lane.spans]));
    expect(spans).toEqual({ [LEVEL]: [[4, 6]], 'fiddle/level': [[4, 6]] });
    expect(valueAt(laneOf(recorder.song, LEVEL).points, LEVEL_LAW, 0, 5)).toBe(-6);
  });

  test('one that the song does not have is a sentence, in a list; from a hand it does nothing', () => {
    expect(runMoves(song(), [{ do: 'snapshot', key: 'chorus' }])).toEqual({
      ok: false,
      sentence: 'Event 1 (snapshot): the song has no snapshot “chorus”. Its snapshots are verse-1.',
    });
    const { recorder, send } = recorded(testSong());
    send({ do: 'snapshot', key: 'verse-1' });
    expect(recorder.poised.size).toBe(0);
  });
});
