import { mutedBy, type OwnAt } from '@sure-hand/core/groups';
import { ownByHands, type PassRecorder } from '@sure-hand/core/pass';
import {
  controlId,
  controlOf,
  isSwitch,
  layerScale,
  gateThatIsOff,
  withTrimAt,
  type Reason,
  type Song,
} from '@sure-hand/core/song';
import { barLines, meterAt, quartersAt, timeOfQuarters, type MeterMap } from '@sure-hand/core/time';
import { LEVEL_SCALE, printDb, throwMarks, travelOf, type Seconds } from '@sure-hand/core/units';
import { heardCap } from '../../hands/heardCap.js';
import type { OpenSong } from '../../open/openSong.js';
import { FIGURES, FONT, type Look } from '../../parts/look.js';
import { capLook } from '../ride/capLook.js';
import { drawCap, drawGhost, drawPanCap, readableMarks } from '../ride/drawCap.js';
import { drawRestingCurve, laneOfRow, yOfValue } from '../ride/drawLanes.js';
import { heardElsewhere, sumWithVcas } from '../ride/drawSum.js';
import { drawTake } from '../ride/drawTake.js';
import { RIDE, yOfTravel } from '../ride/rideLayout.js';
import { xOf, type RideScale } from '../ride/rideScale.js';
import { DESK, rowOf, throwHeight, type Strip } from './deskLayout.js';

/** What the picture of the Desk shows. Sizes in CSS pixels. */
export type DeskScene = {
  readonly open: OpenSong;
  readonly map: MeterMap;
  readonly strips: readonly Strip[];
  readonly width: number;
  readonly height: number;
  /** How far the strips are scrolled to the side, read while drawing. */
  readonly scrolled: { readonly current: number };
  readonly look: Look;
  readonly inHand: string | null;
};

/** What is drawn of one strip at one moment. */
type Moment = {
  readonly recorder: PassRecorder;
  readonly heard: Song;
  readonly own: OwnAt;
  readonly position: Seconds;
  readonly breath: number;
};

/** So many bars come in a strip of a width; none where there is room for the throw alone. */
const BARS = { 44: 0, 88: 1, 160: 4 } as const;
/** How far the bars to come reach from the throw in a strip of a width. */
const lanePx = (px: number): number => px - DESK.throwX - 6;

/** From a place on, how long so many bars last, by the meter there. */
function barsLast(map: MeterMap, t: Seconds, bars: number): Seconds {
  const { beats, unit } = meterAt(map, t);
  return timeOfQuarters(map, quartersAt(map, t) + (bars * beats * 4) / unit) - t;
}

/** How time lies in a strip: the throw stands where its cap is, the bars to come on its right. */
export const stripScale = (map: MeterMap, position: Seconds, px: Strip['px']): RideScale => {
  const sec = barsLast(map, position, Math.max(1, BARS[px]));
  return {
    left: position,
    pxPerSec: Math.max(1, lanePx(px)) / sec,
    lineX: RIDE.meterPx,
    width: RIDE.meterPx + lanePx(px),
  };
};

/** The picture of the Desk: throws, caps, the bars that come to them, meters. It is drawn from the engine and the recorder. */
export class DeskPicture {
  #scene: DeskScene;
  #drawn = '';

  constructor(scene: DeskScene) {
    this.#scene = scene;
  }

  show(scene: DeskScene): void {
    this.#scene = scene;
    this.#drawn = '';
  }

  /** Whether anything has changed since it was drawn, or moves by itself. */
  isStale(nowMs: number): boolean {
    const { open, scrolled, strips } = this.#scene;
    const { session, engine, meters } = open;
    const { recorder } = session;
    if (session.isMoving) for (const { key } of recorder.song.channels) meters.read(key, engine.meterOf(key), nowMs);
    const state = `${engine.positionAt(nowMs)} ${open.version()} ${scrolled.current}`;
    const isOther = state !== this.#drawn;
    this.#drawn = state;
    return (
      isOther ||
      session.isMoving ||
      recorder.poised.size > 0 ||
      recorder.touched.length > 0 ||
      strips.some(({ channel }) => meters.isFalling(channel.key, nowMs))
    );
  }

  draw(ctx: CanvasRenderingContext2D): void {
    const { open, strips, width, height, scrolled, look, map } = this.#scene;
    const nowMs = performance.now();
    const position = open.engine.positionAt(nowMs);
    const { recorder, heardSong } = open.session;
    ctx.fillStyle = look.ground;
    ctx.fillRect(0, 0, width, height);
    const moment: Moment = {
      recorder,
      heard: heardSong,
      own: ownByHands(recorder, heardSong, position),
      position,
      breath: 0.5 + 0.5 * Math.sin(nowMs / 500),
    };
    const scales = new Map(([44, 88, 160] as const).map((px) => [px, stripScale(map, position, px)]));
    for (const strip of strips) {
      const left = strip.left - scrolled.current + DESK.scalePx;
      if (left + strip.px < DESK.scalePx || left > width) continue;
      ctx.save();
      ctx.beginPath();
      ctx.rect(Math.max(DESK.scalePx, left), 0, strip.px - 1, height);
      ctx.clip();
      ctx.translate(left, 0);
      this.#drawStrip(ctx, strip, scales.get(strip.px)!, moment, nowMs);
      ctx.restore();
    }
    this.#drawScale(ctx);
  }

  #drawStrip(ctx: CanvasRenderingContext2D, strip: Strip, scale: RideScale, moment: Moment, nowMs: number): void {
    const { look, height, inHand, open } = this.#scene;
    const high = throwHeight(height + DESK.footPx + DESK.familyPx);
    const isInHand = strip.control === inHand;
    if (isInHand) {
      ctx.fillStyle = look.raised;
      ctx.fillRect(0, 0, strip.px - 1, height);
    }
    ctx.fillStyle = look.line;
    ctx.globalAlpha = 0.7;
    ctx.fillRect(strip.px - 1.5, 0, 1, height);
    ctx.globalAlpha = 1;
    if (strip.channel.kind !== 'vca') drawMeter(ctx, strip, look, open, nowMs);
    const row = rowOf(strip, high);
    drawThrowMarks(ctx, strip, moment, row, look);
    ctx.save();
    ctx.translate(DESK.throwX - RIDE.meterPx, 0);
    if (strip.px > 44) this.#drawComing(ctx, row, scale, moment);
    this.#drawCapOn(ctx, strip, row, scale, moment);
    ctx.restore();
    drawUnder(ctx, strip, moment, high, look);
  }

  /** The bars that come to the cap: bar lines, the curve, and what a pass writes over it. */
  #drawComing(
    ctx: CanvasRenderingContext2D,
    row: ReturnType<typeof rowOf>,
    scale: RideScale,
    { recorder, heard, position, breath }: Moment,
  ): void {
    const { look, map } = this.#scene;
    ctx.save();
    ctx.beginPath();
    ctx.rect(RIDE.meterPx, row.top, scale.width - RIDE.meterPx, row.height);
    ctx.clip();
    ctx.fillStyle = look.line;
    ctx.globalAlpha = 0.6;
    const to = position + (scale.width - RIDE.meterPx) / scale.pxPerSec;
    for (const { t } of barLines(map, position, to, 16)) ctx.fillRect(xOf(scale, t), row.top, 1, row.height);
    ctx.globalAlpha = 1;
    const lane = laneOfRow(recorder.song, row);
    const take = recorder.roll?.take(row.control, lane.layer);
    const span = { rows: [row], scale, look };
    if (take)
      drawTake(
        ctx,
        { ...span, recorder, heard, position, thrown: null, breath, top: 0, bottom: row.height },
        lane,
        take,
      );
    else drawRestingCurve(ctx, { ...span, song: heard, from: RIDE.meterPx, to: scale.width }, row);
    ctx.restore();
  }

  #drawCapOn(
    ctx: CanvasRenderingContext2D,
    strip: Strip,
    row: ReturnType<typeof rowOf>,
    scale: RideScale,
    { recorder, heard, own, position, breath }: Moment,
  ): void {
    const { look } = this.#scene;
    const { song } = recorder;
    const lane = laneOfRow(song, row, recorder.layerOf(strip.control));
    const y = yOfValue(song, lane, position, heardCap(recorder, heard, strip.control, position));
    // Where the VCAs over it put it, or its sway, on the same throw.
    const elsewhere = heardElsewhere(heard, strip.control, own);
    if (elsewhere !== null) drawGhost(ctx, scale.lineX, yOfTravel(row, elsewhere), look);
    const state = capLook(song, strip.control, recorder.doing(strip.control, position));
    drawCap(ctx, { x: scale.lineX, y, isTall: true, state, isTrim: lane.layer === 'trim', look, breath });
    const gate = gateThatIsOff(heard, strip.control, position);
    if (gate) {
      ctx.font = `700 12px ${FONT}`;
      ctx.fillStyle = look.text;
      ctx.fillText(gate.whenOff, RIDE.meterPx + (strip.px > 44 ? 22 : -18), row.top + 8, strip.px - 40);
    }
  }

  /** The names of the throws' marks, at the left of all strips: a level's, unless another kind stands on all of them. */
  #drawScale(ctx: CanvasRenderingContext2D): void {
    const { look, height, strips, open } = this.#scene;
    const { song } = open.session.recorder;
    const scales = new Set(strips.map(({ control }) => controlOf(song, control).scale));
    const [scale = LEVEL_SCALE] = scales.size === 1 ? scales : [];
    const row = { top: DESK.throwTop, height: throwHeight(height + DESK.footPx + DESK.familyPx) };
    ctx.fillStyle = look.sunken;
    ctx.fillRect(0, 0, DESK.scalePx, height);
    ctx.font = `12px ${FIGURES}`;
    ctx.textAlign = 'right';
    ctx.textBaseline = 'middle';
    for (const { travel, label, isMain } of throwMarks(scale, scale.marks)) {
      ctx.fillStyle = isMain ? look.text : look.quiet;
      ctx.fillText(label, DESK.scalePx - 5, yOfTravel(row, travel));
    }
    ctx.fillStyle = look.quiet;
    ctx.fillText('pan', DESK.scalePx - 5, row.top + row.height + DESK.panAt);
    ctx.textAlign = 'left';
  }
}

/** Lying across, as wide as the strip: the peaks of both sides from −60 dB to full scale, the highest of a while, a block once it went over. */
function drawMeter(ctx: CanvasRenderingContext2D, strip: Strip, look: Look, open: OpenSong, nowMs: number): void {
  const { channel, px } = strip;
  const { peaks, held, clipped } = open.meters.read(channel.key, open.engine.meterOf(channel.key), nowMs);
  const room = px - 14;
  const reachOf = (peak: number): number => Math.max(0, Math.min(1, (20 * Math.log10(peak + 1e-9) + 60) / 60)) * room;
  peaks.forEach((peak, side) => {
    const y = DESK.meterTop + side * 5;
    ctx.fillStyle = look.line;
    ctx.fillRect(5, y, room, 4);
    ctx.fillStyle = look.teal;
    ctx.fillRect(5, y, reachOf(peak), 4);
  });
  const stands = reachOf(held);
  ctx.fillStyle = look.text;
  if (stands > 0) ctx.fillRect(5 + Math.round(stands), DESK.meterTop, 1.5, 9);
  ctx.fillStyle = look.coral;
  if (clipped) ctx.fillRect(px - 8, DESK.meterTop - 1, 4, 11);
}

/** The throw with its marks; those of other than a level have their names beside them, where there is room. */
function drawThrowMarks(
  ctx: CanvasRenderingContext2D,
  strip: Strip,
  { recorder }: Moment,
  row: ReturnType<typeof rowOf>,
  look: Look,
): void {
  const control = controlOf(recorder.song, strip.control);
  const at = (travel: number): number => yOfTravel(row, travel);
  ctx.fillStyle = look.line;
  ctx.fillRect(DESK.throwX - 1.5, at(1), 3, at(0) - at(1));
  const marks = throwMarks(control.scale, control.scale.marks);
  const isLevel = control.law.kind === 'level';
  for (const { travel, isMain } of marks) {
    ctx.globalAlpha = isMain ? 1 : 0.7;
    ctx.fillRect(DESK.throwX - 9, Math.round(at(travel)), isMain ? strip.px - DESK.throwX : 18, 1);
  }
  ctx.globalAlpha = 1;
  if (isLevel || strip.px === 44) return;
  ctx.font = `12px ${FIGURES}`;
  ctx.textBaseline = 'middle';
  for (const { travel, label, isMain } of readableMarks(marks, at)) {
    ctx.fillStyle = isMain ? look.text : look.quiet;
    ctx.textAlign = 'right';
    ctx.fillText(label, strip.px - 6, at(travel) - 8);
  }
  ctx.textAlign = 'left';
}

/** Why a hand on a strip is only heard, in a word: the hand bar says all of it of the control in hand. */
const REFUSED: Record<Reason, string> = {
  mode: 'not written',
  parked: 'parked',
  safe: 'safe',
  scope: 'out of scope',
  trim: 'no trim',
  range: 'out of range',
};

/** Under the throw: the value, what is heard with VCAs or trim, and the pan lying across. */
function drawUnder(ctx: CanvasRenderingContext2D, strip: Strip, moment: Moment, high: number, look: Look): void {
  const { recorder, heard, own, position, breath } = moment;
  const { song } = recorder;
  const foot = DESK.throwTop + high;
  const control = controlOf(song, strip.control);
  const layer = recorder.layerOf(strip.control);
  const value = heardCap(recorder, heard, strip.control, position);
  const doing = recorder.doing(strip.control, position);
  const isNarrow = strip.px === 44;
  const short = (words: string): string => (isNarrow ? words.replace(' dB', '') : words);
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'left';
  ctx.font = `700 ${isNarrow ? 12 : 14}px ${FIGURES}`;
  ctx.fillStyle = doing.what === 'hand' && doing.writes ? look.coral : look.text;
  ctx.fillText(short(layerScale(control, layer).print(value)), isNarrow ? 3 : 6, foot + DESK.valueAt, strip.px - 6);
  const sum = sumOf(song, strip, own, layer === 'trim' ? withTrimAt(heard, strip.control, value, position) : null);
  const muted = mutedBy(song, strip.channel.key, own);
  ctx.font = `12px ${FIGURES}`;
  ctx.fillStyle = look.quiet;
  const refusal = recorder.roll && recorder.refusalOf(strip.control);
  const below = refusal
    ? REFUSED[refusal]
    : muted.length
      ? 'muted'
      : sum === null
        ? ''
        : isNarrow
          ? short(printDb(sum))
          : `→ ${printDb(sum)}`;
  if (below) ctx.fillText(below, isNarrow ? 3 : 6, foot + DESK.sumAt, strip.px - 6);
  const pan = controlId(strip.channel.key, 'pan');
  if (strip.channel.kind === 'vca' || strip.control === pan) return;
  const y = foot + DESK.panAt;
  const [from, to] = panReach(strip);
  ctx.fillStyle = look.line;
  ctx.fillRect(from, y - 1, to - from, 2);
  ctx.fillRect((from + to) / 2 - 0.5, y - 5, 1, 10);
  const x = from + (to - from) * travelOf(controlOf(song, pan).law, heardCap(recorder, heard, pan, position));
  drawPanCap(ctx, { x, y, state: capLook(song, pan, recorder.doing(pan, position)), look, breath });
}

/** What is heard of the control on the throw where that is not its own value: with VCAs, or with its trim. */
function sumOf(song: Song, strip: Strip, own: OwnAt, trimmed: number | null): number | null {
  const control = controlOf(song, strip.control);
  if (control.law.kind !== 'level' || isSwitch(control)) return null;
  return sumWithVcas(song, strip.control, own) ?? trimmed;
}

/** From where to where the pan lies across a strip. */
const panReach = ({ px }: Pick<Strip, 'px'>): readonly [number, number] => [8, px - 9];
