import type { KeptAside } from '../hands/tryingOut.js';

const PREFIX = 'sure-hand/aside/';

/** What was held aside in a song as it was left in this browser; null where nothing was. */
export function asideKept(songId: number): KeptAside | null {
  try {
    const kept = JSON.parse(localStorage.getItem(PREFIX + songId) ?? 'null') as Partial<KeptAside> | null;
    return kept && { isOn: kept.isOn === true, values: { ...kept.values } };
  } catch {
    return null;
  }
}

/** Keeps what is held aside in a song, or that nothing is. */
export function keepAsideOf(songId: number, kept: KeptAside): void {
  try {
    if (kept.isOn || Object.keys(kept.values).length) localStorage.setItem(PREFIX + songId, JSON.stringify(kept));
    else localStorage.removeItem(PREFIX + songId);
  } catch {
    // A browser that keeps nothing holds aside until the page goes.
  }
}

/** How many controls are held aside in a song that is not open. */
export const asideCountOf = (songId: number): number => Object.keys(asideKept(songId)?.values ?? {}).length;
