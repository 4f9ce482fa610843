import { clamp, lastNotAfter, travelOf, valueOf, type Seconds, type Travel } from '../units/index.js';
import { CurveMaker, type Curve } from './curve.js';
import { drawnPath } from './drawnPath.js';
import type { LaneCurve } from './lift.js';
import { columnsOf, travelIn } from './lookup.js';
import { SHAPE_CODE, type Range } from './point.js';
import { Times } from './times.js';
import { HAIR_TURNS, STEPS, timeOfTurns, turnsAt, type Swaying } from './sway.js';
import { thinnedCurve } from './thinCurve.js';
import { CORNERS, pointsOfWave, waveAt } from './wave.js';

/** What sways: a base, the depth of the sway on its own throw, how it turns, and the whole of that throw in travel of the base. */
export type Swayed = {
  readonly base: LaneCurve;
  readonly depth: LaneCurve;
  readonly swaying: Swaying;
  readonly most: Travel;
};

/** Of how far straight lines may be off, so much goes into drawing them, and the rest into leaving points out. */
const DRAWING_SHARE = 0.05;

/** How many points {@link swayedCurve} makes at most over a range. */
export function pointsOfSway({ base, depth, swaying, most }: Swayed, [a, b]: Range): number {
  const cycles = turnsAt(swaying.turning, b) - turnsAt(swaying.turning, a);
  return pointsOfWave({ wave: swaying.wave, depth: most }, cycles) + 2 * (base.points.length + depth.points.length);
}

/** A base with its sway in it as straight lines over a range, never further from it than `within` in travel. */
export function swayedCurve(swayed: Swayed, [a, b]: Range, within: Travel): Curve {
  const { law } = swayed.base;
  const made = new CurveMaker();
  const add = (t: Seconds, x: Travel): void => {
    const v = valueOf(law, x);
    if (made.timeFromEnd(1) === t) {
      if (Math.abs(made.lastValue - v) < 1e-9) return;
      if (made.timeFromEnd(2) === t) made.pop();
    }
    made.addLine(t, v);
  };
  const knots = knotsOf(swayed, [a, b]);
  for (let i = 0; i + 1 < knots.length; i++) {
    const [from, to] = [knots[i]!, knots[i + 1]!];
    for (const { t, x } of drawnPath(between(swayed, from, to), from, to, DRAWING_SHARE * within)) add(t, x);
  }
  return thinnedCurve(made.make(), law, (1 - DRAWING_SHARE) * within).points;
}

/** What is heard between two times without a step of its own: what it leaves the first with, what it comes to the second with. */
function between({ base, depth, swaying, most }: Swayed, from: Seconds, to: Seconds): (t: Seconds) => Travel {
  const steady = segmentOf(base, from, to);
  const deep = segmentOf(depth, from, to);
  const [first, last] = [turnsAt(swaying.turning, from), turnsAt(swaying.turning, to)];
  const middle = (first + last) / 2;
  // A hair within: a step at either end belongs to the stretch beyond.
  const hair = STEPS[swaying.wave] ? HAIR_TURNS : 0;
  const [least, greatest] = [Math.min(first + hair, middle), Math.max(last - hair, middle)];
  const wave = (t: Seconds): number => waveAt(swaying, clamp(turnsAt(swaying.turning, t), least, greatest));
  return (t) => clamp(steady(t) + most * deep(t) * wave(t), 0, 1);
}

/** A curve's travel between two times that have none of its points between them. */
function segmentOf({ points, law, rest }: LaneCurve, from: Seconds, to: Seconds): (t: Seconds) => Travel {
  if (!points.length) return () => travelOf(law, rest);
  const columns = columnsOf(points, law);
  const i = lastNotAfter(columns.t, (from + to) / 2);
  // At its end a held segment is where it was; travelIn asks by the segment, so a step on its end is not made yet.
  const holds = i >= 0 && columns.shape[i] === SHAPE_CODE.hold;
  return (t) => (holds ? columns.x[i]! : travelIn(columns, i, t));
}

/** Times between which there is no corner of a wave and no point. */
function knotsOf({ base, depth, swaying }: Swayed, [a, b]: Range): Float64Array {
  const { wave, turning } = swaying;
  const times = new Times();
  const add = (t: Seconds): void => {
    if (t > a + 1e-9 && t < b - 1e-9) times.add(t);
  };
  times.addRun(Float64Array.of(a, b));
  for (const some of [base.points.t, depth.points.t, turning.t]) some.forEach(add);
  const corners = [0, ...CORNERS[wave]];
  const last = Math.ceil(turnsAt(turning, b));
  for (let turn = Math.floor(turnsAt(turning, a)); turn <= last; turn++)
    for (const at of corners) add(timeOfTurns(turning, turn + at));
  return times.rising();
}
