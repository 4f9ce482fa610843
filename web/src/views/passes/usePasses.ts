import { startTransition, useCallback, useEffect, useMemo, useState } from 'react';
import type { LoggedPass, WholePass } from '@sure-hand/server';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppSelector } from '../../store/store.js';
import { fetchLanePasses, fetchPass, fetchPasses } from '../../song/songApi.js';

/** What was asked of the server: still on its way, there, or the sentence why it is not. */
export type Asked<T> = { readonly value: T | null; readonly trouble: string | null };

/** Asks the server again whenever the song has a new revision or its log is shorter, or what is asked for changes. */
function useAsked<T>(ask: () => Promise<T | null>): Asked<T> & { readonly again: () => void } {
  const revision = useAppSelector((state) => state.song.revision);
  const history = useAppSelector((state) => state.song.history);
  const [asked, setAsked] = useState<Asked<T>>({ value: null, trouble: null });
  const [count, setCount] = useState(0);
  useEffect(() => {
    let left = false;
    ask().then(
      // Much may be shown of it: that is put together between other tasks.
      (value) => !left && startTransition(() => setAsked({ value, trouble: null })),
      (error: Error) => !left && setAsked((now) => ({ ...now, trouble: error.message })),
    );
    return () => void (left = true);
  }, [ask, revision, history, count]);
  return { ...asked, again: () => setCount((n) => n + 1) };
}

/** Every pass of the open song, newest first. */
export function usePasses(): Asked<LoggedPass[]> & { readonly again: () => void } {
  const { id } = useOpenSong();
  return useAsked(useCallback(() => fetchPasses(id), [id]));
}

/** One pass with its curves; nothing where no number is given. */
export function usePass(number: number | null): Asked<WholePass> {
  const { id } = useOpenSong();
  return useAsked(useCallback(() => (number === null ? Promise.resolve(null) : fetchPass(id, number)), [id, number]));
}

/** The passes that changed one lane, newest first, as many as are asked for; whether there are older ones. */
export function useLanePasses(control: string, most: number): Asked<WholePass[]> & { readonly hasOlder: boolean } {
  const { id } = useOpenSong();
  // One more tells that there are more.
  const { value, trouble } = useAsked(useCallback(() => fetchLanePasses(id, control, most + 1), [id, control, most]));
  const shown = useMemo(() => value?.slice(0, most) ?? null, [value, most]);
  return { value: shown, trouble, hasOlder: (value?.length ?? 0) > most };
}
