import { BAR, BELL, ring } from '../instruments/others.js';
import { hzOfMidi } from '../instruments/sound.js';
import { barsOf, tuneOf } from '../score/material.js';
import { at, isChorus, loose, push, uneven, type Part } from './playing.js';

/** The first note of every other bar in the choruses, and the intro's tune an octave up. */
export const glockenspiel: Part = (form, tape) => {
  const play = (beat: number, midi: number, force: number): void => {
    const note = { sec: 1.8, hz: hzOfMidi(midi), force: uneven(tape, force) };
    tape.add(loose(tape, at(beat)), ring(BAR, note, tape.random));
  };
  for (const section of form.sections)
    if (section.material === 'intro')
      for (const note of tuneOf(section)) play(section.beat + note.beat, note.midi + 12, 0.5);
  for (const { section, bar, beat, chord } of barsOf(form))
    if (isChorus(section) && bar % 2 === 0)
      [0, 1, 2].forEach((tone, i) => play(beat + i / 2, chord.root + 36 + chord.tones[tone]!, 0.6 * push(section)));
};

/** The bell over the weir: once where a chorus begins, and where the song ends. */
export const weirBell: Part = (form, tape) => {
  for (const section of form.sections) {
    if (!isChorus(section) && section.material !== 'outro') continue;
    const beat = section.material === 'outro' ? section.beat + section.beats - 4 : section.beat;
    const sec = Math.min(7, form.length - at(beat));
    tape.add(at(beat), ring(BELL, { sec, hz: hzOfMidi(50), force: uneven(tape, 0.9) }, tape.random));
  }
};
