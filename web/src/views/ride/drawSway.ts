import {
  ownValueAt,
  swayControlId,
  swayOf,
  swayingOf,
  controlOf,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { clamp, travelOf } from '@sure-hand/core/units';
import type { Stretch } from './drawTrim.js';
import { timeAt, type RideScale } from './rideScale.js';

/** From so many turns a pixel on, a sway is drawn as what it covers: no eye tells its turns apart. */
const DENSE_A_PX = 0.2;
/** What it covers is drawn from places so many pixels apart. */
const STEP_PX = 2;

/** Whether a control sways too fast, or is seen from too far, for its turns to be told apart. */
export function isSwayDense(song: Song, id: ControlId, { pxPerSec }: RideScale): boolean {
  const sway = swayOf(song, id);
  return sway !== null && Math.max(...swayingOf(song, sway).turning.perSec) > DENSE_A_PX * pxPerSec;
}

/** Fills what a sway covers, either side of its steady line. */
export function fillSway(
  ctx: CanvasRenderingContext2D,
  song: Song,
  id: ControlId,
  { scale, from, to, y }: Stretch,
): void {
  const { law } = controlOf(song, id);
  const foot: [number, number][] = [];
  ctx.beginPath();
  for (let x = from, isFirst = true; ; x = Math.min(to, x + STEP_PX), isFirst = false) {
    const t = timeAt(scale, x);
    const steady = travelOf(law, ownValueAt(song, id, t).base);
    const depth = ownValueAt(song, swayControlId(id), t).base;
    const [top, low] = [steady + depth, steady - depth].map((at) => y(clamp(at, 0, 1)));
    if (isFirst) ctx.moveTo(x, top!);
    else ctx.lineTo(x, top!);
    foot.push([x, low!]);
    if (x >= to) break;
  }
  for (const [x, at] of foot.reverse()) ctx.lineTo(x, at);
  ctx.closePath();
  ctx.fill();
}
