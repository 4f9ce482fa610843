import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, linePoint, valueAt, type Point } from '../../curve/index.js';
import { readEdit } from '../../formats/index.js';
import { effectiveValueAt } from '../../groups/index.js';
import { laneOf, type Song } from '../../song/index.js';
import { curves } from '../../test/curves.js';
import { pairs, testSong } from '../../test/songs.js';
import { LEVEL_LAW, TRIM_LAW, travelOf, valueOf } from '../../units/index.js';
import { applyEdit, type Edit } from '../registry.js';
import { runs } from '../../test/runs.js';
import { expectWithin } from '../../test/often.js';

type Drawn = readonly Point[];
/** The voice under two VCAs, one within the other, the fiddle under the outer alone. */
const song = (parts: { voice: Drawn; all: Drawn; allTrim: Drawn; inner: Drawn; rest?: number }): Song =>
  testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice' },
      { key: 'fiddle', kind: 'track', name: 'Fiddle' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'all', kind: 'vca', name: 'All', members: ['fiddle', 'inner'] },
      { key: 'inner', kind: 'vca', name: 'Inner', members: ['voice'] },
    ],
    lanes: {
      'voice/level': { rest: -20, points: parts.voice, trim: [linePoint(3, 2)] },
      'fiddle/level': { rest: -25 },
      'all/level': { rest: parts.rest ?? 0, points: parts.all, trim: parts.allTrim },
      'inner/level': { points: parts.inner },
    },
  });
/** No louder than −20 dB, so that nothing comes to +12 dB. */
const quiet = curves.map((points) => points.map((p) => ({ ...p, v: Math.min(p.v, 12) - 32 })));
const trims = curves.map((points) => points.map((p) => ({ ...p, v: valueOf(TRIM_LAW, travelOf(LEVEL_LAW, p.v)) })));
const times = Array.from({ length: 120 }, (_, k) => k * 0.43 + 0.0071);
const MEMBERS = ['voice/level', 'fiddle/level'];

describe('a VCA folded into its members', () => {
  test('changes nothing of what is heard, over the whole song or a range', () => {
    const ranges = fc.constantFrom<readonly [number, number] | undefined>(undefined, [4, 9.5], [0, 60]);
    fc.assert(
      fc.property(
        quiet,
        curves,
        trims,
        quiet,
        fc.constantFrom(0, -3, -144),
        ranges,
        (voice, all, allTrim, inner, rest, range) => {
          const before = song({ voice, all, allTrim, inner, rest });
          const edit: Edit = { kind: 'foldVca', vca: 'all', ...(range ? { range } : {}) };
          const { song: after, inverse } = applyEdit(before, edit);
          for (const id of MEMBERS)
            for (const t of times) {
              const [was, is] = [effectiveValueAt(before, id, t), effectiveValueAt(after, id, t)];
              if (was > -60) expectWithin(is, was, 0.05);
              else expectWithin(travelOf(LEVEL_LAW, is), 0, 0.0515);
            }
          const { points, trim, rest: rests } = laneOf(after, 'all/level');
          if (!range && inverse) expect([points, trim, rests]).toEqual([Curve.EMPTY, Curve.EMPTY, 0]);
          for (const t of times) {
            const isIn = !range || (t >= range[0] && t < range[1]);
            const was = laneOf(before, 'all/level');
            const at = (of: typeof was): number[] => [
              valueAt(of.points, LEVEL_LAW, of.rest, t),
              valueAt(of.trim, TRIM_LAW, 0, t),
            ];
            const wanted = isIn ? [0, 0] : at(was);
            at(laneOf(after, 'all/level')).forEach((v, i) => expectWithin(v, wanted[i]!, 1e-6));
          }
          expect(laneOf(after, 'inner/level')).toEqual(laneOf(before, 'inner/level'));
          if (inverse) expect(applyEdit(after, inverse).song).toEqual(before);
        },
      ),
      { numRuns: runs(150) },
    );
  });

  test('moves what members rest at where no curve is in it', () => {
    const before = song({ voice: [], all: [], allTrim: [], inner: [], rest: -3 });
    const { song: after, changed } = applyEdit(before, { kind: 'foldVca', vca: 'all' });
    expect(changed.sort()).toEqual(['all/level', ...MEMBERS].sort());
    expect(MEMBERS.map((id) => laneOf(after, id).rest)).toEqual([-23, -28]);
    expect(pairs(laneOf(after, 'fiddle/level').points)).toEqual([]);
    // And does nothing where the VCA adds nothing.
    expect(applyEdit(after, { kind: 'foldVca', vca: 'all' }).song).toBe(after);
  });

  test('says where +12 dB holds a member', () => {
    const before = song({
      voice: [linePoint(0, 6)],
      all: [linePoint(0, 0), linePoint(10, 12)],
      allTrim: [],
      inner: [],
    });
    const { clamped } = applyEdit(before, { kind: 'foldVca', vca: 'all' });
    expect(clamped!.map(({ control }) => control)).toEqual(['voice/level']);
    const [[from, to]] = clamped![0]!.ranges as [[number, number]];
    expect(effectiveValueAt(before, 'all/level', from)).toBeCloseTo(6, 1);
    expect(to).toBe(60);
  });

  test('is refused whole where a member or the VCA is safe, parked or off, and of what is no VCA', () => {
    const before = song({ voice: [], all: [linePoint(0, -3)], allTrim: [], inner: [] });
    const guards: Edit[] = [
      { kind: 'guard', control: 'voice/level', changes: { safe: true } },
      { kind: 'channel', channel: 'all', changes: { parked: true } },
      { kind: 'channel', channel: 'fiddle', changes: { mode: 'off' } },
    ];
    const refusals = guards.map((guard) => {
      const guarded = applyEdit(before, guard).song;
      const { song: after, changed, refused, inverse } = applyEdit(guarded, { kind: 'foldVca', vca: 'all' });
      expect([after === guarded, changed, inverse]).toEqual([true, [], null]);
      return refused;
    });
    expect(refusals).toEqual([
      [{ control: 'voice/level', reason: 'safe' }],
      [{ control: 'all/level', reason: 'parked' }],
      [{ control: 'fiddle/level', reason: 'mode' }],
    ]);
    const read = readEdit(before, { kind: 'foldVca', vca: 'voice' });
    expect(!read.ok && read.sentence).toBe('voice is no VCA, so there is nothing to fold into members.');
  });
});
