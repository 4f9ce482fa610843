import type { Seconds } from '@sure-hand/core/units';
import { rangeSet, takenInRow } from '../../../store/viewSlice.js';
import { timeAt } from '../rideScale.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';
import { gridLineAt } from './gridLine.js';

/** A drag shorter than this is a click. */
const DRAG_PX = 4;

/** A range is swept over the lanes or the ruler; a click on a row takes it in hand, one on the ruler goes there. */
export const sweepRange = (stage: StageRef): GestureKind => {
  const timeOf = ({ x, isFree }: PointerAt): Seconds => {
    const { song, scale } = stage.current;
    const t = Math.max(0, Math.min(song.length, timeAt(scale, x)));
    return isFree ? t : (gridLineAt(stage, t) ?? t);
  };
  return {
    hit: () => null,
    begin(at) {
      if (at.row && !at.onRuler) stage.current.dispatch(takenInRow(at.row));
      const [from, fromX] = [timeOf(at), at.x];
      const { range } = stage.current;
      let isClick = true;
      const drop = (): void => void stage.current.dispatch(rangeSet(range));
      return {
        move(now) {
          isClick &&= Math.abs(now.x - fromX) < DRAG_PX;
          const to = timeOf(now);
          if (isClick || to === from) return;
          stage.current.dispatch(rangeSet([Math.min(from, to), Math.max(from, to)]));
        },
        end(now) {
          if (isClick && now.onRuler) void stage.current.open.control.locate(timeAt(stage.current.scale, now.x));
        },
        cancel: drop,
        drop,
        holdsPicture: true,
      };
    },
  };
};
