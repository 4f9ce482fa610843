import { useLayoutEffect, useMemo, useRef, type PointerEvent, type ReactNode, type RefObject } from 'react';
import { meterMap } from '@sure-hand/core/time';
import type { Song } from '@sure-hand/core/song';
import { LOOKS } from '../../parts/look.js';
import { useDrawing } from '../../parts/useDrawing.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { rideGestures, type LaneStage, type PointerAt, type StageRef } from './gestures/index.js';
import { LanePicture, type PictureScene } from './lanePicture.js';
import { RIDE, rowAt, type RideRow } from './rideLayout.js';
import { useGestureBox } from './useGestureBox.js';
import { useWheelOnCaps } from './useWheelOnCaps.js';

/** Where the canvas is, and what it shows. */
type Props = {
  readonly song: Song;
  readonly rows: readonly RideRow[];
  readonly width: number;
  readonly height: number;
  /** How far the rows are scrolled, read while drawing. */
  readonly scrolled: RefObject<number>;
};

/** The lanes of Ride. Drawn from the engine and the recorder with every picture, not by React. */
export function RideCanvas({ song, rows, width, height, scrolled }: Props): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const { secPerScreen, isWhole, scheme, range, inHand } = useViewParts(
    'secPerScreen',
    'isWhole',
    'scheme',
    'range',
    'inHand',
  );
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const stage = useRef<LaneStage | null>(null);
  const held = useMemo(() => rideGestures(stage as StageRef), []);
  const look = LOOKS[scheme];
  const size = { width, height, scrolled };
  const scene: PictureScene = { open, song, map, rows, ...size, look, range, inHand, isWhole, secPerScreen };
  const kept = useRef<LanePicture | null>(null);
  const picture = (kept.current ??= new LanePicture(scene, held));
  // Only what has come on screen: what gestures act on is what one sees.
  useLayoutEffect(() => {
    picture.show(scene);
    stage.current = {
      ...{ open, dispatch, song, map, rows, range },
      get scale() {
        return picture.scale;
      },
      freshHandles: () => picture.freshHandles(rows),
    };
  });
  const box = useDrawing(picture, width, height);
  useWheelOnCaps(box, (x, y) =>
    y >= RIDE.rulerPx && Math.abs(x - picture.scale.lineX) <= RIDE.grabPx
      ? (rowAt(rows, y - RIDE.rulerPx + scrolled.current)?.control ?? null)
      : null,
  );
  const at = (event: PointerEvent): PointerAt => pointerAt(event, rows, scrolled.current);
  return (
    <div ref={box} data-testid="lanes" className="ride-lanes" style={{ width, height }} {...useGestureBox(held, at)} />
  );
}

/** Where a pointer is on the lanes, and where it was since the picture before. */
function pointerAt(event: PointerEvent, rows: readonly RideRow[], scrolled: number): PointerAt {
  const box = event.currentTarget.getBoundingClientRect();
  const [x, y] = [event.clientX - box.left, event.clientY - box.top];
  const rowY = y - RIDE.rulerPx + scrolled;
  const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
  return {
    id: event.pointerId,
    x,
    y,
    rowY,
    row: rowAt(rows, rowY),
    onRuler: y < RIDE.rulerPx,
    isFine: event.shiftKey,
    isFree: event.altKey,
    isLocked: event.ctrlKey || event.metaKey,
    atMs: event.timeStamp,
    moves: (moves.length ? moves : [event.nativeEvent]).map((one) => ({
      x: one.clientX - box.left,
      y: one.clientY - box.top,
      isFine: one.shiftKey,
      atMs: one.timeStamp,
    })),
  };
}
