import { useCallback, useEffect, useReducer, useRef } from 'react';
import { beginImport, dropImport, sendStem } from '../../song/upload.js';
import { stemsAfter, type Stem, type StemAct } from './stems.js';

/** So many files are on their way at once. */
const AT_ONCE = 2;

/** The stems of a new song: what was dropped goes to the server one after the other, and is thrown away with the page. */
export type Stems = {
  readonly stems: readonly Stem[];
  readonly act: (act: StemAct) => void;
  readonly drop: (files: readonly File[]) => void;
  readonly remove: (key: string) => void;
  /** The server's name for where the stems lie. */
  readonly staging: () => Promise<string>;
  /** Whether a song is being made of them: then they are not thrown away with the page. */
  readonly keep: (isMade: boolean) => void;
};

export function useStems(): Stems {
  const [stems, act] = useReducer(stemsAfter, []);
  const files = useRef(new Map<string, File>());
  const sending = useRef(new Map<string, AbortController>());
  const place = useRef<Promise<string> | null>(null);
  const isKept = useRef(false);
  const staging = useCallback((): Promise<string> => {
    place.current ??= beginImport();
    // Where the server was away, the next try asks anew.
    place.current.catch(() => (place.current = null));
    return place.current;
  }, []);

  useEffect(() => {
    for (const { key, state } of stems) {
      if (sending.current.size >= AT_ONCE) return;
      const file = files.current.get(key);
      if (state !== 'waiting' || sending.current.has(key) || !file) continue;
      const abort = new AbortController();
      sending.current.set(key, abort);
      act({ do: 'send', key, share: 0 });
      void staging()
        .then((id) => sendStem(id, file, { onShare: (share) => act({ do: 'send', key, share }), signal: abort.signal }))
        .finally(() => sending.current.delete(key))
        .then(
          (staged) => act({ do: 'arrive', key, staged }),
          (error: Error) =>
            act(error.name === 'AbortError' ? { do: 'remove', key } : { do: 'fail', key, sentence: error.message }),
        );
    }
  }, [stems, staging]);

  useEffect(
    () => () => {
      for (const abort of sending.current.values()) abort.abort();
      if (!isKept.current) void place.current?.then(dropImport).catch(() => undefined);
    },
    [],
  );

  const drop = useCallback((dropped: readonly File[]): void => {
    const named = dropped.map((file) => ({ key: crypto.randomUUID(), file }));
    for (const { key, file } of named) files.current.set(key, file);
    act({ do: 'drop', files: named.map(({ key, file }) => ({ key, name: file.name, size: file.size })) });
  }, []);
  const remove = useCallback((key: string): void => {
    sending.current.get(key)?.abort();
    files.current.delete(key);
    act({ do: 'remove', key });
  }, []);
  const keep = useCallback((isMade: boolean) => void (isKept.current = isMade), []);
  return { stems, act, drop, remove, staging, keep };
}
