import { fadeGain } from '@sure-hand/core/mix';
import type { Clip } from '@sure-hand/core/song';
import { printDb } from '@sure-hand/core/units';
import { FIGURES, type Look } from '../../parts/look.js';
import type { ClipPart } from '../../hands/clipDrag.js';
import type { ChannelRow, RideRow } from './rideLayout.js';
import { xOf, type RideScale } from './rideScale.js';

/** A place where a clip's fade or gain can be taken hold of: pixels of the canvas, from the first row's top. */
export type ClipHandle = {
  readonly row: ChannelRow;
  readonly clip: Clip;
  readonly part: ClipPart;
  readonly x: number;
  readonly y: number;
};

const HANDLE = { size: 9, gainWidth: 22, fromTop: 7, reachPx: 9, gainFromPx: 72, fadesFromPx: 30 } as const;
const FADE_STEPS = 24;

/** The handles of a tall row: of clips wide enough on the screen to tell them apart. */
export function clipHandles(row: ChannelRow, scale: RideScale): ClipHandle[] {
  if (!row.isTall || !row.isHead) return [];
  return row.channel.clips.flatMap((clip) => {
    const from = xOf(scale, clip.t);
    const to = xOf(scale, clip.t + clip.length);
    if (to - from < HANDLE.fadesFromPx || to < 0 || from > scale.width) return [];
    const y = row.top + HANDLE.fromTop;
    const at = (part: ClipPart, x: number): ClipHandle => ({ row, clip, part, x, y });
    const fades = [
      at('fadeIn', xOf(scale, clip.t + clip.fadeIn)),
      at('fadeOut', xOf(scale, clip.t + clip.length - clip.fadeOut)),
    ];
    return to - from < HANDLE.gainFromPx ? fades : [at('gain', (from + to) / 2), ...fades];
  });
}

/** The handle under the pointer; null where there is none. `y` counts from the first row's top. */
export function handleAt(rows: readonly RideRow[], scale: RideScale, x: number, y: number): ClipHandle | null {
  const near = rows
    .flatMap((row) =>
      row.kind === 'channel' && row.isTall && y >= row.top && y < row.top + row.height ? clipHandles(row, scale) : [],
    )
    .filter((one) => Math.abs(one.y - y) <= HANDLE.reachPx && Math.abs(one.x - x) <= reachOf(one.part));
  return near.sort((a, b) => Math.abs(a.x - x) - Math.abs(b.x - x))[0] ?? null;
}

const reachOf = (part: ClipPart): number => (part === 'gain' ? HANDLE.gainWidth / 2 + 2 : HANDLE.reachPx);

/** Traces a clip's fades over its row: up from silence at its edges. */
export function drawFades(ctx: CanvasRenderingContext2D, row: RideRow, scale: RideScale, clip: Clip): void {
  const yAt = (gain: number): number => row.top + row.height - 3 - gain * (row.height - 6);
  const trace = (from: number, length: number, gainAt: (u: number) => number): void => {
    if (length <= 0) return;
    ctx.beginPath();
    for (let i = 0; i <= FADE_STEPS; i++)
      ctx.lineTo(xOf(scale, from + (length * i) / FADE_STEPS), yAt(gainAt(i / FADE_STEPS)));
    ctx.stroke();
  };
  trace(clip.t, clip.fadeIn, (u) => fadeGain(clip.fadeInShape, u));
  trace(clip.t + clip.length - clip.fadeOut, clip.fadeOut, (u) => fadeGain(clip.fadeOutShape, 1 - u));
}

/** Draws the handles of a tall row, and the gain of clips that have one. */
export function drawHandles(ctx: CanvasRenderingContext2D, row: ChannelRow, scale: RideScale, look: Look): void {
  ctx.save();
  ctx.strokeStyle = look.quiet;
  ctx.fillStyle = look.ground;
  ctx.lineWidth = 1.25;
  for (const { clip, part, x, y } of clipHandles(row, scale)) {
    ctx.beginPath();
    if (part === 'gain') ctx.roundRect(x - HANDLE.gainWidth / 2, y - 3, HANDLE.gainWidth, 6, 3);
    else {
      // A corner that points at the edge it belongs to.
      const away = part === 'fadeIn' ? -1 : 1;
      ctx.moveTo(x, y - HANDLE.size / 2);
      ctx.lineTo(x, y + HANDLE.size / 2);
      ctx.lineTo(x + away * HANDLE.size, y + HANDLE.size / 2);
      ctx.closePath();
    }
    ctx.fill();
    ctx.stroke();
    if (part !== 'gain' || clip.gain === 0) continue;
    ctx.fillStyle = look.quiet;
    ctx.font = `12px ${FIGURES}`;
    ctx.textBaseline = 'middle';
    ctx.fillText(printDb(clip.gain, true), x + HANDLE.gainWidth / 2 + 5, y + 1);
    ctx.fillStyle = look.ground;
  }
  ctx.restore();
}

/** What a clip is about to become, while a pointer has hold of it: its fades, and the number that changes. */
export function drawDraft(
  ctx: CanvasRenderingContext2D,
  { row, clip, part, scale, look }: { row: ChannelRow; clip: Clip; part: ClipPart; scale: RideScale; look: Look },
): void {
  ctx.save();
  ctx.strokeStyle = look.teal;
  ctx.lineWidth = 2;
  drawFades(ctx, row, scale, clip);
  const middle = clip.t + clip.length / 2;
  const at =
    part === 'fadeIn' ? clip.t + clip.fadeIn : part === 'fadeOut' ? clip.t + clip.length - clip.fadeOut : middle;
  const words = {
    fadeIn: `Fade in ${clip.fadeIn.toFixed(2)} s`,
    fadeOut: `Fade out ${clip.fadeOut.toFixed(2)} s`,
    gain: `Clip gain ${printDb(clip.gain, true)}`,
  }[part];
  ctx.font = `700 13px ${FIGURES}`;
  const width = ctx.measureText(words).width + 16;
  const x = Math.max(18, Math.min(scale.width - width - 4, xOf(scale, at) + 10));
  const y = row.top + 18;
  ctx.fillStyle = look.raised;
  ctx.beginPath();
  ctx.roundRect(x, y, width, 24, 8);
  ctx.fill();
  ctx.stroke();
  ctx.fillStyle = look.text;
  ctx.textBaseline = 'middle';
  ctx.fillText(words, x + 8, y + 13);
  ctx.restore();
}
