import { useLayoutEffect, useMemo, useRef, type PointerEvent, type ReactNode, type RefObject } from 'react';
import { meterMap } from '@sure-hand/core/time';
import type { Song } from '@sure-hand/core/song';
import { LOOKS } from '../../parts/look.js';
import { useDrawing } from '../../parts/useDrawing.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import type { LaneStage, PointerAt, StageRef } from '../ride/gestures/index.js';
import { RIDE } from '../ride/rideLayout.js';
import { useGestureBox } from '../ride/useGestureBox.js';
import { useWheelOnCaps } from '../ride/useWheelOnCaps.js';
import { deskGestures } from './deskGestures.js';
import { DESK, rowOf, stripAt, throwHeight, type Strip } from './deskLayout.js';
import { DeskPicture, stripScale, type DeskScene } from './deskPicture.js';

type Props = {
  readonly song: Song;
  readonly strips: readonly Strip[];
  readonly width: number;
  readonly height: number;
  readonly scrolled: RefObject<number>;
};

/** The throws of the Desk. Drawn from the engine and the recorder with every picture, not by React. */
export function DeskCanvas({ song, strips, width, height, scrolled }: Props): ReactNode {
  const open = useOpenSong();
  const dispatch = useAppDispatch();
  const { scheme, inHand } = useViewParts('scheme', 'inHand');
  const map = useMemo(() => meterMap(song.tempo, song.meter), [song.tempo, song.meter]);
  const stage = useRef<LaneStage | null>(null);
  const held = useMemo(() => deskGestures(stage as StageRef), []);
  const high = throwHeight(height);
  const canvasPx = DESK.throwTop + high + DESK.underPx;
  const scene: DeskScene = { open, map, strips, width, height: canvasPx, scrolled, look: LOOKS[scheme], inHand };
  const kept = useRef<DeskPicture | null>(null);
  const picture = (kept.current ??= new DeskPicture(scene));
  useLayoutEffect(() => {
    picture.show(scene);
    const nowhere = { rows: [], range: null, freshHandles: () => [] };
    stage.current = { ...{ open, dispatch, song, map }, ...nowhere, scale: stripScale(map, 0, 44) };
  });
  const box = useDrawing(picture, width, canvasPx);
  useWheelOnCaps(box, (x) => stripAt(strips, x - DESK.scalePx + scrolled.current)?.control ?? null);
  const grabbed = useRef(new Map<number, Grabbed>());
  const at = (event: PointerEvent): PointerAt => {
    const isHeld = held.holds(event.pointerId) && event.type !== 'pointerdown';
    const known = isHeld ? grabbed.current.get(event.pointerId) : undefined;
    const on = known ?? { strip: stripUnder(event, strips, scrolled.current), scrolled: scrolled.current };
    grabbed.current.set(event.pointerId, on);
    return pointerAt(event, on, high);
  };
  return (
    <div
      ref={box}
      data-testid="throws"
      className="desk-throws"
      style={{ width, height: canvasPx }}
      {...useGestureBox(held, at)}
    />
  );
}

/** The strip that a pointer is on, and how far the strips were scrolled; of one that is down those where it went down, wherever it goes. */
type Grabbed = { readonly strip: Strip | null; readonly scrolled: number };

function stripUnder(event: PointerEvent, strips: readonly Strip[], scrolled: number): Strip | null {
  const across = event.clientX - event.currentTarget.getBoundingClientRect().left - DESK.scalePx;
  return across < 0 ? null : stripAt(strips, across + scrolled);
}

/** Where a pointer is: as far from its strip's throw as it would be from Ride's line. */
function pointerAt(event: PointerEvent, { strip, scrolled }: Grabbed, high: number): PointerAt {
  const box = event.currentTarget.getBoundingClientRect();
  const y = event.clientY - box.top;
  const x = (clientX: number): number =>
    clientX - box.left - DESK.scalePx + scrolled - (strip?.left ?? 0) - DESK.throwX + RIDE.meterPx;
  const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
  return {
    id: event.pointerId,
    x: x(event.clientX),
    y,
    rowY: y,
    row: strip && rowOf(strip, high),
    onRuler: false,
    isFine: event.shiftKey,
    isFree: event.altKey,
    isLocked: event.ctrlKey || event.metaKey,
    atMs: event.timeStamp,
    moves: (moves.length ? moves : [event.nativeEvent]).map((one) => ({
      x: x(one.clientX),
      y: one.clientY - box.top,
      isFine: one.shiftKey,
      atMs: one.timeStamp,
    })),
  };
}
