import { columnsOf, partFraction, type CurveColumns, type Point, type Shape } from '@sure-hand/core/curve';
import { lastNotAfter, type Law, type Seconds } from '@sure-hand/core/units';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** A path to trace into: a canvas, or a recorder in tests. */
export type Pen = { moveTo(x: number, y: number): void; lineTo(x: number, y: number): void };

const kept = new WeakMap<readonly Point[], CurveColumns>();
const SHAPES: readonly Shape[] = ['line', 'hold', 'bend', 's'];
const BENT_STEP_PX = 0.5;

/** A lane's curve in travel, made once for as long as its points are the same. */
export function drawnColumns(points: readonly Point[], law: Law): CurveColumns {
  let columns = kept.get(points);
  if (!columns) kept.set(points, (columns = columnsOf(points, law)));
  return columns;
}

/** Traces a curve (in travel) from one x to another; `y` says where a travel stands. A curve without points is its rest. */
export function traceCurve(
  pen: Pen,
  { t, x, shape, bend, u0, u1 }: CurveColumns,
  rest: number,
  { scale, from, to, y }: { scale: RideScale; from: number; to: number; y: (travel: number) => number },
): void {
  if (!t.length) {
    pen.moveTo(from, y(rest));
    pen.lineTo(to, y(rest));
    return;
  }
  const start = timeAt(scale, from);
  const end = timeAt(scale, to);
  let i = lastNotAfter(t, start);
  const wayAt = (k: number, time: Seconds): number => {
    if (k < 0) return x[0]!;
    if (k === t.length - 1 || shape[k] === 1) return x[k]!;
    const u = (time - t[k]!) / (t[k + 1]! - t[k]!);
    const way = shape[k] === 0 ? u : partFraction(SHAPES[shape[k]!]!, bend[k]!, u0[k]!, u1[k]!, u);
    return x[k]! + (x[k + 1]! - x[k]!) * way;
  };
  pen.moveTo(from, y(wayAt(i, start)));
  for (; i + 1 < t.length && t[i + 1]! <= end; i++) {
    const at = xOf(scale, t[i + 1]!);
    if (i >= 0 && shape[i] === 1) pen.lineTo(at, y(x[i]!));
    else if (i >= 0 && shape[i]! > 1)
      traceBent(pen, scale, Math.max(from, xOf(scale, t[i]!)), at, (s) => y(wayAt(i, s)));
    pen.lineTo(at, y(x[i + 1]!));
  }
  if (i >= 0 && i + 1 < t.length && shape[i]! > 1)
    traceBent(pen, scale, Math.max(from, xOf(scale, t[i]!)), to, (s) => y(wayAt(i, s)));
  pen.lineTo(to, y(wayAt(i, end)));
}

function traceBent(pen: Pen, scale: RideScale, from: number, to: number, y: (t: Seconds) => number): void {
  for (let x = from + BENT_STEP_PX; x < to; x += BENT_STEP_PX) pen.lineTo(x, y(timeAt(scale, x)));
}
