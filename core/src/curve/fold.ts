import {
  SILENCE_DB,
  clamp,
  lastNotAfter,
  rangeOf,
  travelOf,
  valueOf,
  type Db,
  type Law,
  type Seconds,
} from '../units/index.js';
import { CurveMaker, type Curve } from './curve.js';
import type { LaneCurve } from './lift.js';
import { SHAPE_CODE, type Range } from './point.js';
import { Times } from './times.js';
import { firstNotBefore } from './splice.js';
import { SplicedInOrder } from './splicedInOrder.js';
import { FLOOR_DB, Together, cornersOf, goesOverCorner, isBetween } from './together.js';

/** How closely folding keeps what is heard; the rules ask for 0.05 dB above −60 dB. */
export const FOLD = { withinDb: 0.02, withinTravel: 1e-4, looks: 7, deepest: 14 } as const;

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
  const clamped: Range[] = [];
  const made = new SplicedInOrder(base);
  let points: Curve | null = null;
  for (const [from, to] of stretchesOf(added, range)) {
    // What goes on past the last point goes on past all points; what stands there is not heard any more.
    const past = Math.max(end, ...[base, ...added].map((one) => one.points.at(-1)?.t ?? 0)) + 1;
    const a = Math.max(from, 0);
    const b = Math.min(to, past);
    const inside = sumInside(heard, [a, b], clamped);
    made.splice([a, b], inside, from === -Infinity);
    if (to === Infinity) points = made.make().slice(0, firstNotBefore(made.make().t, b));
  }
  return {
    points: withoutRepeats(points ?? made.make()),
    clamped: clamped.map(([a, b]): Range => [a, Math.min(b, end)]),
  };
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

/** The sum over one stretch as straight lines; where it went over is added to `clamped`. */
function sumInside({ base, added }: HeardTogether, range: Range, clamped: Range[]): Curve {
  const all = [base, ...added.filter(({ points, rest }) => points.length > 0 || rest !== 0)];
  const together = new Together(all, base.law);
  const knots = knotsIn(all, range);
  const made = new CurveMaker(2 * knots.length);
  const { min, max } = rangeOf(base.law);
  const least = base.law.kind === 'level' ? SILENCE_DB : min;
  const isOver = (db: Db): boolean => db > max + 1e-9 || (base.law.kind !== 'level' && db < min - 1e-9);
  const isEnd = (db: Db): boolean => db >= max - 1e-9 || (base.law.kind !== 'level' && db <= min + 1e-9);
  /** The end of the interval that is looked at. */
  let end = 0;
  const raw = (t: Seconds): Db => together.raw(t, end);
  const sum = (t: Seconds): Db => together.held(t, end);
  const put = (from: Seconds, to: Seconds, v: Db, w: Db, mayBeOver: boolean): void => {
    addJoined(made, from, v);
    addJoined(made, to, w);
    if (mayBeOver && isOver(raw((from + to) / 2))) addRange(clamped, from, to);
  };
  /** Goes straight from a to the interval's end: in dB, and so in travel between the corners of the law. */
  const goStraight = (a: Seconds, first: Db, last: Db): void => {
    let [from, v] = [a, clamp(first, least, max)];
    if (goesOverCorner(base.law, first, last))
      for (const [t, corner] of straightCrossings(base.law, [a, first], [end, last])) {
        put(from, t, v, corner, isEnd(v) || isEnd(corner));
        [from, v] = [t, corner];
      }
    const w = clamp(last, least, max);
    put(from, end, v, w, isEnd(v) || isEnd(w));
  };
  for (let i = 0; i + 1 < knots.length; i++) {
    const a = knots[i]!;
    end = knots[i + 1]!;
    together.go(a, end);
    const { first, last } = together;
    // Above the foot of the throw alone: below it dB and travel go other ways.
    if (together.isStraight && (base.law.kind !== 'level' || Math.min(first, last) > FLOOR_DB)) {
      goStraight(a, first, last);
      continue;
    }
    const turns = [a, ...crossings(raw, base.law, a, end), end];
    for (let k = 0; k + 1 < turns.length; k++)
      straighten({ valueOfTime: sum, law: base.law }, turns[k]!, turns[k + 1]!, (from, to) =>
        put(from, to, sum(from), sum(to), true),
      );
  }
  return made.take();
}

/** Adds a point of a straight line: ends of stretches that meet with one value are one point. */
function addJoined(made: CurveMaker, t: Seconds, v: Db): void {
  if (!made.length || made.timeFromEnd(1) !== t || Math.abs(made.lastValue - v) >= 1e-9) made.addLine(t, v);
}

function addRange(ranges: Range[], from: Seconds, to: Seconds): void {
  const last = ranges.at(-1);
  if (last && last[1] >= from - 1e-9) ranges[ranges.length - 1] = [last[0], to];
  else ranges.push([from, to]);
}

/** Times between which none of the curves has a point, nor goes over a corner of the level law. */
function knotsIn(all: readonly LaneCurve[], [a, b]: Range): Float64Array {
  const knots = new Times();
  knots.addRun(Float64Array.of(a, b));
  for (const { points } of all)
    knots.addRun(points.t.subarray(lastNotAfter(points.t, a) + 1, firstNotBefore(points.t, b)));
  const times = knots.rising();
  const corners = new Times();
  const together = new Together(all, all[0]!.law);
  for (let i = 0; i + 1 < times.length; i++) {
    together.begin(times[i]!);
    for (let c = 0; c < all.length; c++)
      if (together.mayCross(c))
        for (const corner of crossings((t) => together.valueOf(c, t), all[c]!.law, times[i]!, times[i + 1]!))
          corners.add(corner);
  }
  if (!corners.length) return times;
  corners.addRun(times);
  return corners.rising();
}

/** Where a straight line in dB crosses corners of a law: when, and which, in their order. */
function straightCrossings(
  law: Law,
  [a, first]: readonly [Seconds, Db],
  [b, last]: readonly [Seconds, Db],
): readonly (readonly [Seconds, Db])[] {
  let found: (readonly [Seconds, Db])[] | null = null;
  for (const corner of cornersOf(law)) {
    if (!isBetween(corner, first, last)) continue;
    const t = a + ((b - a) * (corner - first)) / (last - first);
    if (t > a + 1e-9 && t < b - 1e-9) (found ??= []).push([t, corner]);
  }
  return found?.sort((p, q) => p[0] - q[0]) ?? [];
}

const NONE: readonly Seconds[] = [];

/** Where a value that only goes up or down between two times crosses corners of a law. */
function crossings(valueOfTime: (t: Seconds) => Db, law: Law, a: Seconds, b: Seconds): readonly Seconds[] {
  const near = (b - a) * 1e-9;
  const [first, last] = [valueOfTime(a), valueOfTime(b - near)];
  let found: Seconds[] | null = null;
  for (const corner of cornersOf(law)) {
    if (!isBetween(corner, first, last)) continue;
    let [low, high] = [a, b];
    while (high - low > 1e-9 && (low + high) / 2 > low) {
      const mid = (low + high) / 2;
      if (valueOfTime(mid) < corner === first < corner) low = mid;
      else high = mid;
    }
    if (high > a + 1e-9 && high < b - 1e-9) (found ??= []).push(high);
  }
  return found?.sort((x, y) => x - y) ?? NONE;
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
