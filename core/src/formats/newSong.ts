import type { MeterMark, TempoMark } from '../time/index.js';
import type { Section, Song } from '../song/index.js';
import { readSong, type Read } from './songDocument.js';

/** What a stem is called and which family it stands in. */
export type TrackWords = { readonly name: string; readonly family: string };

/** Families in the order in which they are shown, and words of file names that tell of them. */
const FAMILIES: readonly (readonly [family: string, words: readonly string[]])[] = [
  [
    'Rhythm',
    'drum drums kick snare hat hihat tom toms cymbal ride crash overhead oh perc percussion shaker tambourine clap claps conga bongo box cajon brush brushes loop beat'.split(
      ' ',
    ),
  ],
  ['Room', 'room ambience ambient amb hall house wheel atmo audience crowd'.split(' ')],
  ['Low', 'bass sub contrabass cello tuba bassoon'.split(' ')],
  [
    'Strings & reeds',
    'guitar gtr git acoustic nylon mandolin banjo ukulele fiddle violin viola strings harp clarinet oboe sax saxophone flute accordion organ horn trumpet trombone brass'.split(
      ' ',
    ),
  ],
  ['Keys', 'piano keys rhodes synth pad lead-synth keyboard wurli'.split(' ')],
  ['Bells', 'bell bells glockenspiel glock vibes vibraphone marimba xylophone celesta chime chimes'.split(' ')],
  [
    'Voices',
    'vox voc vocal vocals voice voices lead choir harmony harm bv bvs backing singer sing breath count'.split(' '),
  ],
];
export const OTHER_FAMILY = 'Others';
/** Families that can be chosen for a track, in their order. */
export const FAMILY_NAMES: readonly string[] = [...FAMILIES.map(([name]) => name), OTHER_FAMILY];

/** Guesses a track's name and family from its file's name: `07_Nylon-Gtr_L.wav` is Nylon Gtr L, of Strings & reeds. */
export function guessTrack(fileName: string): TrackWords {
  const bare = fileName.replace(/^.*[/\\]/, '').replace(/\.[a-z0-9]{1,5}$/i, '');
  const spaced = bare
    .replace(/[_.]+|\s*-\s*/g, ' ')
    .replace(/([a-z])([A-Z])/g, '$1 $2')
    .trim();
  const name = spaced.replace(/^\d{1,3}\s+/, '').trim() || spaced || bare || 'Track';
  const words = name.toLowerCase().split(/[^a-z]+/);
  const family = FAMILIES.find(([, known]) => words.some((word) => known.includes(word)))?.[0] ?? OTHER_FAMILY;
  return { name: name[0]!.toUpperCase() + name.slice(1), family };
}

/** A name apart from those that are taken: `Bass`, `Bass 2`, `Bass 3`. */
export function nameApart(name: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) {
    const apart = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(apart)) return apart;
  }
}

/** A stem of a new song: its file beside the document, and how long it is there. */
export type NewTrack = TrackWords & { readonly file: string; readonly seconds: number };

/** All that a new song is made of. */
export type NewSong = {
  readonly name: string;
  readonly sampleRate: number;
  readonly tracks: readonly NewTrack[];
  readonly tempo?: readonly TempoMark[];
  readonly meter?: readonly MeterMark[];
  readonly sections?: readonly Section[];
};

/** A channel's key from its name: small letters, figures and dashes, and a number where it is taken. */
export function keyFor(name: string, taken: ReadonlySet<string>): string {
  const plain = name
    .normalize('NFD')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '');
  const bare = plain.slice(0, 48) || 'track';
  for (let n = 1; ; n++) {
    const key = n === 1 ? bare : `${bare}-${n}`;
    if (!taken.has(key)) return key;
  }
}

/** The song of some stems: each a track of a name of its own from the start at 0 dB, the longest giving its length, everything reading. */
export function newSong({ name, sampleRate, tracks, tempo, meter, sections }: NewSong): Read<Song> {
  if (!tracks.length) return { ok: false, sentence: 'A song needs at least one stem; drop a WAV file on the page.' };
  const taken = new Set(['main']);
  const names = new Set<string>();
  const channels = tracks.map(({ file, seconds, name: given, family }) => {
    const called = nameApart(given, names);
    names.add(called);
    const key = keyFor(called, taken);
    taken.add(key);
    return { key, kind: 'track', name: called, family, clips: [{ t: 0, file, offset: 0, length: seconds }] };
  });
  const length = Math.max(...tracks.map((track) => track.seconds));
  return readSong({
    format: 'sure-hand-song',
    version: 1,
    name,
    sampleRate,
    length,
    tempo,
    meter,
    sections: sections?.filter((section) => section.t < length),
    channels: [...channels, { key: 'main', kind: 'main', name: 'Main', family: 'Mix' }],
  });
}
