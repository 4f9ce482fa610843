import type { Seconds } from '../units/index.js';

/** How the segment from a point to the next one goes (rules, 2). */
export type Shape = 'line' | 'hold' | 'bend' | 's';
/** Every shape, in the order of its code: what stands for it in columns and in bytes. */
export const SHAPES: readonly Shape[] = ['line', 'hold', 'bend', 's'];
export const SHAPE_CODE: Readonly<Record<Shape, number>> = { line: 0, hold: 1, bend: 2, s: 3 };

/**
 * A vertex of a curve. `v` is in the control's own unit; `shape` and `bend` (−1 … 1) say how the segment to the next
 * point goes, `part` which stretch of that shape it is, where it is not the whole.
 */
export type Point = {
  readonly t: Seconds;
  readonly v: number;
  readonly shape: Shape;
  readonly bend: number;
  readonly part?: readonly [number, number];
};

/** A stretch of time, half open: from the first up to, but not at, the second. */
export type Range = readonly [from: Seconds, to: Seconds];

/** A point with a straight segment after it. */
export const linePoint = (t: Seconds, v: number): Point => ({ t, v, shape: 'line', bend: 0 });
/** A point whose value holds until the next. */
export const holdPoint = (t: Seconds, v: number): Point => ({ t, v, shape: 'hold', bend: 0 });
