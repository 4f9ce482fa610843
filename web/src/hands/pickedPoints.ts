import { Curve, SHAPES, type Point, type Shape } from '@sure-hand/core/curve';
import type { Edit, LayerOf } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import { pickedThere, type PickedPoints } from './mending.js';

export const SHAPE_NAMES: Readonly<Record<Shape, string>> = { line: 'Straight', hold: 'Hold', bend: 'Bend', s: 'S' };
export { SHAPES };

/** The points that are picked, as they are; empty where none is. */
export function pointsPickedOf(song: Song, picked: PickedPoints | null): readonly Point[] {
  const there = pickedThere(song, picked);
  if (!there) return [];
  const times = new Set(there.times);
  return [...layerPoints(laneOf(song, there.control), there.layer)].filter(({ t }) => times.has(t));
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
