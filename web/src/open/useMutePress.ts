import { useEffect, useRef, type PointerEvent } from 'react';
import { controlId, type ChannelKey } from '@sure-hand/core/song';
import { useOpenSong } from './OpenSongProvider.js';

/** What a button needs that is a channel's mute: held down it is a finger on that switch. */
export function useMutePress(channel: ChannelKey): {
  readonly onPointerDown: (event: PointerEvent) => void;
  readonly onPointerUp: (event: PointerEvent) => void;
  readonly onPointerCancel: (event: PointerEvent) => void;
} {
  const { control } = useOpenSong();
  const muteId = controlId(channel, 'mute');
  const held = useRef(false);
  const letGo = (ms: number): void => {
    if (held.current) control.release(muteId, ms);
    held.current = false;
  };
  // It may go out of sight under the finger, which nobody then says has come up.
  const latest = useRef(letGo);
  latest.current = letGo;
  useEffect(() => () => latest.current(performance.now()), []);
  return {
    onPointerDown: (event) => {
      // Captured, so that a finger that slides off the button is still let go.
      event.currentTarget.setPointerCapture(event.pointerId);
      held.current = true;
      control.pressSwitch(muteId, event.timeStamp);
    },
    onPointerUp: (event) => letGo(event.timeStamp),
    onPointerCancel: (event) => letGo(event.timeStamp),
  };
}
