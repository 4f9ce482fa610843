import { useEffect, useState } from 'react';
import type { Edit } from '@sure-hand/core/edits';
import type { ControlId, Song } from '@sure-hand/core/song';
import { areLong } from '../hands/editsAhead.js';
import { workAhead } from '../open/workAhead.js';

/** What is worked out elsewhere goes one after the other: of what is asked for meanwhile only what is still wanted. */
let before: Promise<void> = Promise.resolve();

/**
 * Whether what an edit of some lanes would do can be told: at once, or, where the lanes are long, once another thread has worked it out.
 * `controls`: all lanes that the edit has to do with.
 */
export function useWorkedOut(song: Song, edit: Edit | null, controls: readonly ControlId[]): boolean {
  const [done, setDone] = useState<{ readonly song: Song; readonly edit: Edit } | null>(null);
  const isLong = edit !== null && areLong(song, controls);
  useEffect(() => {
    if (!isLong) return;
    let isWanted = true;
    before = before.then(async () => {
      if (!isWanted) return;
      await workAhead(song, edit, controls);
      if (isWanted) setDone({ song, edit });
    });
    return () => void (isWanted = false);
  }, [song, edit, controls, isLong]);
  return !isLong || (done?.song === song && done.edit === edit);
}
