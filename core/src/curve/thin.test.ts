import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { ThinStream, thinRun } from './thin.js';
import { runs } from '../test/runs.js';

type Run = { t: number[]; x: number[] };
type Interval = readonly [number, number];

const lineAt = (thinned: Run, t: number): number => {
  let i = 0;
  while (i + 2 < thinned.t.length && thinned.t[i + 1]! <= t) i++;
  const share = (t - thinned.t[i]!) / (thinned.t[i + 1]! - thinned.t[i]!);
  return thinned.x[i]! + share * (thinned.x[i + 1]! - thinned.x[i]!);
};

/** Values a straight line can have at sample i that starts in `start` at j and keeps within the tube: by trying all corners. */
function reach(run: Run, tolerance: number, j: number, start: Interval, i: number): Interval | null {
  const walls = [{ t: run.t[j]!, low: start[0], high: start[1] }];
  for (let k = j + 1; k <= i; k++) {
    const exact = k === run.t.length - 1;
    const spread = exact ? 0 : tolerance;
    walls.push({
      t: run.t[k]!,
      low: Math.max(0, run.x[k]! - spread),
      high: Math.min(1, run.x[k]! + spread),
    });
  }
  let low = Infinity;
  let high = -Infinity;
  for (const a of walls)
    for (const b of walls) {
      if (a.t >= b.t) continue;
      for (const ya of [a.low, a.high])
        for (const yb of [b.low, b.high]) {
          const at = (t: number): number => ya + ((yb - ya) * (t - a.t)) / (b.t - a.t);
          if (!walls.every((w) => at(w.t) >= w.low - 1e-12 && at(w.t) <= w.high + 1e-12)) continue;
          low = Math.min(low, at(run.t[i]!));
          high = Math.max(high, at(run.t[i]!));
        }
    }
  return low <= high ? [low, high] : null;
}

/** The fewest vertices any line within the tolerance can have: every sample, every count of segments, all intervals. */
function fewestVertices(run: Run, tolerance: number): number {
  const n = run.t.length;
  let level: Interval[][] = run.t.map((_, i) => (i === 0 ? [[run.x[0]!, run.x[0]!]] : []));
  for (let segments = 1; ; segments++) {
    const next: Interval[][] = run.t.map(() => []);
    for (let j = 0; j < n; j++)
      for (const start of level[j]!)
        for (let i = j + 1; i < n; i++) {
          const to = reach(run, tolerance, j, start, i);
          if (!to) break;
          next[i]!.push(to);
        }
    if (next[n - 1]!.length) return segments + 1;
    level = next.map((intervals) => merged(intervals));
  }
}

function merged(intervals: Interval[]): Interval[] {
  const out: [number, number][] = [];
  for (const [low, high] of [...intervals].sort((a, b) => a[0] - b[0])) {
    const last = out.at(-1);
    if (last && low <= last[1] + 1e-12) last[1] = Math.max(last[1], high);
    else out.push([low, high]);
  }
  return out;
}

const randomRun = (most: number): fc.Arbitrary<Run> =>
  fc
    .array(fc.tuple(fc.double({ min: 0.002, max: 0.05, noNaN: true }), fc.double({ min: 0, max: 1, noNaN: true })), {
      minLength: 3,
      maxLength: most,
    })
    .chain((steps) =>
      fc.double({ min: 0.001, max: 0.2, noNaN: true }).map((spread) => {
        let t = 0;
        let x = 0.5;
        const run: Run = { t: [], x: [] };
        for (const [dt, to] of steps) {
          t += dt;
          x = Math.min(1, Math.max(0, x + (to - 0.5) * spread));
          run.t.push(t);
          run.x.push(x);
        }
        return run;
      }),
    );

/** A hand that is pushed at random, and keeps `steady` of its pace from one sample to the next. */
function longRide(n: number, { steady, push }: { steady: number; push: number }): Run {
  let seed = 1;
  const chance = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const run: Run = { t: [], x: [] };
  for (let i = 0, x = 0.5, pace = 0; i < n; i++) {
    pace = pace * steady + (chance() - 0.5) * push;
    x = Math.min(1, Math.max(0, x + pace * 0.2));
    run.t.push(i * 0.005);
    run.x.push(x);
  }
  return run;
}

const thinned = (stream: ThinStream): ReturnType<typeof thinRun> => {
  const vertices = stream.finish();
  return {
    t: vertices.map(({ index }) => stream.timeOf(index)),
    x: vertices.map(({ x }) => x),
    maxDeviation: vertices.at(-1)!.worst,
  };
};

describe('thinning', () => {
  test('never deviates by more than the tolerance, and says by how much it does', () => {
    fc.assert(
      fc.property(randomRun(120), fc.constantFrom(0.002, 0.005, 0.015), (run, tolerance) => {
        const thinned = thinRun(run, tolerance);
        const off = Math.max(...run.t.map((t, i) => Math.abs(lineAt(thinned, t) - run.x[i]!)));
        expect(off).toBeLessThanOrEqual(tolerance + 1e-9);
        expect(thinned.maxDeviation).toBeCloseTo(off, 9);
        expect([thinned.t[0], thinned.x[0]]).toEqual([run.t[0], run.x[0]]);
        expect([thinned.t.at(-1), thinned.x.at(-1)]).toEqual([run.t.at(-1), run.x.at(-1)]);
        expect(thinned.t.every((t) => run.t.includes(t))).toBe(true);
      }),
      { numRuns: runs(300) },
    );
  });

  test('keeps as few points as any line could, on runs small enough to try every line', () => {
    fc.assert(
      fc.property(randomRun(14), fc.constantFrom(0.005, 0.02), (run, tolerance) => {
        expect(thinRun(run, tolerance).t.length).toBeLessThanOrEqual(Math.floor(1.1 * fewestVertices(run, tolerance)));
      }),
      { numRuns: runs(60) },
    );
  });

  test.each([
    ['a hand that trembles', { steady: 0.5, push: 0.03 }, 0.002],
    ['a hand that trembles, thinned hard', { steady: 0.5, push: 0.03 }, 0.01],
    ['a hand that wanders', { steady: 0.97, push: 0.004 }, 0.002],
    ['a hand that wanders, thinned hard', { steady: 0.97, push: 0.004 }, 0.015],
    ['a hand that hardly moves', { steady: 0.998, push: 0.0001 }, 0.002],
  ])('%s: with a few starts alone keeps at most a tenth more points than with all', (_name, hand, tolerance) => {
    const run = longRide(20_000, hand);
    const few = thinRun(run, tolerance, { exactSteps: 0, fewStarts: 2 });
    const all = thinRun(run, tolerance, { exactSteps: Infinity, fewStarts: Infinity });
    expect(few.t.length).toBeLessThanOrEqual(1.1 * all.t.length);
    expect(few.maxDeviation).toBeLessThanOrEqual(tolerance + 1e-9);
  });

  test('a straight ride keeps its ends alone, at any length', () => {
    const t = Array.from({ length: 5000 }, (_, i) => i / 100);
    const thinned = thinRun({ t, x: t.map((s) => 0.2 + s / 100) }, 0.002);
    expect(thinned.t).toEqual([0, 49.99]);
    expect(thinned.maxDeviation).toBeLessThan(1e-12);
  });

  test('off keeps every sample', () => {
    const run = { t: [0, 1, 2], x: [0.5, 0.5, 0.5] };
    expect(thinRun(run, 0)).toEqual({ ...run, maxDeviation: 0 });
  });

  test('while the samples still come finds what it finds of all of them at once, whenever it is asked, and as often', () => {
    const turns = fc.array(fc.constantFrom('none', 'settle', 'finish'), { minLength: 1, maxLength: 40 });
    const limits = fc.constantFrom({ exactSteps: 40_000, fewStarts: 2 }, { exactSteps: 60, fewStarts: 2 });
    fc.assert(
      fc.property(
        randomRun(160),
        fc.constantFrom(0, 0.002, 0.015, 0.1),
        limits,
        turns,
        (run, tolerance, most, asked) => {
          const stream = new ThinStream(tolerance, { limits: most });
          run.t.forEach((t, i) => {
            stream.push(t, run.x[i]!);
            const turn = asked[i % asked.length];
            if (turn === 'settle') stream.settle();
            if (turn !== 'finish') return;
            const mark = stream.mark();
            const soFar = { t: run.t.slice(0, i + 1), x: run.x.slice(0, i + 1) };
            expect(thinned(stream)).toEqual(thinRun(soFar, tolerance, most));
            stream.back(mark);
          });
          expect(thinned(stream)).toEqual(thinRun(run, tolerance, most));
        },
      ),
      { numRuns: runs(300) },
    );
  });
});
