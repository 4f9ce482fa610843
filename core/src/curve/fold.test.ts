import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { LEVEL_LAW, MAX_LEVEL_DB, SILENCE_DB, TRIM_LAW, travelOf, valueOf } from '../units/index.js';
import { curve, pairs } from '../test/songs.js';
import { carried } from './carry.js';
import { Curve } from './curve.js';
import { foldedCurve, type Folded } from './fold.js';
import { valueArriving, valueAt } from './lookup.js';
import { SHAPES, holdPoint, linePoint } from './point.js';
import { cutOut, splice } from './splice.js';

const END = 20;
/** Curves with any shapes, steps among them; `toValue` makes a value of a travel. */
const curves = (toValue: (x: number) => number): fc.Arbitrary<Curve> =>
  fc
    .array(
      fc.record({
        t: fc.integer({ min: 0, max: 4 * END }),
        x: fc.double({ min: 0, max: 1, noNaN: true }),
        shape: fc.constantFrom(...SHAPES),
        bend: fc.constantFrom(-1, -0.3, 0, 0.5, 1),
      }),
      { maxLength: 8 },
    )
    .map((drawn) => {
      const byTime = [...drawn].sort((a, b) => a.t - b.t).map(({ x, t, ...p }) => ({ ...p, t: t / 4, v: toValue(x) }));
      return Curve.of(byTime.filter((p, i) => byTime[i - 1]?.t !== p.t || byTime[i - 2]?.t !== p.t));
    });
/** −144 dB and less is silence, 3e-6 of travel at once: a curve that is cut there can't be told to 1e-9. These keep off it. */
const heardLevels = curves((x) => valueOf(LEVEL_LAW, 0.01 + 0.99 * x));
const levels = curves((x) => valueOf(LEVEL_LAW, x));
const trims = curves((x) => (x < 0.3 ? 0 : valueOf(TRIM_LAW, x)));
const times = Array.from({ length: 161 }, (_, k) => (k * END) / 160 + (k < 160 ? 0.0071 : 0));

const sumAt = (base: Curve, trim: Curve, rest: number, t: number): number => {
  const v = valueAt(base, LEVEL_LAW, rest, t);
  if (v <= SILENCE_DB) return SILENCE_DB;
  return Math.max(SILENCE_DB, Math.min(MAX_LEVEL_DB, v + valueAt(trim, TRIM_LAW, 0, t)));
};

/** A trim folded into its base. */
const folded = (base: Curve, trim: Curve, rest: number, end = END): Folded =>
  foldedCurve({ base: { points: base, law: LEVEL_LAW, rest }, added: [{ points: trim, law: TRIM_LAW, rest: 0 }], end });
/** A carrying that ends with a step. */
const still = { back: 0, limit: END };
const differ = (x: number, y: number): boolean => Math.abs(x - y) > 1e-9;

describe('folding', () => {
  test('keeps what is heard within 0.05 dB above −60 dB, for any two curves', () => {
    fc.assert(
      fc.property(levels, trims, fc.constantFrom(-144, -70, -6, 3), (base, trim, rest) => {
        const { points } = folded(base, trim, rest);
        const isFar = (t: number): boolean => {
          const heard = sumAt(base, trim, rest, t);
          const folded = valueAt(points, LEVEL_LAW, rest, t);
          if (heard > -60) return Math.abs(folded - heard) >= 0.05;
          return Math.abs(travelOf(LEVEL_LAW, folded) - travelOf(LEVEL_LAW, heard)) >= 5e-4;
        };
        expect(times.filter(isFar)).toEqual([]);
      }),
      { numRuns: 300 },
    );
  });

  test('where the trim is 0 the base stays to the last bit, points and all', () => {
    const base = curve(
      { t: 0, v: -20, shape: 's', bend: 0.5 },
      linePoint(4, -6),
      linePoint(10, -6),
      { t: 12, v: -3, shape: 'bend', bend: -0.4 },
      linePoint(16, -9),
    );
    const trim = curve(linePoint(6, 0), linePoint(7, 3), linePoint(8, 3), linePoint(8, 0));
    const { points, clamped } = folded(base, trim, 0);
    expect(clamped).toEqual([]);
    expect([...points].filter((p) => p.t < 6)).toEqual([...base.slice(0, 2)]);
    expect([...points].filter((p) => p.t > 8)).toEqual([...base.slice(2)]);
    expect(valueAt(points, LEVEL_LAW, 0, 7.5)).toBeCloseTo(-3, 9);
    for (const t of [0.3, 2, 3.99, 9, 13, 15, 19])
      expect(valueAt(points, LEVEL_LAW, 0, t)).toBe(valueAt(base, LEVEL_LAW, 0, t));
  });

  test('says from where to where +12 dB held it', () => {
    const base = curve(linePoint(0, 0), linePoint(10, 10));
    const trim = curve(linePoint(0, 6));
    const { points, clamped } = folded(base, trim, 0);
    expect(clamped).toHaveLength(1);
    expect(clamped[0]![0]).toBeCloseTo(6, 5);
    expect(clamped[0]![1]).toBe(END);
    expect(valueAt(points, LEVEL_LAW, 0, 15)).toBe(12);
    expect(valueAt(points, LEVEL_LAW, 0, END)).toBe(12);
  });

  test('a bare lane gets its resting value with the trim on it; silence stays silence', () => {
    expect(pairs(folded(Curve.EMPTY, curve(linePoint(0, 3)), -6).points)).toEqual([[0, -3]]);
    const swell = curve(linePoint(2, 0), linePoint(4, 6), linePoint(6, 0));
    const { points } = folded(Curve.EMPTY, swell, -10);
    for (const [t, v] of [
      [0, -10],
      [3, -7],
      [4, -4],
      [5, -7],
      [6, -10],
      [END, -10],
    ] as const)
      expect(valueAt(points, LEVEL_LAW, 0, t)).toBeCloseTo(v, 1);
    const silent = folded(curve(holdPoint(0, SILENCE_DB)), swell, 0).points;
    expect(valueAt(silent, LEVEL_LAW, 0, 4)).toBe(SILENCE_DB);
  });

  test('costs few points: straight lines stay straight', () => {
    const base = Curve.of(Array.from({ length: 50 }, (_, k) => linePoint(k, -20 + (k % 5))));
    const { points } = folded(base, curve(linePoint(0, -4)), 0, 50);
    expect(points.length).toBe(50);
  });
});

describe('carrying on', () => {
  const span = curve(linePoint(0, -6), linePoint(8, -6), linePoint(8, -3), linePoint(10, -2), linePoint(10, -6));

  test('a span’s end goes on later with the value it ended with', () => {
    const points = carried(span, LEVEL_LAW, { ...still, from: 10, to: 16 });
    for (const t of [10, 12, 15.999]) expect(valueAt(points, LEVEL_LAW, 0, t)).toBe(-2);
    expect(valueAt(points, LEVEL_LAW, 0, 16)).toBe(-6);
    for (const t of [0, 7.9, 8, 9.3, 17]) expect(valueAt(points, LEVEL_LAW, 0, t)).toBe(valueAt(span, LEVEL_LAW, 0, t));
  });

  test('its beginning goes back earlier with the value it began with', () => {
    const points = carried(span, LEVEL_LAW, { ...still, from: 8, to: 3 });
    expect(valueAt(points, LEVEL_LAW, 0, 2.999)).toBe(-6);
    for (const t of [3, 5, 7.999, 8]) expect(valueAt(points, LEVEL_LAW, 0, t)).toBe(-3);
    expect([...points].filter((p) => p.t > 8)).toEqual([...span.slice(3)]);
  });

  test('nothing to carry leaves the curve alone', () => {
    expect(carried(span, LEVEL_LAW, { ...still, from: 5, to: 5 })).toBe(span);
    expect(carried(Curve.EMPTY, LEVEL_LAW, { ...still, from: 5, to: 9 })).toBe(Curve.EMPTY);
  });
});

test('a range cut out of one curve and put into another is that curve there, and the other outside', () => {
  fc.assert(
    fc.property(heardLevels, heardLevels, fc.double({ min: 0, max: 9, noNaN: true }), (one, other, a) => {
      const range = [a, a + 7.3] as const;
      const points = splice(other, LEVEL_LAW, -3, range, cutOut(one, LEVEL_LAW, -9, range));
      const travel = (points: Curve, rest: number, t: number): number =>
        travelOf(LEVEL_LAW, valueAt(points, LEVEL_LAW, rest, t));
      const isOff = (t: number): boolean => {
        const isInside = t >= range[0] && t < range[1];
        return differ(travel(points, -3, t), isInside ? travel(one, -9, t) : travel(other, -3, t));
      };
      expect(times.filter(isOff)).toEqual([]);
      const arrives = (points: Curve, rest: number): number =>
        travelOf(LEVEL_LAW, valueArriving(points, LEVEL_LAW, rest, range[1]));
      expect(differ(arrives(points, -3), arrives(one, -9))).toBe(false);
    }),
    { numRuns: 300 },
  );
});
