import { describe, expect, test } from '@jest/globals';
import { linePoint } from '../curve/index.js';
import { applyEdit } from '../edits/index.js';
import { testSong } from '../test/songs.js';
import { controlsOf, controlsOfChannel, fullName, unknownControl } from './control.js';
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
