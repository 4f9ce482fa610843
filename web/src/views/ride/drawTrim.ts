import { trimmedDb } from '@sure-hand/core/curve';
import {
  controlOf,
  isInDb,
  laneOf,
  ownValueAt,
  swayOf,
  swayedValue,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { travelOf, type Seconds } from '@sure-hand/core/units';
import type { Pen } from './drawCurve.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** The result is drawn from places so many pixels apart, besides the points of both layers; what sways is finer. */
const STEP_PX = 2;
const SWAY_STEP_PX = 0.5;
const HATCH_PX = 7;

/** A stretch of a row between two x, and where a travel stands in it. */
export type Stretch = {
  readonly scale: RideScale;
  readonly from: number;
  readonly to: number;
  readonly y: (travel: number) => number;
};

/** The x of everything that matters between two x: every few pixels, and on both sides of each point. */
function placesIn({ scale, from, to }: Stretch, times: readonly Seconds[], step: number): number[] {
  const places: number[] = [];
  for (let x = from; x < to; x += step) places.push(x);
  for (const t of times) {
    const x = xOf(scale, t);
    if (x > from && x < to) places.push(x - 0.01, x + 0.01);
  }
  return [...places, to].sort((a, b) => a - b);
}

/**
 * Traces the result of a lane: its base with its sway and the trim on it, as heard. `offsetAt`: another trim than the lane's own,
 * such as the one that is being written.
 */
export function traceResult(
  pen: Pen,
  song: Song,
  id: ControlId,
  stretch: Stretch,
  offsetAt: ((t: Seconds) => number) | null = null,
): void {
  const { points, trim } = laneOf(song, id);
  const control = controlOf(song, id);
  const { law } = control;
  const isTrimmed = isInDb(control);
  const places = placesIn(stretch, [...points.t, ...trim.t], swayOf(song, id) ? SWAY_STEP_PX : STEP_PX);
  places.forEach((x, i) => {
    const t = timeAt(stretch.scale, x);
    const own = ownValueAt(song, id, t);
    const base = swayedValue(song, id, own.base, t);
    const trimmed = isTrimmed ? trimmedDb(law, base, offsetAt ? offsetAt(t) : own.trim) : base;
    const y = stretch.y(travelOf(law, trimmed));
    if (i === 0) pen.moveTo(x, y);
    else pen.lineTo(x, y);
  });
}

/** Fills what lies between a lane's base and its result with diagonal lines that stay where they are in the song. */
export function drawBand(
  ctx: CanvasRenderingContext2D,
  song: Song,
  id: ControlId,
  stretch: Stretch,
  offsetAt: ((t: Seconds) => number) | null = null,
): void {
  const { scale, from, to, y } = stretch;
  if (to <= from) return;
  const there: [number, number][] = [];
  const back: [number, number][] = [];
  const into = (list: [number, number][]): Pen => ({
    moveTo: (x, at) => void list.push([x, at]),
    lineTo: (x, at) => void list.push([x, at]),
  });
  traceResult(into(there), song, id, stretch, offsetAt);
  traceResult(into(back), song, id, stretch, () => 0);
  const top = Math.min(...there.map(([, at]) => at), ...back.map(([, at]) => at));
  const bottom = Math.max(...there.map(([, at]) => at), ...back.map(([, at]) => at));
  if (bottom - top < 1 || !Number.isFinite(y(0))) return;
  ctx.save();
  ctx.beginPath();
  [...there, ...back.reverse()].forEach(([x, at], i) => (i ? ctx.lineTo(x, at) : ctx.moveTo(x, at)));
  ctx.closePath();
  ctx.clip();
  ctx.beginPath();
  const phase = (scale.left * scale.pxPerSec) % HATCH_PX;
  const tall = bottom - top;
  const first = from - tall - ((((from - tall + phase) % HATCH_PX) + HATCH_PX) % HATCH_PX);
  for (let x = first; x < to; x += HATCH_PX) {
    ctx.moveTo(x, bottom);
    ctx.lineTo(x + tall, top);
  }
  ctx.stroke();
  ctx.restore();
}
