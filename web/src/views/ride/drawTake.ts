import { writingRange, type HandValue, type LaneTake, type Span } from '@sure-hand/core/pass';
import { layerValueAt } from '@sure-hand/core/song';
import { lastKeyedNotAfter, travelOf, type Seconds } from '@sure-hand/core/units';
import { traceLane, yOfValue, type DrawnLane } from './drawLanes.js';
import type { LiveScene } from './drawLive.js';
import { drawBand, traceResult } from './drawTrim.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';

/** How the curve ahead of a hand is struck through: a stroke every so far, fading out over so much. */
const STRIKE = { everyPx: 13, fadePx: 260 } as const;

/** A lane that this pass writes: the old curve faded under what is fresh, struck through ahead of a hand. */
export function drawTake(ctx: CanvasRenderingContext2D, scene: LiveScene, lane: DrawnLane, take: LaneTake): void {
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
  const first = lastKeyedNotAfter(values, ({ t }) => t, scale.left);
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
