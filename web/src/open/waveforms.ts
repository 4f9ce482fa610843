import { peaksOf, type PeakPyramid } from '@sure-hand/core/mix';
import { ServerAway, fetchPeaks } from '../song/songApi.js';
import { troubleCame } from '../song/songSlice.js';
import { store } from '../store/store.js';

/** A browser opens six connections to a server, and the audio needs them: waveforms, which may have to be made first, take two. */
const PEAKS_AT_ONCE = 2;
/** With the server away they are asked for again so often. */
const PEAKS_AGAIN_MS = 3000;

/** Fetches the waveforms of files, one after the other; gives back what ends it. */
export function fetchAllPeaks(
  id: number,
  names: readonly string[],
  take: (name: string, peaks: PeakPyramid) => void,
): () => void {
  const left = [...names];
  let isEnded = false;
  const fetchNext = async (): Promise<void> => {
    for (let name = left.shift(); name !== undefined; name = left.shift())
      try {
        take(name, peaksOf(await fetchPeaks(id, name)));
      } catch (error) {
        if (isEnded) return;
        if (error instanceof ServerAway) {
          // It comes once the server is back.
          left.push(name);
          await new Promise((again) => setTimeout(again, PEAKS_AGAIN_MS));
        } else store.dispatch(troubleCame((error as Error).message));
      }
  };
  for (let k = 0; k < PEAKS_AT_ONCE; k++) void fetchNext();
  return () => {
    isEnded = true;
    left.splice(0);
  };
}
