import { mkdirSync } from 'node:fs';
import { Piscina } from 'piscina';
import { demoDocument } from './demoDocument.js';
import { SHORT_SONG, WEIR_LIGHTS, type Form } from './score/form.js';
import { TRACKS, type Track } from './score/tracks.js';
import type { Stem } from './stem.js';

/** The songs that can be made: the demo, and a short one for tests. */
export type DemoName = 'weir-lights' | 'short';
const SONGS: Record<DemoName, { readonly form: Form; readonly title: string; readonly tracks: readonly Track[] }> = {
  'weir-lights': { form: WEIR_LIGHTS, title: 'Weir Lights', tracks: TRACKS },
  short: {
    form: SHORT_SONG,
    title: 'Short song',
    tracks: TRACKS.filter(({ key }) =>
      ['frame-drum', 'mill-wheel', 'upright-bass', 'nylon-guitar', 'fiddle', 'pump-organ', 'lead', 'choir'].includes(
        key,
      ),
    ),
  },
};
/** Tracks that take longest, first: so that no worker is left alone with one of them at the end. */
const SLOW_FIRST = ['choir', 'accordion', 'pump-organ', 'octave-mandolin', 'pump-house', 'nylon-guitar', 'fiddle'];
const slowness = ({ key }: Track): number => SLOW_FIRST.indexOf(key) + 1 || 99;

/** How far the making is, for whoever waits. */
export type Progress = { readonly done: number; readonly of: number; readonly what: string; readonly bytes: number };

export type MakeOptions = {
  readonly folder: string;
  readonly onProgress?: (progress: Progress) => void;
  readonly signal?: AbortSignal;
};

/** Synthesises a song's audio into a folder, stems side by side in worker threads, and gives back its document. */
export async function makeSong(name: DemoName, { folder, onProgress, signal }: MakeOptions): Promise<object> {
  const { form, title, tracks } = SONGS[name];
  mkdirSync(folder, { recursive: true });
  const pool = new Piscina({ filename: new URL('./stemWorker.js', import.meta.url).href, maxThreads: 2 });
  let done = 0;
  let bytes = 0;
  try {
    const stems = await Promise.all(
      [...tracks]
        .sort((a, b) => slowness(a) - slowness(b))
        .map(async ({ key, name: what }) => {
          const stem = (await pool.run({ key, form, folder }, signal ? { signal } : {})) as Stem;
          bytes += stem.bytes;
          onProgress?.({ done: ++done, of: tracks.length, what, bytes });
          return stem;
        }),
    );
    return demoDocument(title, form, tracks, stems);
  } finally {
    await pool.destroy();
  }
}
