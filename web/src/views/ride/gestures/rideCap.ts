import { controlOf, isSwitch } from '@sure-hand/core/song';
import { HandDrag, SwitchPress } from '../../../hands/handDrag.js';
import { takenInRow } from '../../../store/viewSlice.js';
import { RIDE } from '../rideLayout.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';

/** Whether a pointer is on the caps, which stand under the line. */
export const isOnCaps = (stage: StageRef, { x, onRuler }: PointerAt): boolean =>
  !onRuler && Math.abs(x - stage.current.scale.lineX) <= RIDE.grabPx;

/** A hand on a cap: it is ridden as long as the pointer is down. */
export const rideCap = (stage: StageRef): GestureKind => ({
  hit: () => null,
  begin(at) {
    const { open, dispatch, song } = stage.current;
    if (!at.row || !isOnCaps(stage, at)) return null;
    const { control } = at.row;
    dispatch(takenInRow(at.row));
    const drag = isSwitch(controlOf(song, control))
      ? new SwitchPress(open.control, control, at.atMs)
      : new HandDrag(open.control, control, at.y, at.atMs);
    return {
      move: ({ moves }) => moves.forEach(({ y, isFine, atMs }) => drag.move(y, isFine, atMs)),
      end: ({ atMs }) => drag.end(atMs),
      cancel: (atMs) => drag.end(atMs),
    };
  },
});
