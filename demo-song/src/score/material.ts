import { BEATS_PER_BAR, type Form, type Material, type PlacedSection } from './form.js';

/** A chord by its root (MIDI, around D2 = 38) and the notes above it in semitones. */
export type Chord = { readonly root: number; readonly tones: readonly number[] };
const minor = (root: number): Chord => ({ root, tones: [0, 3, 7] });
const major = (root: number): Chord => ({ root, tones: [0, 4, 7] });
const Dm = minor(38);
const C = major(36);
const F = major(41);
const Gm = minor(43);
const Am = minor(45);
const A = major(45);
const Bb = major(46);

/** One chord a bar. */
const HARMONY: Record<Material, readonly Chord[]> = {
  intro: [Dm, Dm, C, Dm],
  verse: [Dm, Dm, C, Dm, F, C, Gm, Am, Dm, C, Gm, Dm],
  chorus: [F, C, Dm, Am, Bb, F, C, Dm],
  solo: [F, C, Dm, Am, Bb, F, C, Dm],
  bridge: [Bb, C, Am, Dm, Gm, Dm, A, A],
  outro: [Dm, C, Gm, Dm],
};

/** The chord of a bar of a section; a short bar goes on with the last one. */
export function chordAt({ material }: PlacedSection, bar: number): Chord {
  const chords = HARMONY[material];
  return chords[Math.min(bar, chords.length - 1)]!;
}

export type Vowel = 'a' | 'e' | 'i' | 'o' | 'u';

/** A note of a tune: beats from the section's start, MIDI pitch, and what is sung on it. */
export type TuneNote = {
  readonly beat: number;
  readonly beats: number;
  readonly midi: number;
  readonly vowel: Vowel;
};

const STEP: Record<string, number> = { C: 0, D: 2, E: 4, F: 5, G: 7, A: 9, B: 11 };

/** Reads a tune: bars by |, notes like `D4.1a` (pitch, length in beats, vowel), `-2` for two beats of rest, b for flat. */
function tune(text: string): TuneNote[] {
  const notes: TuneNote[] = [];
  text.split('|').forEach((bar, i) => {
    let beat = i * BEATS_PER_BAR;
    for (const word of bar.trim().split(/\s+/)) {
      const rest = /^-(\d*\.?\d+)$/.exec(word);
      const note = /^([A-G])(b?)(\d):(\d*\.?\d+)([aeiou])$/.exec(word);
      if (!rest && !note) throw new Error(`no note: ${word}`);
      const beats = Number(rest?.[1] ?? note![4]);
      if (note) {
        const midi = 12 * (Number(note[3]) + 1) + STEP[note[1]!]! - note[2]!.length;
        notes.push({ beat, beats, midi, vowel: note[5] as Vowel });
      }
      beat += beats;
    }
  });
  return notes;
}

/** What the Lead sings, and the Fiddle plays where it has the tune. */
const TUNES: Record<Material, readonly TuneNote[]> = {
  intro: tune('A4:1.5a D5:.5a C5:1a A4:1a | G4:1a A4:1a F4:2a | E4:1a G4:1a C5:1.5a Bb4:.5a | A4:3.5a -.5'),
  verse: tune(
    '-.5 D4:.5o F4:1a G4:1e A4:1a | A4:2.5a G4:.5e F4:.5i D4:.5o | E4:1.5e G4:.5a E4:1o C4:1u | D4:2.5o -1.5 |' +
      '-.5 A4:.5a C5:1a A4:1i G4:1o | G4:2e E4:1e G4:1a | Bb4:1.5a A4:.5o G4:1u F4:1i | E4:2.5e -1.5 |' +
      '-.5 D4:.5a F4:1o A4:1a D5:1i | C5:1.5e A4:.5a G4:1o E4:1a | F4:1u G4:.5a F4:.5e D4:1i C4:1o | D4:3a -1',
  ),
  chorus: tune(
    'C5:1.5a A4:.5i F4:1a A4:1o | G4:2.5a E4:.5e G4:1o | A4:1.5i F4:.5a D4:1e F4:1a | E4:2.5o -1.5 |' +
      'D5:1.5a C5:.5i Bb4:1a D5:1o | C5:2a A4:1e F4:1a | G4:1.5o A4:.5i G4:1a E4:1e | D4:3a -1',
  ),
  solo: tune(
    'C5:.5a D5:.5a C5:.5a A4:.5a F4:1a A4:1a | G4:.5a A4:.5a C5:1a D5:1a E5:1a | F5:1.5a E5:.5a D5:.5a C5:.5a A4:1a | C5:1a A4:.5a G4:.5a E4:2a |' +
      'D5:.5a F5:.5a D5:.5a Bb4:.5a D5:1a F5:1a | E5:1a C5:.5a A4:.5a C5:2a | G4:.5a A4:.5a C5:.5a E5:.5a D5:1a C5:1a | D5:3.5a -.5',
  ),
  bridge: tune(
    'F4:1u F4:1a G4:1o A4:1a | G4:2.5e -1.5 | A4:1a C5:1i A4:1o G4:1e | F4:2.5a -1.5 |' +
      'Bb4:1.5a A4:.5e G4:1o Bb4:1a | A4:2.5i -1.5 | C5:1a D5:1e E5:2a | E5:4o',
  ),
  outro: tune('A4:1.5a G4:.5a F4:1a E4:1a | G4:2a E4:2a | F4:1a G4:.5a F4:.5a D4:1a C4:1a | D4:3.5a -.5'),
};

/** The tune of a section, cut to its length. */
export const tuneOf = ({ material, beats }: PlacedSection): readonly TuneNote[] =>
  TUNES[material].filter((note) => note.beat + note.beats <= beats);

/** A bar of the song: its section, its number there, its first beat in the song, its chord. */
export type Bar = {
  readonly section: PlacedSection;
  readonly bar: number;
  readonly beat: number;
  readonly beats: number;
  readonly chord: Chord;
};

/** Every bar of a form in order, a short one at a section's end included. */
export function barsOf(form: Form): Bar[] {
  return form.sections.flatMap((section) => {
    const count = section.bars + (section.shortBar ? 1 : 0);
    return Array.from({ length: count }, (_, bar): Bar => {
      const beats = bar < section.bars ? BEATS_PER_BAR : section.shortBar;
      return { section, bar, beat: section.beat + bar * BEATS_PER_BAR, beats, chord: chordAt(section, bar) };
    });
  });
}
