import { trimmedDb, type Range } from '@sure-hand/core/curve';
import type { HandValue, PassRecorder, LaneTake, Span } from '@sure-hand/core/pass';
import { handDoes, layerInHand, writingRange } from '@sure-hand/core/pass';
import { layerValueAt, ownValueAt, gateThatIsOff, type ControlId, type Song, layerScale } from '@sure-hand/core/song';
import type { MeterMap } from '@sure-hand/core/time';
import { printDb, travelOf, type Seconds, throwMarks } from '@sure-hand/core/units';
import type { MeterReading } from '../../engine/meterHold.js';
import { FIGURES, FONT, type Look } from '../../parts/look.js';
import { refusalWords } from '../../hands/reasonWords.js';
import { capLook } from './capLook.js';
import { drawCap, drawThrow, readableMarks } from './drawCap.js';
import { laneOfRow, traceLane, yOfValue, type DrawnLane } from './drawLanes.js';
import { drawBand, traceResult } from './drawTrim.js';
import type { ChannelRow } from './rideLayout.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';
import { rulerWords } from './rulerWords.js';

/** What the moving picture is drawn from. */
export type LiveScene = {
  readonly recorder: PassRecorder;
  /** The song as it is heard: what caps that no hand is on follow. */
  readonly heard: Song;
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
    const y = yOfValue(song, lane, position, capValue(scene, lane));
    const isTrim = lane.layer === 'trim';
    drawCap(ctx, { x: scale.lineX, y, isTall: row.isTall, state, isTrim, look, breath: scene.breath });
    if (row.isTall) drawScaleWords(ctx, scene, row, lane);
    const gate = gateThatIsOff(scene.heard, row.control, position);
    if (gate) drawWhenOff(ctx, scene, row, gate.whenOff);
  });
  drawThrowInHand(ctx, scene, lanes);
}

/** Where a cap stands, in the unit of the layer in hand: in a hand, or on the curve as it is heard. */
function capValue({ recorder, heard, position }: LiveScene, { control, layer }: DrawnLane): number {
  if (heard === recorder.song || recorder.doing(control.id, position).what !== 'curve')
    return recorder.capAt(control.id, position);
  return layerValueAt(heard, control.id, layer, position);
}

/** A send whose level rides while it is off says so on its lane. */
function drawWhenOff(ctx: CanvasRenderingContext2D, { scale, look }: LiveScene, row: ChannelRow, words: string): void {
  ctx.save();
  ctx.font = `700 12px ${FONT}`;
  ctx.textBaseline = 'middle';
  const width = ctx.measureText(words).width;
  const x = scale.lineX + 34;
  const y = row.isTall ? row.top + 14 : row.top + row.height / 2;
  ctx.fillStyle = look.raised;
  ctx.strokeStyle = look.quiet;
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.roundRect(x, y - 9, width + 14, 18, 9);
  ctx.fill();
  ctx.stroke();
  ctx.fillStyle = look.text;
  ctx.fillText(words, x + 7, y + 0.5);
  ctx.restore();
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

/** Strikes the old curve through ahead of the line, up to the punch range's or the lap's end, else fading out to the right. */
function drawStrike(
  ctx: CanvasRenderingContext2D,
  { recorder, scale, look, position }: LiveScene,
  lane: DrawnLane,
): void {
  const { to } = writingRange(recorder.song, position);
  const end = to === null ? Math.min(scale.width, scale.lineX + STRIKE.fadePx) : Math.min(scale.width, xOf(scale, to));
  ctx.save();
  ctx.strokeStyle = look.coral;
  ctx.lineWidth = 1.25;
  for (let x = scale.lineX + 26; x < end; x += STRIKE.everyPx) {
    const value = layerValueAt(recorder.song, lane.control.id, lane.layer, timeAt(scale, x));
    const y = yOfValue(recorder.song, lane, timeAt(scale, x), value);
    ctx.globalAlpha = to !== null ? 0.8 : 0.9 * (1 - (x - scale.lineX) / STRIKE.fadePx);
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
  { scale, look, recorder }: LiveScene,
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
  const leftX = xOf(scale, scale.left);
  ctx.save();
  ctx.strokeStyle = look.coral;
  ctx.fillStyle = look.coral;
  ctx.lineWidth = 3;
  ctx.lineJoin = 'round';
  if (lane.layer === 'trim') {
    const stretch = { scale, from: Math.max(leftX, xOf(scale, path[0]!.t)), to: xOf(scale, to), y: lane.y };
    const offset = offsetsAlong(path);
    ctx.lineWidth = 1;
    drawBand(ctx, recorder.song, lane.control.id, stretch, offset);
    ctx.lineWidth = 3;
    ctx.beginPath();
    traceResult(ctx, recorder.song, lane.control.id, stretch, offset);
    ctx.stroke();
    ctx.restore();
    return;
  }
  ctx.beginPath();
  path.forEach(({ t, v }, i) => {
    const x = Math.max(leftX, xOf(scale, t));
    const y = lane.y(travelOf(lane.law, v));
    if (i === 0) ctx.moveTo(x, y);
    else {
      if (lane.law.kind === 'switch') ctx.lineTo(x, lane.y(travelOf(lane.law, path[i - 1]!.v)));
      ctx.lineTo(x, y);
    }
  });
  ctx.stroke();
  if (lane.law.kind === 'switch') drawFreshBlocks(ctx, scale, lane, path);
  ctx.restore();
}

/** Blocks where a switch in a hand is on. */
function drawFreshBlocks(
  ctx: CanvasRenderingContext2D,
  scale: RideScale,
  { y }: DrawnLane,
  path: readonly HandValue[],
): void {
  ctx.globalAlpha = 0.4;
  for (let i = 0; i + 1 < path.length; i++)
    if (path[i]!.v >= 0.5) {
      const a = xOf(scale, Math.max(scale.left, path[i]!.t));
      ctx.fillRect(a, y(1), xOf(scale, path[i + 1]!.t) - a, y(0) - y(1));
    }
}

/** The offset that a path of them has at a time, straight between its values: an offset's travel is linear in dB. */
function offsetsAlong(path: readonly HandValue[]): (t: Seconds) => number {
  let i = 0;
  return (t) => {
    if (path[i]!.t > t) i = 0;
    while (i + 1 < path.length && path[i + 1]!.t <= t) i++;
    const [here, next] = [path[i]!, path[i + 1]];
    if (!next || next.t === here.t) return here.v;
    return here.v + (next.v - here.v) * Math.max(0, (t - here.t) / (next.t - here.t));
  };
}

/** Room that the words of a scale take. */
const SCALE_PX = 56;

function drawScaleWords(
  ctx: CanvasRenderingContext2D,
  { scale, look }: LiveScene,
  row: ChannelRow,
  { control, y }: DrawnLane,
): void {
  ctx.save();
  ctx.font = `12px ${FIGURES}`;
  ctx.textBaseline = 'middle';
  // Where the line itself stands at the left, the scale stands at the right: neither lies over the other.
  const isLineLeft = scale.lineX - xOf(scale, scale.left) < SCALE_PX;
  const left = isLineLeft ? scale.width - SCALE_PX + 12 : xOf(scale, scale.left) + 6;
  for (const { travel, label, isMain } of readableMarks(throwMarks(control.scale, control.scale.marks), y)) {
    if (!label) continue;
    const at = Math.min(row.top + row.height - 8, Math.max(row.top + 8, y(travel)));
    const width = ctx.measureText(label).width;
    // Whatever stands under them, a clip's handle too: the scale is read.
    ctx.fillStyle = look.raised;
    ctx.fillRect(left - 4, at - 8, width + 8, 16);
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
  const { control, layer, law } = lane;
  const shown = layerScale(control, layer);
  const value = recorder.capAt(inHand, position);
  const doing = recorder.doing(inHand, position);
  const isTrim = layer === 'trim';
  const reason = recorder.refusalOf(inHand);
  const does = handDoes(recorder, inHand);
  drawThrow(ctx, {
    x: scale.lineX,
    y: yOfValue(recorder.song, lane, position, value),
    top,
    bottom,
    look,
    view: {
      marks: throwMarks(shown, shown.marks),
      travel: travelOf(law, value),
      value: shown.print(value),
      result: isTrim ? printDb(trimmedDb(ownValueAt(recorder.song, inHand, position).base, value)) : null,
      refusal:
        does === 'rests'
          ? 'Sets where it rests'
          : recorder.roll && reason
            ? refusalWords(recorder.song, inHand, reason)
            : null,
      name: `${rows[i]!.channel.name} · ${control.name.toLowerCase()}${isTrim ? ' trim' : ''}`,
      writes: doing.what === 'hand' && doing.writes,
      isTrim,
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

/** What the ruler above the lanes shows. */
export type RulerLook = {
  readonly look: Look;
  readonly height: number;
  readonly map: MeterMap;
  readonly length: Seconds;
  readonly sections: readonly { readonly t: Seconds; readonly name: string }[];
  readonly range: Range | null;
  readonly loop: Range | null;
  readonly punch: Range | null;
  readonly bottom: number;
};

const RULER_FONTS = { bar: `12px ${FIGURES}`, section: `700 12px ${FONT}` } as const;

/** Bar numbers and section names above the lanes, and the range. */
export function drawRuler(ctx: CanvasRenderingContext2D, scale: RideScale, ruler: RulerLook): void {
  const { look, height, map, length, sections, range, loop, punch, bottom } = ruler;
  ctx.save();
  ctx.fillStyle = look.sunken;
  ctx.fillRect(0, 0, scale.width, height);
  if (range) {
    const a = xOf(scale, range[0]);
    const b = xOf(scale, range[1]);
    ctx.globalAlpha = 0.1;
    ctx.fillStyle = look.teal;
    ctx.fillRect(a, height, b - a, bottom - height);
    ctx.globalAlpha = 0.16;
    ctx.fillRect(a, 0, b - a, height);
    ctx.globalAlpha = 1;
  }
  ctx.textBaseline = 'middle';
  const from = xOf(scale, scale.left);
  ctx.fillStyle = look.line;
  for (const { t } of sections) if (xOf(scale, t) >= from) ctx.fillRect(xOf(scale, t), 4, 1, height - 4);
  const words = rulerWords({
    map,
    length,
    sections,
    pxPerSec: scale.pxPerSec,
    xOf: (t) => xOf(scale, t),
    from,
    to: scale.width,
    fromSec: scale.left,
    toSec: timeAt(scale, scale.width),
    widthOf: (text, what) => {
      ctx.font = RULER_FONTS[what];
      return ctx.measureText(text).width;
    },
  });
  for (const { what, text, x } of words) {
    ctx.font = RULER_FONTS[what];
    ctx.fillStyle = what === 'bar' ? look.quiet : look.text;
    ctx.fillText(text, x, height / 2 + 1);
    if (what === 'section') continue;
    ctx.fillStyle = look.line;
    ctx.fillRect(x - 5, 8, 1, height - 8);
  }
  if (loop) drawLoop(ctx, scale, look, height, loop);
  if (punch) drawPunch(ctx, scale, look, punch);
  ctx.restore();
}

/** A loop on the ruler: a bar along its foot. */
function drawLoop(
  ctx: CanvasRenderingContext2D,
  scale: RideScale,
  look: Look,
  height: number,
  [from, to]: Range,
): void {
  ctx.fillStyle = look.teal;
  ctx.beginPath();
  ctx.roundRect(xOf(scale, from), height - 4, xOf(scale, to) - xOf(scale, from), 3, 1.5);
  ctx.fill();
}

/** How far down a punch range's ends reach: short of the names and numbers. */
const PUNCH_FOOT = 8;

/** A punch range on the ruler: a bar along its top that is closed at both ends. */
function drawPunch(ctx: CanvasRenderingContext2D, scale: RideScale, look: Look, [from, to]: Range): void {
  ctx.strokeStyle = look.text;
  ctx.lineWidth = 2;
  ctx.beginPath();
  ctx.moveTo(xOf(scale, from), PUNCH_FOOT);
  ctx.lineTo(xOf(scale, from), 2);
  ctx.lineTo(xOf(scale, to), 2);
  ctx.lineTo(xOf(scale, to), PUNCH_FOOT);
  ctx.stroke();
}
