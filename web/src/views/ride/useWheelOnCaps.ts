import { useEffect, useRef, type RefObject } from 'react';
import type { ControlId } from '@sure-hand/core/song';
import { useOpenSong } from '../../open/OpenSongProvider.js';

/** So far the wheel turns for one step of the cap under it, as an arrow would make. */
const STEP_PX = 40;

/** The wheel moves a cap only over it, and only while Alt is held (screens): else it scrolls. `capAt`: whose cap is under a pointer. */
export function useWheelOnCaps(
  box: RefObject<HTMLElement | null>,
  capAt: (x: number, y: number) => ControlId | null,
): void {
  const { control } = useOpenSong();
  const latest = useRef(capAt);
  latest.current = capAt;
  useEffect(() => {
    const at = box.current;
    if (!at) return;
    let turned = 0;
    const wheel = (event: WheelEvent): void => {
      if (!event.altKey) return;
      event.preventDefault();
      event.stopPropagation();
      const { left, top } = at.getBoundingClientRect();
      const id = latest.current(event.clientX - left, event.clientY - top);
      if (!id) return;
      turned -= event.deltaY;
      for (; Math.abs(turned) >= STEP_PX; turned -= Math.sign(turned) * STEP_PX)
        control.nudge(id, turned > 0 ? 1 : -1, event.shiftKey);
    };
    at.addEventListener('wheel', wheel, { passive: false });
    return () => at.removeEventListener('wheel', wheel);
  }, [box, control]);
}
