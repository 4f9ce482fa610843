import { useEffect, useState } from 'react';
import { useHands } from './OpenSongProvider.js';
import type { OpenSong } from './openSong.js';

/** How often words and values are read anew while the song moves. */
const READ_MS = 200;

/** Draws again with every change of the hands, and now and then while the song moves. */
export function useMoment(): OpenSong {
  const open = useHands();
  const [, again] = useState(0);
  const { isMoving } = open.session;
  useEffect(() => {
    if (!isMoving) return;
    const timer = setInterval(() => again((n) => n + 1), READ_MS);
    return () => clearInterval(timer);
  }, [isMoving]);
  return open;
}
