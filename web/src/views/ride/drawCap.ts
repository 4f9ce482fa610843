import type { Look } from '../../parts/look.js';
import { FIGURES, FONT } from '../../parts/look.js';
import type { ThrowMark } from '@sure-hand/core/units';
import type { CapLook } from './capLook.js';

const CAP = { slimW: 22, slimH: 11, tallW: 34, tallH: 16, panW: 9, panH: 15 } as const;

function pill(ctx: CanvasRenderingContext2D, x: number, y: number, w: number, h: number): void {
  ctx.beginPath();
  ctx.roundRect(x - w / 2, y - h / 2, w, h, Math.min(w, h) / 2.4);
}

type DrawnCap = { x: number; y: number; state: CapLook; isTrim?: boolean; look: Look; breath: number };

/** Draws a cap at its place on the line. */
export const drawCap = (ctx: CanvasRenderingContext2D, { isTall, ...cap }: DrawnCap & { isTall: boolean }): void =>
  drawSized(ctx, cap, isTall ? CAP.tallW : CAP.slimW, isTall ? CAP.tallH : CAP.slimH);

/** Draws the cap of a throw that lies across. */
export const drawPanCap = (ctx: CanvasRenderingContext2D, cap: DrawnCap): void =>
  drawSized(ctx, cap, CAP.panW, CAP.panH);

/** Where a channel is heard with the VCAs over it: an outline on its throw, behind its own cap. */
export function drawGhost(ctx: CanvasRenderingContext2D, x: number, y: number, look: Look): void {
  ctx.save();
  ctx.strokeStyle = look.quiet;
  ctx.globalAlpha = 0.75;
  ctx.lineWidth = 1;
  ctx.beginPath();
  ctx.roundRect(x - 17, y - 8, 34, 16, 6.5);
  ctx.stroke();
  ctx.beginPath();
  ctx.moveTo(x - 12, y);
  ctx.lineTo(x + 12, y);
  ctx.stroke();
  ctx.restore();
}

function drawSized(
  ctx: CanvasRenderingContext2D,
  { x, y, state, isTrim = false, look, breath }: DrawnCap,
  w: number,
  h: number,
): void {
  ctx.save();
  ctx.lineWidth = 1.5;
  const writes = state === 'touch' || state === 'latch' || state === 'write';
  if (state === 'latch') {
    // Held on without a finger: a bar stands behind it.
    ctx.fillStyle = look.coral;
    ctx.fillRect(x - w / 2 - 7, y - h / 2 - 4, 4, h + 8);
  }
  if (state === 'poised') {
    ctx.setLineDash([4, 3]);
    ctx.globalAlpha = 0.65 + 0.35 * breath;
  }
  if (state === 'parked' || state === 'off') ctx.globalAlpha = 0.5;
  pill(ctx, x, y, w, h);
  ctx.fillStyle = writes ? look.coral : look.ground;
  ctx.fill();
  ctx.strokeStyle =
    writes || state === 'poised' || state === 'returning' ? look.coral : state === 'aside' ? look.teal : look.bone;
  ctx.stroke();
  if (state === 'aside') raiseCorner(ctx, x + w / 2, y - h / 2, look.teal);
  if (state === 'write') {
    pill(ctx, x, y, w + 7, h + 7);
    ctx.stroke();
  }
  if (isTrim) hatchCap(ctx, x, y, w, h, writes ? look.onCoral : look.bone);
  ctx.setLineDash([]);
  ctx.strokeStyle = writes ? look.onCoral : ctx.strokeStyle;
  if (state === 'heard' || writes) {
    // A hand is on it, or holds it: the notch shows, across its way.
    ctx.beginPath();
    if (w > h) {
      ctx.moveTo(x - w / 2 + 5, y);
      ctx.lineTo(x + w / 2 - 5, y);
    } else {
      ctx.moveTo(x, y - h / 2 + 3);
      ctx.lineTo(x, y + h / 2 - 3);
    }
    ctx.stroke();
  }
  ctx.restore();
}

/** A corner that stands up: its control is held aside. */
function raiseCorner(ctx: CanvasRenderingContext2D, right: number, top: number, colour: string): void {
  ctx.beginPath();
  ctx.moveTo(right - 8, top + 0.5);
  ctx.lineTo(right + 2, top - 6);
  ctx.lineTo(right + 1, top + 5);
  ctx.closePath();
  ctx.fillStyle = colour;
  ctx.fill();
}

/** Where a control is held aside while its curve is heard: the outline of a cap with its raised corner. */
export function drawAsideGhost(ctx: CanvasRenderingContext2D, x: number, y: number, isTall: boolean, look: Look): void {
  const [w, h] = isTall ? [CAP.tallW, CAP.tallH] : [CAP.slimW, CAP.slimH];
  ctx.save();
  ctx.globalAlpha = 0.7;
  ctx.strokeStyle = look.teal;
  ctx.lineWidth = 1.25;
  ctx.setLineDash([2, 3]);
  pill(ctx, x, y, w, h);
  ctx.stroke();
  raiseCorner(ctx, x + w / 2, y - h / 2, look.teal);
  ctx.restore();
}

/** Diagonal lines over a cap: it is an offset that the hand gives. */
function hatchCap(ctx: CanvasRenderingContext2D, x: number, y: number, w: number, h: number, colour: string): void {
  ctx.save();
  pill(ctx, x, y, w, h);
  ctx.clip();
  ctx.setLineDash([]);
  ctx.strokeStyle = colour;
  ctx.globalAlpha *= 0.75;
  ctx.lineWidth = 1.25;
  ctx.beginPath();
  for (let at = x - w / 2 - h; at < x + w / 2; at += 5) {
    ctx.moveTo(at, y + h / 2);
    ctx.lineTo(at + h, y - h / 2);
  }
  ctx.stroke();
  ctx.restore();
}

/** What the throw shows: its marks by travel, where the cap is, and the value in words. */
export type ThrowView = {
  readonly marks: readonly ThrowMark[];
  readonly travel: number;
  readonly value: string;
  /** Trimming: what is heard with the offset on the base. */
  readonly result: string | null;
  /** Why the hand is heard only; null where it writes. */
  readonly refusal: string | null;
  readonly name: string;
  readonly writes: boolean;
  readonly isTrim: boolean;
};

/** Height that a label needs for itself. */
const LABEL_PX = 15;

const THROW = { width: 140, height: 214, gap: 44, labelGap: 26 } as const;

/** Marks whose words do not run into each other: the ends and the main ones first, the others where there is room. */
export function readableMarks(marks: ThrowView['marks'], y: (travel: number) => number): ThrowView['marks'] {
  const first = marks.filter(({ travel, isMain }) => isMain || travel === 0 || travel === 1);
  const kept = [...first];
  for (const mark of marks)
    if (!first.includes(mark) && kept.every((other) => Math.abs(y(other.travel) - y(mark.travel)) >= LABEL_PX))
      kept.push(mark);
  return kept;
}

/** Draws the throw beside the cap that a hand is on: ahead of the line, where the curve is being replaced. */
export function drawThrow(
  ctx: CanvasRenderingContext2D,
  { x, y, top, bottom, look, view }: { x: number; y: number; top: number; bottom: number; look: Look; view: ThrowView },
): void {
  const { width, height, gap } = THROW;
  const left = x + gap;
  const up = Math.max(top + 4, Math.min(bottom - height - 4, y - height / 2));
  ctx.save();
  ctx.fillStyle = look.raised;
  ctx.strokeStyle = view.writes ? look.coral : look.line;
  ctx.lineWidth = 1.5;
  ctx.beginPath();
  ctx.roundRect(left, up, width, height, 10);
  ctx.fill();
  ctx.stroke();
  ctx.textBaseline = 'middle';
  ctx.fillStyle = look.quiet;
  ctx.font = `12px ${FONT}`;
  ctx.fillText(view.name, left + 10, up + 15, width - 20);
  ctx.fillStyle = view.writes ? look.coral : look.text;
  ctx.font = `700 17px ${FIGURES}`;
  ctx.fillText(view.value, left + 10, up + 36);
  const below = view.refusal ?? (view.result && `→ ${view.result}`);
  if (below) {
    ctx.fillStyle = look.text;
    ctx.font = `12px ${view.refusal ? FONT : FIGURES}`;
    ctx.fillText(below, left + 10, up + 54, width - 20);
  }
  const from = up + height - 14;
  const reach = height - 74 - (view.result || view.refusal ? 18 : 0);
  const at = (travel: number): number => from - travel * reach;
  const slot = left + 104;
  ctx.fillStyle = look.line;
  ctx.fillRect(slot - 1.5, at(1), 3, reach);
  ctx.font = `12px ${FIGURES}`;
  ctx.textAlign = 'right';
  for (const { travel, label, isMain } of readableMarks(view.marks, at)) {
    ctx.fillStyle = isMain ? look.text : look.quiet;
    ctx.fillRect(slot - (isMain ? 12 : 8), at(travel) - 0.5, isMain ? 24 : 16, 1);
    ctx.fillText(label, slot - THROW.labelGap, at(travel));
  }
  ctx.restore();
  drawCap(ctx, {
    x: slot,
    y: at(view.travel),
    isTall: true,
    state: view.writes ? 'touch' : 'heard',
    isTrim: view.isTrim,
    look,
    breath: 1,
  });
}
