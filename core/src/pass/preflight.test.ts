import { describe, expect, test } from '@jest/globals';
import type { Mode, Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { preflight } from './preflight.js';

const inMode = (mode: Mode, parts: Parameters<typeof testSong>[0] = {}): Song =>
  testSong({ channels: [{ key: 'voice', kind: 'track', mode }], ...parts });

describe('before a pass', () => {
  test('write begins by itself, touch and latch once touched, and only a stop or a release ends them', () => {
    const of = (mode: Mode) => preflight(inMode(mode), 8).will.filter((one) => one.control === 'voice/level');
    expect(of('write')).toEqual([{ control: 'voice/level', layer: 'base', when: 'play', from: 8, to: null }]);
    expect(of('latch')).toMatchObject([{ when: 'touched', from: 8, to: null }]);
    expect(of('read')).toEqual([]);
  });

  test('what waits poised begins with play', () => {
    const { will } = preflight(inMode('latch'), 8, new Set(['voice/pan']));
    expect(will.map((one) => [one.control, one.when])).toEqual([
      ['voice/level', 'touched'],
      ['voice/pan', 'play'],
      ['voice/mute', 'touched'],
    ]);
  });

  test('the punch range says from where to where; past it nothing is written', () => {
    const song = inMode('touch', { settings: { punch: [10, 12] } });
    expect(preflight(song, 8).will[0]).toMatchObject({ from: 10, to: 12 });
    expect(preflight(song, 11).will[0]).toMatchObject({ from: 11, to: 12 });
    expect(preflight(song, 12).wont.find((one) => one.control === 'voice/level')!.reason).toBe('range');
  });

  test('every control is on one list or the other, with the first reason that holds', () => {
    const song = testSong({
      settings: { writeScope: ['level', 'pan'] },
      channels: [
        { key: 'voice', kind: 'track', mode: 'touch', trim: true, safe: ['pan'] },
        { key: 'fiddle', kind: 'track', mode: 'latch', parked: true },
        { key: 'drum', kind: 'track', mode: 'off' },
      ],
    });
    const { will, wont } = preflight(song, 0);
    expect(will).toEqual([{ control: 'voice/level', layer: 'trim', when: 'touched', from: 0, to: null }]);
    expect(Object.fromEntries(wont.map((one) => [one.control, one.reason]))).toEqual({
      'voice/pan': 'safe',
      'voice/mute': 'scope',
      'fiddle/level': 'parked',
      'fiddle/pan': 'parked',
      'fiddle/mute': 'parked',
      'drum/level': 'mode',
      'drum/pan': 'mode',
      'drum/mute': 'mode',
      'main/level': 'mode',
      'main/pan': 'mode',
      'main/mute': 'mode',
    });
  });

  test('the desk mode stands in for every channel’s own', () => {
    expect(preflight(inMode('read', { settings: { deskMode: 'write' } }), 0).will).toHaveLength(6);
    expect(preflight(inMode('write', { settings: { deskMode: 'read' } }), 0).will).toEqual([]);
  });
});
