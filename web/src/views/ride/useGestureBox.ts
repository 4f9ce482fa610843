import { useEffect, type PointerEvent } from 'react';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import type { HeldGestures, PointerAt } from './gestures/index.js';

type PointerHandler = (event: PointerEvent<HTMLElement>) => void;
type GestureBox = {
  readonly onPointerDown: PointerHandler;
  readonly onPointerMove: PointerHandler;
  readonly onPointerUp: PointerHandler;
  readonly onPointerCancel: PointerHandler;
};

/** What a box hands on to gestures: each pointer is captured by what it takes hold of; where it holds nothing it is told what it could. */
export function useGestureBox(held: HeldGestures, at: (event: PointerEvent) => PointerAt): GestureBox {
  const { engine } = useOpenSong();
  useLettingGo(held);
  const up: PointerHandler = (event) => held.up(at(event), event.type === 'pointercancel');
  return {
    onPointerDown: (event) => {
      if (event.button !== 0) return;
      engine.wake();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.down(at(event));
    },
    onPointerMove: (event) => {
      if (held.holds(event.pointerId)) return held.move(at(event));
      // Says by the pointer what it could take hold of.
      const hover = held.hover(at(event));
      event.currentTarget.style.cursor = hover?.cursor ?? '';
      event.currentTarget.title = hover?.title ?? '';
    },
    onPointerUp: up,
    onPointerCancel: up,
  };
}

/** Escape gives up what can be given up; a view that goes by a key takes no hand along that is still down. */
function useLettingGo(held: HeldGestures): void {
  useEffect(() => {
    const cancel = (event: KeyboardEvent): void => {
      if (event.key === 'Escape') held.drop();
    };
    window.addEventListener('keydown', cancel);
    return () => {
      window.removeEventListener('keydown', cancel);
      held.leave(performance.now());
    };
  }, [held]);
}
