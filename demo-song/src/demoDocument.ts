import { SAMPLE_RATE } from './instruments/sound.js';
import { controlId, insertControlId, sendControlId } from '@sure-hand/core/song';
import { BPM, SEC_PER_BEAT, type Form, type PlacedSection } from './score/form.js';
import type { Track, TrackSend } from './score/tracks.js';
import type { Stem } from './stem.js';

type Lanes = Record<string, { rest: number }>;

type DemoInsert = {
  readonly slot: string;
  readonly effect: string;
  readonly settings?: object;
  readonly rest?: Readonly<Record<string, number>>;
};
type DemoBus = {
  readonly key: string;
  readonly name: string;
  readonly restDb: number;
  readonly inserts: readonly DemoInsert[];
};

/** The buses: three returns with their effects, of which nothing dry is heard, and one that the rhythm goes through. */
const BUSES: readonly DemoBus[] = [
  {
    ...{ key: 'hall', name: 'Hall', restDb: -4 },
    inserts: [{ slot: 'reverb', effect: 'reverb', rest: { decay: 2.02, before: 18, damping: 6600, mix: 1 } }],
  },
  {
    ...{ key: 'slap', name: 'Slap', restDb: -6 },
    inserts: [
      { slot: 'delay', effect: 'delay', settings: { beats: 0.1875 }, rest: { feedback: 0.22, tone: 6000, mix: 1 } },
    ],
  },
  {
    ...{ key: 'swirl', name: 'Swirl', restDb: -6 },
    inserts: [
      { slot: 'chorus', effect: 'chorus', rest: { rate: 0.55, depth: 4.5, delay: 14, mix: 1 } },
      {
        ...{ slot: 'eq', effect: 'equaliser' },
        rest: { freq1: 38, gain1: 2.5, freq2: 100, gain2: -1.4, q2: 0.9, freq4: 11_000, gain4: -1.8 },
      },
    ],
  },
  { key: 'rhythm-bus', name: 'Rhythm bus', restDb: 0, inserts: [] },
];
/** What stands ready on tracks whose sound is to be ridden, where the song has the section that asks for it. */
const ON_TRACKS: readonly { readonly key: string; readonly section: string; readonly insert: DemoInsert }[] = [
  { key: 'pump-house', section: 'Verse 2', insert: { slot: 'filter', effect: 'filter', settings: { shape: 'high' } } },
  { key: 'lead', section: 'Last chorus', insert: { slot: 'eq', effect: 'equaliser', rest: { freq3: 3200, q3: 2 } } },
];
const onTrack = (form: Form, key: string): readonly DemoInsert[] =>
  ON_TRACKS.flatMap((one) =>
    one.key === key && form.sections.some(({ name }) => name === one.section) ? [one.insert] : [],
  );
const insertOf = ({ slot, effect, settings = {} }: DemoInsert): object => ({ slot, effect, settings });
/** The main's fader: it brings the static mix to the loudness that the demo's tests ask for. */
const MAIN_REST_DB = 0;

/** The document of a song as it comes from its players: a static mix, nothing ridden yet, and the notes of what is left to do. */
export function demoDocument(name: string, form: Form, tracks: readonly Track[], stems: readonly Stem[]): object {
  const keysOf = (family: string): string[] => tracks.filter((track) => track.family === family).map(({ key }) => key);
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
      ...tracks.map((track) =>
        trackChannel(
          track,
          stems.find((stem) => stem.key === track.key)!,
          onTrack(form, track.key),
        ),
      ),
      ...BUSES.map(({ restDb: _rest, inserts, ...bus }) => ({
        ...bus,
        inserts: inserts.map(insertOf),
        kind: 'bus',
        family: 'Buses',
      })),
      { key: 'main', kind: 'main', name: 'Main', family: 'Mix' },
      ...[
        { key: 'vca-rhythm', name: 'Rhythm', members: keysOf('Rhythm') },
        { key: 'vca-strings', name: 'Strings & reeds', members: keysOf('Strings & reeds') },
        { key: 'vca-voices', name: 'Voices', members: keysOf('Voices') },
        { key: 'vca-music', name: 'All music', members: ['vca-rhythm', 'vca-strings'] },
      ].map((vca) => ({ ...vca, kind: 'vca', family: 'VCAs' })),
    ],
    gangs: tracks.some(({ key }) => key === 'harmony-low')
      ? [{ key: 'harmonies', name: 'Harmonies', channels: ['harmony-low', 'harmony-high'], kinds: ['level'] }]
      : [],
    notes: notesOf(form),
    lanes: lanesOf(tracks, form),
  };
}

const trackChannel = (
  { key, name, family, sends }: Track,
  { clips }: Stem,
  inserts: readonly DemoInsert[],
): object => ({
  key,
  kind: 'track',
  name,
  family,
  mode: key === 'lead' ? 'touch' : 'read',
  output: family === 'Rhythm' ? 'rhythm-bus' : 'main',
  clips,
  inserts: inserts.map(insertOf),
  sends: sends.map(({ bus, tap = 'post', pan }: TrackSend) => ({
    bus,
    tap,
    pan: pan === undefined ? 'follow' : 'own',
  })),
});

function lanesOf(tracks: readonly Track[], form: Form): Lanes {
  const lanes: Lanes = { 'main/level': { rest: MAIN_REST_DB } };
  const putInserts = (key: string, inserts: readonly DemoInsert[]): void => {
    for (const { slot, rest = {} } of inserts)
      for (const [param, v] of Object.entries(rest)) lanes[insertControlId(key, slot, param)] = { rest: v };
  };
  for (const { key, restDb, inserts } of BUSES) {
    lanes[controlId(key, 'level')] = { rest: restDb };
    putInserts(key, inserts);
  }
  for (const { key, restDb, pan, sends } of tracks) {
    lanes[controlId(key, 'level')] = { rest: restDb };
    lanes[controlId(key, 'pan')] = { rest: pan };
    putInserts(key, onTrack(form, key));
    for (const send of sends) {
      lanes[sendControlId(key, send.bus, 'level')] = { rest: send.db };
      if (send.pan !== undefined) lanes[sendControlId(key, send.bus, 'pan')] = { rest: send.pan };
    }
  }
  return lanes;
}

const endOf = ({ t, beats }: PlacedSection): number => t + beats * SEC_PER_BEAT;

function meterOf(form: Form): object[] {
  const marks: object[] = [{ t: 0, beats: 4, unit: 4 }];
  for (const section of form.sections) {
    if (!section.shortBar) continue;
    const end = endOf(section);
    marks.push(
      { t: end - section.shortBar * SEC_PER_BEAT, beats: section.shortBar, unit: 4 },
      { t: end, beats: 4, unit: 4 },
    );
  }
  return marks;
}

/** Four bars after a section begins: its first note stands there, and both pins are to be seen. */
const afterFirst = ({ t }: PlacedSection): number => t + 16 * SEC_PER_BEAT;

/** What is left to do, pinned to its places. */
const NOTES: readonly { section: string; text: string; channel: string; at?: (section: PlacedSection) => number }[] = [
  { section: 'Verse 2', text: 'The Lead sinks under the Pump organ.', channel: 'lead' },
  { section: 'Fiddle solo', text: 'The Fiddle is about 5 dB too low.', channel: 'fiddle' },
  { section: 'Last chorus', text: 'The Pump house should open up here.', channel: 'pump-house' },
  { section: 'Chorus 2', text: 'The harmonies cover the Lead.', channel: 'harmony-low' },
  { section: 'Bridge', text: 'The Clarinet should cross from left to right.', channel: 'clarinet' },
  {
    section: 'Bridge',
    text: 'Throw this last word into the Hall.',
    channel: 'lead',
    at: (section) => endOf(section) - (section.shortBar + 4) * SEC_PER_BEAT,
  },
  { section: 'Verse 1', text: 'Coughs on the Choir between its phrases, in both verses: mute them.', channel: 'choir' },
  {
    section: 'Verse 2',
    text: 'The Pump house rumbles in this verse: its filter up, and down again.',
    channel: 'pump-house',
    at: afterFirst,
  },
  {
    section: 'Last chorus',
    text: 'The Lead is sharp here: its equaliser down a little at 3 kHz.',
    channel: 'lead',
    at: afterFirst,
  },
  { section: 'Intro', text: 'The Mill wheel fades in here, and out in the Outro.', channel: 'mill-wheel' },
];

function notesOf(form: Form): object[] {
  return NOTES.flatMap(({ section: name, text, channel, at }) => {
    const section = form.sections.find((one) => one.name === name);
    return section ? [{ t: at?.(section) ?? section.t, text, channel }] : [];
  }).sort((a, b) => a.t - b.t);
}
