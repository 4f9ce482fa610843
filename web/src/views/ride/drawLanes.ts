import { layerInHand } from '@sure-hand/core/pass';
import {
  controlOf,
  controlsOfChannel,
  isReading,
  laneOf,
  layerLaw,
  layerRest,
  type Control,
  type Layer,
  type Song,
} from '@sure-hand/core/song';
import { travelOf, type Law } from '@sure-hand/core/units';
import type { Look } from '../../app/look.js';
import { drawnColumns, traceCurve, type Pen } from './drawCurve.js';
import { yOfTravel, type ChannelRow } from './rideLayout.js';
import type { RideScale } from './rideScale.js';
import { throwMarks } from './throwMarks.js';

/** A row's front lane as it is drawn: its layer in hand, its law, and where a travel stands. */
export type DrawnLane = {
  readonly control: Control;
  readonly layer: Layer;
  readonly law: Law;
  readonly y: (travel: number) => number;
};

/** What lanes at rest are drawn from: the song alone, between two x. */
export type LanesScene = {
  readonly song: Song;
  readonly rows: readonly ChannelRow[];
  readonly scale: RideScale;
  readonly look: Look;
  readonly from: number;
  readonly to: number;
};

export function laneOfRow(song: Song, row: ChannelRow): DrawnLane {
  const layer = layerInHand(song, row.control);
  return {
    control: controlOf(song, row.control),
    layer,
    law: layerLaw(song, row.control, layer),
    y: (travel) => yOfTravel(row, travel),
  };
}

/** Traces a lane's curve from one x to another; without points, its rest. */
export function traceLane(pen: Pen, song: Song, lane: DrawnLane, scale: RideScale, from: number, to: number): void {
  const { control, layer, law } = lane;
  const kept = laneOf(song, control.id);
  const points = layer === 'trim' ? kept.trim : kept.points;
  const rest = travelOf(law, layerRest(kept, layer));
  traceCurve(pen, drawnColumns(points, law), rest, { scale, from, to, y: lane.y });
}

/** Draws what no hand is on: the scale of tall rows, their other lanes as outlines, and every row's curve. */
export function drawLanes(ctx: CanvasRenderingContext2D, scene: LanesScene): void {
  for (const row of scene.rows) {
    if (row.isTall) {
      drawScaleLines(ctx, scene, row);
      drawOutlines(ctx, scene, row);
    }
    drawRestingCurve(ctx, scene, row);
  }
}

/** A curve that is read is a plain line; a rest a thinner one; what is off or parked dotted, at half strength. */
function drawRestingCurve(
  ctx: CanvasRenderingContext2D,
  { song, scale, look, from, to }: LanesScene,
  row: ChannelRow,
): void {
  const lane = laneOfRow(song, row);
  const kept = laneOf(song, row.control);
  const hasPoints = (lane.layer === 'trim' ? kept.trim : kept.points).length > 0;
  const isRead = isReading(song, row.control);
  ctx.save();
  ctx.strokeStyle = look.bone;
  ctx.lineWidth = hasPoints && isRead ? 1.75 : 1.25;
  ctx.globalAlpha = !isRead ? 0.5 : hasPoints ? 1 : 0.55;
  if (!isRead) ctx.setLineDash([1.5, 5]);
  ctx.beginPath();
  traceLane(ctx, song, lane, scale, from, to);
  ctx.stroke();
  ctx.restore();
}

function drawOutlines(
  ctx: CanvasRenderingContext2D,
  { song, scale, look, from, to }: LanesScene,
  row: ChannelRow,
): void {
  ctx.save();
  ctx.strokeStyle = look.quiet;
  ctx.globalAlpha = 0.4;
  ctx.lineWidth = 1;
  for (const { id, law } of controlsOfChannel(song, row.channel)) {
    const lane = song.lanes[id];
    if (id === row.control || !lane?.points.length) continue;
    ctx.beginPath();
    const y = (travel: number): number => yOfTravel(row, travel);
    traceCurve(ctx, drawnColumns(lane.points, law), travelOf(law, lane.rest), { scale, from, to, y });
    ctx.stroke();
  }
  ctx.restore();
}

function drawScaleLines(ctx: CanvasRenderingContext2D, { song, look, from, to }: LanesScene, row: ChannelRow): void {
  ctx.save();
  ctx.fillStyle = look.line;
  for (const { travel, isMain } of throwMarks(controlOf(song, row.control), layerInHand(song, row.control))) {
    ctx.globalAlpha = isMain ? 1 : 0.6;
    ctx.fillRect(from, Math.round(yOfTravel(row, travel)), to - from, 1);
  }
  ctx.restore();
}
