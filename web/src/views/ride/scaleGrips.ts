import { lanePicked, layerOf, picksIn, type Picked } from '../../hands/picking.js';
import type { Song } from '@sure-hand/core/song';
import { columnsOf, type Picks } from '@sure-hand/core/curve';
import { laneOf, layerLaw, layerPoints } from '@sure-hand/core/song';
import type { Travel } from '@sure-hand/core/units';
import type { Look } from '../../parts/look.js';
import { laneOfRow, yOfValue } from './drawLanes.js';
import { RIDE, type ChannelRow } from './rideLayout.js';
import { xOf, type RideScale } from './rideScale.js';

/** What scales the picked points of a row: above the highest of them about the lowest, below the lowest about the highest. */
export type ScaleGrip = {
  readonly row: ChannelRow;
  readonly side: 'top' | 'foot';
  readonly x: number;
  readonly y: number;
  /** How far apart the highest and the lowest stand. */
  readonly apart: Travel;
  /** The value of the highest: what the grip below scales about. */
  readonly highest: number;
};

const GRIP = { width: 30, height: 7, offPx: 16, reachPx: 6 } as const;
/** Points that stand at one height can't be scaled about each other. */
const APART: Travel = 1e-6;

const ends = new WeakMap<Picks, { readonly low: number; readonly high: number }>();
/** The places of the lowest and the highest of picked points; looked for once. */
function endsOf(picks: Picks, travels: Float64Array): { readonly low: number; readonly high: number } {
  const known = ends.get(picks);
  if (known) return known;
  const { at } = picks;
  let [low, high] = [at[0]!, at[0]!];
  for (const i of at) {
    if (travels[i]! < travels[low]!) low = i;
    if (travels[i]! > travels[high]!) high = i;
  }
  const now = { low, high };
  ends.set(picks, now);
  return now;
}

/** The grips of a row's picked points: none of a single one, of points at one height, of a switch, or where they are not in sight. */
export function scaleGrips(song: Song, row: ChannelRow, scale: RideScale, picked: Picked | null): ScaleGrip[] {
  const of = layerOf(song, row.control);
  const lane = lanePicked(picked, of);
  const law = layerLaw(song, of.control, of.layer);
  if (!lane || lane.times.length < 2 || law.kind === 'switch' || !row.isTall || picked?.isPass) return [];
  const points = layerPoints(laneOf(song, of.control), of.layer);
  const { x: travels } = columnsOf(points, law);
  const picks = picksIn(song, lane);
  const { at } = picks;
  if (!at.length) return [];
  const { low, high } = endsOf(picks, travels);
  if (travels[high]! - travels[low]! < APART) return [];
  const from = Math.max(RIDE.meterPx, xOf(scale, points.t[at[0]!]!));
  const to = Math.min(scale.width, xOf(scale, points.t[at.at(-1)!]!));
  if (to <= from) return [];
  const place = laneOfRow(song, row);
  const yOf = (i: number): number => yOfValue(song, place, points.t[i]!, points.v[i]!);
  const within = (y: number): number => Math.min(row.top + row.height - 6, Math.max(row.top + 6, y));
  const shared = { row, x: (from + to) / 2, apart: travels[high]! - travels[low]!, highest: points.v[high]! };
  return [
    { ...shared, side: 'top', y: within(yOf(high) - GRIP.offPx) },
    { ...shared, side: 'foot', y: within(yOf(low) + GRIP.offPx) },
  ];
}

/** The grip under the pointer; null where there is none. */
export const scaleGripAt = (grips: readonly ScaleGrip[], x: number, y: number): ScaleGrip | null =>
  grips.find((one) => Math.abs(one.x - x) <= GRIP.width / 2 + 2 && Math.abs(one.y - y) <= GRIP.reachPx) ?? null;

/** Draws the grips: small lying bars over and under what they scale. */
export function drawScaleGrips(ctx: CanvasRenderingContext2D, grips: readonly ScaleGrip[], look: Look): void {
  ctx.save();
  ctx.lineWidth = 1.5;
  ctx.strokeStyle = look.bone;
  ctx.fillStyle = look.ground;
  for (const { x, y } of grips) {
    ctx.beginPath();
    ctx.roundRect(x - GRIP.width / 2, y - GRIP.height / 2, GRIP.width, GRIP.height, 3);
    ctx.fill();
    ctx.stroke();
  }
  ctx.restore();
}
