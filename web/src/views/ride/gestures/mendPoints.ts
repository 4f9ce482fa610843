import { addedPoint, type Edit, type LayerOf } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import { clamp, type Seconds } from '@sure-hand/core/units';
import type { Move } from '@sure-hand/core/curve';
import { mendRefusal, pickOneMore } from '../../../hands/mending.js';
import { moveEdit, passMended } from '../../../hands/moving.js';
import { amountWords, movedWords, printShift } from '../../../hands/mendWords.js';
import {
  countPicked,
  pickedMoved,
  pickedOf,
  pickedThere,
  pointsWords,
  timesPicked,
  type Picked,
} from '../../../hands/picking.js';
import { mendScene } from '../../../open/mendScene.js';
import { troubleCame } from '../../../song/songSlice.js';
import { store } from '../../../store/store.js';
import { didSomething, pointsPicked, takenAsWell, takenInRow } from '../../../store/viewSlice.js';
import { RIDE, roomOfThrow, type ChannelRow } from '../rideLayout.js';
import { drawAmount, markAt, marksOf, type PointMark } from '../pointMarks.js';
import { xOf } from '../rideScale.js';
import { gridLineAt } from './gridLine.js';
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

/** So near to a line of the grid a point is drawn to it. */
const SNAP_PX = 6;

/**
 * Points: one that is taken hold of moves, with all that are picked where it is among them; a click picks it, with Ctrl one more or
 * one less. With Ctrl held a drag keeps to the way it starts, with Shift it is four times finer, with Alt it does not snap.
 */
export const mendPoints = (stage: StageRef): GestureKind => {
  const found = (at: PointerAt): PointMark | null =>
    isOnLane(stage, at) ? markAt(stage.current.song, at.row, stage.current.scale, at.x, at.rowY) : null;
  return {
    hit: (at) =>
      found(at) && {
        cursor: 'move',
        title:
          'A point: drag to move it (Ctrl keeps to one way, Shift is finer, Alt snaps to nothing), click to pick it (Ctrl for one more), Delete clears',
      },
    begin(at) {
      const mark = found(at);
      if (!mark || !isOnLane(stage, at)) return null;
      const { dispatch, open } = stage.current;
      dispatch(at.isLocked ? takenAsWell(at.row.control) : takenInRow(at.row));
      const { song } = open.drafting;
      const refused = refusalAt(song, at.row.control, at);
      if (refused) return refused;
      const { of } = marksOf(song, at.row);
      return new PointDrag(stage, at.row, { of, mark }, at).gesture;
    },
  };
};

/** A point that a hand has hold of, and the layer of the lane it is on. */
type HeldPoint = { readonly of: LayerOf; readonly mark: PointMark };

/** Points in a hand, from where it took hold of one of them. */
class PointDrag {
  /** Which way it goes, where it keeps to one. */
  #way: 't' | 'travel' | null = null;
  #moved = { t: 0, travel: 0 };
  #last: { readonly x: number; readonly y: number };
  #edit: Edit | null = null;
  #by: Move = { t: 0, travel: 0 };
  #words = '';
  /** What is picked as the hand took hold, and what moves with it. */
  readonly #before: Picked | null;
  readonly #picked: Picked;

  constructor(
    readonly stage: StageRef,
    readonly row: ChannelRow,
    readonly held: HeldPoint,
    readonly from: PointerAt,
  ) {
    this.#last = { x: from.x, y: from.rowY };
    const { of, mark } = held;
    this.#before = pickedThere(stage.current.open.drafting.song, store.getState().view.picked);
    const isIn = timesPicked(this.#before, of).includes(mark.t);
    const own = { ...of, times: [mark.t] };
    this.#picked = isIn
      ? this.#before!
      : from.isLocked
        ? pickOneMore(stage.current.song, this.#before, of, mark.t)!
        : pickedOf([own])!;
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
      dispatch(pointsPicked(this.#picked));
    }
    this.#last = { x: at.x, y: at.rowY };
    const step = at.isFine ? FINE : 1;
    this.#moved.t += (step * dx) / scale.pxPerSec;
    // More than the whole throw is none.
    this.#moved.travel = clamp(this.#moved.travel - (step * dy) / roomOfThrow(this.row), -1, 1);
    const { travel } = this.#moved;
    const by = {
      t: at.isLocked && this.#way === 'travel' ? 0 : this.#snapped(at),
      travel: at.isLocked && this.#way === 't' ? 0 : travel,
    };
    this.#by = by;
    this.#edit = moveEdit(mendScene(open), this.#picked, by);
    if (!this.#edit) return;
    const { song } = open.drafting.draft(this.#edit);
    this.#words = this.#amount(open.drafting.song, song, by);
  }

  /** How far it goes in time: where that brings the point in the hand near a line of the grid, to it. */
  #snapped({ isFree }: PointerAt): Seconds {
    const { t } = this.#moved;
    const { scale } = this.stage.current;
    const to = this.held.mark.t + t;
    const line = isFree ? null : gridLineAt(this.stage, to);
    return line !== null && Math.abs(line - to) * scale.pxPerSec <= SNAP_PX ? line - this.held.mark.t : t;
  }

  #amount(before: Song, after: Song, by: Move): string {
    const { of, mark } = this.held;
    if (this.#picked.isPass) {
      const percent = Math.round(by.travel * 1000) / 10;
      return [
        by.t ? printShift(by.t) : '',
        percent ? `${percent > 0 ? '+' : '−'}${Math.abs(percent)} % of the throw` : '',
      ]
        .filter(Boolean)
        .join(', ');
    }
    return amountWords(before, of, mark, layerPoints(laneOf(after, of.control), of.layer).point(mark.index));
  }

  #end(at: PointerAt): void {
    const { dispatch, open } = this.stage.current;
    if (!this.#edit) return this.#click(at);
    const scene = mendScene(open);
    if (this.#picked.isPass && scene.fresh) {
      open.drafting.drop();
      passMended(scene, this.#edit, this.#by, this.#words);
      return;
    }
    const was = open.drafting.song;
    const { song, changed } = open.drafting.keep(this.#edit);
    if (!changed.length) return;
    const next = pickedMoved(was, song, this.#picked);
    dispatch(pointsPicked(next));
    dispatch(didSomething(movedWords(song, this.#picked.lanes, countPicked(this.#picked), this.#words)));
  }

  #click(at: PointerAt): void {
    const { dispatch, song } = this.stage.current;
    const { of, mark } = this.held;
    const own = pickedOf([{ ...of, times: [mark.t] }]);
    dispatch(pointsPicked(at.isLocked ? pickOneMore(song, this.#before, of, mark.t) : own));
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
    if (countPicked(this.#picked) !== 1 || !this.#edit) return;
    const { of, mark } = this.held;
    const { t } = layerPoints(laneOf(this.stage.current.open.drafting.song, of.control), of.layer);
    const { index } = mark;
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
  dispatch(pointsPicked(pickedOf([{ ...of, times: [t] }])));
  dispatch(
    didSomething(
      `A point added: ${pointsWords(song, of, layerPoints(laneOf(song, of.control), of.layer).length)} now.`,
    ),
  );
}
