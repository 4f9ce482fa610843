import { ClipDrag, type ClipPart } from '../../../hands/clipDrag.js';
import { askedFor } from '../../../store/viewSlice.js';
import { drawDraft, handleAt, type ClipHandle } from '../clipHandles.js';
import type { GestureKind, PointerAt, StageRef } from './gesture.js';
import { isOnCaps } from './rideCap.js';

const WORDS: Record<ClipPart, string> = {
  fadeIn: 'Fade in: drag, or click to type (C)',
  fadeOut: 'Fade out: drag, or click to type (C)',
  gain: 'Clip gain: drag up or down, or click to type (C)',
};

/** A clip's fade or gain: an edit once the pointer comes up; one that never moved asks for the numbers instead. */
export const shapeClip = (stage: StageRef): GestureKind => {
  const gripAt = (at: PointerAt): ClipHandle | null => {
    const { rows, scale } = stage.current;
    return at.onRuler || isOnCaps(stage, at) ? null : handleAt(rows, scale, at.x, at.rowY);
  };
  return {
    hit(at) {
      const handle = gripAt(at);
      return handle && { cursor: handle.part === 'gain' ? 'ns-resize' : 'ew-resize', title: WORDS[handle.part] };
    },
    begin(at) {
      const handle = gripAt(at);
      if (!handle) return null;
      const { clip, part, row } = handle;
      const { key } = row.channel;
      const { pxPerSec } = stage.current.scale;
      const drag = new ClipDrag({ channel: key, clip, part, x: at.x, y: at.y, pxPerSec });
      return {
        move: ({ x, y, isFine }) => drag.move(x, y, isFine),
        end() {
          const { open, dispatch } = stage.current;
          if (Object.keys(drag.changes).length) open.control.shapeClip(key, clip, drag.changes);
          else dispatch(askedFor({ what: 'clip', channel: key, at: clip.t }));
        },
        cancel: () => undefined,
        drop: () => undefined,
        isUnder: true,
        draw: (ctx, scale, look) => drawDraft(ctx, { row, part, clip: drag.draft, scale, look }),
        state: () => JSON.stringify(drag.changes),
      };
    },
  };
};
