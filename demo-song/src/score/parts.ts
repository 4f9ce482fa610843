import { either } from '../chance.js';
import { FIDDLE, NYLON, UPRIGHT_BASS, bow, pluck } from '../instruments/strings.js';
import { CHORISTER, LEAD, cough, sing } from '../instruments/voices.js';
import { reed, strike, wheel, type Stroke } from '../instruments/others.js';
import { gainOf, hzOfMidi, type Tape } from '../instruments/sound.js';
import { SEC_PER_BEAT, type Form, type Material, type PlacedSection } from './form.js';
import { barsOf, tuneOf, type Bar, type Vowel } from './material.js';

/** How far the players are from the problems the song is built around, in dB: what the demo's tests measure. */
export const PROBLEM = {
  /** Verse 2: the Lead sings this much softer, and the Pump organ plays this much louder. */
  leadSinks: -5,
  organRises: 5,
  /** The Fiddle's solo is this much under the level at which it plays the tune elsewhere. */
  fiddleTooLow: -5,
} as const;

type Part = (form: Form, tape: Tape) => void;

const at = (beat: number): number => beat * SEC_PER_BEAT;
/** A hand's small unevenness: up to 12 ms either way, and a little of the force. */
const loose = (tape: Tape, t: number): number => Math.max(0, t + either(tape.random) * 0.012);
const uneven = (tape: Tape, force: number): number => force * (0.92 + 0.16 * tape.random());

const STROKES: Record<Material, string> = {
  intro: '',
  verse: 'D..t..S.t.D...St',
  chorus: 'D..tS.t.D.D.S.tt',
  solo: 'D..tS.ttD.D.S.tt',
  bridge: 'D.......t...S...',
  outro: 'D.......S.......',
};
const STROKE: Record<string, readonly [Stroke, number]> = { D: ['deep', 0.9], S: ['slap', 0.7], t: ['tap', 0.4] };

const frameDrum: Part = (form, tape) => {
  for (const { section, beat, beats } of barsOf(form))
    [...STROKES[section.material]].slice(0, beats * 4).forEach((letter, i) => {
      const stroke = STROKE[letter];
      if (!stroke) return;
      const force = uneven(tape, stroke[1] * (section.take === 3 ? 1.15 : 1));
      tape.add(loose(tape, at(beat + i / 4)), strike(stroke[0], force, tape.random));
    });
};

const uprightBass: Part = (form, tape) => {
  const play = (beat: number, beats: number, midi: number, force: number): void =>
    tape.add(
      loose(tape, at(beat)),
      pluck(UPRIGHT_BASS, { t: 0, sec: at(beats) * 0.92, hz: hzOfMidi(midi), force: uneven(tape, force) }, tape.random),
    );
  for (const { section, beat, beats, chord } of barsOf(form)) {
    if (section.material === 'intro') continue;
    const low = chord.root > 43 ? chord.root - 12 : chord.root;
    if (section.material === 'bridge') play(beat, beats, low, 0.8);
    else {
      play(beat, 1.5, low, 0.95);
      play(beat + 1.5, 0.5, low, 0.5);
      if (beats > 2) play(beat + 2, 1.5, low + 7, 0.8);
      if (beats > 2 && section.material !== 'verse') play(beat + 3.5, 0.5, low + (chord.tones[1] ?? 3), 0.6);
    }
  }
};

const nylonGuitar: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    const strings = [0, 7, 12, 12 + chord.tones[1]!, 19, 24].map((step) => chord.root + step + 12);
    const pattern = section.material === 'chorus' ? [0, 3, 4, 5, 1, 3, 5, 4] : [0, 2, 3, 4, 1, 3, 2, 3];
    pattern.slice(0, beats * 2).forEach((string, i) => {
      const force = uneven(tape, i % 4 === 0 ? 0.85 : 0.6);
      const note = { t: 0, sec: 0.9, hz: hzOfMidi(strings[string]!), force };
      tape.add(loose(tape, at(beat + i / 2)), pluck(NYLON, note, tape.random));
    });
  }
};

/** Plays a section's tune on the fiddle, `up` semitones higher. */
function fiddleTune(section: PlacedSection, tape: Tape, gain: number, up = 0): void {
  for (const note of tuneOf(section)) {
    const force = uneven(tape, 0.85) * gain;
    const sounding = { t: 0, sec: at(note.beats) * 0.97, hz: hzOfMidi(note.midi + up), force };
    tape.add(at(section.beat + note.beat), bow(FIDDLE, sounding, tape.random));
  }
}

const fiddle: Part = (form, tape) => {
  for (const section of form.sections)
    if (section.material === 'intro' || section.material === 'outro') fiddleTune(section, tape, 1);
    else if (section.material === 'solo') fiddleTune(section, tape, gainOf(PROBLEM.fiddleTooLow));
  for (const { section, beat, beats, chord } of barsOf(form)) {
    const pads = section.material === 'chorus' || (section.material === 'verse' && section.take === 2);
    if (!pads) continue;
    const force = uneven(tape, section.take === 3 ? 0.6 : 0.4);
    const hz = hzOfMidi(chord.root + 24 + chord.tones[1]!);
    tape.add(at(beat), bow(FIDDLE, { t: 0, sec: at(beats) * 0.96, hz, force }, tape.random));
  }
};

/** How hard the organ plays, and from which octave up, in each section; null where it is silent. */
function organAt({ material, take }: PlacedSection): { readonly force: number; readonly octave: number } | null {
  const soft = 0.42;
  switch (material) {
    case 'intro':
    case 'solo':
      return null;
    case 'verse':
      return take === 2 ? { force: soft * gainOf(PROBLEM.organRises), octave: 24 } : { force: soft, octave: 12 };
    case 'chorus':
      return { force: take === 3 ? 0.6 : 0.5, octave: 12 };
    case 'bridge':
    case 'outro':
      return { force: 0.35, octave: 12 };
  }
}

const pumpOrgan: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    const how = organAt(section);
    if (!how) continue;
    for (const tone of [...chord.tones, 12]) {
      const note = { t: 0, sec: at(beats) * 0.98, hz: hzOfMidi(chord.root + how.octave + tone), force: how.force };
      tape.add(at(beat), reed(note, tape.random), (tone - 6) / 12);
    }
  }
};

const lead: Part = (form, tape) => {
  for (const section of form.sections) {
    if (!['verse', 'chorus', 'bridge'].includes(section.material)) continue;
    const sinks = section.material === 'verse' && section.take === 2 ? gainOf(PROBLEM.leadSinks) : 1;
    const nominal = section.material === 'chorus' ? 0.95 : 0.8;
    for (const note of tuneOf(section)) {
      const force = uneven(tape, nominal);
      const sounding = { t: 0, sec: at(note.beats) * 0.93, hz: hzOfMidi(note.midi), force };
      const sung = sing(LEAD, note.vowel, sounding, tape.random);
      for (let i = 0; i < sung.length; i++) sung[i]! *= sinks;
      tape.add(loose(tape, at(section.beat + note.beat)), sung);
    }
  }
};

/** Where the choir sings: in choruses always, in verses in every second pair of bars. */
const choirSings = ({ section, bar }: Bar): boolean =>
  section.material === 'chorus' || (section.material === 'verse' && bar % 4 >= 2);

/** Times of the coughs: in the pairs of bars of the verses in which the choir waits, one in each but the first. */
export const coughTimes = (form: Form): number[] =>
  barsOf(form)
    .filter(({ section, bar }) => section.material === 'verse' && bar % 4 === 1 && (bar > 1 || section.take === 2))
    .map(({ beat }, i) => at(beat + 1.3 + 0.4 * (i % 3)));

const choir: Part = (form, tape) => {
  const vowels: readonly Vowel[] = ['a', 'o', 'a', 'e'];
  for (const bar of barsOf(form)) {
    if (!choirSings(bar)) continue;
    const { section, beat, beats, chord } = bar;
    const force = section.material === 'verse' ? 0.35 : section.take === 3 ? 0.75 : 0.6;
    const vowel = section.material === 'verse' ? 'u' : vowels[bar.bar % 4]!;
    [0, 1, 2, 0, 1, 2].forEach((tone, singer) => {
      const midi = chord.root + 12 + chord.tones[tone]! + (singer > 2 ? 12 : 0);
      const hz = hzOfMidi(midi) * (1 + either(tape.random) * 0.004);
      const sung = sing(CHORISTER, vowel, { t: 0, sec: at(beats) * 0.95, hz, force }, tape.random);
      tape.add(loose(tape, at(beat) + 0.02 * singer), sung, (singer - 2.5) / 3);
    });
  }
  for (const t of coughTimes(form)) tape.add(t, cough(tape.random), 0.45);
};

/** Where the wheel is recorded: from the song's start into Verse 1, and from the end of the Last chorus to the end. */
const millWheel: Part = (form, tape) => {
  const first = form.sections[0]!;
  tape.add(0, wheel(at(first.beats + 12), tape.random));
  const outro = form.sections.find((section) => section.material === 'outro');
  if (outro) tape.add(at(outro.beat - 4), wheel(form.length - at(outro.beat - 4), tape.random));
};

/** A track of the demo: who plays, where its fader rests in the static mix, and its part. */
export type Track = {
  readonly key: string;
  readonly name: string;
  readonly family: string;
  readonly sides: 1 | 2;
  readonly restDb: number;
  readonly pan: number;
  readonly part: Part;
};

const track = (
  name: string,
  family: string,
  [sides, restDb, pan]: readonly [1 | 2, number, number],
  part: Part,
): Track => ({ key: name.toLowerCase().replaceAll(' ', '-'), name, family, sides, restDb, pan, part });

/** The tracks so far, in the order of the song's families. */
export const TRACKS: readonly Track[] = [
  track('Frame drum', 'Rhythm', [1, -9, -0.1], frameDrum),
  track('Mill wheel', 'Room', [1, -20, 0.2], millWheel),
  track('Upright bass', 'Low', [1, -9, 0], uprightBass),
  track('Nylon guitar', 'Strings & reeds', [1, -11, 0.35], nylonGuitar),
  track('Fiddle', 'Strings & reeds', [1, -9, -0.4], fiddle),
  track('Pump organ', 'Strings & reeds', [2, -14, 0], pumpOrgan),
  track('Lead', 'Voices', [1, -6, 0], lead),
  track('Choir', 'Voices', [2, -13, 0], choir),
];
