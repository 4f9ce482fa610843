import { nameApart } from '@sure-hand/core/formats';
import type { StagedStem } from '@sure-hand/server';

/** A file that was dropped on the page of a new song: on its way, there, or of no use, with the sentence why. */
export type Stem = {
  readonly key: string;
  readonly fileName: string;
  readonly bytes: number;
  readonly state: 'waiting' | 'sending' | 'ready' | 'broken';
  /** How much of it has gone, 0 … 1. */
  readonly share: number;
  readonly sentence: string | null;
  readonly staged: StagedStem | null;
  readonly name: string;
  readonly family: string;
};

/** What happens to the stems of a new song. */
export type StemAct =
  | {
      readonly do: 'drop';
      readonly files: readonly { readonly key: string; readonly name: string; readonly size: number }[];
    }
  | { readonly do: 'send'; readonly key: string; readonly share: number }
  | { readonly do: 'arrive'; readonly key: string; readonly staged: StagedStem }
  | { readonly do: 'fail'; readonly key: string; readonly sentence: string }
  | { readonly do: 'again'; readonly key: string }
  | { readonly do: 'remove'; readonly key: string }
  | { readonly do: 'move'; readonly key: string; readonly to: number }
  | {
      readonly do: 'describe';
      readonly key: string;
      readonly words: { readonly name?: string; readonly family?: string };
    };

const changed = (stems: readonly Stem[], key: string, changes: Partial<Stem>): Stem[] =>
  stems.map((stem) => (stem.key === key ? { ...stem, ...changes } : stem));

/** The stems after something has happened; an order made by hand stays, new ones come last in the order of their names. */
export function stemsAfter(stems: readonly Stem[], act: StemAct): readonly Stem[] {
  switch (act.do) {
    case 'drop': {
      const fresh = act.files.map(({ key, name, size }): Stem => ({
        key,
        fileName: name,
        bytes: size,
        state: 'waiting',
        share: 0,
        sentence: null,
        staged: null,
        name: name.replace(/\.wav$/i, ''),
        family: '',
      }));
      return [...stems, ...fresh.sort((a, b) => a.fileName.localeCompare(b.fileName, 'en', { numeric: true }))];
    }
    case 'send':
      return changed(stems, act.key, { state: 'sending', share: act.share });
    case 'arrive': {
      const { staged } = act;
      // Stems of one name are told apart from the first, as their channels will be.
      const taken = new Set(stems.flatMap((stem) => (stem.state === 'ready' ? [stem.name] : [])));
      const is: Partial<Stem> = staged.info
        ? { state: 'ready', ...staged.guess, name: nameApart(staged.guess.name, taken) }
        : { state: 'broken', sentence: staged.sentence };
      return changed(stems, act.key, { ...is, staged, share: 1 });
    }
    case 'fail':
      return changed(stems, act.key, { state: 'broken', sentence: act.sentence });
    case 'again':
      return changed(stems, act.key, { state: 'waiting', sentence: null, share: 0 });
    case 'remove':
      return stems.filter((stem) => stem.key !== act.key);
    case 'move': {
      const stem = stems.find((one) => one.key === act.key);
      if (!stem) return stems;
      const rest = stems.filter((one) => one !== stem);
      return [...rest.slice(0, act.to), stem, ...rest.slice(act.to)];
    }
    case 'describe':
      return changed(stems, act.key, act.words);
  }
}

/** The sample rate that most of the stems have, so that the fewest are resampled. */
export function commonRate(stems: readonly Stem[]): number {
  const counts = new Map<number, number>();
  for (const { staged } of stems)
    if (staged?.info) counts.set(staged.info.sampleRate, (counts.get(staged.info.sampleRate) ?? 0) + 1);
  const [most] = [...counts].sort((a, b) => b[1] - a[1] || b[0] - a[0]);
  return most?.[0] ?? 48000;
}
