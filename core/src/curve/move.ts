import { clamp, lastNotAfter, travelOf, valueOf, type Seconds, type Travel } from '../units/index.js';
import { CurveMaker, type Curve } from './curve.js';
import type { LaneCurve } from './lift.js';
import type { Range } from './point.js';
import { firstNotBefore } from './splice.js';

/** Which points of a curve an act is about: 1 at each of them in `of`, and their places in `at`, in order. */
export type Picks = { readonly of: Uint8Array; readonly at: Int32Array };
/** A curve, and which of its points an act is about. */
export type Picked = LaneCurve & { readonly picks: Picks };
/** How far points go, in time and along the throw. */
export type Move = { readonly t: Seconds; readonly travel: Travel };

/** Where two stand at one time, a third comes no nearer (rules, 6, Move). */
const APART: Seconds = 0.001;

/** Which points of a curve stand in [in, out), or at some times; all where nothing is said. */
export function picksOf(
  { t, length }: Curve,
  where: { readonly range?: Range; readonly times?: readonly Seconds[] },
): Picks {
  const of = new Uint8Array(length);
  const { range, times } = where;
  if (times) {
    let last = -1;
    for (const time of times) {
      // Each is looked for by itself, as they may be few of very many; but first where the one before was, as they may be all.
      last = t[last + 1]! <= time && !(t[last + 2]! <= time) ? last + 1 : lastNotAfter(t, time);
      for (let i = last; i >= 0 && t[i] === time; i--) of[i] = Number(!range || isWithin(range, time));
    }
  } else {
    const first = range ? firstNotBefore(t, range[0]) : 0;
    of.fill(1, first, range ? Math.max(first, firstNotBefore(t, range[1])) : length);
  }
  let count = 0;
  for (let i = 0; i < length; i++) count += of[i]!;
  const at = new Int32Array(count);
  for (let i = 0, k = 0; k < count; i++) if (of[i]) at[k++] = i;
  return { of, at };
}

const isWithin = ([from, to]: Range, t: Seconds): boolean => t >= from && t < to;

/**
 * How far picked points of some curves can go of what is asked, time and travel apart: the first that would meet one that stays (1 ms
 * before it, where two would not be enough room), the song's start or an end of the throw stops all. `most`: the latest time there is.
 */
export function furthest(lanes: readonly Picked[], by: Move, most: Seconds): Move {
  let { t, travel } = by;
  for (const lane of lanes) {
    t = furthestInTime(lane, t, most);
    if (lane.law.kind === 'switch') continue;
    for (const i of lane.picks.at) {
      const x = travelOf(lane.law, lane.points.v[i]!);
      travel = clamp(travel, -x, 1 - x);
    }
  }
  return { t, travel };
}

function furthestInTime({ points, picks }: Picked, by: Seconds, most: Seconds): Seconds {
  let far = by;
  const { t, length } = points;
  for (const i of picks.at) {
    const to = by > 0 ? i + 1 : i - 1;
    if (by > 0) far = Math.min(far, Math.max(0, most - t[i]!));
    else far = Math.max(far, -t[i]!);
    if (to < 0 || to >= length || picks.of[to]) continue;
    const gap = t[to]! - t[i]!;
    const room = Math.abs(gap);
    const crowd = standingAt(points, to) + standingAt(points, i);
    far = Math.sign(by) * Math.min(Math.abs(far), crowd > 2 && room > 0 ? Math.max(0, room - APART) : room);
  }
  return far;
}

/** How many points stand at the time of one. */
const standingAt = ({ t }: Curve, i: number): number => 1 + Number(t[i - 1] === t[i]) + Number(t[i + 1] === t[i]);

/** A curve with its picked points moved by what {@link furthest} allows. Segments to those that stay follow. */
export function moved(lane: Picked, { t: dt, travel }: Move): Curve {
  const { points, law, picks } = lane;
  const isStill = law.kind === 'switch' || travel === 0;
  const maker = new CurveMaker(points.length);
  let isMoved = false;
  let next = 0;
  for (const i of picks.at) {
    maker.copy(points, next, i);
    next = i + 1;
    const was = { t: points.t[i]!, v: points.v[i]! };
    // Rounding never takes it past one that stays.
    const t = clamp(was.t + dt, neighbour(lane, i, -1), neighbour(lane, i, 1));
    const v = isStill ? was.v : valueOf(law, travelOf(law, was.v) + travel);
    isMoved ||= t !== was.t || v !== was.v;
    maker.addFrom(points, i, t, v);
  }
  maker.copy(points, next, points.length);
  return isMoved ? maker.make() : points;
}

/** When the nearest point that stays stands, on one side of a picked one; no bound where there is none. */
function neighbour({ points, picks }: Picked, i: number, side: 1 | -1): Seconds {
  const at = i + side;
  return at < 0 || at >= points.length || picks.of[at] ? side * Infinity : points.t[at]!;
}

/**
 * A curve with the distance in travel of its picked points from a pivot multiplied, each within the throw. The pivot is a value;
 * where there is none it is the lowest of those points.
 */
export function scaled({ points, law, picks }: Picked, factor: number, pivot: number | null): Curve {
  const xs = Float64Array.from(picks.at, (i) => travelOf(law, points.v[i]!));
  const lowest = (): Travel => xs.reduce((low, x) => Math.min(low, x), 1);
  const from = pivot === null ? lowest() : travelOf(law, pivot);
  const maker = new CurveMaker(points.length);
  let isScaled = false;
  let next = 0;
  picks.at.forEach((i, k) => {
    const x = clamp(from + (xs[k]! - from) * factor, 0, 1);
    if (x === xs[k]) return;
    isScaled = true;
    maker.copy(points, next, i);
    next = i + 1;
    maker.addFrom(points, i, points.t[i], valueOf(law, x));
  });
  maker.copy(points, next, points.length);
  return isScaled ? maker.make() : points;
}
