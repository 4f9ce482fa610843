import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt } from '../curve/index.js';
import { pairs, testSong } from '../test/songs.js';
import { LEVEL_LAW } from '../units/index.js';
import { applyEdit } from './applyEdit.js';
import { controlsOf, controlsOfChannel, fullName, laneOf, unknownControl } from './control.js';
import { isUndoStep, type Edit, type Receipt } from './edit.js';
import { nameOfEdit } from './editName.js';
import { guardOn } from './guards.js';
import { isReading, modeInForce, ownValueAt } from './reading.js';

const withSend = testSong({
  channels: [
    { key: 'voice', kind: 'track', name: 'Voice', sends: [{ bus: 'hall', tap: 'post', pan: 'own' }] },
    { key: 'hall', kind: 'bus', name: 'Hall' },
    { key: 'all', kind: 'vca', name: 'All', members: ['voice'] },
  ],
  lanes: {},
});

describe('controls', () => {
  test('of every kind of channel, in the order they are shown', () => {
    expect([...controlsOf(withSend).keys()]).toEqual([
      'voice/level',
      'voice/pan',
      'voice/mute',
      'voice/send/hall/level',
      'voice/send/hall/on',
      'voice/send/hall/pan',
      'hall/level',
      'hall/pan',
      'hall/mute',
      'all/level',
      'all/mute',
      'main/level',
      'main/pan',
      'main/mute',
    ]);
    expect(controlsOfChannel(withSend, withSend.channels[2]!).map((control) => control.kind)).toEqual([
      'level',
      'mute',
    ]);
  });

  test('are named with their channel, sends by their bus', () => {
    expect(['voice/level', 'voice/send/hall/level', 'all/mute'].map((id) => fullName(withSend, id))).toEqual([
      'Voice level',
      'Voice Hall send',
      'All mute',
    ]);
  });

  test('that are none are told with those there are', () => {
    expect(unknownControl(withSend, 'voice/pan')).toBeNull();
    expect(unknownControl(withSend, 'all/pan')).toBe('There is no control “all/pan”: All has all/level, all/mute.');
    expect(unknownControl(withSend, 'x/pan')).toContain('no channel “x”. Its channels are voice, hall, all, main.');
  });
});

describe('reading', () => {
  const lanes = { 'voice/level': { rest: -9, points: [linePoint(0, -3)], trim: [linePoint(0, 2)] } };
  const song = (channel: object, settings: object = {}): ReturnType<typeof testSong> =>
    testSong({ channels: [{ key: 'voice', kind: 'track', ...channel }], settings, lanes });

  test('follows the curves but in off, and when the control, the channel or the song is parked', () => {
    const cases = [
      song({}),
      song({ mode: 'off' }),
      song({ parked: true }),
      song({}, { parked: true }),
      song({}, { deskMode: 'off' }),
    ];
    expect(cases.map((one) => isReading(one, 'voice/level'))).toEqual([true, false, false, false, false]);
    expect(ownValueAt(cases[0]!, 'voice/level', 1)).toEqual({ base: -3, trim: 2 });
    expect(ownValueAt(cases[2]!, 'voice/level', 1)).toEqual({ base: -9, trim: 0 });
  });

  test('a desk mode stands in for the channel’s own, which it gets back', () => {
    const desk = song({ mode: 'latch' }, { deskMode: 'read' });
    expect(modeInForce(desk, 'voice')).toBe('read');
    const { song: back } = applyEdit(desk, { kind: 'settings', changes: { deskMode: null } });
    expect(modeInForce(back, 'voice')).toBe('latch');
  });

  test('parked comes before safe where both guard', () => {
    expect(guardOn(song({ safe: ['level'] }), 'voice/level')).toBe('safe');
    expect(guardOn(song({ safe: ['level'], parked: true }), 'voice/level')).toBe('parked');
    expect(guardOn(song({ safe: ['pan'] }), 'voice/level')).toBeNull();
  });
});

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
    { control: 'voice/level', layer: 'base', span: [2, 3], points: [linePoint(2, 0), linePoint(3, 0)] },
    { control: 'voice/level', layer: 'base', span: [3, 4], points: [linePoint(3, -12)] },
    { control: 'voice/level', layer: 'trim', span: [2, 3], points: [linePoint(2, 1.5), linePoint(3, 1.5)] },
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
