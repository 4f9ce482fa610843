import { controlsOf, type Snapshot, type Song } from '../song/index.js';
import { valueWrong } from './laneChecks.js';

/** The first key that two of some items share; undefined where none do. */
const sharedKey = (items: readonly { readonly key: string }[]): string | undefined =>
  items.find(({ key }, i) => items.findIndex((other) => other.key === key) < i)?.key;

/** The sentence for a value of a snapshot that its control does not take; what the song does not have is kept as it is. */
function snapshotWrong(song: Song, { name, values }: Snapshot): string | null {
  for (const [id, v] of Object.entries(values)) {
    const wrong = controlsOf(song).has(id) ? valueWrong(song, id, 'base', v) : null;
    if (wrong) return `The snapshot ${name}: ${wrong}`;
  }
  return null;
}

/** What is wrong with a song's snapshots and sets of guards: a key twice, a value out of range; null where nothing is. */
export function keptWrong(song: Song): string | null {
  const twice = sharedKey(song.snapshots);
  if (twice !== undefined) return `Two snapshots have the key “${twice}”; give one of them another.`;
  const set = sharedKey(song.guardSets);
  if (set !== undefined) return `Two sets of guards have the key “${set}”; give one of them another.`;
  for (const one of song.snapshots) {
    const wrong = snapshotWrong(song, one);
    if (wrong) return wrong;
  }
  return null;
}
