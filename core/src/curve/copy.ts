import { travelOf, unitOf, valueOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { Curve } from './curve.js';
import { drawnPath } from './drawnPath.js';
import type { LaneCurve } from './lift.js';
import { holds, valueAt } from './lookup.js';
import { holdPoint, linePoint, type Point, type Range } from './point.js';
import { partFraction } from './shapes.js';
import { cutOut } from './splice.js';

/** How values of one layer become those of another: by where they stand on the throw, as they are, or as offsets against the first. */
export type Mapping = 'travel' | 'value' | 'offset';
/** Where a piece goes: the law of the layer it goes to, and from when to when it stands there, as long as it was. */
export type Goal = { readonly law: Law; readonly span: Range };

/** How values come from one throw to another: between those of one unit as they are, or as offsets; else by where they stand. */
export function mappingBetween(from: Law, to: Law): Mapping {
  const unit = unitOf(from);
  if (unit === null || unit !== unitOf(to) || isSameLaw(from, to)) return 'travel';
  return to.kind === 'trim' ? 'offset' : 'value';
}

/** A value of a throw and more counts as on, of a switch. */
const ON: Travel = 0.5;

/**
 * The range of a curve as it is put elsewhere, from its new beginning to its new end (rules, 6, Copy). What stands at either end of the range
 * stands at that of the span, to the last figure: no sum of times comes to quite the same in two ways.
 */
export function pieceFor(source: LaneCurve, range: Range, goal: Goal, mapping: Mapping): Curve {
  const { points, law, rest } = source;
  const cut = cutOut(points, law, rest, range);
  const from = valueAt(points, law, rest, range[0]);
  const mapped = mappedPoints([...cut], { from: law, to: goal.law }, valueMap(law, goal.law, mapping, from), mapping);
  const [start, end] = goal.span;
  const place = (t: Seconds): Seconds => (t === range[1] ? end : Math.min(end, start + (t - range[0])));
  return Curve.of(mapped.map((p) => ({ ...p, t: place(p.t) })));
}

const isSameLaw = (a: Law, b: Law): boolean =>
  a.kind === b.kind && (!('min' in a) || !('min' in b) || (a.min === b.min && a.max === b.max));

function valueMap(from: Law, to: Law, mapping: Mapping, first: number): (v: number) => number {
  if (to.kind === 'switch') return (v) => Number(travelOf(from, v) >= ON);
  if (mapping === 'travel') return isSameLaw(from, to) ? (v) => v : (v) => valueOf(to, travelOf(from, v));
  const within = (v: number): number => valueOf(to, travelOf(to, v));
  return mapping === 'value' ? within : (v) => within(v - first);
}

/** Points with other values. By travel a shape stays what it is; else it is drawn as straight lines of the throw it comes to. */
function mappedPoints(
  points: readonly Point[],
  { from, to }: { readonly from: Law; readonly to: Law },
  map: (v: number) => number,
  mapping: Mapping,
): Point[] {
  if (to.kind === 'switch' && from.kind !== 'switch') return switched(points, from);
  return points.flatMap((p, i): Point[] => {
    const next = points[i + 1];
    if (mapping === 'travel' || !next || holds(p, from) || next.t === p.t) return [{ ...p, v: map(p.v) }];
    const at = segmentAt(p, next, from);
    const path = drawnPath((t) => travelOf(to, map(valueOf(from, at(t)))), p.t, next.t);
    return path.slice(0, -1).map(({ t, x }, k) => linePoint(t, k ? valueOf(to, x) : map(p.v)));
  });
}

/** Where the segment from a point to the next stands on its throw at a time. */
function segmentAt(p: Point, next: Point, law: Law): (t: Seconds) => Travel {
  const [x0, x1] = [travelOf(law, p.v), travelOf(law, next.v)];
  const [u0, u1] = p.part ?? [0, 1];
  return (t) => x0 + (x1 - x0) * partFraction(p.shape, p.bend, u0, u1, (t - p.t) / (next.t - p.t));
}

/** A curve as a switch: on where it stands at half its throw or more. */
function switched(points: readonly Point[], law: Law): Point[] {
  const turns: Point[] = [];
  const turn = (t: Seconds, isOn: boolean): void => {
    if (turns.at(-1)?.t === t) turns.pop();
    if (turns.at(-1)?.v !== Number(isOn)) turns.push(holdPoint(t, Number(isOn)));
  };
  points.forEach((p, i) => {
    const isOn = travelOf(law, p.v) >= ON;
    turn(p.t, isOn);
    const next = points[i + 1];
    if (!next || holds(p, law) || travelOf(law, next.v) >= ON === isOn) return;
    turn(crossing(segmentAt(p, next, law), [p.t, next.t], isOn), !isOn);
  });
  return turns;
}

/** When a segment that only rises or falls comes to half the throw. */
function crossing(at: (t: Seconds) => Travel, [a, b]: Range, isOn: boolean): Seconds {
  let [low, high] = [a, b];
  while (high - low > 1e-9 && (low + high) / 2 > low && (low + high) / 2 < high) {
    const middle = (low + high) / 2;
    if (at(middle) >= ON === isOn) low = middle;
    else high = middle;
  }
  return high;
}
