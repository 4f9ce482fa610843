import { either } from '../chance.js';
import { BOX, strike } from '../instruments/others.js';
import { hzOfMidi, through, type Tape } from '../instruments/sound.js';
import { CHORISTER, HIGH_VOICE, LEAD, LOW_VOICE, breathIn, cough, sing, type Singer } from '../instruments/voices.js';
import { SEC_PER_BEAT, type Form, type PlacedSection } from '../score/form.js';
import { barsOf, chordAt, tuneOf, type Bar, type TuneNote, type Vowel } from '../score/material.js';
import { at, isChorus, isVerse, loose, problemGain, uneven, type Part } from './playing.js';

type Line = {
  readonly singer: Singer;
  readonly sings: (section: PlacedSection) => boolean;
  readonly force: (section: PlacedSection) => number;
  /** What is sung where the tune has a note; the tune itself where nothing is said. */
  readonly pitch?: (note: TuneNote, section: PlacedSection) => number;
  readonly gain?: (section: PlacedSection) => number;
  /** What the room or the voice does to what is sung. */
  readonly colour?: (sung: Float32Array, section: PlacedSection) => Float32Array;
  /** How much later than the tune, in seconds, on the whole. */
  readonly behind?: number;
};

function singLine(form: Form, tape: Tape, line: Line): void {
  for (const section of form.sections.filter(line.sings))
    for (const note of tuneOf(section)) {
      const midi = line.pitch?.(note, section) ?? note.midi;
      const sounding = { sec: at(note.beats) * 0.93, hz: hzOfMidi(midi), force: uneven(tape, line.force(section)) };
      const sung = sing(line.singer, note.vowel, sounding, tape.random);
      const gain = line.gain?.(section) ?? 1;
      for (let i = 0; i < sung.length; i++) sung[i]! *= gain;
      const coloured = line.colour?.(sung, section) ?? sung;
      tape.add(loose(tape, at(section.beat + note.beat) + (line.behind ?? 0)), coloured);
    }
}

export const lead: Part = (form, tape) =>
  singLine(form, tape, {
    singer: LEAD,
    sings: ({ material }) => ['verse', 'chorus', 'bridge'].includes(material),
    force: (section) => (isChorus(section) ? 0.95 : 0.8),
    gain: (section) => (isVerse(section, 2) ? problemGain('leadSinks') : 1),
    // In the last chorus the voice is pushed, and gets sharp.
    colour: (sung, section) =>
      isChorus(section, 3) ? through(sung, [[SHARP_HZ, 2, problemGain('leadSharp') - 1]], 1) : sung,
  });
const SHARP_HZ = 3200;

/** The Lead once more in the choruses, a little late and a little flat, as people are. */
export const leadDouble: Part = (form, tape) =>
  singLine(form, tape, {
    singer: { ...LEAD, words: 0.15, breath: 0.05, vibrato: 0.006 },
    sings: (section) => isChorus(section),
    force: () => 0.8,
    pitch: (note) => note.midi - 0.06,
    behind: 0.018,
  });

/** The chord's note nearest below or above the tune's, at least a third away. */
function nearestTone(note: TuneNote, section: PlacedSection, way: 1 | -1): number {
  const chord = chordAt(section, Math.floor(note.beat / 4));
  for (let step = 3; step < 12; step++)
    if (chord.tones.some((tone) => (((note.midi + way * step - chord.root - tone) % 12) + 12) % 12 === 0))
      return note.midi + way * step;
  return note.midi + way * 12;
}

const harmony =
  (singer: Singer, way: 1 | -1): Part =>
  (form, tape) =>
    singLine(form, tape, {
      singer,
      sings: (section) => isChorus(section),
      force: () => 0.6,
      pitch: (note, section) => nearestTone(note, section, way),
      gain: (section) => (isChorus(section, 2) ? problemGain('harmoniesRise') : 1),
    });
export const harmonyLow = harmony(LOW_VOICE, -1);
export const harmonyHigh = harmony(HIGH_VOICE, 1);

/** Where the choir sings: in choruses always, in verses in every second pair of bars. */
const choirSings = ({ section, bar }: Bar): boolean => isChorus(section) || (isVerse(section) && bar % 4 >= 2);

/** Times of the coughs: in the pairs of bars of the verses in which the choir waits, one in each but the first. */
export const coughTimes = (form: Form): number[] =>
  barsOf(form)
    .filter(({ section, bar }) => isVerse(section) && bar % 4 === 1 && (bar > 1 || section.take === 2))
    .map(({ beat }, i) => at(beat + 1.3 + 0.4 * (i % 3)));

export const choir: Part = (form, tape) => {
  const vowels: readonly Vowel[] = ['a', 'o', 'a', 'e'];
  for (const bar of barsOf(form)) {
    if (!choirSings(bar)) continue;
    const { section, beat, beats, chord } = bar;
    const force = isVerse(section) ? 0.35 : section.take === 3 ? 0.75 : 0.6;
    const vowel = isVerse(section) ? 'u' : vowels[bar.bar % 4]!;
    [0, 1, 2, 0, 1, 2].forEach((tone, singer) => {
      const midi = chord.root + 12 + chord.tones[tone]! + (singer > 2 ? 12 : 0);
      const hz = hzOfMidi(midi) * (1 + either(tape.random) * 0.004);
      const sung = sing(CHORISTER, vowel, { sec: at(beats) * 0.95, hz, force }, tape.random);
      tape.add(loose(tape, at(beat) + 0.02 * singer), sung, (singer - 2.5) / 3);
    });
  }
  for (const t of coughTimes(form)) tape.add(t, cough(tape.random), 0.45);
};

/** “One, two, three, four” with taps on the box, over the last bar of the Intro. */
export const countIn: Part = (form, tape) => {
  const intro = form.sections.find((section) => section.material === 'intro');
  if (!intro) return;
  const vowels: readonly Vowel[] = ['a', 'u', 'i', 'o'];
  vowels.forEach((vowel, i) => {
    const t = at(intro.beat + intro.beats - 4 + i);
    tape.add(t, strike(BOX, 'tap', 0.8, tape.random));
    tape.add(
      t,
      sing({ ...LOW_VOICE, vibrato: 0, words: 0.9 }, vowel, { sec: 0.18, hz: 118 - 4 * i, force: 0.6 }, tape.random),
    );
  });
};

/** A breath before every section in which somebody begins to sing. */
export const breathSwells: Part = (form, tape) => {
  for (const section of form.sections) {
    if (!isVerse(section) && !isChorus(section) && section.material !== 'bridge') continue;
    const sec = isChorus(section) ? 2 * SEC_PER_BEAT : SEC_PER_BEAT;
    if (section.t >= sec) tape.add(section.t - sec, breathIn(sec, tape.random));
  }
};
