import { useEffect, useLayoutEffect, useRef, type PointerEvent, type ReactNode } from 'react';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { LOOKS } from '../../parts/look.js';
import { useDrawing } from '../../parts/useDrawing.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { takenInHand } from '../../store/viewSlice.js';
import { hasLetGo } from '../../parts/usePointerDrag.js';
import { EffectDrag, type PicturePoint } from './effectDrag.js';
import { effectNow, paramId, type InsertOf } from './effectNow.js';
import { EffectPicture, innerOf, inside, isThere, type EffectScene } from './effectPicture.js';
import type { EffectHandle, EffectShape } from './effectShape.js';

/** A cap is taken hold of from so far away. */
const GRAB_PX = 26;

/** The picture of an insert, whose caps are ridden: two lanes at once, a third with Alt or a second finger. */
export function EffectCanvas({
  of,
  shape,
  width,
  height,
}: {
  of: InsertOf;
  shape: EffectShape;
  width: number;
  height: number;
}): ReactNode {
  const open = useOpenSong();
  const { scheme, inHand } = useViewParts('scheme', 'inHand');
  const scene: EffectScene = { open, of, shape, width, height, look: LOOKS[scheme], inHand };
  const kept = useRef<EffectPicture | null>(null);
  const picture = (kept.current ??= new EffectPicture(scene));
  useLayoutEffect(() => picture.show(scene));
  const box = useDrawing(picture, width, height);
  const hand = useEffectHand(scene);
  const { channel } = of;
  const { slot } = of.insert;
  useEffect(() => {
    open.engine.watch({ channel, slot });
    return () => open.engine.watch(null);
  }, [open, channel, slot]);
  return <div ref={box} data-testid="effect-picture" className="effect-picture" style={{ width, height }} {...hand} />;
}

/** Where a pointer is in its box. */
function point(
  event: PointerEvent<HTMLElement>,
  at: Pick<globalThis.PointerEvent, 'clientX' | 'clientY' | 'timeStamp'> = event.nativeEvent,
): PicturePoint {
  const { left, top } = event.currentTarget.getBoundingClientRect();
  return { x: at.clientX - left, y: at.clientY - top, atMs: at.timeStamp };
}

type PointerHandler = (event: PointerEvent<HTMLElement>) => void;

/** What pointers do in the picture of an effect. */
function useEffectHand(scene: EffectScene): {
  readonly onPointerDown: PointerHandler;
  readonly onPointerMove: PointerHandler;
  readonly onPointerUp: PointerHandler;
  readonly onPointerCancel: PointerHandler;
  readonly onLostPointerCapture: PointerHandler;
} {
  const { open, of, shape } = scene;
  const dispatch = useAppDispatch();
  const drag = useRef<{ readonly pointer: number; readonly by: EffectDrag } | null>(null);
  // A sheet that goes takes no hand along that is still down.
  useEffect(() => () => drag.current?.by.end(performance.now()), []);

  /** The cap nearest to a place, and how far it is. */
  const nearest = ({ x, y }: PicturePoint): EffectHandle | null => {
    if (!isThere(scene)) return null;
    const inner = innerOf(scene);
    const now = effectNow(open, of, open.control.position);
    const far = (handle: EffectHandle): number => {
      const place = inside(handle.place(now));
      return Math.hypot(inner.left + place.x * inner.width - x, inner.top + (1 - place.y) * inner.height - y);
    };
    const [first] = [...shape.handles].sort((a, b) => far(a) - far(b));
    return first && far(first) <= GRAB_PX ? first : null;
  };
  const down = (event: PointerEvent<HTMLElement>): void => {
    if (event.button !== 0) return;
    open.engine.wake();
    event.currentTarget.setPointerCapture(event.pointerId);
    const at = point(event);
    if (drag.current) return drag.current.by.second(event.pointerId, at);
    const handle = nearest(at);
    if (!handle) return;
    const front = handle.up ?? handle.across;
    if (front) dispatch(takenInHand(paramId(of, front.param)));
    const now = effectNow(open, of, open.control.position);
    const by = new EffectDrag(open, handle, (param) => paramId(of, param), now.value, innerOf(scene), at);
    drag.current = { pointer: event.pointerId, by };
  };
  const move = (event: PointerEvent<HTMLElement>): void => {
    const at = point(event);
    const held = drag.current;
    if (held && hasLetGo(event)) return up(event);
    if (!held) {
      const handle = nearest(at);
      event.currentTarget.style.cursor = handle ? 'grab' : '';
      event.currentTarget.title = handle ? handle.name : '';
      return;
    }
    if (held.pointer !== event.pointerId) return held.by.moveSecond(event.pointerId, at);
    // All that came since the last picture, with the keys that were held then.
    const moves = event.nativeEvent.getCoalescedEvents?.() ?? [];
    for (const one of moves.length ? moves : [event.nativeEvent])
      held.by.move(point(event, one), { isFine: one.shiftKey, isThird: one.altKey });
  };
  const up = (event: PointerEvent<HTMLElement>): void => {
    const held = drag.current;
    if (!held) return;
    if (held.pointer !== event.pointerId) return held.by.endSecond(event.pointerId);
    held.by.end(event.timeStamp);
    drag.current = null;
  };
  return { onPointerDown: down, onPointerMove: move, onPointerUp: up, onPointerCancel: up, onLostPointerCapture: up };
}
