import { useCallback, useEffect, useState, useSyncExternalStore } from 'react';
import { useHands, useOpenSong } from './OpenSongProvider.js';
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

/** Something that hands change, and time as the song moves: draws again only where it has become another. */
export function useOfMoment<T extends string | number | boolean>(read: (open: OpenSong) => T): T {
  const open = useOpenSong();
  const subscribe = useCallback(
    (changed: () => void) => {
      const end = open.subscribe(changed);
      const timer = setInterval(() => open.session.isMoving && changed(), READ_MS);
      return () => {
        end();
        clearInterval(timer);
      };
    },
    [open],
  );
  return useSyncExternalStore(subscribe, () => read(open));
}
