import { Curve, SHAPES, type Point, type Shape } from '@sure-hand/core/curve';
import type { Edit, LayerOf } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import type { PickedPoints } from './picking.js';

export const SHAPE_NAMES: Readonly<Record<Shape, string>> = { line: 'Straight', hold: 'Hold', bend: 'Bend', s: 'S' };
export { SHAPES };

/** The points that are picked of a lane, as they are. */
export function pointsPickedOf(song: Song, { control, layer, times }: PickedPoints): readonly Point[] {
  const isPicked = new Set(times);
  return [...layerPoints(laneOf(song, control), layer)].filter(({ t }) => isPicked.has(t));
}

/** Points in the place of others: each is taken out as it was, and comes in changed. */
export function changedPoints(of: LayerOf, points: readonly Point[], change: (point: Point) => Point): Edit {
  const add = points.map(change).sort((a, b) => a.t - b.t);
  return { kind: 'points', ...of, remove: points.map(({ t, v }) => ({ t, v })), add: Curve.of(add) };
}

/** A point with another segment after it, whole: what was a part of a shape is not any more. */
export function withShape({ part: _part, ...point }: Point, shape: Shape, bend?: number): Point {
  const usual = shape === 's' || shape === 'bend' ? point.bend || 0.5 : 0;
  return { ...point, shape, bend: shape === 'line' || shape === 'hold' ? 0 : (bend ?? usual) };
}
