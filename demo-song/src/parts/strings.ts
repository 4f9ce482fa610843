import { ACCORDION, PUMP_ORGAN, pipe, reed } from '../instruments/others.js';
import { FIDDLE, MANDOLIN, NYLON, bow, pluck } from '../instruments/strings.js';
import { hzOfMidi, type Tape } from '../instruments/sound.js';
import type { PlacedSection } from '../score/form.js';
import { barsOf, tuneOf } from '../score/material.js';
import { at, isChorus, isVerse, loose, problemGain, push, uneven, type Part } from './playing.js';

export const nylonGuitar: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    const strings = [0, 7, 12, 12 + chord.tones[1]!, 19, 24].map((step) => chord.root + step + 12);
    const pattern = section.material === 'chorus' ? [0, 3, 4, 5, 1, 3, 5, 4] : [0, 2, 3, 4, 1, 3, 2, 3];
    pattern.slice(0, beats * 2).forEach((string, i) => {
      const force = uneven(tape, i % 4 === 0 ? 0.85 : 0.6);
      const note = { sec: 0.9, hz: hzOfMidi(strings[string]!), force };
      tape.add(loose(tape, at(beat + i / 2)), pluck(NYLON, note, tape.random));
    });
  }
};

/** Off-beat chops on two strings in the choruses and under the solo; quick repeated notes where a chorus ends. */
export const octaveMandolin: Part = (form, tape) => {
  const chop = (beat: number, midi: number, force: number, sec: number): void => {
    for (const apart of [1, 1.003]) {
      const note = { sec, hz: hzOfMidi(midi) * apart, force: uneven(tape, force) };
      tape.add(loose(tape, at(beat)), pluck(MANDOLIN, note, tape.random));
    }
  };
  for (const { section, bar, beat, beats, chord } of barsOf(form)) {
    if (!isChorus(section) && section.material !== 'solo') continue;
    const root = chord.root + 12;
    if (isChorus(section) && bar === 7)
      for (let i = 0; i < beats * 4; i++) chop(beat + i / 4, root + 12, 0.5 * push(section), 0.14);
    else
      for (let b = 0.5; b < beats; b++) {
        chop(beat + b, root + 7, 0.6 * push(section), 0.22);
        chop(beat + b, root + 12 + chord.tones[1]!, 0.6 * push(section), 0.22);
      }
  }
};

/** Plays a section's tune on the fiddle. */
function fiddleTune(section: PlacedSection, tape: Tape, gain: number): void {
  for (const note of tuneOf(section)) {
    const sounding = { sec: at(note.beats) * 0.97, hz: hzOfMidi(note.midi), force: uneven(tape, 0.85) * gain };
    tape.add(at(section.beat + note.beat), bow(FIDDLE, sounding, tape.random));
  }
}

export const fiddle: Part = (form, tape) => {
  for (const section of form.sections)
    if (section.material === 'intro' || section.material === 'outro') fiddleTune(section, tape, 1);
    else if (section.material === 'solo') fiddleTune(section, tape, problemGain('fiddleTooLow'));
  for (const { section, beat, beats, chord } of barsOf(form)) {
    if (!isChorus(section) && !isVerse(section, 2)) continue;
    const force = uneven(tape, section.take === 3 ? 0.6 : 0.4);
    const hz = hzOfMidi(chord.root + 24 + chord.tones[1]!);
    tape.add(at(beat), bow(FIDDLE, { sec: at(beats) * 0.96, hz, force }, tape.random));
  }
};

/** Answers in the second half of each pair of bars in Verse 2; alone with its line all through the Bridge; the Outro's tune. */
export const clarinet: Part = (form, tape) => {
  const play = (beat: number, beats: number, midi: number, force: number): void => {
    const note = { sec: at(beats) * 0.95, hz: hzOfMidi(midi), force: uneven(tape, force) };
    tape.add(loose(tape, at(beat)), pipe(note, tape.random));
  };
  for (const { section, bar, beat, beats, chord } of barsOf(form)) {
    if (isVerse(section, 2) && bar % 2 === 1) {
      play(beat + 2.5, 0.5, chord.root + 24 + chord.tones[1]!, 0.5);
      play(beat + 3, 1, chord.root + 31, 0.55);
    }
    if (section.material === 'bridge' && beats > 2)
      [0, 1, 2, 1].forEach((tone, i) => play(beat + i, 1, chord.root + 24 + chord.tones[tone]!, 0.75));
  }
  for (const section of form.sections)
    if (section.material === 'outro')
      for (const note of tuneOf(section)) play(section.beat + note.beat, note.beats, note.midi - 12, 0.6);
};

/** Chords pumped on the off-beats of choruses and solo. */
export const accordion: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    if (!isChorus(section) && section.material !== 'solo') continue;
    for (let b = 0; b < beats; b++)
      for (const tone of chord.tones) {
        const note = { sec: at(0.38), hz: hzOfMidi(chord.root + 24 + tone), force: uneven(tape, 0.5 * push(section)) };
        tape.add(loose(tape, at(beat + b + 0.5)), reed(ACCORDION, note, tape.random));
      }
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
      return take === 2 ? { force: soft * problemGain('organRises'), octave: 24 } : { force: soft, octave: 12 };
    case 'chorus':
      return { force: take === 3 ? 0.6 : 0.5, octave: 12 };
    case 'bridge':
    case 'outro':
      return { force: 0.35, octave: 12 };
  }
}

export const pumpOrgan: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    const how = organAt(section);
    if (!how) continue;
    for (const tone of [...chord.tones, 12]) {
      const note = { sec: at(beats) * 0.98, hz: hzOfMidi(chord.root + how.octave + tone), force: how.force };
      tape.add(at(beat), reed(PUMP_ORGAN, note, tape.random), (tone - 6) / 12);
    }
  }
};
