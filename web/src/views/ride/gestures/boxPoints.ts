import { pointsWords } from '../../../hands/mending.js';
import { store } from '../../../store/store.js';
import { didSomething, pointsPicked, takenInHand } from '../../../store/viewSlice.js';
import { marksIn, marksOf } from '../pointMarks.js';
import type { GestureKind, StageRef } from './gesture.js';
import { isOnLane } from './mendPoints.js';

/** With Ctrl, a drag over a tall row picks the points in a box; those that were picked stay so. */
export const boxPoints = (stage: StageRef): GestureKind => ({
  hit: () => null,
  begin(at) {
    if (!at.isLocked || !isOnLane(stage, at)) return null;
    const { row } = at;
    stage.current.dispatch(takenInHand(row.control));
    let to = { x: at.x, y: at.rowY };
    return {
      move: ({ x, rowY }) => void (to = { x, y: rowY }),
      end() {
        const { song, scale, dispatch } = stage.current;
        const { of } = marksOf(song, row);
        const [top, bottom] = [Math.min(at.rowY, to.y), Math.max(at.rowY, to.y)];
        const inside = marksIn(song, row, scale, Math.min(at.x, to.x), Math.max(at.x, to.x)).filter(
          ({ y }) => y >= top && y <= bottom,
        );
        const { picked } = store.getState().view;
        const before = picked?.control === of.control && picked.layer === of.layer ? picked.times : [];
        const times = [...new Set([...before, ...inside.map(({ t }) => t)])].sort((a, b) => a - b);
        dispatch(pointsPicked({ ...of, times }));
        if (times.length) dispatch(didSomething(`${pointsWords(song, of, times.length)} picked.`));
      },
      cancel: () => undefined,
      drop: () => undefined,
      holdsPicture: true,
      draw(ctx, _scale, look) {
        ctx.save();
        ctx.strokeStyle = look.bone;
        ctx.setLineDash([4, 3]);
        ctx.strokeRect(Math.min(at.x, to.x), Math.min(at.rowY, to.y), Math.abs(to.x - at.x), Math.abs(to.y - at.rowY));
        ctx.restore();
      },
      state: () => `${to.x} ${to.y}`,
    };
  },
});
