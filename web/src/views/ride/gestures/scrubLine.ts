import { store } from '../../../store/store.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';

/** So near to the line's head the song can be taken hold of. */
const REACH_PX = 10;

/**
 * The head of the line, on the ruler: a drag there draws the song under it, heard at the hand's speed, either way. Where the whole song
 * stands in the picture it is the line that goes. With Shift it is four times finer.
 */
export const scrubLine = (stage: StageRef): GestureKind => {
  const isHere = ({ x, onRuler }: PointerAt): boolean =>
    onRuler && Math.abs(x - stage.current.scale.lineX) <= REACH_PX && !stage.current.open.session.isMoving;
  return {
    hit: (at) =>
      isHere(at)
        ? { cursor: 'grab', title: 'Drag: the song is drawn under the line and heard (, and . by keys)' }
        : null,
    begin(at) {
      if (!isHere(at)) return null;
      const { control } = stage.current.open;
      let last = at.x;
      let isBegun = false;
      const end = (): void => control.scrubEnd();
      return {
        move({ x, isFine }) {
          if (!isBegun) control.scrubBegin();
          isBegun = true;
          // Play, or a locate, has taken the song out of the hand.
          if (!control.isScrubbing) return;
          const way = store.getState().view.isWhole ? 1 : -1;
          const sec = (way * (x - last) * (isFine ? 0.25 : 1)) / stage.current.scale.pxPerSec;
          last = x;
          control.scrollTo(control.position + sec);
        },
        end,
        cancel: end,
        drop: end,
      };
    },
  };
};
