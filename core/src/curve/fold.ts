import {
  LEVEL_CORNERS_DB,
  MAX_LEVEL_DB,
  SILENCE_DB,
  clamp,
  rangeOf,
  travelOf,
  valueOf,
  type Db,
  type Law,
  type Seconds,
} from '../units/index.js';
import { Curve } from './curve.js';
import { valueArriving, valueAt } from './lookup.js';
import type { LaneCurve } from './lift.js';
import { SHAPE_CODE, linePoint, type Point, type Range } from './point.js';
import { splice } from './splice.js';

/** How closely folding keeps what is heard; the rules ask for 0.05 dB above −60 dB. */
export const FOLD = { withinDb: 0.02, withinTravel: 1e-4, looks: 7, deepest: 14 } as const;
const FLOOR_DB = LEVEL_CORNERS_DB[0]!;

/** A base curve with the trim in it, and where the top of its throw (+12 dB of a level) kept it from all of both together. */
export type Folded = { readonly points: Curve; readonly clamped: readonly Range[] };

/** What is heard together in dB: a base, what is added to it (its trim, a VCA's layers), and where the song ends. */
export type HeardTogether = {
  readonly base: LaneCurve;
  readonly added: readonly LaneCurve[];
  readonly end: Seconds;
};

/**
 * Makes what is heard together one curve, or within a range of it (rules, 5, Folding, and 6, VCA fold). Where what is added is
 * 0 dB the base stays as it is, to the last bit.
 */
export function foldedCurve(heard: HeardTogether, range: Range = [-Infinity, Infinity]): Folded {
  const { base, added, end } = heard;
  let { points } = base;
  const clamped: Range[] = [];
  for (const [from, to] of stretchesOf(added, range)) {
    // What goes on past the last point goes on past all points; what stands there is not heard any more.
    const past = Math.max(end, ...[base, ...added].map((one) => one.points.at(-1)?.t ?? 0)) + 1;
    const a = Math.max(from, 0);
    const b = Math.min(to, past);
    const inside = sumInside(heard, [a, b], clamped);
    points = splice(points, base.law, base.rest, [a, b], Curve.of(inside));
    if (to === Infinity)
      points = points.slice(
        0,
        points.t.findIndex((t) => t >= b),
      );
    if (from === -Infinity && points.t[0] === 0 && points.t[1] === 0) points = points.slice(1);
  }
  return { points: withoutRepeats(points), clamped: clamped.map(([a, b]): Range => [a, Math.min(b, end)]) };
}

/** Of points that all say the same the first says it for all. */
const withoutRepeats = (points: Curve): Curve =>
  points.v.every((v) => v === points.v[0]) ? points.slice(0, 1) : points;

/** The stretches of a range in which something added is not 0 dB. */
function stretchesOf(added: readonly LaneCurve[], [from, to]: Range): Range[] {
  const all = added.flatMap(soundingStretches).sort((p, q) => p[0] - q[0]);
  const joined: [number, number][] = [];
  for (const [a, b] of all) {
    const last = joined.at(-1);
    if (last && a <= last[1]) last[1] = Math.max(last[1], b);
    else joined.push([a, b]);
  }
  return joined.map(([a, b]): Range => [Math.max(a, from), Math.min(b, to)]).filter(([a, b]) => a < b);
}

/** Where a curve in dB is not 0, from −∞ where it begins with another value, to ∞ where it ends with one. */
function soundingStretches({ points, rest }: LaneCurve): Range[] {
  const stretches: Range[] = [];
  const { t, v, shape, length } = points;
  if (!length) return rest === 0 ? [] : [[-Infinity, Infinity]];
  if (v[0] !== 0) stretches.push([-Infinity, t[0]!]);
  for (let i = 0; i < length; i++) {
    const isLast = i + 1 === length;
    const isZero = v[i] === 0 && (isLast || v[i + 1] === 0 || shape[i] === SHAPE_CODE.hold);
    const to = isLast ? Infinity : t[i + 1]!;
    if (!isZero && to > t[i]!) stretches.push([t[i]!, to]);
  }
  return stretches;
}

/** What is heard of a base of a law and its trim: of a level silence stays silence and +12 dB is the most, a parameter stays in its own range. */
export const trimmedDb = (law: Law, base: Db, trim: Db): Db => heldBy(law, [base, trim]);

/** The sum of levels in dB as one lane can hold it: silence in any of them is silence, +12 dB is the most. */
export const heldDb = (levels: readonly Db[]): Db =>
  levels.some((db) => db <= SILENCE_DB)
    ? SILENCE_DB
    : clamp(
        levels.reduce((sum, db) => sum + db, 0),
        SILENCE_DB,
        MAX_LEVEL_DB,
      );

/** The sum of values in dB as a lane of a law can hold it: a level's as {@link heldDb} has it, a parameter's within its own range. */
function heldBy(law: Law, levels: readonly Db[]): Db {
  if (law.kind === 'level') return heldDb(levels);
  const { min, max } = rangeOf(law);
  return clamp(
    levels.reduce((sum, db) => sum + db, 0),
    min,
    max,
  );
}

/** Where values of a law turn from one straight line of the throw into another. */
const cornersOf = (law: Law): readonly Db[] => (law.kind === 'level' ? LEVEL_CORNERS_DB : Object.values(rangeOf(law)));

/** The sum over one stretch as straight lines; where it went over is added to `clamped`. */
function sumInside({ base, added }: HeardTogether, range: Range, clamped: Range[]): Point[] {
  const all = [base, ...added];
  const points: Point[] = [];
  const knots = knotsIn(all, range);
  for (let i = 0; i + 1 < knots.length; i++) {
    const [a, b] = [knots[i]!, knots[i + 1]!];
    const ends = all.map((one) => valueArriving(one.points, one.law, one.rest, b));
    const levels = (t: Seconds): readonly Db[] =>
      t === b ? ends : all.map((one) => valueAt(one.points, one.law, one.rest, t));
    const raw = (t: Seconds): Db => levels(t).reduce((sum, db) => sum + db, 0);
    const sum = (t: Seconds): Db => heldBy(base.law, levels(t));
    const { min, max } = rangeOf(base.law);
    const isOver = (db: Db): boolean => db > max + 1e-9 || (base.law.kind !== 'level' && db < min - 1e-9);
    const turns = [a, ...crossings(raw, base.law, a, b), b];
    for (let k = 0; k + 1 < turns.length; k++)
      straighten({ valueOfTime: sum, law: base.law }, turns[k]!, turns[k + 1]!, (from, to) => {
        points.push(linePoint(from, sum(from)), linePoint(to, sum(to)));
        if (isOver(raw((from + to) / 2))) addRange(clamped, from, to);
      });
  }
  return joined(points);
}

function addRange(ranges: Range[], from: Seconds, to: Seconds): void {
  const last = ranges.at(-1);
  if (last && last[1] >= from - 1e-9) ranges[ranges.length - 1] = [last[0], to];
  else ranges.push([from, to]);
}

/** Times between which none of the curves has a point, nor goes over a corner of the level law. */
function knotsIn(all: readonly LaneCurve[], [a, b]: Range): Seconds[] {
  const inside = all.flatMap(({ points }) => [...points.t].filter((t) => t > a && t < b));
  const knots = [...new Set([a, ...inside, b])].sort((x, y) => x - y);
  const corners: Seconds[] = [];
  for (const { points, law, rest } of all)
    if (law.kind === 'level')
      for (let i = 0; i + 1 < knots.length; i++)
        corners.push(...crossings((t) => valueAt(points, law, rest, t), law, knots[i]!, knots[i + 1]!));
  return [...new Set([...knots, ...corners])].sort((x, y) => x - y);
}

/** Where a value that only goes up or down between two times crosses corners of a law. */
function crossings(valueOfTime: (t: Seconds) => Db, law: Law, a: Seconds, b: Seconds): Seconds[] {
  const near = (b - a) * 1e-9;
  const [first, last] = [valueOfTime(a), valueOfTime(b - near)];
  const found: Seconds[] = [];
  for (const corner of cornersOf(law)) {
    if (Math.min(first, last) >= corner - 1e-9 || Math.max(first, last) <= corner + 1e-9) continue;
    let [low, high] = [a, b];
    while (high - low > 1e-9 && (low + high) / 2 > low) {
      const mid = (low + high) / 2;
      if (valueOfTime(mid) < corner === first < corner) low = mid;
      else high = mid;
    }
    if (high > a + 1e-9 && high < b - 1e-9) found.push(high);
  }
  return found.sort((x, y) => x - y);
}

/** Calls back with stretches of [a, b] over which a value goes straight in travel, as closely as {@link FOLD} has it. */
function straighten(
  sum: { readonly valueOfTime: (t: Seconds) => Db; readonly law: Law },
  a: Seconds,
  b: Seconds,
  take: (from: Seconds, to: Seconds) => void,
  depth = 0,
): void {
  const { valueOfTime, law } = sum;
  const [x0, x1] = [travelOf(law, valueOfTime(a)), travelOf(law, valueOfTime(b))];
  let isStraight = true;
  for (let k = 1; k <= FOLD.looks && isStraight; k++) {
    const share = k / (FOLD.looks + 1);
    const v = valueOfTime(a + (b - a) * share);
    const x = x0 + (x1 - x0) * share;
    isStraight =
      v > FLOOR_DB || law.kind !== 'level'
        ? Math.abs(valueOf(law, x) - v) <= FOLD.withinDb
        : Math.abs(x - travelOf(law, v)) <= FOLD.withinTravel;
  }
  if (isStraight || depth >= FOLD.deepest || b - a < 1e-6) return take(a, b);
  const mid = (a + b) / 2;
  straighten(sum, a, mid, take, depth + 1);
  straighten(sum, mid, b, take, depth + 1);
}

/** Ends of stretches that meet with one value are one point. */
function joined(points: readonly Point[]): Point[] {
  const kept: Point[] = [];
  for (const p of points) {
    const last = kept.at(-1);
    if (last?.t === p.t && Math.abs(last.v - p.v) < 1e-9) continue;
    kept.push(p);
  }
  return kept;
}
