import { useState } from 'react';
import { whyNotMade, type Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { useOpenSong } from '../open/OpenSongProvider.js';

/** Makes an edit that a song can take, and gives the sentence where it can't. */
export function useTry(song: Song): readonly [string | null, (edit: Edit) => boolean] {
  const { control } = useOpenSong();
  const [wrong, setWrong] = useState<string | null>(null);
  const make = (edit: Edit): boolean => {
    const sentence = whyNotMade(song, edit);
    setWrong(sentence);
    if (sentence) return false;
    const { changed, refused } = control.mend(edit);
    return changed.length > 0 || !refused.length;
  };
  return [wrong, make];
}
