import { PEAK_FRAMES, type PeakPyramid } from '@sure-hand/core/mix';
import type { Clip, Song } from '@sure-hand/core/song';
import { barLines, type MeterMap } from '@sure-hand/core/time';
import type { Look } from '../../app/look.js';
import type { ChannelRow, RideRow } from './rideLayout.js';

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

export const TILE_PX = 512;

/** Keeps tiles of the ground for a scene, drawn when they first come into view. */
export class GroundTiles {
  #scene: GroundScene | null = null;
  readonly #tiles = new Map<number, HTMLCanvasElement>();
  #dpr = 1;

  /** Says what the ground is; tiles of another scene are dropped. */
  show(scene: GroundScene, dpr: number): void {
    if (this.#scene && this.#dpr === dpr && sameScene(this.#scene, scene)) return;
    this.#scene = scene;
    this.#dpr = dpr;
    this.#tiles.clear();
  }

  /** Draws the ground from a song pixel on, `width` wide, at x and y of the canvas. */
  draw(ctx: CanvasRenderingContext2D, songPx: number, width: number, x: number, y: number): void {
    const first = Math.floor(songPx / TILE_PX);
    const last = Math.floor((songPx + width) / TILE_PX);
    for (let i = first; i <= last; i++) {
      const tile = this.#tile(i);
      ctx.drawImage(tile, x + i * TILE_PX - songPx, y, TILE_PX, this.#scene!.height);
    }
    for (const i of this.#tiles.keys()) if (i < first - 2 || i > last + 2) this.#tiles.delete(i);
  }

  #tile(i: number): HTMLCanvasElement {
    const known = this.#tiles.get(i);
    if (known) return known;
    const tile = document.createElement('canvas');
    tile.width = TILE_PX * this.#dpr;
    tile.height = Math.max(1, this.#scene!.height) * this.#dpr;
    const ctx = tile.getContext('2d')!;
    ctx.scale(this.#dpr, this.#dpr);
    drawTile(ctx, this.#scene!, i * TILE_PX);
    this.#tiles.set(i, tile);
    return tile;
  }
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
    if (row.kind === 'channel') drawWave(ctx, scene, row, left);
    ctx.fillStyle = look.line;
    ctx.fillRect(0, row.top + row.height - 1, TILE_PX, 1);
  }
  const from = left / pxPerSec;
  const to = (left + TILE_PX) / pxPerSec;
  ctx.fillStyle = look.line;
  const lines = barLines(map, from - 0.01, Math.min(to, song.length));
  const every = Math.max(1, Math.ceil((lines.length * 12) / TILE_PX));
  for (const { bar, t } of lines)
    if ((bar - 1) % every === 0) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.fillStyle = look.quiet;
  ctx.globalAlpha = 0.55;
  for (const { t } of song.sections) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.globalAlpha = 1;
  ctx.fillStyle = look.sunken;
  if (left < 0) ctx.fillRect(0, 0, Math.min(TILE_PX, -left), height);
  if (songEnd < TILE_PX) ctx.fillRect(Math.max(0, songEnd), 0, TILE_PX, height);
}

function drawWave(ctx: CanvasRenderingContext2D, scene: GroundScene, row: ChannelRow, left: number): void {
  ctx.fillStyle = scene.look.ghost;
  for (const clip of row.channel.clips) {
    const peaks = scene.peaks.get(clip.file);
    if (peaks) drawClip(ctx, scene, row, { clip, peaks, left });
  }
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
  const reach = (row.height / 2 - 2) / 127;
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
    ctx.fillRect(px, middle - high * reach, 1, Math.max(1, (high - low) * reach));
  }
}
