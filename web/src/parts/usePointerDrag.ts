import { useEffect, useRef, type PointerEvent } from 'react';
import { giveUpByEscape } from '../hands/keys/pageKeys.js';

/** What a pointer does that has taken hold of something. */
export type Dragged = {
  readonly move?: (event: PointerEvent) => void;
  /** It came up. */
  readonly end?: (event: PointerEvent) => void;
  /** It was taken away, by Esc, by the system, or as what it had hold of went out of sight: all is as it was. */
  readonly giveUp?: (atMs: number) => void;
};

type Handler = (event: PointerEvent) => void;
type Handlers = {
  readonly onPointerDown: Handler;
  readonly onPointerMove: Handler;
  readonly onPointerUp: Handler;
  readonly onPointerCancel: Handler;
  readonly onLostPointerCapture: Handler;
};

/** Whether the main button of a mouse has come up while another is still down: no other event tells of that. */
export const hasLetGo = ({ pointerType, buttons }: PointerEvent): boolean => pointerType === 'mouse' && !(buttons & 1);

/**
 * A drag of something by a pointer's main button: captured, so that it goes on wherever the pointer goes, and given up by Esc, or where the
 * pointer is lost. `begin`: what is done with it; null where nothing is taken hold of. Other buttons, and other fingers meanwhile, do nothing.
 * `escapes`: whether Esc gives it up; a hand on a control is let go of with all the others.
 */
export function usePointerDrag(begin: (event: PointerEvent) => Dragged | null, escapes = true): Handlers {
  const held = useRef<{ readonly pointer: number; readonly by: Dragged; readonly unheard: () => void } | null>(null);
  const over = (): Dragged | undefined => {
    const was = held.current;
    held.current = null;
    was?.unheard();
    return was?.by;
  };
  const giveUp = (atMs: number): boolean => {
    const isHeld = held.current !== null;
    over()?.giveUp?.(atMs);
    return isHeld;
  };
  const latest = useRef(giveUp);
  latest.current = giveUp;
  useEffect(() => () => void latest.current(performance.now()), []);
  const isOurs = (event: PointerEvent): boolean => held.current?.pointer === event.pointerId;
  const lost: Handler = (event) => {
    if (isOurs(event)) giveUp(event.timeStamp);
  };
  const up: Handler = (event) => {
    if (isOurs(event)) over()?.end?.(event);
  };
  return {
    onPointerDown: (event) => {
      if (event.button !== 0 || held.current) return;
      const by = begin(event);
      if (!by) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const unheard = escapes ? giveUpByEscape(() => latest.current(performance.now())) : () => undefined;
      held.current = { pointer: event.pointerId, by, unheard };
    },
    onPointerMove: (event) => {
      if (!isOurs(event)) return;
      if (hasLetGo(event)) up(event);
      else held.current?.by.move?.(event);
    },
    onPointerUp: up,
    onPointerCancel: lost,
    onLostPointerCapture: lost,
  };
}
