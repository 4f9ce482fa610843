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
import { clamp, type Seconds, type Travel } from '../units/index.js';
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
