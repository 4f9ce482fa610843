import { mendScene } from '../../../open/mendScene.js';
import { carriesTo, freshSpans, spansToCarry } from '../../../hands/carrying.js';
import { takenInRow } from '../../../store/viewSlice.js';
import { CarryDrag, carryHandleAt, drawCarryDrag, type CarryHandle } from '../carryHandles.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';

const WORDS = {
  start: 'Where the pass began: drag back to carry its value there (Shift+←); Alt keeps it from snapping',
  end: 'Where the pass ended: drag on to carry its value there (Shift+→); Alt keeps it from snapping',
} as const;

/** An end of what the last pass wrote is carried on, or its beginning back. */
export const carryEnd = (stage: StageRef): GestureKind => {
  const handleAt = ({ x, rowY, onRuler }: PointerAt): CarryHandle | null =>
    onRuler ? null : carryHandleAt(stage.current.freshHandles(), x, rowY);
  return {
    hit(at) {
      const handle = handleAt(at);
      return handle && { cursor: 'ew-resize', title: WORDS[handle.edge] };
    },
    begin(at) {
      const handle = handleAt(at);
      if (!handle) return null;
      const { open, dispatch, range } = stage.current;
      dispatch(takenInRow(handle.row));
      const drag = new CarryDrag(handle, open.session.recorder.song, range);
      return {
        move: ({ x, isFree }) => drag.move(x, stage.current.scale, isFree),
        end() {
          const { carry } = drag;
          if (!carry) return;
          const scene = mendScene(open);
          const { fresh, edge } = handle;
          // With the whole pass picked the ends of all its lanes go there together.
          const all = scene.picked?.isPass && scene.fresh ? freshSpans(scene.fresh.receipt, scene.fresh.changes) : [];
          const others = spansToCarry(all, edge === 'end' ? 1 : -1).filter(
            (one) => one.control !== fresh.control || one.layer !== fresh.layer,
          );
          open.control.carry([carry, ...carriesTo(scene.song, others, edge, drag.to)]);
        },
        cancel: () => undefined,
        drop: () => undefined,
        draw: (ctx, scale, look) => drawCarryDrag(ctx, look, scale, drag),
        state: () => String(drag.to),
      };
    },
  };
};
