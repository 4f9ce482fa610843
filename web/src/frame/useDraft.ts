import { useEffect } from 'react';
import type { Applied, Edit } from '@sure-hand/core/edits';
import { useOpenSong } from '../open/OpenSongProvider.js';
import { useAppDispatch, useSongParts } from '../store/store.js';
import { didSomething } from '../store/viewSlice.js';

/**
 * An edit that a sheet is about is heard and drawn as long as the sheet is open, on the song as it stands, whoever changes that meanwhile.
 * Gives back what keeps it, and says what it did. `isReady`: false as long as what it would do is still worked out; kept it can be.
 */
export function useDraft(edit: Edit | null, isReady = true): (words: string) => Applied {
  const { drafting } = useOpenSong();
  const dispatch = useAppDispatch();
  const { song } = useSongParts('song');
  useEffect(() => {
    if (edit && isReady) drafting.draft(edit);
    return () => drafting.drop();
  }, [drafting, edit, isReady, song]);
  return (words) => {
    if (!edit) return { song: drafting.song, inverse: null, changed: [], refused: [] };
    const applied = drafting.keep(edit);
    if (applied.changed.length) dispatch(didSomething(words));
    return applied;
  };
}
