import { pickedOf, pointsWords, countPicked, timesPicked, type Picked } from '../../../hands/picking.js';
import { store } from '../../../store/store.js';
import { didSomething, pointsPicked, takenAsWell } from '../../../store/viewSlice.js';
import { marksIn, marksOf } from '../pointMarks.js';
import type { ChannelRow } from '../rideLayout.js';
import type { GestureKind, StageRef } from './gesture.js';
import { isOnLane } from './mendPoints.js';

/** With Ctrl, a drag over tall rows picks the points in a box, of all the lanes that it covers; those that were picked stay so. */
export const boxPoints = (stage: StageRef): GestureKind => ({
  hit: () => null,
  begin(at) {
    if (!at.isLocked || !isOnLane(stage, at)) return null;
    stage.current.dispatch(takenAsWell(at.row.control));
    let to = { x: at.x, y: at.rowY };
    return {
      move: ({ x, rowY }) => void (to = { x, y: rowY }),
      end() {
        const { song, dispatch } = stage.current;
        const picked = pickedIn(stage, { x: [at.x, to.x], y: [at.rowY, to.y] });
        dispatch(pointsPicked(picked));
        if (picked) dispatch(didSomething(`${pointsWords(song, picked.lanes, countPicked(picked))} picked.`));
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

type Box = { readonly x: readonly [number, number]; readonly y: readonly [number, number] };

/** What was picked, and the points of tall rows that stand in a box. */
function pickedIn(stage: StageRef, { x, y }: Box): Picked | null {
  const { song, scale, rows } = stage.current;
  const { picked } = store.getState().view;
  const [top, bottom] = [Math.min(...y), Math.max(...y)];
  const covered = rows.filter(
    (row): row is ChannelRow => row.kind === 'channel' && row.isTall && row.top < bottom && row.top + row.height > top,
  );
  const others = picked?.lanes.filter((one) => !covered.some(({ control }) => control === one.control)) ?? [];
  const lanes = covered.map((row) => {
    const { of } = marksOf(song, row);
    const inside = marksIn(song, row, scale, Math.min(...x), Math.max(...x)).filter(
      (mark) => mark.y >= top && mark.y <= bottom,
    );
    const times = new Set([...timesPicked(picked, of), ...inside.map(({ t }) => t)]);
    return { ...of, times: [...times].sort((a, b) => a - b) };
  });
  return pickedOf([...others, ...lanes]);
}
