import { useEffect, type PointerEvent } from 'react';
import { giveUpByEscape } from '../../hands/keys/pageKeys.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { hasLetGo } from '../../parts/usePointerDrag.js';
import type { HeldGestures, PointerAt } from './gestures/index.js';

type PointerHandler = (event: PointerEvent<HTMLElement>) => void;
type GestureBox = {
  readonly onPointerDown: PointerHandler;
  readonly onPointerMove: PointerHandler;
  readonly onPointerUp: PointerHandler;
  readonly onPointerCancel: PointerHandler;
  readonly onLostPointerCapture: PointerHandler;
};

/** What a box hands on to gestures: each pointer is captured by what it takes hold of; where it holds nothing it is told what it could. */
export function useGestureBox(held: HeldGestures, at: (event: PointerEvent) => PointerAt): GestureBox {
  const { engine } = useOpenSong();
  useLettingGo(held);
  const up: PointerHandler = (event) => held.up(at(event), event.type !== 'pointerup');
  return {
    onPointerDown: (event) => {
      if (event.button !== 0) return;
      engine.wake();
      event.currentTarget.setPointerCapture(event.pointerId);
      held.down(at(event));
    },
    onPointerMove: (event) => {
      if (held.holds(event.pointerId)) return hasLetGo(event) ? held.up(at(event), false) : held.move(at(event));
      // Says by the pointer what it could take hold of.
      const hover = held.hover(at(event));
      event.currentTarget.style.cursor = hover?.cursor ?? '';
      event.currentTarget.title = hover?.title ?? '';
    },
    onPointerUp: up,
    onPointerCancel: up,
    // It comes after each pointer that has come up, too, when nothing is held any more.
    onLostPointerCapture: up,
  };
}

/** Escape gives up what can be given up; a view that goes by a key takes no hand along that is still down. */
function useLettingGo(held: HeldGestures): void {
  useEffect(() => {
    const unheard = giveUpByEscape(() => held.drop());
    return () => {
      unheard();
      held.leave(performance.now());
    };
  }, [held]);
}
