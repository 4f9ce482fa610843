import type { MendScene } from '../hands/mending.js';
import type { OpenSong } from './openSong.js';
import { troubleCame } from '../song/songSlice.js';
import { store } from '../store/store.js';
import { didSomething, pointsPicked, rangeSet } from '../store/viewSlice.js';

/** What mending works on, as it is at the moment: for keys, for the hand bar, for sheets. */
export function mendScene({ session, control }: OpenSong): MendScene {
  const { inHand, chosen, range, picked, pass, spanChanges, liftEdge } = store.getState().view;
  return {
    ...{ control, inHand, chosen, range, picked, liftEdge },
    song: session.recorder.song,
    fresh: pass?.stands ? { receipt: pass.receipt, lanes: pass.lanes, changes: spanChanges } : null,
    setRange: (next) => void store.dispatch(rangeSet(next)),
    pick: (next) => void store.dispatch(pointsPicked(next)),
    say: (sentence) => void store.dispatch(troubleCame(sentence)),
    did: (sentence) => void store.dispatch(didSomething(sentence)),
  };
}
