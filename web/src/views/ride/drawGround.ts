import { PEAK_FRAMES, fadeGain, type PeakPyramid } from '@sure-hand/core/mix';
import type { Clip, Song } from '@sure-hand/core/song';
import { barLines, type MeterMap } from '@sure-hand/core/time';
import { gainOfDb } from '@sure-hand/core/units';
import type { Look } from '../../parts/look.js';
import { drawFades, drawHandles } from './clipHandles.js';
import { RIDE, type ChannelRow, type RideRow } from './rideLayout.js';
import { barsApart } from './rulerWords.js';

/** Everything that stands still under the curves: rows, waveform ghosts, bar lines. */
export type GroundScene = {
  readonly song: Song;
  readonly map: MeterMap;
  readonly look: Look;
  readonly pxPerSec: number;
  readonly peaks: ReadonlyMap<string, PeakPyramid>;
  /** How many waveforms have come: the map itself is the same one. */
  readonly peakCount: number;
};

/** A row whose ground is drawn: one of the view's, or all that lies under the last of them. */
export type GroundRow = RideRow | { readonly kind: 'rest'; readonly top: number; readonly height: number };

/** Draws the ground of a row that stands at the top, from a pixel of the song on, so wide. */
export function drawGround(
  ctx: CanvasRenderingContext2D,
  scene: GroundScene,
  row: GroundRow,
  { left, width }: { readonly left: number; readonly width: number },
): void {
  const { look, song, pxPerSec, map } = scene;
  const { height } = row;
  ctx.fillStyle =
    row.kind === 'family' ? look.sunken : row.kind === 'channel' && row.isTall ? look.raised : look.ground;
  ctx.fillRect(0, 0, width, height);
  if (row.kind === 'channel') drawClips(ctx, scene, row, { left, width });
  ctx.fillStyle = look.line;
  if (row.kind !== 'rest') ctx.fillRect(0, height - 1, width, 1);
  const to = Math.min((left + width) / pxPerSec, song.length);
  const every = barsApart(map, song.length, pxPerSec, 'lines');
  for (const { bar, t } of barLines(map, left / pxPerSec - 0.01, to))
    if ((bar - 1) % every === 0) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.fillStyle = look.quiet;
  ctx.globalAlpha = 0.55;
  for (const { t } of song.sections) ctx.fillRect(Math.round(t * pxPerSec - left), 0, 1, height);
  ctx.globalAlpha = 1;
  ctx.fillStyle = look.sunken;
  const songEnd = song.length * pxPerSec - left;
  if (left < 0) ctx.fillRect(0, 0, Math.min(width, -left), height);
  if (songEnd < width) ctx.fillRect(Math.max(0, songEnd), 0, width, height);
}

/** The clips of a row: waveforms as loud as they are played, their fades, and what they can be taken hold of by. */
function drawClips(
  ctx: CanvasRenderingContext2D,
  scene: GroundScene,
  row: ChannelRow,
  { left, width }: { readonly left: number; readonly width: number },
): void {
  const { look, pxPerSec } = scene;
  const scale = { left: (left + RIDE.meterPx) / pxPerSec, pxPerSec, lineX: 0, width };
  for (const clip of row.channel.clips) {
    const peaks = scene.peaks.get(clip.file);
    ctx.fillStyle = look.ghost;
    if (peaks) drawClip(ctx, scene, row, { clip, peaks, left, width });
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
  { clip, peaks, left, width }: { clip: Clip; peaks: PeakPyramid; left: number; width: number },
): void {
  const framesPerPx = song.sampleRate / pxPerSec;
  let k = PEAK_FRAMES.length - 1;
  while (k > 0 && PEAK_FRAMES[k]! > framesPerPx) k--;
  const level = peaks.levels[k]!;
  const bucketFrames = PEAK_FRAMES[k]!;
  const first = Math.max(0, Math.floor(clip.t * pxPerSec - left));
  const last = Math.min(width, Math.ceil((clip.t + clip.length) * pxPerSec - left));
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
