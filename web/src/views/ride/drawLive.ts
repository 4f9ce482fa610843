import type { PassRecorder, LaneTake, Span } from '@sure-hand/core/pass';
import { layerInHand } from '@sure-hand/core/pass';
import { layerValueAt, type ControlId } from '@sure-hand/core/song';
import { printValue, printDb, travelOf, type Seconds } from '@sure-hand/core/units';
import type { MeterReading } from '../../engine/meterHold.js';
import { FIGURES, FONT, type Look } from '../../app/look.js';
import { capLook } from './capLook.js';
import { drawCap, drawThrow, readableMarks } from './drawCap.js';
import { laneOfRow, traceLane, type DrawnLane } from './drawLanes.js';
import type { ChannelRow } from './rideLayout.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';
import { throwMarks } from './throwMarks.js';

/** What the moving picture is drawn from. */
export type LiveScene = {
  readonly recorder: PassRecorder;
  readonly rows: readonly ChannelRow[];
  readonly scale: RideScale;
  readonly look: Look;
  readonly position: Seconds;
  readonly inHand: ControlId | null;
  /** Slow breathing of what is poised, 0 … 1. */
  readonly breath: number;
  readonly top: number;
  readonly bottom: number;
};

const STRIKE = { everyPx: 13, fadePx: 260 } as const;

/** Whether a row's picture moves by itself: a pass writes its front lane, or a finger is on it. The others lie in tiles. */
export function isHot(recorder: PassRecorder, row: ChannelRow): boolean {
  const layer = layerInHand(recorder.song, row.control);
  return recorder.roll?.take(row.control, layer) !== undefined || recorder.touched.includes(row.control);
}

/** Draws what moves: lanes that hands are on, and the caps of all rows; then the throw of the one in hand. */
export function drawLive(ctx: CanvasRenderingContext2D, scene: LiveScene): void {
  const { recorder, rows, look, scale, position } = scene;
  const { song } = recorder;
  const lanes = rows.map((row) => laneOfRow(song, row));
  rows.forEach((row, i) => {
    const lane = lanes[i]!;
    const take = recorder.roll?.take(row.control, lane.layer);
    if (take) drawTake(ctx, scene, lane, take);
  });
  rows.forEach((row, i) => {
    const lane = lanes[i]!;
    const state = capLook(song, row.control, recorder.doing(row.control, position));
    const y = lane.y(travelOf(lane.law, recorder.capAt(row.control, position)));
    drawCap(ctx, { x: scale.lineX, y, isTall: row.isTall, state, look, breath: scene.breath });
    if (row.isTall) drawScaleWords(ctx, scene, row, lane);
  });
  drawThrowInHand(ctx, scene, lanes);
}

/** A lane that this pass writes: the old curve faded under what is fresh, struck through ahead of a hand. */
function drawTake(ctx: CanvasRenderingContext2D, scene: LiveScene, lane: DrawnLane, take: LaneTake): void {
  const { scale, look, recorder, position } = scene;
  const { song } = recorder;
  const leftX = xOf(scale, scale.left);
  let from = leftX;
  const stroke = (alpha: number, width: number, a: number, b: number): void => {
    if (b <= a) return;
    ctx.globalAlpha = alpha;
    ctx.lineWidth = width;
    ctx.strokeStyle = look.bone;
    ctx.beginPath();
    traceLane(ctx, song, lane, scale, a, b);
    ctx.stroke();
  };
  ctx.save();
  for (const span of take.spans) {
    const a = Math.max(leftX, xOf(scale, span.from));
    const b = Math.min(scale.width, span.to === null ? scale.width : xOf(scale, span.to));
    stroke(1, 1.75, from, Math.min(a, scale.width));
    stroke(0.32, 1.5, a, b);
    from = Math.max(from, b);
  }
  stroke(1, 1.75, from, scale.width);
  ctx.restore();
  if (take.isOpen) drawStrike(ctx, scene, lane);
  for (const span of take.spans) drawFresh(ctx, scene, lane, take, span, position);
}

/** Strikes the old curve through ahead of the line, up to the punch range's end, else fading out to the right. */
function drawStrike(ctx: CanvasRenderingContext2D, { recorder, scale, look }: LiveScene, lane: DrawnLane): void {
  const { punch } = recorder.song.settings;
  const end = punch ? Math.min(scale.width, xOf(scale, punch[1])) : Math.min(scale.width, scale.lineX + STRIKE.fadePx);
  ctx.save();
  ctx.strokeStyle = look.coral;
  ctx.lineWidth = 1.25;
  for (let x = scale.lineX + 26; x < end; x += STRIKE.everyPx) {
    const value = layerValueAt(recorder.song, lane.control.id, lane.layer, timeAt(scale, x));
    const y = lane.y(travelOf(lane.law, value));
    ctx.globalAlpha = punch ? 0.8 : 0.9 * (1 - (x - scale.lineX) / STRIKE.fadePx);
    ctx.beginPath();
    ctx.moveTo(x - 3, y + 4);
    ctx.lineTo(x + 3, y - 4);
    ctx.stroke();
  }
  ctx.restore();
}

/** The fresh curve of one span, as far as it has come: of a long ride only what is on screen. */
function drawFresh(
  ctx: CanvasRenderingContext2D,
  { scale, look }: LiveScene,
  lane: DrawnLane,
  take: LaneTake,
  span: Span,
  position: Seconds,
): void {
  const to = Math.min(position, span.to ?? position);
  if (to < scale.left || to < span.from) return;
  const { values } = span;
  let first = 0;
  for (let high = values.length; high - first > 1;) {
    const mid = (first + high) >> 1;
    if (values[mid]!.t <= scale.left) first = mid;
    else high = mid;
  }
  const path = take.pathOf({ ...span, values: values.slice(Math.max(0, first - 1)) }, to);
  ctx.save();
  ctx.strokeStyle = look.coral;
  ctx.lineWidth = 3;
  ctx.lineJoin = 'round';
  ctx.beginPath();
  path.forEach(({ t, v }, i) => {
    const x = Math.max(xOf(scale, scale.left), xOf(scale, t));
    const y = lane.y(travelOf(lane.law, v));
    if (i === 0) ctx.moveTo(x, y);
    else {
      if (lane.law.kind === 'switch') ctx.lineTo(x, lane.y(travelOf(lane.law, path[i - 1]!.v)));
      ctx.lineTo(x, y);
    }
  });
  ctx.stroke();
  ctx.restore();
}

function drawScaleWords(
  ctx: CanvasRenderingContext2D,
  { scale, look }: LiveScene,
  row: ChannelRow,
  { control, layer, y }: DrawnLane,
): void {
  ctx.save();
  ctx.font = `12px ${FIGURES}`;
  ctx.textBaseline = 'middle';
  const left = xOf(scale, scale.left) + 6;
  for (const { travel, label, isMain } of readableMarks(throwMarks(control, layer), y)) {
    if (!label) continue;
    const at = Math.min(row.top + row.height - 8, Math.max(row.top + 8, y(travel)));
    const width = ctx.measureText(label).width;
    ctx.fillStyle = look.raised;
    ctx.globalAlpha = 0.85;
    ctx.fillRect(left - 2, at - 7, width + 4, 14);
    ctx.globalAlpha = 1;
    ctx.fillStyle = isMain ? look.text : look.quiet;
    ctx.fillText(label, left, at);
  }
  ctx.restore();
}

function drawThrowInHand(ctx: CanvasRenderingContext2D, scene: LiveScene, lanes: readonly DrawnLane[]): void {
  const { recorder, inHand, position, scale, look, top, bottom, rows } = scene;
  const i = rows.findIndex((row) => row.control === inHand);
  if (i < 0 || !inHand || !recorder.touched.includes(inHand)) return;
  const lane = lanes[i]!;
  const value = recorder.capAt(inHand, position);
  const doing = recorder.doing(inHand, position);
  const travel = travelOf(lane.law, value);
  drawThrow(ctx, {
    x: scale.lineX,
    y: lane.y(travel),
    top,
    bottom,
    look,
    view: {
      marks: throwMarks(lane.control, lane.layer),
      travel,
      value: lane.layer === 'trim' ? printDb(value, true) : printValue(lane.control.display, value),
      name: `${rows[i]!.channel.name} · ${lane.control.name.toLowerCase()}`,
      writes: doing.what === 'hand' && doing.writes,
    },
  });
}

/** The now line, over all rows, with its head on the ruler. */
export function drawNowLine(
  ctx: CanvasRenderingContext2D,
  scale: RideScale,
  look: Look,
  ruler: number,
  bottom: number,
): void {
  ctx.save();
  ctx.fillStyle = look.text;
  ctx.globalAlpha = 0.75;
  ctx.fillRect(scale.lineX - 0.75, ruler, 1.5, bottom - ruler);
  ctx.globalAlpha = 1;
  ctx.beginPath();
  ctx.moveTo(scale.lineX - 7, ruler - 9);
  ctx.lineTo(scale.lineX + 7, ruler - 9);
  ctx.lineTo(scale.lineX, ruler + 1);
  ctx.fill();
  ctx.restore();
}

/**
 * Meters from −60 dB to full scale in the column between heads and lanes: peaks, the highest of a while as a line, and
 * a block on top that stays once a channel went over, until the meters are cleared.
 */
export function drawMeters(
  ctx: CanvasRenderingContext2D,
  rows: readonly ChannelRow[],
  look: Look,
  readingOf: (key: string) => MeterReading,
): void {
  ctx.save();
  for (const { channel, top, height } of rows) {
    if (channel.kind === 'vca') continue;
    const { peaks, held, clipped } = readingOf(channel.key);
    const room = Math.min(height - 8, 120);
    const foot = top + 4 + room;
    const reachOf = (peak: number): number => Math.max(0, Math.min(1, (20 * Math.log10(peak + 1e-9) + 60) / 60)) * room;
    peaks.forEach((peak, side) => {
      const x = 2 + side * 5;
      ctx.fillStyle = look.line;
      ctx.fillRect(x, top + 4, 4, room);
      const reach = reachOf(peak);
      ctx.fillStyle = look.teal;
      ctx.fillRect(x, foot - reach, 4, reach);
    });
    const stands = reachOf(held);
    ctx.fillStyle = look.text;
    if (stands > 0) ctx.fillRect(2, Math.round(foot - stands), 9, 1.5);
    ctx.fillStyle = look.coral;
    if (clipped) ctx.fillRect(1, top + 1, 11, 4);
  }
  ctx.restore();
}

/** Bar numbers and section names above the lanes, and the range. */
export function drawRuler(
  ctx: CanvasRenderingContext2D,
  scale: RideScale,
  {
    look,
    height,
    bars,
    sections,
    range,
    isLooping,
    bottom,
  }: {
    look: Look;
    height: number;
    bars: readonly { readonly bar: number; readonly t: Seconds }[];
    sections: readonly { readonly t: Seconds; readonly name: string }[];
    range: readonly [Seconds, Seconds] | null;
    isLooping: boolean;
    bottom: number;
  },
): void {
  ctx.save();
  ctx.fillStyle = look.sunken;
  ctx.fillRect(0, 0, scale.width, height);
  if (range) {
    const a = xOf(scale, range[0]);
    const b = xOf(scale, range[1]);
    ctx.globalAlpha = 0.1;
    ctx.fillStyle = look.teal;
    ctx.fillRect(a, height, b - a, bottom - height);
    ctx.globalAlpha = isLooping ? 0.3 : 0.16;
    ctx.fillRect(a, 0, b - a, height);
    ctx.globalAlpha = 1;
  }
  ctx.textBaseline = 'middle';
  const gap = bars.length > 1 ? (bars[1]!.t - bars[0]!.t) * scale.pxPerSec : 100;
  const every = [1, 2, 4, 8, 16, 32, 64].find((n) => gap * n >= 38) ?? 128;
  for (const { bar, t } of bars) {
    if ((bar - 1) % every) continue;
    const x = xOf(scale, t);
    if (x < xOf(scale, scale.left)) continue;
    const section = sections.find((one) => Math.abs(one.t - t) < 1e-3);
    ctx.fillStyle = look.line;
    ctx.fillRect(x, 4, 1, height - 4);
    ctx.font = `12px ${FIGURES}`;
    ctx.fillStyle = look.quiet;
    ctx.fillText(String(bar), x + 5, height / 2 + 1);
    if (!section) continue;
    const after = x + 11 + ctx.measureText(String(bar)).width;
    ctx.font = `700 12px ${FONT}`;
    ctx.fillStyle = look.text;
    ctx.fillText(section.name, after, height / 2 + 1);
  }
  ctx.restore();
}
