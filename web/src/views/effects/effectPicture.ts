import type { Db, Seconds } from '@sure-hand/core/units';
import { channelOf, gateThatIsOff, type ControlId } from '@sure-hand/core/song';
import type { OpenSong } from '../../open/openSong.js';
import { FIGURES, FONT, type Look } from '../../parts/look.js';
import { capLook, type CapLook } from '../ride/capLook.js';
import { drawCap } from '../ride/drawCap.js';
import { effectNow, paramId, paramsOf, type InsertOf } from './effectNow.js';
import { logAxis, type EffectHandle, type EffectNow, type EffectShape, type Place } from './effectShape.js';

/** Room round the drawn part, for words and for caps at its edges; and what a compressor's history takes at the right. */
const ROOM = { left: 44, right: 20, top: 12, foot: 22, history: 120 } as const;

export type EffectScene = {
  readonly open: OpenSong;
  readonly of: InsertOf;
  readonly shape: EffectShape;
  readonly width: number;
  readonly height: number;
  readonly look: Look;
  readonly inHand: ControlId | null;
};

/** How loud the quietest frequency is that is drawn, and the loudest; a little is added with each octave, so that music lies level. */
const SPECTRUM = { from: -90, to: -20, perOctave: 3, everyMs: 66 } as const;
/** What a compressor has held down is shown over so long, up to so many dB. */
const HISTORY = { sec: 4, db: 24 } as const;

/** Which effects have the spectrum behind them. */
const hasSpectrum = ({ insert }: InsertOf): boolean => insert.effect === 'equaliser' || insert.effect === 'filter';
const hasHistory = ({ insert }: InsertOf): boolean => insert.effect === 'compressor';

/** The drawn part of a picture, in its pixels. */
export function innerOf({ width, height, of }: Pick<EffectScene, 'width' | 'height' | 'of'>): {
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
} {
  const side = ROOM.left + ROOM.right + (hasHistory(of) ? ROOM.history : 0);
  return { left: ROOM.left, top: ROOM.top, width: width - side, height: height - ROOM.top - ROOM.foot };
}

/** The picture of one effect: what it does now, as the song goes on, with the caps that are ridden. */
export class EffectPicture {
  #scene: EffectScene;
  #drawn = '';
  #bins = new Float32Array(0);
  /** The spectrum that was read last, drawn once and laid down each time; and when that was. */
  #spectrum: OffscreenCanvas | null = null;
  #spectrumAt = -Infinity;
  readonly #history: { readonly atMs: number; readonly db: Db }[] = [];

  constructor(scene: EffectScene) {
    this.#scene = scene;
  }

  show(scene: EffectScene): void {
    this.#scene = scene;
    this.#drawn = '';
    this.#spectrumAt = -Infinity;
  }

  isStale(nowMs: number): boolean {
    const { open } = this.#scene;
    const { session, engine } = open;
    const state = `${engine.positionAt(nowMs)} ${open.version()}`;
    const isOther = state !== this.#drawn;
    this.#drawn = state;
    return isOther || session.isMoving || session.recorder.poised.size > 0 || session.recorder.touched.length > 0;
  }

  draw(ctx: CanvasRenderingContext2D): void {
    const scene = this.#scene;
    const { open, of, shape, width, height, look } = scene;
    const nowMs = performance.now();
    const t = open.engine.positionAt(nowMs);
    ctx.fillStyle = look.sunken;
    ctx.fillRect(0, 0, width, height);
    if (!isThere(scene)) return;
    const now = effectNow(open, of, t);
    const inner = innerOf(scene);
    const at = ({ x, y }: Place): readonly [number, number] => [
      inner.left + x * inner.width,
      inner.top + (1 - y) * inner.height,
    ];
    drawGrid(ctx, scene, now, at);
    if (hasSpectrum(of)) this.#drawSpectrum(ctx, inner, nowMs);
    const off = gateThatIsOff(open.session.heardSong, paramId(of, paramsOf(of)[0]!), t);
    ctx.save();
    ctx.beginPath();
    ctx.rect(inner.left - 1, inner.top - 4, inner.width + 2, inner.height + 8);
    ctx.clip();
    ctx.globalAlpha = off ? 0.4 : 1;
    drawLines(ctx, scene, now, at);
    ctx.restore();
    if (hasHistory(of)) this.#drawLevels(ctx, now, at, nowMs);
    for (const handle of shape.handles) drawHandle(ctx, scene, handle, now, at, t, nowMs);
    if (off) words(ctx, `${off.whenOff} here`, inner.left + 8, inner.top + 12, look.text);
  }

  /** What of the channel's sound goes on behind its equaliser, as it leaves its inserts. */
  #drawSpectrum(ctx: CanvasRenderingContext2D, inner: ReturnType<typeof innerOf>, nowMs: number): void {
    if (!this.#scene.open.session.isMoving) return;
    if (!this.#spectrum || nowMs - this.#spectrumAt >= SPECTRUM.everyMs) {
      this.#spectrum = this.#readSpectrum(inner, this.#spectrum);
      this.#spectrumAt = nowMs;
    }
    ctx.drawImage(this.#spectrum, inner.left, inner.top, inner.width, inner.height);
  }

  /** What goes on now, as an area in a canvas of its own: the one from before, if it is as large. */
  #readSpectrum({ width, height }: ReturnType<typeof innerOf>, before: OffscreenCanvas | null): OffscreenCanvas {
    const { engine } = this.#scene.open;
    const ratio = window.devicePixelRatio || 1;
    const [across, down] = [Math.round(width * ratio), Math.round(height * ratio)];
    const isAsLarge = before?.width === across && before.height === down;
    const canvas = before && isAsLarge ? before : new OffscreenCanvas(across, down);
    const ctx = canvas.getContext('2d')!;
    const at = ({ x, y }: Place): [number, number] => [x * across, (1 - y) * down];
    const { length, stepHz } = engine.spectrumShape;
    if (this.#bins.length !== length) this.#bins = new Float32Array(length);
    engine.readSpectrum(this.#bins as Float32Array<ArrayBuffer>);
    const axis = logAxis('', 20, 20_000);
    ctx.clearRect(0, 0, across, down);
    ctx.fillStyle = this.#scene.look.ghost;
    ctx.beginPath();
    ctx.moveTo(...at({ x: 0, y: 0 }));
    const steps = 120;
    for (let i = 0; i <= steps; i++) {
      const hz = axis.to(i / steps);
      const [from, to] = [axis.to((i - 0.5) / steps) / stepHz, axis.to((i + 0.5) / steps) / stepHz];
      let db = -200;
      for (let k = Math.max(1, Math.floor(from)); k <= Math.ceil(to) && k < length; k++)
        db = Math.max(db, this.#bins[k]!);
      const level = db + SPECTRUM.perOctave * Math.log2(hz / 1000);
      const y = (level - SPECTRUM.from) / (SPECTRUM.to - SPECTRUM.from);
      ctx.lineTo(...at({ x: i / steps, y: Math.min(1, Math.max(0, y)) }));
    }
    ctx.lineTo(...at({ x: 1, y: 0 }));
    ctx.fill();
    return canvas;
  }

  /** The level that a compressor listens to, on its curve, and what it has held down over the last seconds. */
  #drawLevels(
    ctx: CanvasRenderingContext2D,
    now: EffectNow,
    at: (place: Place) => readonly [number, number],
    nowMs: number,
  ): void {
    const { open, look, width } = this.#scene;
    const inner = innerOf(this.#scene);
    const { heldDown, listened } = open.engine.watchedLevels;
    if (open.session.isMoving) this.#history.push({ atMs: nowMs, db: heldDown });
    while (this.#history.length && nowMs - this.#history[0]!.atMs > HISTORY.sec * 1000) this.#history.shift();
    if (open.session.isMoving && listened > -60) {
      const place = this.#scene.shape.lines(now)[0]!;
      const x = Math.min(1, (listened + 60) / 60);
      const y = place[Math.round(x * (place.length - 1))]!.y;
      ctx.beginPath();
      ctx.arc(...at({ x, y }), 5, 0, 2 * Math.PI);
      ctx.fillStyle = look.teal;
      ctx.fill();
    }
    const left = width - ROOM.history - 4;
    const room = ROOM.history - 10;
    ctx.strokeStyle = look.line;
    ctx.strokeRect(left + 0.5, inner.top + 0.5, room, inner.height);
    ctx.beginPath();
    ctx.moveTo(left + room, inner.top);
    for (const { atMs, db } of [...this.#history].reverse())
      ctx.lineTo(
        left + room * (1 - (nowMs - atMs) / (HISTORY.sec * 1000)),
        inner.top + inner.height * Math.min(1, db / HISTORY.db),
      );
    const first = this.#history[0];
    if (first) ctx.lineTo(left + room * (1 - (nowMs - first.atMs) / (HISTORY.sec * 1000)), inner.top);
    ctx.closePath();
    ctx.fillStyle = look.teal;
    ctx.globalAlpha = 0.55;
    ctx.fill();
    ctx.globalAlpha = 1;
    words(ctx, `down ${heldDown.toFixed(1)} dB`, left + 8, inner.top + inner.height - 10, look.text, FIGURES);
    words(ctx, 'last 4 s', left + 8, inner.top + inner.height + 13, look.quiet);
  }
}

/** Whether the insert is still in its channel, as it is heard and as it is ridden: another page may have taken it out a moment ago. */
export const isThere = ({ open: { session }, of }: Pick<EffectScene, 'open' | 'of'>): boolean =>
  [session.heardSong, session.recorder.song].every((song) =>
    channelOf(song, of.channel)?.inserts.some(
      ({ slot, effect }) => slot === of.insert.slot && effect === of.insert.effect,
    ),
  );

function words(ctx: CanvasRenderingContext2D, text: string, x: number, y: number, colour: string, font = FONT): void {
  ctx.font = `12px ${font}`;
  ctx.textBaseline = 'middle';
  ctx.textAlign = 'left';
  ctx.fillStyle = colour;
  ctx.fillText(text, x, y);
}

function drawGrid(
  ctx: CanvasRenderingContext2D,
  { shape, look, ...scene }: EffectScene,
  now: EffectNow,
  at: (place: Place) => readonly [number, number],
): void {
  const inner = innerOf(scene);
  ctx.font = `12px ${FIGURES}`;
  ctx.textBaseline = 'middle';
  for (const { at: x, label, isMain } of shape.across(now)) {
    const [px] = at({ x, y: 0 });
    ctx.fillStyle = look.line;
    ctx.globalAlpha = isMain ? 1 : 0.55;
    ctx.fillRect(Math.round(px), inner.top, 1, inner.height);
    ctx.globalAlpha = 1;
    ctx.fillStyle = look.quiet;
    ctx.textAlign = 'center';
    ctx.fillText(label, px, inner.top + inner.height + 13);
  }
  for (const { at: y, label, isMain } of shape.up) {
    const [, py] = at({ x: 0, y });
    ctx.fillStyle = look.line;
    ctx.globalAlpha = isMain ? 1 : 0.55;
    ctx.fillRect(inner.left, Math.round(py), inner.width, 1);
    ctx.globalAlpha = 1;
    ctx.fillStyle = look.quiet;
    ctx.textAlign = 'right';
    ctx.fillText(label, inner.left - 5, py);
  }
  ctx.textAlign = 'left';
}

function drawLines(
  ctx: CanvasRenderingContext2D,
  { shape, look }: EffectScene,
  now: EffectNow,
  at: (place: Place) => readonly [number, number],
): void {
  ctx.lineJoin = 'round';
  shape.lines(now).forEach((line, i) => {
    ctx.beginPath();
    line.forEach((place, k) => (k ? ctx.lineTo(...at(place)) : ctx.moveTo(...at(place))));
    ctx.strokeStyle = i ? look.quiet : look.bone;
    ctx.lineWidth = i ? 1 : 2;
    ctx.stroke();
  });
  shape.bars?.(now).forEach((place, i) => {
    const [x, y] = at(place);
    const [, foot] = at({ x: 0, y: 0 });
    ctx.fillStyle = i ? look.bone : look.quiet;
    ctx.fillRect(x - 2, y, 4, foot - y);
  });
}

/** The state of a cap that moves several lanes: what a hand does on any of them comes before how they rest. */
function stateOf({ open, of }: EffectScene, { across, up }: EffectHandle, t: Seconds): CapLook {
  const { recorder } = open.session;
  const ids = [up, across].flatMap((axis) => (axis ? [paramId(of, axis.param)] : []));
  const looks = ids.map((id) => capLook(recorder.song, id, recorder.doing(id, t)));
  const first = (['write', 'latch', 'touch', 'returning', 'poised', 'aside', 'heard', 'reading'] as const).find((one) =>
    looks.includes(one),
  );
  return first ?? looks[0] ?? 'resting';
}

function drawHandle(
  ctx: CanvasRenderingContext2D,
  scene: EffectScene,
  handle: EffectHandle,
  now: EffectNow,
  at: (place: Place) => readonly [number, number],
  t: Seconds,
  nowMs: number,
): void {
  const { open, of, look, inHand } = scene;
  const { recorder } = open.session;
  const [x, y] = at(inside(handle.place(now)));
  const isTrim = handle.up !== null && recorder.layerOf(paramId(of, handle.up.param)) === 'trim';
  const isOurs = [handle.across?.param, handle.up?.param, handle.third].some(
    (param) => param && paramId(of, param) === inHand,
  );
  const state = stateOf(scene, handle, t);
  drawCap(ctx, { x, y, isTall: isOurs, state, isTrim, look, breath: 0.5 + 0.5 * Math.sin(nowMs / 500) });
  const short = handle.name.replace(/^Band /, '');
  if (short !== handle.name)
    words(ctx, short, x + (isOurs ? 20 : 15), y - 12, isOurs ? look.text : look.quiet, FIGURES);
}

/** A place within the picture. */
export const inside = ({ x, y }: Place): Place => ({ x: Math.min(1, Math.max(0, x)), y: Math.min(1, Math.max(0, y)) });
