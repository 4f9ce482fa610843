import { useState } from 'react';
import { whyNotMade, type Edit } from '@sure-hand/core/edits';
import { useOpenSong } from '../open/OpenSongProvider.js';

/** Makes an edit that a song can take, and gives the sentence where it can't. */
export function useTry(): readonly [string | null, (edit: Edit) => boolean] {
  const { control, session } = useOpenSong();
  const [wrong, setWrong] = useState<string | null>(null);
  const make = (edit: Edit): boolean => {
    // The song as it is once all is in it that hands have done: it is made on that.
    session.settle();
    const sentence = whyNotMade(session.recorder.song, edit);
    setWrong(sentence);
    if (sentence) return false;
    const { changed, refused } = control.mend(edit);
    return changed.length > 0 || !refused.length;
  };
  return [wrong, make];
}
