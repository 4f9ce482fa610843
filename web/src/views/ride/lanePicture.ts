import type { LoggedLane } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import type { ControlId, Song } from '@sure-hand/core/song';
import type { MeterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { freshSpans } from '../../hands/carrying.js';
import { isPictured } from '../../hands/inserts.js';
import { layerOf, picksAsHeard, lanePicked, type Picked } from '../../hands/picking.js';
import type { OpenSong } from '../../open/openSong.js';
import type { Look } from '../../parts/look.js';
import { store } from '../../store/store.js';
import { carryHandles, drawCarryHandles, type CarryHandle } from './carryHandles.js';
import type { GroundRow } from './drawGround.js';
import { drawLanes, drawOldCurves } from './drawLanes.js';
import { drawLive, drawNowLine, isHot } from './drawLive.js';
import { drawMeters } from './drawMeters.js';
import { drawRuler } from './drawRuler.js';
import type { HeldGestures } from './gestures/index.js';
import { drawPointMarks } from './pointMarks.js';
import { RIDE, heightOf, type ChannelRow, type RideRow } from './rideLayout.js';
import { loopFits, runningScale, standingScale, wholeScale, type RideScale } from './rideScale.js';
import { drawScaleGrips, scaleGrips } from './scaleGrips.js';
import { RowTiles, type TilePlace } from './rowTiles.js';

/** What the picture of the lanes shows, and where: as the view has it at the moment. Sizes in CSS pixels. */
export type PictureScene = {
  readonly open: OpenSong;
  readonly song: Song;
  readonly map: MeterMap;
  readonly rows: readonly RideRow[];
  readonly width: number;
  readonly height: number;
  /** How far the rows are scrolled, read while drawing. */
  readonly scrolled: { readonly current: number };
  readonly look: Look;
  readonly range: Range | null;
  readonly inHand: ControlId | null;
  readonly isWhole: boolean;
  readonly secPerScreen: number;
};

/** What stands beside the hand reaches so far above and below its row. */
const BESIDE_PX = 44;
const REDUCED = '(prefers-reduced-motion: reduce)';

/** The picture of Ride's lanes: song ground, curves, caps, line. It is drawn from the engine and the recorder. */
export class LanePicture {
  readonly #tiles = new RowTiles();
  #page: Seconds = 0;
  #drawn = '';
  /** What all of it was drawn from: while only a draft changes since, the rest stands. */
  #whole: readonly unknown[] = [];
  /** The points that were picked as it was drawn. */
  #picked: Picked | null = null;
  #scene: PictureScene;
  scale: RideScale;

  constructor(
    scene: PictureScene,
    readonly held: HeldGestures,
  ) {
    this.#scene = scene;
    this.scale = runningScale(0, scene.width, scene.secPerScreen);
  }

  /** What it shows from now on. */
  show(scene: PictureScene): void {
    this.#scene = scene;
    this.#drawn = '';
    this.#whole = [];
  }

  /** Whether anything has changed since it was drawn, or moves by itself. Peaks of all channels are read here. */
  isStale(nowMs: number): boolean {
    const { open, song, rows, scrolled } = this.#scene;
    const { session, engine, meters } = open;
    // All channels, also those out of sight: what went over stays marked.
    if (session.isMoving) for (const { key } of song.channels) meters.read(key, engine.meterOf(key), nowMs);
    const state = `${engine.positionAt(nowMs)} ${open.version()} ${scrolled.current} ${this.held.state}`;
    const { picked } = store.getState().view;
    const isOther = state !== this.#drawn || picked !== this.#picked;
    this.#drawn = state;
    this.#picked = picked;
    // Nothing moves while the song stands and no hand does: then nothing is drawn, but for meters that still fall.
    const { poised, touched } = session.recorder;
    return (
      session.isMoving ||
      poised.size > 0 ||
      isOther ||
      touched.length > 0 ||
      rows.some((row) => row.kind === 'channel' && meters.isFalling(row.channel.key, nowMs))
    );
  }

  draw(ctx: CanvasRenderingContext2D): void {
    const { open, song, map, rows, width, height, scrolled, look, range } = this.#scene;
    const position = open.engine.positionAt(performance.now());
    this.scale = this.#scaleAt(position);
    const top = RIDE.rulerPx - scrolled.current;
    const end = heightOf(rows);
    const [first, last] = this.#bandToDraw(position, top);
    const inSight = [...rows, { kind: 'rest', top: end, height: Math.max(1, height - end) } as const].filter(
      (row) => row.top + row.height + top > first && row.top + top < last,
    );
    const visible = inSight.filter((row): row is ChannelRow => row.kind === 'channel');
    ctx.save();
    ctx.beginPath();
    ctx.rect(0, first, width, last - first);
    ctx.clip();
    const { recorder, heardSong } = open.session;
    const { controls } = open.drafting;
    const hot = new Set(visible.filter((row) => isHot(recorder, row) || controls.includes(row.control)));
    const { place, bare } = this.#drawGround(ctx, inSight, top, hot);
    ctx.translate(0, top);
    this.#drawMeters(ctx, visible, top);
    ctx.beginPath();
    ctx.rect(RIDE.meterPx, -top, place.width, height);
    ctx.clip();
    for (const row of visible)
      if (bare.has(row)) this.#drawBare(ctx, row, isHot(recorder, row) ? recorder.song : heardSong);
    this.#drawHands(ctx, visible, position, top);
    ctx.restore();
    // The ruler has nothing of what is drafted.
    if (first > RIDE.rulerPx) return;
    const { sections, length, settings } = song;
    const ruler = { look, height: RIDE.rulerPx, map, length, sections, range, bottom: height };
    drawRuler(ctx, this.scale, { ...ruler, loop: settings.loop, punch: settings.punch });
    drawNowLine(ctx, this.scale, look, RIDE.rulerPx, RIDE.rulerPx);
  }

  /**
   * From which height to which the picture is drawn: all of it, unless nothing has changed but what is drafted, while the song stands;
   * then its rows, and what stands beside the hand.
   */
  #bandToDraw(position: Seconds, top: number): readonly [first: number, last: number] {
    const { open, rows, height, scrolled } = this.#scene;
    const { session, drafting, peaks, meters, engine } = open;
    const { recorder } = session;
    const all = [RIDE.rulerPx, height] as const;
    const { controls } = drafting;
    const isStill =
      this.held.holdsPicture &&
      controls.length > 0 &&
      !session.isMoving &&
      !recorder.touched.length &&
      !recorder.poised.size &&
      !recorder.song.channels.some(({ key }) => engine.meterOf(key)[0] > 0 || meters.isFalling(key, performance.now()));
    const whole = isStill ? [position, scrolled.current, recorder.song, peaks.size, controls.join(' ')] : [];
    const isSame = whole.length > 0 && whole.every((fact, i) => fact === this.#whole[i]);
    this.#whole = whole;
    if (!isSame) return all;
    const drafted = rows.filter((row) => row.kind === 'channel' && controls.includes(row.control));
    if (!drafted.length) return all;
    const from = Math.min(...drafted.map((row) => row.top)) + top - BESIDE_PX;
    const to = Math.max(...drafted.map((row) => row.top + row.height)) + top + BESIDE_PX;
    return [Math.max(RIDE.rulerPx + 1, from), Math.min(height, to)];
  }

  /** The ends of what the last pass wrote, while the song stands and shows it. */
  freshHandles(among: readonly RideRow[]): CarryHandle[] {
    const { open } = this.#scene;
    const { pass, spanChanges } = store.getState().view;
    if (!pass?.stands || open.session.isMoving || open.comparison.heard) return [];
    const channels = among.filter((row): row is ChannelRow => row.kind === 'channel');
    return carryHandles(channels, this.scale, open.session.recorder.song, freshSpans(pass.receipt, spanChanges));
  }

  /**
   * Waveforms, sections and curves at rest, from tiles that are drawn once; gives back where they stand, and the rows whose curves
   * are not among them: those that hands change, since what is written is not what the song has, and some that are new.
   */
  #drawGround(
    ctx: CanvasRenderingContext2D,
    inSight: readonly GroundRow[],
    top: number,
    hot: ReadonlySet<GroundRow>,
  ): { readonly place: TilePlace; readonly bare: ReadonlySet<GroundRow> } {
    const { open, map, width, height, look } = this.#scene;
    const { pxPerSec, left } = this.scale;
    // Curves as they are heard: what a pass has written stands where it was ridden from the stop on, before it is handed over.
    const { heardSong } = open.session;
    const ground = { song: heardSong, map, look, pxPerSec, peaks: open.peaks, peakCount: open.peaks.size };
    this.#tiles.show(ground, window.devicePixelRatio || 1);
    ctx.fillStyle = look.ground;
    ctx.fillRect(0, 0, width, height);
    const place = { songPx: Math.round(left * pxPerSec), width: width - RIDE.meterPx, x: RIDE.meterPx, y: top };
    return { place, bare: this.#tiles.draw(ctx, place, inSight, hot) };
  }

  #drawMeters(ctx: CanvasRenderingContext2D, visible: readonly ChannelRow[], top: number): void {
    const { open, height, look } = this.#scene;
    ctx.fillStyle = look.sunken;
    ctx.fillRect(0, -top, RIDE.meterPx, height);
    drawMeters(ctx, visible, look, (key) => open.meters.read(key, open.engine.meterOf(key), performance.now()));
  }

  /** A row's lanes over its ground; the one that a pass writes is drawn with what it writes. */
  #drawBare(ctx: CanvasRenderingContext2D, row: ChannelRow, song: Song): void {
    const { open, look, width } = this.#scene;
    if (open.session.recorder.roll?.takes.some((take) => take.control === row.control)) return;
    drawLanes(ctx, { song, rows: [row], scale: this.scale, look, from: RIDE.meterPx, to: width });
  }

  /** What hands do, and what they did last, over the lanes. */
  #drawHands(ctx: CanvasRenderingContext2D, visible: readonly ChannelRow[], position: Seconds, top: number): void {
    const { open, look, height, inHand } = this.#scene;
    const { scale, held } = this;
    const { recorder, heardSong } = open.session;
    const bottom = height - top;
    held.draw(ctx, scale, look, true);
    drawOldCurves(ctx, { song: recorder.song, rows: visible, lanes: this.#foundByPass(), scale, look });
    this.#drawPoints(ctx, visible, heardSong);
    drawNowLine(ctx, scale, look, RIDE.rulerPx - top, bottom);
    drawCarryHandles(ctx, this.freshHandles(visible), look, scale);
    held.draw(ctx, scale, look, false);
    const thrown = isPictured(store.getState().view.asked, inHand) ? null : inHand;
    const breath = 0.5 + 0.5 * Math.sin(performance.now() / 500);
    const live = { recorder, heard: heardSong, rows: visible, scale, look, position, thrown, breath };
    drawLive(ctx, { ...live, top: RIDE.rulerPx - top, bottom });
  }

  /** The points of tall rows, where they can be taken hold of; none of what a pass writes just now. */
  #drawPoints(ctx: CanvasRenderingContext2D, visible: readonly ChannelRow[], song: Song): void {
    const { open, look } = this.#scene;
    const { picked } = store.getState().view;
    const takes = open.session.recorder.roll?.takes ?? [];
    for (const row of visible) {
      if (!row.isTall || takes.some(({ control }) => control === row.control)) continue;
      const of = layerOf(song, row.control);
      const lane = lanePicked(picked, of);
      const own = lane ? picksAsHeard(open.session.recorder.song, song, lane) : null;
      drawPointMarks(ctx, song, row, { scale: this.scale, look, from: RIDE.meterPx, picked: own });
      if (lane && !this.held.holdsPicture) drawScaleGrips(ctx, scaleGrips(song, row, this.scale, picked), look);
    }
  }

  /** What the last pass found, while its receipt is what is told: it stands faded under what it wrote. */
  #foundByPass(): readonly LoggedLane[] {
    const { pass, isPassTold } = store.getState().view;
    return pass?.stands && isPassTold && !this.#scene.open.session.isRolling ? pass.lanes : [];
  }

  #scaleAt(position: Seconds): RideScale {
    const { open, song, width, isWhole, secPerScreen } = this.#scene;
    if (isWhole) return wholeScale(position, width, song.length);
    const { loop } = song.settings;
    const stands =
      open.session.isMoving &&
      (loopFits(loop, position, secPerScreen) || window.matchMedia(REDUCED).matches || this.held.holdsPicture);
    const scale = stands
      ? standingScale(position, width, secPerScreen, this.#page)
      : runningScale(position, width, secPerScreen);
    this.#page = scale.left;
    return scale;
  }
}
