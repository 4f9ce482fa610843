import { controlId, controlsOf } from '@sure-hand/core/song';
import { HandDrag } from '../../hands/handDrag.js';
import { takenInRow } from '../../store/viewSlice.js';
import { DONE, HeldGestures, type GestureKind, type PointerAt, type StageRef } from '../ride/gestures/gesture.js';
import { rideCap } from '../ride/gestures/rideCap.js';
import { meterWords } from '../ride/meterWords.js';
import { DESK } from './deskLayout.js';

/** How near to the pan that lies across a pointer takes hold of it. */
const PAN_GRAB_PX = 12;

/** Where the pan of a strip lies, by the height of the throws. */
const panY = (throwPx: number): number => DESK.throwTop + throwPx + DESK.panAt;

/** A hand on the pan that lies across under a throw: to the right is right. */
const ridePan = (stage: StageRef): GestureKind => ({
  hit: () => null,
  begin({ row, x, y, atMs }: PointerAt) {
    const { open, dispatch, song } = stage.current;
    if (!row || Math.abs(y - panY(row.height)) > PAN_GRAB_PX) return null;
    const pan = controlId(row.channel.key, 'pan');
    if (!controlsOf(song).has(pan)) return null;
    dispatch(takenInRow(row));
    const drag = new HandDrag(open.control, pan, -x, atMs);
    return {
      move: ({ moves }) => moves.forEach((one) => drag.move(-one.x, one.isFine, one.atMs)),
      end: (at) => drag.end(at.atMs),
      cancel: (at) => drag.end(at),
    };
  },
});

/** A click on the meters clears what they hold. */
const clearAcross = (stage: StageRef): GestureKind => ({
  hit: ({ row, y }) =>
    row && y < DESK.throwTop ? { cursor: '', title: meterWords(stage.current.open, row.channel) } : null,
  begin({ y }) {
    if (y > DESK.meterTop + DESK.meterPx + 3) return null;
    stage.current.open.meters.clear();
    return DONE;
  },
});

/** A click beside the throw takes the strip's control in hand. */
const takeStrip = (stage: StageRef): GestureKind => ({
  hit: () => null,
  begin({ row }) {
    if (!row) return null;
    stage.current.dispatch(takenInRow(row));
    return DONE;
  },
});

/** A cap is taken hold of along the whole of its throw, and nowhere else. */
const onThrow = (kind: GestureKind): GestureKind => ({
  hit: kind.hit,
  begin: (at) => (at.row && at.y >= at.row.top && at.y <= at.row.top + at.row.height ? kind.begin(at) : null),
});

/** What pointers can do on the Desk, the first that fits first. Each finger has hold of a cap of its own. */
export const deskGestures = (stage: StageRef): HeldGestures =>
  new HeldGestures([clearAcross(stage), ridePan(stage), onThrow(rideCap(stage)), takeStrip(stage)]);
