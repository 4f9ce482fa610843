import { mkdirSync } from 'node:fs';
import { Piscina } from 'piscina';
import { BPM, SHORT_SONG, WEIR_LIGHTS, type Form } from './score/form.js';
import { TRACKS } from './score/parts.js';
import { SAMPLE_RATE } from './instruments/sound.js';
import type { Stem } from './stem.js';

/** The songs that can be made: the demo, and a short one for tests. */
export type DemoName = 'weir-lights' | 'short';
const FORMS: Record<DemoName, { readonly form: Form; readonly title: string }> = {
  'weir-lights': { form: WEIR_LIGHTS, title: 'Weir Lights' },
  short: { form: SHORT_SONG, title: 'Short song' },
};

/** How far the making is, for whoever waits. */
export type Progress = { readonly done: number; readonly of: number; readonly what: string; readonly bytes: number };

export type MakeOptions = {
  readonly folder: string;
  readonly onProgress?: (progress: Progress) => void;
  readonly signal?: AbortSignal;
};

/** Synthesises a song's audio into a folder, stems side by side in worker threads, and gives back its document. */
export async function makeSong(name: DemoName, { folder, onProgress, signal }: MakeOptions): Promise<object> {
  const { form, title } = FORMS[name];
  mkdirSync(folder, { recursive: true });
  const pool = new Piscina({ filename: new URL('./stemWorker.js', import.meta.url).href, maxThreads: 2 });
  let done = 0;
  let bytes = 0;
  try {
    const stems = await Promise.all(
      TRACKS.map(async ({ key, name: what }) => {
        const stem = (await pool.run({ key, form, folder }, signal ? { signal } : {})) as Stem;
        bytes += stem.bytes;
        onProgress?.({ done: ++done, of: TRACKS.length, what, bytes });
        return stem;
      }),
    );
    return songDocument(title, form, stems);
  } finally {
    await pool.destroy();
  }
}

const endOf = (form: Form, name: string): number => {
  const i = form.sections.findIndex((section) => section.name === name);
  return form.sections[i + 1]?.t ?? form.length;
};

/** The document of a song as it comes from its players: a static mix, nothing ridden yet, and the notes of what is left to do. */
function songDocument(name: string, form: Form, stems: readonly Stem[]): object {
  const lanes: Record<string, { rest: number }> = { 'main/level': { rest: 0 } };
  for (const { key, restDb, pan } of TRACKS) {
    lanes[`${key}/level`] = { rest: restDb };
    lanes[`${key}/pan`] = { rest: pan };
  }
  return {
    format: 'sure-hand-song',
    version: 1,
    name,
    sampleRate: SAMPLE_RATE,
    length: form.length,
    tempo: [{ t: 0, bpm: BPM }],
    meter: meterOf(form),
    sections: form.sections.map((section) => ({ t: section.t, name: section.name })),
    channels: [
      ...TRACKS.map(({ key, name: trackName, family }) => ({
        key,
        kind: 'track',
        name: trackName,
        family,
        mode: key === 'lead' ? 'touch' : 'read',
        clips: stems.find((stem) => stem.key === key)!.clips,
      })),
      { key: 'main', kind: 'main', name: 'Main', family: 'Mix' },
    ],
    notes: notesOf(form),
    lanes,
  };
}

function meterOf(form: Form): object[] {
  const marks: object[] = [{ t: 0, beats: 4, unit: 4 }];
  for (const { name, shortBar } of form.sections) {
    if (!shortBar) continue;
    const end = endOf(form, name);
    marks.push({ t: end - (shortBar * 60) / BPM, beats: shortBar, unit: 4 }, { t: end, beats: 4, unit: 4 });
  }
  return marks;
}

function notesOf(form: Form): object[] {
  const start = (name: string): number | undefined => form.sections.find((section) => section.name === name)?.t;
  const note = (section: string, text: string, channel: string): object[] => {
    const t = start(section);
    return t === undefined ? [] : [{ t, text, channel }];
  };
  return [
    ...note('Intro', 'The Mill wheel fades in here, and out in the Outro.', 'mill-wheel'),
    ...note('Verse 1', 'In the verses there are coughs on the Choir between its phrases: mute them.', 'choir'),
    ...note('Verse 2', 'The Lead sinks under the Pump organ.', 'lead'),
    ...note('Fiddle solo', 'The Fiddle is too low.', 'fiddle'),
  ];
}
