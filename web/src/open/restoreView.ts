import { controlId, controlsOf, type Song } from '@sure-hand/core/song';
import { store } from '../store/store.js';
import { keptView } from '../store/viewKeeping.js';
import { takenInHand, viewRestored } from '../store/viewSlice.js';

/** Takes up the view as it was left, with something in hand that the song has. */
export function restoreView(id: number, song: Song): void {
  const kept = keptView(id);
  const controls = controlsOf(song);
  const front = Object.fromEntries(Object.entries(kept.front ?? {}).filter(([, control]) => controls.has(control)));
  store.dispatch(viewRestored({ ...kept, front }));
  if (kept.inHand && controls.has(kept.inHand)) return;
  const first = song.channels.find((channel) => channel.mode === 'touch') ?? song.channels[0];
  if (first) store.dispatch(takenInHand(controlId(first.key, 'level')));
}
