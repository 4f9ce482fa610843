import { SAMPLE_RATE } from './instruments/sound.js';
import { controlId, sendControlId } from '@sure-hand/core/song';
import { BPM, SEC_PER_BEAT, type Form, type PlacedSection } from './score/form.js';
import type { Track, TrackSend } from './score/tracks.js';
import type { Stem } from './stem.js';

type Lanes = Record<string, { rest: number }>;

/** The buses: three returns with their sounds, and one that the rhythm goes through. */
const BUSES = [
  { key: 'hall', name: 'Hall', sound: 'reverb', restDb: -4 },
  { key: 'slap', name: 'Slap', sound: 'delay', restDb: -6 },
  { key: 'swirl', name: 'Swirl', sound: 'chorus', restDb: -6 },
  { key: 'rhythm-bus', name: 'Rhythm bus', restDb: 0 },
] as const;
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
        ),
      ),
      ...BUSES.map(({ restDb: _rest, ...bus }) => ({ ...bus, kind: 'bus', family: 'Buses' })),
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
    lanes: lanesOf(tracks),
  };
}

const trackChannel = ({ key, name, family, sends }: Track, { clips }: Stem): object => ({
  key,
  kind: 'track',
  name,
  family,
  mode: key === 'lead' ? 'touch' : 'read',
  output: family === 'Rhythm' ? 'rhythm-bus' : 'main',
  clips,
  sends: sends.map(({ bus, tap = 'post', pan }: TrackSend) => ({
    bus,
    tap,
    pan: pan === undefined ? 'follow' : 'own',
  })),
});

function lanesOf(tracks: readonly Track[]): Lanes {
  const lanes: Lanes = { 'main/level': { rest: MAIN_REST_DB } };
  for (const { key, restDb } of BUSES) lanes[controlId(key, 'level')] = { rest: restDb };
  for (const { key, restDb, pan, sends } of tracks) {
    lanes[controlId(key, 'level')] = { rest: restDb };
    lanes[controlId(key, 'pan')] = { rest: pan };
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
  { section: 'Intro', text: 'The Mill wheel fades in here, and out in the Outro.', channel: 'mill-wheel' },
];

function notesOf(form: Form): object[] {
  return NOTES.flatMap(({ section: name, text, channel, at }) => {
    const section = form.sections.find((one) => one.name === name);
    return section ? [{ t: at?.(section) ?? section.t, text, channel }] : [];
  }).sort((a, b) => a.t - b.t);
}
