import {
  Curve,
  SHAPES,
  columnsOf,
  isStraight,
  pointBefore,
  valueAt,
  withPart,
  type Point,
  type Shape,
} from '../curve/index.js';
import {
  isSwitch,
  controlOf,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type ControlId,
  type Layer,
  type Song,
} from '../song/index.js';
import { clamp, type Law, type Seconds, type Travel } from '../units/index.js';
import type { PointsEdit } from './kinds/points.js';

/** One layer of a control's lane, as gestures are about it. */
export type LayerOf = { readonly control: ControlId; readonly layer: Layer };

const pointsOf = (song: Song, { control, layer }: LayerOf): Curve => layerPoints(laneOf(song, control), layer);
const place = ({ t, v }: Point): { readonly t: Seconds; readonly v: number } => ({ t, v });

/** Puts a point on a curve: the segment it cuts goes on as before on both sides, as far as the value is the curve's own. */
export function addedPoint(song: Song, of: LayerOf, t: Seconds, v?: number): PointsEdit {
  const points = pointsOf(song, of);
  const law = layerLaw(song, of.control, of.layer);
  const i = pointBefore(points, t);
  const own = valueAt(points, law, layerRest(laneOf(song, of.control), of.layer), t);
  const shape: Shape = isSwitch(controlOf(song, of.control)) ? 'hold' : 'line';
  const bare: Point = { t, v: v ?? own, shape, bend: 0 };
  const before = points.at(i);
  const next = points.at(i + 1);
  if (i < 0 || !before || !next || i + 1 >= points.length || before.t === t)
    return { kind: 'points', ...of, remove: [], add: Curve.of([bare]) };
  const share = (t - before.t) / (next.t - before.t);
  const first = withPart(before, 0, share);
  const second = { ...withPart(before, share, 1), t, v: bare.v };
  const isCut = first !== before;
  const add = isCut ? [first, second] : [{ ...bare, shape: before.shape, bend: before.bend }];
  return { kind: 'points', ...of, remove: isCut ? [place(before)] : [], add: Curve.of(add) };
}

/** A point on a curve at a time; the rest of the segment it cuts goes on as before, where that leads to `end`. */
function cutAt(points: Curve, law: Law, rest: number, t: Seconds, end: Seconds | null): Point {
  const i = pointBefore(points, t);
  const v = valueAt(points, law, rest, t);
  if (i < 0 || i + 1 >= points.length || points.t[i + 1] !== end) return { t, v, shape: 'line', bend: 0 };
  const before = points.point(i);
  return { ...withPart(before, (t - before.t) / (end - before.t), 1), t, v };
}

/**
 * Gives a lone point shoulders: a point on either side of it, at most `reach` away and nearer than its neighbours, on the curve as it
 * `was` before the point was moved. So only what lies between them follows it, then and from then on. Null where there is no room.
 */
export function shoulderedPoint(
  song: Song,
  of: LayerOf,
  index: number,
  { reach, was }: { readonly reach: Seconds; readonly was: Curve },
): PointsEdit | null {
  const now = pointsOf(song, of);
  const law = layerLaw(song, of.control, of.layer);
  const point = now.at(index);
  if (!point || law.kind === 'switch') return null;
  const before = index > 0 ? now.point(index - 1) : null;
  const next = index + 1 < now.length ? now.point(index + 1) : null;
  const rest = layerRest(laneOf(song, of.control), of.layer);
  const [from, to] = [point.t - reach, point.t + reach];
  const early = from > (before?.t ?? -1e-9) ? cutAt(was, law, rest, Math.max(0, from), null) : null;
  const late = to < (next?.t ?? Infinity) ? cutAt(was, law, rest, to, next?.t ?? null) : null;
  if (!early && !late) return null;
  const add: Point[] = [];
  const remove = [place(point)];
  // What comes before the first of them goes on as it was, up to it.
  const i = early && before ? pointBefore(was, early.t) : -1;
  if (early && before && i >= 0 && i + 1 < was.length && was.t[i] === before.t && was.v[i] === before.v) {
    remove.unshift(place(before));
    add.push(withPart(was.point(i), 0, (early.t - before.t) / (was.t[i + 1]! - before.t)));
  }
  if (early) add.push(early);
  const { part: _part, ...bare } = point;
  add.push({ ...bare, shape: 'line', bend: 0 });
  if (late) add.push(late);
  return { kind: 'points', ...of, remove, add: Curve.of(add) };
}

/** A curve's segments that a hand can bend: those that go from one value to another, and hold nothing. */
export function canBend(song: Song, of: LayerOf, index: number): boolean {
  const points = pointsOf(song, of);
  const law = layerLaw(song, of.control, of.layer);
  if (index < 0 || index + 1 >= points.length || law.kind === 'switch') return false;
  const { x, t } = columnsOf(points, law);
  return SHAPES[points.shape[index]!] !== 'hold' && x[index] !== x[index + 1] && t[index]! < t[index + 1]!;
}

/** Doublings of the exponent of a shape from straight to its most. */
const OCTAVES = 3;

/** The bend of a `bend` segment that has come a fraction of the way after a share of its time. */
export function bendThrough(share: number, fraction: number): number {
  const [u, f] = [clamp(share, 0.001, 0.999), clamp(fraction, 1e-6, 1 - 1e-6)];
  const late = Math.log2(Math.log(f) / Math.log(u)) / OCTAVES;
  return late >= 0 ? Math.min(1, late) : -Math.min(1, Math.log2(Math.log(1 - f) / Math.log(1 - u)) / OCTAVES);
}

/** Bends the segment after a point so that at a time it stands at a place on the throw. */
export function bentThrough(song: Song, of: LayerOf, index: number, t: Seconds, x: Travel): PointsEdit {
  const points = pointsOf(song, of);
  const columns = columnsOf(points, layerLaw(song, of.control, of.layer));
  const [t0, t1, x0, x1] = [columns.t[index]!, columns.t[index + 1]!, columns.x[index]!, columns.x[index + 1]!];
  const bend = bendThrough((t - t0) / (t1 - t0), (x - x0) / (x1 - x0));
  return shapedSegment(song, of, index, 'bend', bend);
}

/** Gives the segment after a point a shape, whole: what was a part of another is not any more. */
export function shapedSegment(song: Song, of: LayerOf, index: number, shape: Shape, bend: number): PointsEdit {
  const { part: _part, ...before } = pointsOf(song, of).point(index);
  const after: Point = {
    ...before,
    shape: isStraight(shape, bend) ? 'line' : shape,
    bend: shape === 'hold' ? 0 : bend,
  };
  return { kind: 'points', ...of, remove: [place(before)], add: Curve.of([after]) };
}
