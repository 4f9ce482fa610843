import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { holdPoint, linePoint } from '../curve/index.js';
import { applyEdit } from '../edits/index.js';
import { readSong } from '../formats/index.js';
import { PassRecorder, ownByHands } from '../pass/index.js';
import type { Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { effectiveValueAt, levelParts, ownBySong, sumDb, vcaRing, vcasOver } from './index.js';

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

describe('the algebra of VCAs, whatever their tree', () => {
  const dbs = fc.oneof(
    { weight: 6, arbitrary: fc.double({ min: -40, max: 12, noNaN: true }) },
    { weight: 1, arbitrary: fc.constant(-144) },
  );
  /** Eight VCAs over three voices: each may hold any voice, and any VCA before it. */
  const trees = fc.record({
    holds: fc.array(fc.array(fc.boolean(), { minLength: 11, maxLength: 11 }), { minLength: 8, maxLength: 8 }),
    levels: fc.array(dbs, { minLength: 11, maxLength: 11 }),
    mutes: fc.array(
      fc.integer({ min: 0, max: 9 }).map((n) => Number(n === 0)),
      { minLength: 11, maxLength: 11 },
    ),
  });
  const voices = ['v0', 'v1', 'v2'];
  const keys = [...voices, ...Array.from({ length: 8 }, (_, i) => `g${i}`)];
  const songOf = ({ holds, levels, mutes }: { holds: boolean[][]; levels: number[]; mutes: number[] }): Song =>
    testSong({
      channels: [
        ...voices.map((key) => ({ key, kind: 'track' as const })),
        ...holds.map((row, i) => ({
          key: `g${i}`,
          kind: 'vca' as const,
          members: keys.slice(0, 3 + i).filter((_, k) => row[k]),
        })),
        { key: 'main', kind: 'main' as const },
      ],
      lanes: Object.fromEntries(
        keys.flatMap((key, i) => [
          [`${key}/level`, { rest: levels[i]! }],
          [`${key}/mute`, { rest: mutes[i]! }],
        ]),
      ),
    });
  /** All VCAs from which a channel can be reached, each once, found the slow way. */
  const reach = (song: Song, key: string): string[] =>
    keys.filter((one) => {
      const under = (from: string, seen: readonly string[]): boolean => {
        const members = song.channels.find((channel) => channel.key === from)!.members;
        return (
          members.includes(key) || members.some((member) => !seen.includes(member) && under(member, [...seen, member]))
        );
      };
      return under(one, [one]);
    });

  test('each VCA counts once, silence wins, mutes add up, and the sum ends at +24 dB', () => {
    fc.assert(
      fc.property(trees, (tree) => {
        const song = songOf(tree);
        for (const key of voices) {
          const over = reach(song, key);
          const all = [key, ...over].map((one) => tree.levels[keys.indexOf(one)]!);
          const sum = all.some((db) => db <= -144)
            ? -144
            : Math.min(
                24,
                all.reduce((a, b) => a + b, 0),
              );
          expect(effectiveValueAt(song, `${key}/level`, 0)).toBeCloseTo(Math.max(-144, sum), 9);
          const muted = [key, ...over].some((one) => tree.mutes[keys.indexOf(one)]);
          expect(effectiveValueAt(song, `${key}/mute`, 0)).toBe(Number(muted));
        }
      }),
      { numRuns: 200 },
    );
  });

  test('a fold of any of them leaves what is heard as it was, and the VCA at 0 dB', () => {
    fc.assert(
      fc.property(trees, fc.nat(7), (tree, which) => {
        const song = songOf({ ...tree, levels: tree.levels.map((db) => Math.min(db, 0)) });
        const after = applyEdit(song, { kind: 'foldVca', vca: `g${which}` }).song;
        for (const key of voices) {
          const [was, is] = [song, after].map((one) => effectiveValueAt(one, `${key}/level`, 0)) as [number, number];
          if (was > -60) expect(Math.abs(is - was)).toBeLessThan(0.05);
          else expect(is).toBeLessThan(-59.9);
        }
        expect(after.lanes[`g${which}/level`]!.rest).toBeCloseTo(0, 12);
      }),
      { numRuns: 200 },
    );
  });
});

test('a level’s parts say what takes and adds what; they are those of the hands where hands are on them', () => {
  const song = nested({ 'voice/level': { rest: -6, trim: [linePoint(0, 1)] }, 'all/level': { rest: -3 } });
  expect(levelParts(song, 'voice/level', ownBySong(song, 0))).toEqual({
    base: -6,
    trim: 1,
    vcas: [
      { control: 'band/level', db: 0 },
      { control: 'all/level', db: -3 },
    ],
    sum: -8,
  });
  const recorder = new PassRecorder(song);
  recorder.handle({ do: 'touch', control: 'all/level' });
  recorder.handle({ do: 'move', control: 'all/level', value: -10 });
  expect(levelParts(song, 'voice/level', ownByHands(recorder, song, 0)).sum).toBe(-15);
});

test('a gang that names a channel twice over, or one that is not there, is refused by names', () => {
  const gang = (key: string, channels: string[], kinds: string[] = ['level']): object => ({ key, channels, kinds });
  const read = (gangs: object[]): unknown =>
    readSong({ ...JSON.parse(JSON.stringify(nested())), gangs: gangs.map((one) => ({ name: 'G', ...one })) });
  expect(read([gang('a', ['voice', 'nobody'])])).toEqual({
    ok: false,
    sentence: 'The gang G names the channel “nobody”, which the song does not have.',
  });
  expect(read([gang('a', ['voice', 'band']), gang('b', ['band', 'main'])])).toEqual({
    ok: false,
    sentence: 'band level would be in two gangs, G and G; take it out of one of them.',
  });
  // A VCA has no pan: it is in no two gangs with it.
  expect(read([gang('a', ['voice', 'band'], ['pan']), gang('b', ['band', 'main'], ['pan'])])).toMatchObject({
    ok: true,
  });
});
