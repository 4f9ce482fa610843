import type { Range } from '@sure-hand/core/curve';
import type { MeterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { FIGURES, FONT, type Look } from '../../parts/look.js';
import { timeAt, xOf, type RideScale } from './rideScale.js';
import { rulerWords } from './rulerWords.js';

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
