import { addedPoint, type Edit, type LayerOf } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import { clamp, type Seconds } from '@sure-hand/core/units';
import { amountWords, mendRefusal, movedWords, pointsWords } from '../../../hands/mending.js';
import { troubleCame } from '../../../song/songSlice.js';
import { store } from '../../../store/store.js';
import { didSomething, pointsPicked, takenInHand } from '../../../store/viewSlice.js';
import { RIDE, roomOfThrow, type ChannelRow } from '../rideLayout.js';
import { drawAmount, markAt, marksOf, type PointMark } from '../pointMarks.js';
import { xOf } from '../rideScale.js';
import { DONE, type Gesture, type GestureKind, type PointerAt, type StageRef } from './gesture.js';
import { isOnCaps } from './rideCap.js';

/** A drag shorter than this is a click. */
const DRAG_PX = 3;
/** How much finer a hand is with Shift. */
const FINE = 0.25;

/** Whether a pointer is where curves are mended: on a tall row's lane, beside the caps. */
export const isOnLane = (stage: StageRef, at: PointerAt): at is PointerAt & { readonly row: ChannelRow } =>
  at.row !== null && at.row.isTall && !at.onRuler && at.x >= RIDE.meterPx && !isOnCaps(stage, at);

/** A hand on a curve that can't be mended: why stands beside it, and in the hand bar with what would change it; null where it can. */
export function refusalAt(song: Song, control: string, { x, rowY }: PointerAt): Gesture | null {
  const refusal = mendRefusal(song, control);
  if (refusal === null) return null;
  store.dispatch(troubleCame(refusal));
  const [why] = refusal.split(':');
  return {
    ...DONE,
    draw: (ctx, scale, look) => drawAmount(ctx, look, `${why}: it stays as it is`, x, rowY - 26, scale.width),
    state: () => 'refused',
  };
}

const pickedOf = ({ control, layer }: LayerOf): readonly Seconds[] => {
  const { picked } = store.getState().view;
  return picked?.control === control && picked.layer === layer ? picked.times : [];
};

/**
 * Points: one that is taken hold of moves, with all that are picked where it is among them; a click picks it, with Ctrl one more or
 * one less. With Ctrl held a drag keeps to the way it starts, with Shift it is four times finer.
 */
export const mendPoints = (stage: StageRef): GestureKind => {
  const found = (at: PointerAt): PointMark | null =>
    isOnLane(stage, at) ? markAt(stage.current.song, at.row, stage.current.scale, at.x, at.rowY) : null;
  return {
    hit: (at) =>
      found(at) && {
        cursor: 'move',
        title:
          'A point: drag to move it (Ctrl keeps to one way, Shift is finer), click to pick it (Ctrl for one more), Delete clears',
      },
    begin(at) {
      const mark = found(at);
      if (!mark || !isOnLane(stage, at)) return null;
      const { dispatch, open } = stage.current;
      dispatch(takenInHand(at.row.control));
      const { song } = open.drafting;
      const refused = refusalAt(song, at.row.control, at);
      if (refused) return refused;
      const { of } = marksOf(song, at.row);
      const before = pickedOf(of);
      const times = before.includes(mark.t) ? before : at.isLocked ? [...before, mark.t] : [mark.t];
      return new PointDrag(stage, at.row, of, mark, times, at, before).gesture;
    },
  };
};

/** Points in a hand, from where it took hold of one of them. */
class PointDrag {
  /** Which way it goes, where it keeps to one. */
  #way: 't' | 'travel' | null = null;
  #moved = { t: 0, travel: 0 };
  #last: { readonly x: number; readonly y: number };
  #edit: Edit | null = null;
  #words = '';

  constructor(
    readonly stage: StageRef,
    readonly row: ChannelRow,
    readonly of: LayerOf,
    readonly mark: PointMark,
    readonly times: readonly Seconds[],
    readonly from: PointerAt,
    readonly before: readonly Seconds[],
  ) {
    this.#last = { x: from.x, y: from.rowY };
  }

  get gesture(): Gesture {
    return {
      move: (at) => this.#move(at),
      end: (at) => this.#end(at),
      cancel: () => this.#drop(),
      drop: () => this.#drop(),
      holdsPicture: true,
      draw: (ctx, scale, look) => {
        this.#drawReach(ctx, scale, look.bone);
        drawAmount(ctx, look, this.#words, this.#last.x, this.#last.y - 26, scale.width);
      },
      state: () => this.#words,
    };
  }

  #move(at: PointerAt): void {
    const { scale, open, dispatch } = this.stage.current;
    const [dx, dy] = [at.x - this.#last.x, at.rowY - this.#last.y];
    const [farX, farY] = [Math.abs(at.x - this.from.x), Math.abs(at.rowY - this.from.rowY)];
    if (!this.#edit && Math.max(farX, farY) < DRAG_PX) return;
    if (!this.#edit) {
      this.#way = farX > farY ? 't' : 'travel';
      dispatch(pointsPicked({ ...this.of, times: this.times }));
    }
    this.#last = { x: at.x, y: at.rowY };
    const step = at.isFine ? FINE : 1;
    this.#moved.t += (step * dx) / scale.pxPerSec;
    // More than the whole throw is none.
    this.#moved.travel = clamp(this.#moved.travel - (step * dy) / roomOfThrow(this.row), -1, 1);
    const { t, travel } = this.#moved;
    const by = {
      t: at.isLocked && this.#way === 'travel' ? 0 : t,
      travel: at.isLocked && this.#way === 't' ? 0 : travel,
    };
    const { control, layer } = this.of;
    this.#edit = { kind: 'move', controls: [control], points: { [control]: this.times }, by, layer };
    const { song } = open.drafting.draft(this.#edit);
    const is = layerPoints(laneOf(song, control), layer).point(this.mark.index);
    this.#words = amountWords(open.drafting.song, this.of, this.mark, is);
  }

  #end(at: PointerAt): void {
    const { dispatch, open } = this.stage.current;
    if (!this.#edit) return this.#click(at);
    const was = layerPoints(laneOf(open.drafting.song, this.of.control), this.of.layer);
    const { song, changed } = open.drafting.keep(this.#edit);
    if (!changed.length) return;
    const is = layerPoints(laneOf(song, this.of.control), this.of.layer);
    const isPicked = new Set(this.times);
    const times = [...new Set([...is.t].filter((_, i) => isPicked.has(was.t[i]!)))];
    dispatch(pointsPicked({ ...this.of, times }));
    dispatch(didSomething(movedWords(song, this.of, times.length, this.#words)));
  }

  #click(at: PointerAt): void {
    const { dispatch } = this.stage.current;
    const { t } = this.mark;
    const isIn = this.before.includes(t);
    const times = !at.isLocked ? [t] : isIn ? this.before.filter((one) => one !== t) : [...this.before, t];
    dispatch(pointsPicked({ ...this.of, times }));
  }

  #drop(): void {
    this.stage.current.open.drafting.drop();
  }

  /** How far a lone point reaches: from the point before it to the one after. */
  #drawReach(
    ctx: CanvasRenderingContext2D,
    scale: { width: number; left: number; pxPerSec: number; lineX: number },
    colour: string,
  ): void {
    if (this.times.length !== 1 || !this.#edit) return;
    const { t } = layerPoints(laneOf(this.stage.current.open.drafting.song, this.of.control), this.of.layer);
    const { index } = this.mark;
    const from = Math.max(RIDE.meterPx, index > 0 ? xOf(scale, t[index - 1]!) : RIDE.meterPx);
    const to = Math.min(scale.width, index + 1 < t.length ? xOf(scale, t[index + 1]!) : scale.width);
    ctx.save();
    ctx.fillStyle = colour;
    ctx.globalAlpha = 0.1;
    ctx.fillRect(from, this.row.top, to - from, this.row.height);
    ctx.restore();
  }
}

/** Puts a point on a curve where the pointer is, and picks it. */
export function addPointThere(stage: StageRef, of: LayerOf, t: Seconds): void {
  const { open, dispatch } = stage.current;
  const { changed, song } = open.control.mend(addedPoint(open.drafting.song, of, t));
  if (!changed.length) return;
  dispatch(pointsPicked({ ...of, times: [t] }));
  dispatch(
    didSomething(
      `A point added: ${pointsWords(song, of, layerPoints(laneOf(song, of.control), of.layer).length)} now.`,
    ),
  );
}
