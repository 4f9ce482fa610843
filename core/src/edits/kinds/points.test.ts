import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, linePoint, type Point } from '../../curve/index.js';
import { laneOf } from '../../song/index.js';
import { testSong } from '../../test/songs.js';
import { applyEdit } from '../registry.js';
import { points as kind, type PointsEdit } from './points.js';

const ID = 'voice/level';
/** As the rule has it, word for word: slow, point after point. Null where one to take out is not there. */
function slowly(now: readonly Point[], { remove, add }: PointsEdit): Point[] | null {
  const kept: (Point | null)[] = [...now];
  const fresh = [...add];
  const places: number[] = [];
  for (const gone of remove) {
    const i = kept.findIndex((p) => p?.t === gone.t && p.v === gone.v);
    if (i < 0) return null;
    kept[i] = null;
    places.push(i);
  }
  for (const i of places) {
    const at = fresh.findIndex(({ t }) => t === now[i]!.t);
    if (at >= 0) kept[i] = fresh.splice(at, 1)[0]!;
  }
  const all = [...kept.filter((p) => p !== null), ...fresh].map((p, i) => ({ p, i }));
  return all.sort((x, y) => x.p.t - y.p.t || x.i - y.i).map(({ p }) => p);
}

/** Few times and few values, so that there are steps, and points alike. */
const some = fc.array(fc.record({ t: fc.nat(12), v: fc.constantFrom(-6, -3, 0) }), { maxLength: 16 }).map((drawn) => {
  const all = [...drawn].sort((a, b) => a.t - b.t).map(({ t, v }) => linePoint(t, v));
  return all.filter((p, i) => all[i - 1]?.t !== p.t || all[i - 2]?.t !== p.t);
});

test('points out and in are what the rule says of them one after the other, steps and points alike among them', () => {
  let missing = 0;
  fc.assert(
    fc.property(some, some, fc.array(fc.nat(40), { maxLength: 12 }), (now, fresh, which) => {
      const remove = which
        .flatMap((i) => (i < now.length ? [now[i]!] : i > 37 ? [linePoint(i, 0)] : []))
        .map(({ t, v }) => ({ t, v }));
      const edit: PointsEdit = { kind: 'points', control: ID, remove, add: Curve.of(fresh) };
      const song = testSong();
      const lanes = { ...song.lanes, [ID]: { ...laneOf(song, ID), points: Curve.of(now) } };
      const wanted = slowly(now, edit);
      const wrong = kind.wrong({ ...song, lanes }, edit);
      if (!wanted) {
        missing++;
        return expect(wrong).toMatch(/has no point at/);
      }
      if (wrong !== null) return expect(wrong).toMatch(/Three points/);
      const { song: after } = applyEdit({ ...song, lanes }, edit);
      expect(laneOf(after, ID).points.toJSON()).toEqual(wanted);
    }),
    { numRuns: 500 },
  );
  expect(missing).toBeGreaterThan(5);
});
