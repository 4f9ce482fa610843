import { PEAK_FRAMES, fadeGain, type PeakPyramid } from '@sure-hand/core/mix';
import type { Clip, Song } from '@sure-hand/core/song';
import { barLines, type MeterMap } from '@sure-hand/core/time';
import { gainOfDb } from '@sure-hand/core/units';
import type { Look } from '../../parts/look.js';
import { drawFades, drawHandles } from './clipHandles.js';
import { drawLanes } from './drawLanes.js';
import { RIDE, type ChannelRow, type RideRow } from './rideLayout.js';
import { barsApart } from './rulerWords.js';

/** Everything that stands still under the curves: rows, waveform ghosts, bar lines. Drawn into tiles that scroll by. */
export type GroundScene = {
  readonly song: Song;
  readonly map: MeterMap;
  readonly rows: readonly RideRow[];
  readonly height: number;
  readonly look: Look;
  readonly pxPerSec: number;
  readonly peaks: ReadonlyMap<string, PeakPyramid>;
  /** How many waveforms have come: the map itself is the same one. */
  readonly peakCount: number;
};

const TILE_PX = 512;
const SPARE_TILES = 8;

/** Where tiles are put: from which pixel of the song on, how wide, at which x and y of the canvas. */
export type TilePlace = { readonly songPx: number; readonly width: number; readonly x: number; readonly y: number };

/**
 * Keeps tiles of the ground, and the same with the lanes on it as the song has them, each drawn when it first comes
 * into view. A song changed in its lanes draws only the second anew.
 */
export class LaneTiles {
  #scene: GroundScene | null = null;
  readonly #ground = new Map<number, HTMLCanvasElement>();
  readonly #lanes = new Map<number, HTMLCanvasElement>();
  /** Canvases of tiles that were dropped: drawn over rather than made anew, since each is several megabytes. */
  #spare: HTMLCanvasElement[] = [];
  #dpr = 1;

  /** Says what is to be seen; tiles of another scene are dropped. */
  show(scene: GroundScene, dpr: number): void {
    const before = this.#scene;
    const sameGround = before && this.#dpr === dpr && sameScene(before, scene);
    if (sameGround && before.song === scene.song) return;
    this.#scene = scene;
    this.#dpr = dpr;
    this.#dropAll(this.#lanes);
    if (!sameGround) this.#dropAll(this.#ground);
  }

  /** Draws ground and lanes. */
  draw(ctx: CanvasRenderingContext2D, place: TilePlace): void {
    const { height } = this.#scene!;
    for (const i of tilesOf(place)) {
      const tile = kept(this.#lanes, i, () => this.#laneTile(i));
      ctx.drawImage(tile, place.x + i * TILE_PX - place.songPx, place.y, TILE_PX, height);
    }
    this.#dropFar(this.#lanes, place);
    this.#dropFar(this.#ground, place);
  }

  #dropAll(tiles: Map<number, HTMLCanvasElement>): void {
    this.#spare.push(...tiles.values());
    this.#spare.length = Math.min(this.#spare.length, SPARE_TILES);
    tiles.clear();
  }

  #dropFar(tiles: Map<number, HTMLCanvasElement>, place: TilePlace): void {
    const near = tilesOf(place);
    for (const [i, tile] of tiles) {
      if (i >= near[0]! - 1 && i <= near.at(-1)! + 1) continue;
      tiles.delete(i);
      if (this.#spare.length < SPARE_TILES) this.#spare.push(tile);
    }
  }

  /** Draws the ground of one row alone, over what its lane left there. */
  drawRow(ctx: CanvasRenderingContext2D, { top, height }: RideRow, place: TilePlace): void {
    for (const i of tilesOf(place)) {
      const tile = kept(this.#ground, i, () => this.#groundTile(i));
      const at = place.x + i * TILE_PX - place.songPx;
      const [from, tall] = [top * this.#dpr, height * this.#dpr];
      ctx.drawImage(tile, 0, from, tile.width, tall, at, place.y + top, TILE_PX, height);
    }
  }

  #blank(): { tile: HTMLCanvasElement; ctx: CanvasRenderingContext2D } {
    const tile = this.#spare.pop() ?? document.createElement('canvas');
    tile.width = TILE_PX * this.#dpr;
    tile.height = Math.max(1, this.#scene!.height) * this.#dpr;
    const ctx = tile.getContext('2d')!;
    ctx.scale(this.#dpr, this.#dpr);
    return { tile, ctx };
  }

  #groundTile(i: number): HTMLCanvasElement {
    const { tile, ctx } = this.#blank();
    drawTile(ctx, this.#scene!, i * TILE_PX);
    return tile;
  }

  #laneTile(i: number): HTMLCanvasElement {
    const { song, rows, look, pxPerSec, height } = this.#scene!;
    const { tile, ctx } = this.#blank();
    const ground = kept(this.#ground, i, () => this.#groundTile(i));
    ctx.drawImage(ground, 0, 0, TILE_PX, height);
    const left = (i * TILE_PX + RIDE.meterPx) / pxPerSec;
    const scale = { left, pxPerSec, lineX: 0, width: TILE_PX };
    const channels = rows.filter((row) => row.kind === 'channel');
    drawLanes(ctx, { song, rows: channels, scale, look, from: -2, to: TILE_PX + 2 });
    return tile;
  }
}

function tilesOf({ songPx, width }: TilePlace): number[] {
  const first = Math.floor(songPx / TILE_PX);
  const last = Math.floor((songPx + width) / TILE_PX);
  return Array.from({ length: last - first + 1 }, (_, k) => first + k);
}

function kept(tiles: Map<number, HTMLCanvasElement>, i: number, make: () => HTMLCanvasElement): HTMLCanvasElement {
  let tile = tiles.get(i);
  if (!tile) tiles.set(i, (tile = make()));
  return tile;
}

function sameScene(a: GroundScene, b: GroundScene): boolean {
  return (
    a.rows === b.rows &&
    a.look === b.look &&
    a.pxPerSec === b.pxPerSec &&
    a.map === b.map &&
    a.height === b.height &&
    a.peakCount === b.peakCount &&
    a.song.sections === b.song.sections
  );
}

function drawTile(ctx: CanvasRenderingContext2D, scene: GroundScene, left: number): void {
  const { rows, look, song, pxPerSec, map, height } = scene;
  ctx.fillStyle = look.ground;
  ctx.fillRect(0, 0, TILE_PX, height);
  const songEnd = song.length * pxPerSec - left;
  for (const row of rows) {
    ctx.fillStyle = row.kind === 'family' ? look.sunken : row.isTall ? look.raised : look.ground;
    ctx.fillRect(0, row.top, TILE_PX, row.height);
    if (row.kind === 'channel') drawClips(ctx, scene, row, left);
    ctx.fillStyle = look.line;
    ctx.fillRect(0, row.top + row.height - 1, TILE_PX, 1);
  }
  const from = left / pxPerSec;
  const to = (left + TILE_PX) / pxPerSec;
  ctx.fillStyle = look.line;
  const every = barsApart(map, song.length, pxPerSec, 'lines');
  for (const { bar, t } of barLines(map, from - 0.01, Math.min(to, song.length)))
    if ((bar - 1) % every === 0) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.fillStyle = look.quiet;
  ctx.globalAlpha = 0.55;
  for (const { t } of song.sections) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.globalAlpha = 1;
  ctx.fillStyle = look.sunken;
  if (left < 0) ctx.fillRect(0, 0, Math.min(TILE_PX, -left), height);
  if (songEnd < TILE_PX) ctx.fillRect(Math.max(0, songEnd), 0, TILE_PX, height);
}

/** The clips of a row: waveforms as loud as they are played, their fades, and what they can be taken hold of by. */
function drawClips(ctx: CanvasRenderingContext2D, scene: GroundScene, row: ChannelRow, left: number): void {
  const { look, pxPerSec } = scene;
  const scale = { left: (left + RIDE.meterPx) / pxPerSec, pxPerSec, lineX: 0, width: TILE_PX };
  for (const clip of row.channel.clips) {
    const peaks = scene.peaks.get(clip.file);
    ctx.fillStyle = look.ghost;
    if (peaks) drawClip(ctx, scene, row, { clip, peaks, left });
    ctx.strokeStyle = look.quiet;
    ctx.lineWidth = 1;
    ctx.globalAlpha = 0.7;
    drawFades(ctx, row, scale, clip);
    ctx.globalAlpha = 1;
  }
  drawHandles(ctx, row, scale, look);
}

/** What a clip's own gain and fades make of it at a time within it. */
function clipGainAt(clip: Clip, sec: number): number {
  const toEnd = clip.length - sec;
  const fadeIn = sec < clip.fadeIn ? fadeGain(clip.fadeInShape, Math.max(0, sec / clip.fadeIn)) : 1;
  const fadeOut = toEnd < clip.fadeOut ? fadeGain(clip.fadeOutShape, Math.max(0, toEnd / clip.fadeOut)) : 1;
  return fadeIn * fadeOut;
}

function drawClip(
  ctx: CanvasRenderingContext2D,
  { pxPerSec, song }: GroundScene,
  row: ChannelRow,
  { clip, peaks, left }: { clip: Clip; peaks: PeakPyramid; left: number },
): void {
  const framesPerPx = song.sampleRate / pxPerSec;
  let k = PEAK_FRAMES.length - 1;
  while (k > 0 && PEAK_FRAMES[k]! > framesPerPx) k--;
  const level = peaks.levels[k]!;
  const bucketFrames = PEAK_FRAMES[k]!;
  const first = Math.max(0, Math.floor(clip.t * pxPerSec - left));
  const last = Math.min(TILE_PX, Math.ceil((clip.t + clip.length) * pxPerSec - left));
  const middle = row.top + row.height / 2;
  const room = row.height / 2 - 2;
  const full = (room * gainOfDb(clip.gain)) / 127;
  for (let px = first; px < last; px++) {
    const frame = ((left + px) / pxPerSec - clip.t + clip.offset) * song.sampleRate;
    const a = Math.max(0, Math.floor(frame / bucketFrames));
    const b = Math.max(a + 1, Math.floor((frame + framesPerPx) / bucketFrames));
    let low = 0;
    let high = 0;
    for (let i = a; i < b && 2 * i + 1 < level.length; i++) {
      if (level[2 * i]! < low) low = level[2 * i]!;
      if (level[2 * i + 1]! > high) high = level[2 * i + 1]!;
    }
    const reach = full * clipGainAt(clip, (left + px) / pxPerSec - clip.t);
    const up = Math.min(room, high * reach);
    const down = Math.min(room, -low * reach);
    ctx.fillRect(px, middle - up, 1, Math.max(1, up + down));
  }
}
