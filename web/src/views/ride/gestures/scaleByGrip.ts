import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { amountOf, scaleEdit } from '../../../hands/moving.js';
import { countPicked, pickedThere, pointsWords, type Picked } from '../../../hands/picking.js';
import { store } from '../../../store/store.js';
import { didSomething } from '../../../store/viewSlice.js';
import { roomOfThrow, type ChannelRow } from '../rideLayout.js';
import { scaleGripAt, scaleGrips, type ScaleGrip } from '../scaleGrips.js';
import { draftedGesture } from './draftedGesture.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';
import { refusalAt } from './mendPoints.js';

const FINE = 0.25;
const WORDS = {
  top: 'Drag: the picked points further apart in height, or nearer to the lowest (Alt+. and Alt+,)',
  foot: 'Drag: the picked points further apart in height, or nearer to the highest',
} as const;

/** The picked points drawn apart in height, or together, by the grips over and under them. */
export const scaleByGrip = (stage: StageRef): GestureKind => {
  const gripAt = (at: PointerAt): ScaleGrip | null => {
    if (at.onRuler) return null;
    const { song, rows, scale } = stage.current;
    const { picked } = store.getState().view;
    if (!picked) return null;
    // A grip may stand a little outside its lane's points, never outside its row.
    const tall = rows.filter((row): row is ChannelRow => row.kind === 'channel' && row === at.row);
    return scaleGripAt(
      tall.flatMap((row) => scaleGrips(song, row, scale, picked)),
      at.x,
      at.rowY,
    );
  };
  return {
    hit(at) {
      const grip = gripAt(at);
      return grip && { cursor: 'ns-resize', title: WORDS[grip.side] };
    },
    begin(at) {
      const grip = gripAt(at);
      const picked = pickedThere(stage.current.song, store.getState().view.picked);
      if (!grip || !picked) return null;
      return (
        refusalAt(stage.current.song, grip.row.control, at) ??
        draftedGesture(stage, new ScaleDrag(stage, grip, picked, at))
      );
    },
  };
};

class ScaleDrag {
  #gone = 0;
  last: { readonly x: number; readonly y: number };
  #edit: Edit | null = null;
  words = '';

  constructor(
    readonly stage: StageRef,
    readonly grip: ScaleGrip,
    readonly picked: Picked,
    from: PointerAt,
  ) {
    this.last = { x: from.x, y: from.rowY };
  }

  move(at: PointerAt): void {
    const { open } = this.stage.current;
    const { row, side, apart, highest } = this.grip;
    const up = ((at.isFine ? FINE : 1) * (this.last.y - at.rowY)) / roomOfThrow(row);
    this.#gone += side === 'top' ? up : -up;
    this.last = { x: at.x, y: at.rowY };
    const factor = Math.max(0, (apart + this.#gone) / apart);
    this.#edit = scaleEdit(open.drafting.song, this.picked, factor, side === 'top' ? undefined : highest);
    if (!this.#edit) return;
    open.drafting.draft(this.#edit);
    this.words = `${(Math.round(factor * 1000) / 10).toFixed(1)} %`;
  }

  end(): void {
    if (!this.#edit) return;
    const { dispatch, open } = this.stage.current;
    const amount = amountOf(open.drafting.song, applyEdit(open.drafting.song, this.#edit).song, this.picked);
    const { changed, song } = open.drafting.keep(this.#edit);
    if (!changed.length) return;
    const about = this.grip.side === 'top' ? 'lowest' : 'highest';
    const which = pointsWords(song, this.picked.lanes, countPicked(this.picked));
    dispatch(
      didSomething(`${which} scaled to ${this.words} about the ${about}${amount ? `: the first ${amount}` : ''}.`),
    );
  }
}
