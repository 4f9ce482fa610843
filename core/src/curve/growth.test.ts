import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import wabt from 'wabt';
import { columnsForRun, growPlainly, plainColumns } from './growth.js';
import { GROWTH_CODE } from './growthCode.js';
import { ThinStream, thinRun } from './thin.js';
import { runs } from '../test/runs.js';

/** More samples than a run needs to be grown by the machine’s own code. */
const LONG = 5000;

const wandering = fc.record({
  seed: fc.nat(),
  roughness: fc.double({ min: 1e-4, max: 0.2, noNaN: true }),
  calm: fc.double({ min: 0, max: 0.99, noNaN: true }),
  tolerance: fc.double({ min: 5e-4, max: 0.02, noNaN: true }),
});

/** A hand that wanders, at times that are not even. */
function ride({ seed, roughness, calm }: { seed: number; roughness: number; calm: number }) {
  let state = seed;
  const random = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32;
  const t: number[] = [];
  const x: number[] = [];
  let [at, v, speed] = [0, 0.5, 0];
  for (let i = 0; i < LONG; i++) {
    at += 0.001 + 0.01 * random();
    speed = speed * calm + (random() - 0.5) * roughness;
    v = Math.min(1, Math.max(0, v + speed * 0.1));
    t.push(at);
    x.push(v);
  }
  return { t, x };
}

describe('the growth of a long run', () => {
  test('is done by the machine’s own code here, which is made from its text', async () => {
    expect(columnsForRun(LONG).grow).not.toBe(growPlainly);
    expect(columnsForRun(100).grow).toBe(growPlainly);
    const text = readFileSync(new URL('./growth.wat', import.meta.url), 'utf8');
    const { buffer } = (await wabt()).parseWat('growth.wat', text, {}).toBinary({});
    expect(GROWTH_CODE).toBe(btoa(String.fromCharCode(...buffer)));
  });

  test('keeps what the plain loop keeps, to the last bit, with all starts and with a few', () => {
    fc.assert(
      fc.property(wandering, fc.constantFrom(0, 3000, Infinity), (hand, exactSteps) => {
        const run = ride(hand);
        const limits = { exactSteps, fewStarts: 2 };
        const plain = new ThinStream(hand.tolerance, { limits });
        run.t.forEach((t, i) => plain.push(t, run.x[i]!));
        const kept = plain.finish();
        const thinned = thinRun(run, hand.tolerance, limits);
        expect(thinned.t).toEqual(kept.map(({ index }) => run.t[index]));
        expect(thinned.x).toEqual(kept.map(({ x }) => x));
      }),
      { numRuns: runs(40) },
    );
  });

  test('finds the same reach at every sample, from any start, and touches nothing before it', () => {
    fc.assert(
      fc.property(wandering, fc.nat(LONG - 2), fc.nat(60), fc.nat(60), (hand, from, more, most) => {
        const run = ride(hand);
        const filled = [plainColumns(LONG), columnsForRun(LONG)].map((columns) => {
          columns.t.set(run.t);
          columns.low.set(run.x.map((x) => Math.max(0, x - hand.tolerance)));
          columns.high.set(run.x.map((x) => Math.min(1, x + hand.tolerance)));
          // What others have reached before.
          columns.reachLow.set(run.x.map((x, i) => x - (i % 7) * hand.tolerance * 0.2));
          columns.reachHigh.set(run.x.map((x, i) => x + (i % 5) * hand.tolerance * 0.2));
          const last = columns.grow(columns, from, from + more, from + more + most, LONG);
          return { last, low: [...columns.reachLow], high: [...columns.reachHigh] };
        });
        expect(filled[1]).toEqual(filled[0]);
      }),
      { numRuns: runs(60) },
    );
  });
});
