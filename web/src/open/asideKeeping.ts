import type { Song } from '@sure-hand/core/song';
import { recalledFrom } from '@sure-hand/core/snapshots';
import { asideCount } from '../hands/asideWords.js';
import type { TryingOut } from '../hands/tryingOut.js';
import { asideKept, keepAsideOf } from '../store/asideShelf.js';

/** While a hand moves, what it holds aside is kept so often at most. */
const KEEP_EVERY_MS = 250;

/** Keeps what is held aside in the browser as it changes, and as the song is left; gives back what ends it. */
export function keepAside(
  songId: number,
  tryout: TryingOut,
  subscribe: (listener: () => void) => () => void,
): () => void {
  let timer: ReturnType<typeof setTimeout> | null = null;
  let kept = JSON.stringify(tryout.kept);
  const keep = (): void => {
    timer = null;
    const now = tryout.kept;
    const text = JSON.stringify(now);
    if (text === kept) return;
    kept = text;
    keepAsideOf(songId, now);
  };
  const unsubscribe = subscribe(() => (timer ??= setTimeout(keep, KEEP_EVERY_MS)));
  window.addEventListener('pagehide', keep);
  return () => {
    unsubscribe();
    window.removeEventListener('pagehide', keep);
    if (timer !== null) clearTimeout(timer);
    keep();
  };
}

/** Holds aside again what was as the song was left, as far as the song has it, and says so. */
export function takeUpAside(songId: number, song: Song, tryout: TryingOut, did: (sentence: string) => void): void {
  const kept = asideKept(songId);
  if (!kept) return;
  const numbers = Object.entries(kept.values).filter(([, v]) => Number.isFinite(v));
  const { values, gone } = recalledFrom(song, { values: Object.fromEntries(numbers), filter: null });
  if (kept.isOn) tryout.set(true);
  tryout.hold(values);
  const count = Object.keys(values).length;
  if (!count) return;
  const lost = gone.length ? ` ${gone.length} more are not in the song any more.` : '';
  did(
    `${asideCount(count)}, as you left ${count === 1 ? 'it' : 'them'}. Nothing of it is written until P places it.${lost}`,
  );
}
