import { handDoes, ownByHands, type PassRecorder } from '@sure-hand/core/pass';
import { gateThatIsOff, type ControlId, type Song, layerScale, withTrimAt } from '@sure-hand/core/song';
import { printDb, travelOf, type Seconds, throwMarks } from '@sure-hand/core/units';
import { FIGURES, FONT, type Look } from '../../parts/look.js';
import { heardCap } from '../../hands/heardCap.js';
import { refusalWords } from '../../hands/reasonWords.js';
import { capLook } from './capLook.js';
import { drawAsideGhost, drawCap, drawGhost, drawThrow, readableMarks } from './drawCap.js';
import { laneOfRow, yOfValue, type DrawnLane } from './drawLanes.js';
import { heardElsewhere } from './drawSum.js';
import { drawTake } from './drawTake.js';
import { yOfTravel, type ChannelRow } from './rideLayout.js';
import { xOf, type RideScale } from './rideScale.js';

/** What the moving picture is drawn from. */
export type LiveScene = {
  readonly recorder: PassRecorder;
  /** The song as it is heard: what caps that no hand is on follow. */
  readonly heard: Song;
  readonly rows: readonly ChannelRow[];
  readonly scale: RideScale;
  readonly look: Look;
  readonly position: Seconds;
  /** The control whose throw stands beside its cap while a hand is on it. */
  readonly thrown: ControlId | null;
  /** Slow breathing of what is poised, 0 … 1. */
  readonly breath: number;
  readonly top: number;
  readonly bottom: number;
};

/** Whether a row's picture moves by itself: a pass writes its front lane, or a finger is on it. The others lie in tiles. */
export function isHot(recorder: PassRecorder, row: ChannelRow): boolean {
  return (
    recorder.roll?.take(row.control, recorder.layerOf(row.control)) !== undefined ||
    recorder.touched.includes(row.control)
  );
}

/** Draws what moves: lanes that hands are on, and the caps of all rows; then the throw of the one in hand. */
export function drawLive(ctx: CanvasRenderingContext2D, scene: LiveScene): void {
  const { recorder, rows, look, scale, position } = scene;
  const { song } = recorder;
  const lanes = rows.map((row) => laneOfRow(song, row, recorder.layerOf(row.control)));
  const own = ownByHands(recorder, scene.heard, position);
  rows.forEach((row, i) => {
    const lane = lanes[i]!;
    const take = recorder.roll?.take(row.control, lane.layer);
    if (take) drawTake(ctx, scene, lane, take);
  });
  rows.forEach((row, i) => {
    const lane = lanes[i]!;
    const state = capLook(song, row.control, recorder.doing(row.control, position));
    const y = yOfValue(song, lane, position, heardCap(recorder, scene.heard, row.control, position));
    const isTrim = lane.layer === 'trim';
    // Where the VCAs over it put it, or its sway, on the same throw.
    const elsewhere = row.isTall ? heardElsewhere(scene.heard, row.control, own) : null;
    if (elsewhere !== null) drawGhost(ctx, scale.lineX, yOfTravel(row, elsewhere), look);
    drawAside(ctx, scene, row, lane);
    drawCap(ctx, { x: scale.lineX, y, isTall: row.isTall, state, isTrim, look, breath: scene.breath });
    if (row.isTall) drawScaleWords(ctx, scene, row, lane);
    const gate = gateThatIsOff(scene.heard, row.control, position);
    if (gate) drawWhenOff(ctx, scene, row, gate.whenOff);
  });
  drawThrowInHand(ctx, scene, lanes);
}

/** Where a control is held aside: a line at its height over the whole lane, and, while its curve is heard, an outline of its cap. */
function drawAside(
  ctx: CanvasRenderingContext2D,
  { recorder, scale, look, position }: LiveScene,
  row: ChannelRow,
  lane: DrawnLane,
): void {
  const held = recorder.tryout.held.get(row.control);
  if (held === undefined) return;
  const y = lane.y(travelOf(lane.control.law, held));
  ctx.save();
  ctx.strokeStyle = look.teal;
  ctx.globalAlpha = 0.7;
  ctx.lineWidth = 1.25;
  ctx.setLineDash([7, 5]);
  ctx.beginPath();
  ctx.moveTo(Math.max(0, xOf(scale, scale.left)), y);
  ctx.lineTo(scale.width, y);
  ctx.stroke();
  ctx.restore();
  if (recorder.doing(row.control, position).what !== 'aside') drawAsideGhost(ctx, scale.lineX, y, row.isTall, look);
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
  const { recorder, thrown, position, scale, look, top, bottom, rows } = scene;
  const i = rows.findIndex((row) => row.control === thrown);
  if (i < 0 || !thrown || !recorder.touched.includes(thrown)) return;
  const lane = lanes[i]!;
  const { control, layer, law } = lane;
  const shown = layerScale(control, layer);
  const value = heardCap(recorder, scene.heard, thrown, position);
  const doing = recorder.doing(thrown, position);
  const isTrim = layer === 'trim';
  const reason = recorder.refusalOf(thrown);
  const does = handDoes(recorder, thrown);
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
      result: isTrim ? printDb(withTrimAt(recorder.song, thrown, value, position)) : null,
      refusal:
        does === 'rests'
          ? 'Sets where it rests'
          : does === 'aside'
            ? 'Held aside'
            : recorder.roll && reason
              ? refusalWords(recorder.song, thrown, reason)
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
