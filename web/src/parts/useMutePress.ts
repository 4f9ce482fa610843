import { useRef, type MouseEvent } from 'react';
import { controlId, modeInForce, type ChannelKey } from '@sure-hand/core/song';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { usePointerDrag } from './usePointerDrag.js';

/** What a button needs that is a channel's mute: held down it is a finger on that switch. */
export function useMutePress(
  channel: ChannelKey,
): ReturnType<typeof usePointerDrag> & { readonly onClick: (event: MouseEvent) => void } {
  const { control, session } = useOpenSong();
  const muteId = controlId(channel, 'mute');
  /** Pressed by what tells only of presses, not of when they end. */
  const isHeld = useRef(false);
  // It may go out of sight under the finger, or slide off the button: then it is let go of, too.
  const drag = usePointerDrag((begun) => {
    control.pressSwitch(muteId, begun.timeStamp);
    return {
      end: (event) => control.release(muteId, event.timeStamp),
      giveUp: (atMs) => control.release(muteId, atMs),
    };
  }, false);
  return {
    ...drag,
    onClick: ({ detail, timeStamp }) => {
      // A press that no pointer makes: a key, or somebody who hears the page. Where a switch is on as long as it is held, the next one ends it.
      if (detail > 0) return;
      const lasts = session.isRolling && modeInForce(session.recorder.song, channel) === 'touch';
      if (!isHeld.current) control.pressSwitch(muteId, timeStamp);
      isHeld.current = lasts && !isHeld.current;
      if (!isHeld.current) control.release(muteId, timeStamp);
    },
  };
}
