import { describe, expect, test } from '@jest/globals';
import { holdPoint, linePoint } from '../curve/index.js';
import type { Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { effectiveValueAt, sumDb, vcaRing, vcasOver } from './index.js';

const nested = (lanes: object = {}): Song =>
  testSong({
    channels: [
      { key: 'voice', kind: 'track' },
      { key: 'band', kind: 'vca', members: ['voice'] },
      { key: 'all', kind: 'vca', members: ['band', 'voice'] },
    ],
    lanes: { 'voice/level': { rest: -6, points: [] }, ...lanes },
  });

describe('VCA sums', () => {
  test('reach a member through other VCAs, each once', () => {
    expect([...vcasOver(nested(), 'voice')].sort()).toEqual(['all', 'band']);
    expect(vcasOver(nested(), 'all')).toEqual([]);
    expect(vcaRing(nested())).toBeNull();
  });

  test('add in dB, curves and trims alike', () => {
    const song = nested({
      'band/level': { points: [linePoint(0, -6), linePoint(10, 0)] },
      'all/level': { rest: -3, trim: [linePoint(0, 2)] },
    });
    expect(effectiveValueAt(song, 'voice/level', 0)).toBeCloseTo(-6 - 6 - 3 + 2, 9);
    expect(effectiveValueAt(song, 'voice/level', 5)).toBeCloseTo(-6 - 3 - 3 + 2, 9);
    expect(effectiveValueAt(song, 'all/level', 0)).toBeCloseTo(-1, 9);
  });

  test('are silence where any of them is, and end at +24 dB', () => {
    expect(effectiveValueAt(nested({ 'all/level': { rest: -144 } }), 'voice/level', 0)).toBe(-144);
    expect(sumDb([12, 12, 12])).toBe(24);
    expect(sumDb([-100, -100])).toBe(-144);
  });

  test('a VCA’s mute mutes its members, a channel’s own as well; pans are their own', () => {
    const song = nested({ 'band/mute': { points: [holdPoint(0, 0), holdPoint(4, 1)] }, 'voice/pan': { rest: 0.3 } });
    expect([3, 4].map((t) => effectiveValueAt(song, 'voice/mute', t))).toEqual([0, 1]);
    expect(effectiveValueAt(nested({ 'voice/mute': { rest: 1 } }), 'voice/mute', 0)).toBe(1);
    expect(effectiveValueAt(song, 'voice/pan', 0)).toBe(0.3);
  });
});
