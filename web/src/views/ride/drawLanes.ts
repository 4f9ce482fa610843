import { columnsOf, holdPoint } from '@sure-hand/core/curve';
import { layerInHand } from '@sure-hand/core/pass';
import { type LoggedLane } from '@sure-hand/core/edits';
import {
  controlOf,
  controlsOfChannel,
  isReading,
  isSwaying,
  isSwitch,
  laneOf,
  layerLaw,
  ownValueAt,
  withTrimAt,
  type Control,
  type Layer,
  type Song,
} from '@sure-hand/core/song';
import { clamp, rangeOf, travelOf, valueOf, type Law, type Seconds, throwMarks } from '@sure-hand/core/units';
import type { Look } from '../../parts/look.js';
import { fillDense, isDense, traceCurve, type Pen } from './drawCurve.js';
import { RIDE, travelOfY, yOfTravel, type ChannelRow } from './rideLayout.js';
import { drawVcaSum } from './drawSum.js';
import { fillSway, isSwayDense } from './drawSway.js';
import { drawBand, traceResult } from './drawTrim.js';
import { xOf, type RideScale } from './rideScale.js';

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

/** A row's lane as it is drawn. A trimmed one stands on the control's own throw too: its cap is on the result. */
export function laneOfRow(song: Song, row: ChannelRow, layer = layerInHand(song, row.control)): DrawnLane {
  return {
    control: controlOf(song, row.control),
    layer,
    law: layerLaw(song, row.control, layer),
    y: (travel) => yOfTravel(row, travel),
  };
}

/** Where a value of the layer in hand stands at t: a trim's on the result, its base with that offset on it. */
export function yOfValue(song: Song, { control, layer, law, y }: DrawnLane, t: Seconds, value: number): number {
  if (layer === 'base') return y(travelOf(law, value));
  return y(travelOf(control.law, withTrimAt(song, control.id, value, t)));
}

/** The value of the layer in hand that stands at a height at t: the reverse of {@link yOfValue}, within the layer's throw. */
export function valueOfY(
  song: Song,
  { control, layer, law }: DrawnLane,
  row: ChannelRow,
  t: Seconds,
  y: number,
): number {
  const own = valueOf(control.law, travelOfY(row, y));
  if (layer === 'base') return own;
  const { min, max } = rangeOf(law);
  return clamp(own - ownValueAt(song, control.id, t).base, min, max);
}

/** Traces what a lane follows from one x to another, its sway and trim included; without points, its rest. */
export function traceLane(
  pen: Pen,
  song: Song,
  { control, y }: DrawnLane,
  scale: RideScale,
  from: number,
  to: number,
): void {
  const kept = laneOf(song, control.id);
  if ((kept.trim.length && isReading(song, control.id)) || isSwaying(song, control.id))
    return traceResult(pen, song, control.id, { scale, from, to, y });
  traceCurve(pen, columnsOf(kept.points, control.law), travelOf(control.law, kept.rest), { scale, from, to, y });
}

/** Draws what no hand is on: the scale of tall rows, their other lanes as outlines, and every row's curve. */
export function drawLanes(ctx: CanvasRenderingContext2D, scene: LanesScene): void {
  for (const row of scene.rows) {
    if (row.isTall) {
      drawScaleLines(ctx, scene, row);
      drawOutlines(ctx, scene, row);
      drawVcaSum(ctx, scene, row);
    }
    drawRestingCurve(ctx, scene, row);
  }
}

/**
 * A curve that is read is a plain line; a rest a thinner one; what is off or parked dotted, at half strength. A switch is
 * a block where it is on; under a trim that waits the base is thin, and the band between them hatched; what sways goes over
 * its thin steady line, as the band that it covers where it is seen from too far.
 */
export function drawRestingCurve(ctx: CanvasRenderingContext2D, scene: LanesScene, row: ChannelRow): void {
  const { song, scale, look, from, to } = scene;
  const lane = laneOfRow(song, row);
  const kept = laneOf(song, row.control);
  const isRead = isReading(song, row.control);
  const hasSway = isSwaying(song, row.control);
  const hasPoints = kept.points.length > 0 || (isRead && kept.trim.length > 0) || hasSway;
  ctx.save();
  ctx.strokeStyle = look.bone;
  ctx.lineWidth = hasPoints && isRead ? 1.75 : 1.25;
  ctx.globalAlpha = !isRead ? 0.5 : hasPoints ? 1 : 0.55;
  if (!isRead) ctx.setLineDash([1.5, 5]);
  if (isSwitch(lane.control)) drawBlocks(ctx, scene, row);
  const columns = columnsOf(kept.points, lane.control.law);
  const stretch = { scale, from, to, y: lane.y };
  if (hasSway && !kept.trim.length && isSwayDense(song, row.control, scale)) {
    ctx.fillStyle = look.bone;
    ctx.globalAlpha = 0.45;
    fillSway(ctx, song, row.control, stretch);
  } else if (!kept.trim.length && !hasSway && isDense(columns, scale, from, to)) fillDense(ctx, columns, stretch);
  else {
    ctx.beginPath();
    traceLane(ctx, song, lane, scale, from, to);
    ctx.stroke();
  }
  if ((kept.trim.length && isRead) || hasSway) drawBaseAndBand(ctx, scene, lane);
  ctx.restore();
}

function drawBaseAndBand(
  ctx: CanvasRenderingContext2D,
  { song, scale, look, from, to }: LanesScene,
  lane: DrawnLane,
): void {
  const { control, y } = lane;
  const { points, trim, rest } = laneOf(song, control.id);
  ctx.strokeStyle = look.quiet;
  ctx.lineWidth = 1;
  ctx.globalAlpha = 0.9;
  ctx.beginPath();
  traceCurve(ctx, columnsOf(points, control.law), travelOf(control.law, rest), { scale, from, to, y });
  ctx.stroke();
  if (!trim.length) return;
  ctx.globalAlpha = 0.7;
  drawBand(ctx, song, control.id, { scale, from, to, y });
}

/** Where a switch is on: from one event to the next, a block of the height of its throw. */
function drawBlocks(ctx: CanvasRenderingContext2D, { song, scale, look, from, to }: LanesScene, row: ChannelRow): void {
  const { points, rest } = laneOf(song, row.control);
  const isRead = isReading(song, row.control);
  const steps = isRead && points.length ? [...points] : [holdPoint(-1, rest)];
  ctx.save();
  ctx.fillStyle = look.bone;
  ctx.globalAlpha = (isRead ? 0.26 : 0.12) * (points.length ? 1 : 0.6);
  const [top, foot] = [yOfTravel(row, 1), yOfTravel(row, 0)];
  steps.forEach(({ v }, i) => {
    const a = i === 0 ? from : Math.max(from, xOf(scale, steps[i]!.t));
    const b = i + 1 < steps.length ? Math.min(to, xOf(scale, steps[i + 1]!.t)) : to;
    if (v >= 0.5 && b > a) ctx.fillRect(a, top, b - a, foot - top);
  });
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
    traceCurve(ctx, columnsOf(lane.points, law), travelOf(law, lane.rest), { scale, from, to, y });
    ctx.stroke();
  }
  ctx.restore();
}

function drawScaleLines(ctx: CanvasRenderingContext2D, { song, look, from, to }: LanesScene, row: ChannelRow): void {
  ctx.save();
  ctx.fillStyle = look.line;
  const { scale } = controlOf(song, row.control);
  for (const { travel, isMain } of throwMarks(scale, scale.marks)) {
    ctx.globalAlpha = isMain ? 1 : 0.6;
    ctx.fillRect(from, Math.round(yOfTravel(row, travel)), to - from, 1);
  }
  ctx.restore();
}

/** The curves that a pass found, faded under those it left, in the rows that show its lanes. */
export function drawOldCurves(
  ctx: CanvasRenderingContext2D,
  {
    song,
    rows,
    lanes,
    scale,
    look,
  }: {
    song: Song;
    rows: readonly ChannelRow[];
    lanes: readonly LoggedLane[];
    scale: RideScale;
    look: Look;
  },
): void {
  ctx.save();
  ctx.strokeStyle = look.bone;
  ctx.globalAlpha = 0.32;
  ctx.lineWidth = 1.5;
  for (const row of rows) {
    const found = lanes.find((one) => one.control === row.control && one.layer === 'base');
    if (!row.isTall || !found) continue;
    const { law } = controlOf(song, row.control);
    const y = (travel: number): number => yOfTravel(row, travel);
    ctx.beginPath();
    const from = Math.max(RIDE.meterPx, xOf(scale, scale.left));
    traceCurve(ctx, columnsOf(found.before, law), travelOf(law, found.rest), { scale, from, to: scale.width, y });
    ctx.stroke();
  }
  ctx.restore();
}
