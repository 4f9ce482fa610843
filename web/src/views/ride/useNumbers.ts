import { useState } from 'react';
import type { Point } from '@sure-hand/core/curve';
import { whyNotMade, type Edit, type LayerOf } from '@sure-hand/core/edits';
import type { WrongRow } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import { mendRefusal } from '../../hands/mending.js';
import { changedPoint, pastedTable } from '../../hands/numbers.js';
import { pickedOf, pointsWords, timesPicked } from '../../hands/picking.js';
import { layerName } from '../../hands/reasonWords.js';
import { useOpenSong } from '../../open/OpenSongProvider.js';
import { useAppDispatch, useViewParts } from '../../store/store.js';
import { didSomething, pointsPicked } from '../../store/viewSlice.js';

/** What can be done to the points of a lane in the table. */
export type NumberActs = {
  readonly picked: readonly Seconds[];
  /** What was typed or pasted and does not go in, and why. */
  readonly wrong: readonly WrongRow[];
  readonly clearWrong: () => void;
  readonly pick: (times: readonly Seconds[]) => void;
  readonly change: (was: Point, is: Point) => void;
  readonly paste: (text: string) => void;
  readonly say: (sentence: string) => void;
};

/** The table of a lane's points, and how it works on the song. */
export function useNumbers(song: Song, of: LayerOf): NumberActs {
  const { control } = useOpenSong();
  const dispatch = useAppDispatch();
  const { picked: all, format } = useViewParts('picked', 'format');
  const [wrong, setWrong] = useState<readonly WrongRow[]>([]);
  const picked = timesPicked(all, of);
  const say = (sentence: string): void => setWrong([{ row: 0, sentence }]);
  const make = (edit: Edit): boolean => {
    const sentence = mendRefusal(song, of.control) ?? whyNotMade(song, edit);
    if (sentence) say(sentence);
    return !sentence && control.mend(edit).changed.length > 0;
  };
  const pick = (times: readonly Seconds[]): void => void dispatch(pointsPicked(pickedOf([{ ...of, times }])));
  return {
    ...{ picked, wrong, pick, say },
    clearWrong: () => setWrong([]),
    change(was, is) {
      setWrong([]);
      if (!make(changedPoint(of, was, is))) return;
      pick([is.t]);
      dispatch(didSomething(`${pointsWords(song, of, 1)} changed.`));
    },
    paste(text) {
      const table = pastedTable(song, of, text, { picked, format });
      setWrong(table.wrong);
      if (!table.edit || !make(table.edit)) return;
      pick(table.times);
      const out = table.wrong.length ? `; ${table.wrong.length} stayed out` : '';
      dispatch(didSomething(`${table.count} rows went into ${layerName(song, of.control, of.layer)}${out}.`));
    },
  };
}
