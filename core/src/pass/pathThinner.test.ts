import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, linePoint, thinRun } from '../curve/index.js';
import { LEVEL_LAW, travelOf, valueOf } from '../units/index.js';
import { handPath, type HandValue } from './handPath.js';
import { PathThinner } from './pathThinner.js';
import { runs } from '../test/runs.js';

/** The slow, obvious way: the whole path, parted at its steps, each part thinned by itself. */
function thinnedAtOnce(path: readonly HandValue[], tolerance: number): { points: Curve; maxDeviation: number } {
  const runs: HandValue[][] = [];
  for (const [i, value] of path.entries())
    if (i > 0 && value.t > path[i - 1]!.t) runs.at(-1)!.push(value);
    else runs.push([value]);
  let maxDeviation = 0;
  const points = runs.flatMap((run) => {
    const x = run.map(({ v }) => travelOf(LEVEL_LAW, v));
    const thinned = thinRun({ t: run.map(({ t }) => t), x }, tolerance);
    maxDeviation = Math.max(maxDeviation, thinned.maxDeviation);
    return thinned.t.map((t, k) => {
      const at = run.findIndex((one) => one.t === t);
      return linePoint(t, thinned.x[k] === x[at] ? run[at]!.v : valueOf(LEVEL_LAW, thinned.x[k]!));
    });
  });
  return { points: Curve.of(points), maxDeviation };
}

/** What a hand does from one value to the next: moves on, stands at the same time, or holds still for a while. */
const move = fc.record({
  dt: fc.constantFrom(0.01, 0.016, 0.016, 0.016, 0.03, 0, 0.3),
  dv: fc.double({ min: -1, max: 1, noNaN: true }),
});
const hand = fc.array(move, { minLength: 1, maxLength: 700, size: 'max' }).map((moves) => {
  let [t, v] = [2, -12];
  return moves.map(({ dt, dv }): HandValue => {
    t += dt;
    v = Math.max(-30, Math.min(6, v + dv));
    return { t, v, x: travelOf(LEVEL_LAW, v) };
  });
});

describe('a path that is thinned while its hand still moves', () => {
  test('is what thinning all of it at once keeps: with steps, holds and a way back, at any moment of the ride', () => {
    const when = fc.array(fc.integer({ min: 0, max: 700 }), { maxLength: 4 });
    fc.assert(
      fc.property(hand, when, fc.constantFrom(0.002, 0.015), fc.boolean(), (values, kept, tolerance, returns) => {
        const thinner = new PathThinner(LEVEL_LAW, tolerance);
        const agrees = (so: readonly HandValue[]): void => {
          const end = so.at(-1)!.t + 0.5;
          const tail = returns ? [{ t: end + 0.25, v: -9 }] : [];
          const slow = thinnedAtOnce([...handPath(so, end), ...tail], tolerance);
          expect(thinner.keep(so, end, tail)).toEqual(slow);
        };
        values.forEach((_, i) => {
          const so = values.slice(0, i + 1);
          thinner.follow(so);
          if (kept.includes(i)) agrees(so);
        });
        agrees(values);
        if (values.length > 300) expect(thinner.taken).toBeGreaterThan(values.length - 200);
      }),
      { numRuns: runs(60) },
    );
  });
});
