import { columnsOf, type CurveColumns, type Picks } from '@sure-hand/core/curve';
import { layerOf } from '../../hands/picking.js';
import { isReading, laneOf, layerLaw, layerPoints, type Song } from '@sure-hand/core/song';
import { lastNotAfter, type Seconds } from '@sure-hand/core/units';
import type { LayerOf } from '@sure-hand/core/edits';
import { FONT, type Look } from '../../parts/look.js';
import { laneOfRow, yOfValue } from './drawLanes.js';
import type { ChannelRow } from './rideLayout.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** A point of a curve where it stands on screen. */
export type PointMark = {
  readonly index: number;
  readonly t: Seconds;
  readonly v: number;
  readonly x: number;
  readonly y: number;
};

const MARK = { px: 4, densePx: 1.75, crowdPx: 5, pickedPx: 5.5, reachPx: 8 } as const;
/** Points that stand nearer to each other are small dots; nearer still, they are not drawn: the curve would look like a thicker one. */
const APART_PX = { whole: 9, dot: 4 } as const;

/** The layer of a row's lane that gestures are about, with its points ready to be looked through. */
export function marksOf(
  song: Song,
  row: ChannelRow,
): { readonly of: LayerOf; readonly columns: CurveColumns; readonly v: Float64Array } {
  const of = layerOf(song, row.control);
  const points = layerPoints(laneOf(song, row.control), of.layer);
  return { of, columns: columnsOf(points, layerLaw(song, row.control, of.layer)), v: points.v };
}

/** The points of a row's lane between two x, where they stand. */
export function marksIn(song: Song, row: ChannelRow, scale: RideScale, from: number, to: number): PointMark[] {
  const { columns, v } = marksOf(song, row);
  const lane = laneOfRow(song, row);
  const marks: PointMark[] = [];
  const end = timeAt(scale, to);
  for (let i = lastNotAfter(columns.t, timeAt(scale, from)); i < columns.t.length; i++) {
    if (i < 0) continue;
    const t = columns.t[i]!;
    if (t > end) break;
    if (t < timeAt(scale, from)) continue;
    marks.push({ index: i, t, v: v[i]!, x: xOf(scale, t), y: yOfValue(song, lane, t, v[i]!) });
  }
  return marks;
}

/** The point of a row's lane nearest to a place within reach; null where there is none. */
export function markAt(song: Song, row: ChannelRow, scale: RideScale, x: number, y: number): PointMark | null {
  const far = (one: PointMark): number => Math.hypot(one.x - x, one.y - y);
  const near = marksIn(song, row, scale, x - MARK.reachPx, x + MARK.reachPx).filter((one) => far(one) <= MARK.reachPx);
  return near.sort((a, b) => far(a) - far(b))[0] ?? null;
}

/** How far a point stands from the nearest at another time, in pixels. */
function gapAt({ t }: CurveColumns, i: number, pxPerSec: number): number {
  const before = t[i - 1] === t[i] ? i - 2 : i - 1;
  const after = t[i + 1] === t[i] ? i + 2 : i + 1;
  const gap = Math.min(before >= 0 ? t[i]! - t[before]! : Infinity, after < t.length ? t[after]! - t[i]! : Infinity);
  return gap * pxPerSec;
}

/** Draws the points of a row's lane: hollow; picked ones filled and larger; where they stand too close, small dots. */
export function drawPointMarks(
  ctx: CanvasRenderingContext2D,
  song: Song,
  row: ChannelRow,
  { scale, look, from, picked }: { scale: RideScale; look: Look; from: number; picked: Picks | null },
): void {
  const { columns, v } = marksOf(song, row);
  const lane = laneOfRow(song, row);
  ctx.save();
  // As its curve is: of one that is not read they are faint, too.
  if (!isReading(song, row.control)) ctx.globalAlpha = 0.45;
  ctx.lineWidth = 1.5;
  const [start, end] = [timeAt(scale, from), timeAt(scale, scale.width)];
  // Where picked ones stand too close to be told apart, so many are drawn as can be.
  let lastX = -Infinity;
  for (let i = Math.max(0, lastNotAfter(columns.t, start)); i < columns.t.length && columns.t[i]! <= end; i++) {
    const t = columns.t[i]!;
    if (t < start) continue;
    const gap = gapAt(columns, i, scale.pxPerSec);
    const x = xOf(scale, t);
    const own = picked?.of[i] === 1;
    if (gap < APART_PX.dot && (!own || x - lastX < APART_PX.dot)) continue;
    if (own) lastX = x;
    if (gap < APART_PX.dot) {
      ctx.fillStyle = look.bone;
      ctx.fillRect(x - MARK.crowdPx / 2, yOfValue(song, lane, t, v[i]!) - MARK.crowdPx / 2, MARK.crowdPx, MARK.crowdPx);
      continue;
    }
    const isDot = !own && gap < APART_PX.whole;
    ctx.beginPath();
    const px = own ? Math.min(MARK.pickedPx, gap) : isDot ? MARK.densePx : MARK.px;
    ctx.arc(x, yOfValue(song, lane, t, v[i]!), px, 0, 2 * Math.PI);
    ctx.fillStyle = own || isDot ? look.bone : look.ground;
    ctx.fill();
    ctx.strokeStyle = own ? look.ground : look.bone;
    if (!isDot) ctx.stroke();
  }
  ctx.restore();
}

/** Draws words beside the hand: on a plate, so that no curve runs through them, within the picture. */
export function drawAmount(
  ctx: CanvasRenderingContext2D,
  look: Look,
  words: string,
  x: number,
  y: number,
  width: number,
): void {
  if (!words) return;
  ctx.save();
  ctx.font = `12px ${FONT}`;
  const wide = ctx.measureText(words).width + 16;
  const left = x + 16 + wide > width ? x - 16 - wide : x + 16;
  ctx.fillStyle = look.raised;
  ctx.strokeStyle = look.line;
  ctx.beginPath();
  ctx.roundRect(left, y - 12, wide, 24, 4);
  ctx.fill();
  ctx.stroke();
  ctx.fillStyle = look.text;
  ctx.textBaseline = 'middle';
  ctx.fillText(words, left + 8, y + 0.5);
  ctx.restore();
}
