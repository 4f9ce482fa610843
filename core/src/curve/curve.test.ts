import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { LEVEL_LAW, PAN_LAW, SWITCH_LAW, travelOf } from '../units/index.js';
import { curve, pairs } from '../test/songs.js';
import { Curve, CurveMaker } from './curve.js';
import { CurveReader, columnsOf, valueArriving, valueAt } from './lookup.js';
import { SHAPES, holdPoint, linePoint, type Point } from './point.js';
import { shapeFraction } from './shapes.js';
import { splice } from './splice.js';
import { expectWithin } from '../test/often.js';

const ride = curve(linePoint(1, -15), linePoint(3, 0), holdPoint(5, -30), linePoint(6, -30), linePoint(6, 12));
const level = (t: number, points = ride): number => valueAt(points, LEVEL_LAW, -6, t);

describe('a curve', () => {
  test('holds before its first and after its last point, and rests where it has none', () => {
    expect([level(0), level(99), level(4, curve()), level(4, curve(linePoint(9, -3)))]).toEqual([-15, 12, -6, -3]);
  });

  test('goes straight in travel, not in dB', () => {
    expect(travelOf(LEVEL_LAW, level(4))).toBeCloseTo((0.75 + 0.3) / 2, 12);
    expect(level(2)).toBeCloseTo(-7.5, 12);
  });

  test('at a step, the later value holds; the earlier is the one arrived with', () => {
    expect(level(6)).toBe(12);
    expect(valueArriving(ride, LEVEL_LAW, 0, 6)).toBe(-30);
    expect(valueArriving(curve(holdPoint(0, -3), linePoint(2, 4)), LEVEL_LAW, 0, 2)).toBe(-3);
  });

  test.each([
    ['line', 0, 0.25, 0.25],
    ['hold', 0, 0.999, 0],
    ['bend', 1, 0.5, 0.5 ** 8],
    ['bend', -1, 0.5, 1 - 0.5 ** 8],
    ['bend', 1 / 3, 0.5, 0.25],
    ['s', 1 / 3, 0.25, 0.125],
    ['s', 1 / 3, 0.75, 0.875],
    ['s', -1 / 3, 0.25, 0.375],
    ['s', -1 / 3, 0.75, 0.625],
  ] as const)('%s bent by %f is %f of the way at %f', (shape, bend, u, way) => {
    expect(shapeFraction(shape, bend, u)).toBeCloseTo(way, 12);
  });
});

const anyCurve = fc
  .array(
    fc.record({
      dt: fc.oneof(fc.constant(0), fc.double({ min: 0.01, max: 3, noNaN: true })),
      x: fc.double({ min: -1, max: 1, noNaN: true }),
      shape: fc.constantFrom(...SHAPES),
      bend: fc.double({ min: -1, max: 1, noNaN: true }),
    }),
    { minLength: 0, maxLength: 8 },
  )
  .map((steps) => {
    const points: Point[] = [];
    let t = 1;
    for (const { dt, x, shape, bend } of steps) {
      const stepsAlready = points.at(-1)?.t === t && points.at(-2)?.t === t;
      t += dt === 0 && stepsAlready ? 0.5 : dt;
      points.push({ t, v: x, shape, bend });
    }
    return Curve.of(points);
  });
/** A curve whose points have bends, parts and fields that this program does not know, or have not. */
const richCurve = fc
  .array(
    fc.record(
      {
        v: fc.double({ min: -1, max: 1, noNaN: true }),
        shape: fc.constantFrom(...SHAPES),
        bend: fc.constantFrom(0, 0, 0.5),
        part: fc.constantFrom([0.25, 1] as const, [0, 0.5] as const),
        hint: fc.constantFrom('by ear', 'by eye'),
      },
      { requiredKeys: ['v', 'shape', 'bend'] },
    ),
    { maxLength: 8 },
  )
  .map((points) => Curve.of(points.map((point, t) => ({ t, ...point }))));

test('points copied in one go are the points one by one, with bends, parts and what is not known of them', () => {
  const place = fc.integer({ min: -1, max: 9 });
  fc.assert(
    fc.property(richCurve, richCurve, place, place, (one, other, from, to) => {
      const maker = new CurveMaker();
      maker.copy(one, 0, one.length);
      maker.copy(other, from, to);
      expect([...maker.make()]).toEqual([...one, ...[...other].slice(Math.max(0, from), Math.max(0, to))]);
    }),
  );
});

const pan = (points: Curve, t: number): number => travelOf(PAN_LAW, valueAt(points, PAN_LAW, 0.2, t));

describe('reading forwards and at random', () => {
  test('agrees with the plain look-up', () => {
    fc.assert(
      fc.property(
        anyCurve.filter((p) => p.length > 0),
        fc.array(fc.double({ min: 0, max: 20, noNaN: true })),
        (points, times) => {
          const reader = new CurveReader(columnsOf(points, PAN_LAW));
          for (const t of [...times].sort((a, b) => a - b).concat(times))
            expect(reader.travelAt(t)).toBeCloseTo(pan(points, t), 12);
        },
      ),
    );
  });
});

describe('replacing a range', () => {
  test('leaves the outside as it was: the values to 1e-9, the points themselves', () => {
    fc.assert(
      fc.property(
        anyCurve,
        fc.double({ min: 0, max: 12, noNaN: true }),
        fc.double({ min: 0.001, max: 8, noNaN: true }),
        fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 12 }),
        (old, a, length, shares) => {
          const b = a + length;
          const fresh = splice(old, PAN_LAW, 0.2, [a, b], curve(linePoint(a, 0.9), linePoint((a + b) / 2, -0.9)));
          for (const share of shares) {
            const before = a * share;
            const after = b + 10 * share;
            if (before < a) expectWithin(pan(fresh, before), pan(old, before), 1e-9);
            expectWithin(pan(fresh, after), pan(old, after), 1e-9);
          }
          expect(pan(fresh, a)).toBeCloseTo(0.95, 12);
          const [was, is] = [[...old], [...fresh]];
          const outside = was.filter((p) => p.t > b || (p.t < a && was.some((q) => q.t > p.t && q.t < a)));
          for (const p of outside) expect(is).toContainEqual(p);
          expect(is.findIndex(({ t }, i) => i >= 2 && !(t > is[i - 2]!.t))).toBe(-1);
        },
      ),
      { numRuns: 500 },
    );
  });

  test('of a step at its start what is arrived with stays, of one at its end what is left with', () => {
    const steps = curve(linePoint(2, -6), linePoint(2, 0), linePoint(4, -12), linePoint(4, 3));
    const fresh = splice(steps, LEVEL_LAW, 0, [2, 4], curve(linePoint(2, -20), linePoint(4, -20)));
    expect(pairs(fresh)).toEqual([
      [2, -6],
      [2, -20],
      [4, -20],
      [4, 3],
    ]);
  });

  test('a lane without points gets its resting value at both edges', () => {
    const fresh = splice(Curve.EMPTY, LEVEL_LAW, -6, [2, 4], curve(linePoint(2, -3), linePoint(4, -3)));
    expect(pairs(fresh)).toEqual([
      [2, -6],
      [2, -3],
      [4, -3],
      [4, -6],
    ]);
  });

  test('a ride that begins and lands on the curve needs no step', () => {
    const fresh = splice(
      Curve.EMPTY,
      LEVEL_LAW,
      -6,
      [2, 4],
      curve(linePoint(2, -6), linePoint(3, -3), linePoint(4, -6)),
    );
    expect(pairs(fresh)).toEqual([
      [2, -6],
      [3, -3],
      [4, -6],
    ]);
  });

  test('both pieces of a cut shape go on as before, and cut again still do', () => {
    const s = curve({ t: 0, v: -1, shape: 's', bend: 0.7 }, linePoint(8, 1));
    const once = splice(s, PAN_LAW, 0, [3, 4], curve(linePoint(3, 0)));
    expect(once.at(0)!.part).toEqual([0, 3 / 8]);
    expect([...once].find((p) => p.t === 4 && p.shape === 's')!.part).toEqual([0.5, 1]);
    const twice = splice(once, PAN_LAW, 0, [5, 6], curve(linePoint(5, 0)));
    for (const t of [0.5, 2.9, 4.2, 4.99, 6.01, 7.7]) expect(pan(twice, t)).toBeCloseTo(pan(s, t), 9);
  });

  test('a switch gets held edges only', () => {
    const fresh = splice(Curve.EMPTY, SWITCH_LAW, 0, [2, 4], curve(holdPoint(2, 1)));
    expect([...fresh]).toEqual([holdPoint(2, 0), holdPoint(2, 1), holdPoint(4, 0)]);
    expect(valueAt(fresh, SWITCH_LAW, 0, 3.999)).toBe(1);
  });
});
