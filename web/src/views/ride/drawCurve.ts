import { SHAPE_CODE, travelIn, type CurveColumns } from '@sure-hand/core/curve';
import { lastNotAfter, type Seconds } from '@sure-hand/core/units';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** A path to trace into: a canvas, or a recorder in tests. */
export type Pen = { moveTo(x: number, y: number): void; lineTo(x: number, y: number): void };

const { line: LINE, hold: HOLD } = SHAPE_CODE;
const isBent = (shape: number): boolean => shape !== LINE && shape !== HOLD;
const BENT_STEP_PX = 0.5;

/** Traces a curve (in travel) from one x to another; `y` says where a travel stands. A curve without points is its rest. */
export function traceCurve(
  pen: Pen,
  columns: CurveColumns,
  rest: number,
  { scale, from, to, y }: { scale: RideScale; from: number; to: number; y: (travel: number) => number },
): void {
  const { t, x, shape } = columns;
  if (!t.length) {
    pen.moveTo(from, y(rest));
    pen.lineTo(to, y(rest));
    return;
  }
  const start = timeAt(scale, from);
  const end = timeAt(scale, to);
  let i = lastNotAfter(t, start);
  pen.moveTo(from, y(travelIn(columns, i, start)));
  for (; i + 1 < t.length && t[i + 1]! <= end; i++) {
    const at = xOf(scale, t[i + 1]!);
    if (i >= 0 && shape[i] === HOLD) pen.lineTo(at, y(x[i]!));
    else if (i >= 0 && isBent(shape[i]!))
      traceBent(pen, scale, Math.max(from, xOf(scale, t[i]!)), at, (s) => y(travelIn(columns, i, s)));
    pen.lineTo(at, y(x[i + 1]!));
  }
  if (i >= 0 && i + 1 < t.length && isBent(shape[i]!))
    traceBent(pen, scale, Math.max(from, xOf(scale, t[i]!)), to, (s) => y(travelIn(columns, i, s)));
  pen.lineTo(to, y(travelIn(columns, i, end)));
}

/** From so many points a pixel on a curve is drawn as what it covers: no eye tells its lines apart. */
const DENSE_A_PX = 1.5;

/** Whether a curve has too many points between two x for its lines to be told apart. */
export function isDense({ t }: CurveColumns, scale: RideScale, from: number, to: number): boolean {
  const count = lastNotAfter(t, timeAt(scale, to)) - lastNotAfter(t, timeAt(scale, from));
  return count > DENSE_A_PX * (to - from);
}

/** Draws a dense curve, column of pixels by column: what it covers there, in the colour and width that strokes have. */
export function fillDense(
  ctx: CanvasRenderingContext2D,
  { t, x }: CurveColumns,
  { scale, from, to, y }: { scale: RideScale; from: number; to: number; y: (travel: number) => number },
): void {
  const { fillStyle, lineWidth } = ctx;
  ctx.fillStyle = ctx.strokeStyle;
  const last = Math.min(t.length - 1, lastNotAfter(t, timeAt(scale, to)));
  let i = Math.max(0, lastNotAfter(t, timeAt(scale, from)));
  let column = Math.floor(Math.max(from, xOf(scale, t[i]!)));
  let [top, foot] = [y(x[i]!), y(x[i]!)];
  const half = lineWidth / 2;
  for (i++; i <= last; i++) {
    const at = Math.floor(xOf(scale, t[i]!));
    const height = y(x[i]!);
    if (height < top) top = height;
    if (height > foot) foot = height;
    if (at === column) continue;
    ctx.fillRect(column, top - half, at - column, foot - top + lineWidth);
    column = at;
    top = foot = height;
  }
  ctx.fillRect(column, top - half, 1, foot - top + lineWidth);
  ctx.fillStyle = fillStyle;
}

function traceBent(pen: Pen, scale: RideScale, from: number, to: number, y: (t: Seconds) => number): void {
  for (let x = from + BENT_STEP_PX; x < to; x += BENT_STEP_PX) pen.lineTo(x, y(timeAt(scale, x)));
}
