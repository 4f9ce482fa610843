import { CELLO, UPRIGHT_BASS, bow, pluck } from '../instruments/strings.js';
import { hzOfMidi } from '../instruments/sound.js';
import { barsOf } from '../score/material.js';
import { at, isChorus, loose, push, uneven, type Part } from './playing.js';

export const uprightBass: Part = (form, tape) => {
  const play = (beat: number, beats: number, midi: number, force: number): void => {
    const note = { sec: at(beats) * 0.92, hz: hzOfMidi(midi), force: uneven(tape, force) };
    tape.add(loose(tape, at(beat)), pluck(UPRIGHT_BASS, note, tape.random));
  };
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

/** Long notes under the choruses, the bridge and the outro; a line that moves at each chorus's end. */
export const cello: Part = (form, tape) => {
  for (const { section, bar, beat, beats, chord } of barsOf(form)) {
    if (!(isChorus(section) || section.material === 'bridge' || section.material === 'outro')) continue;
    const moves = isChorus(section) && bar % 4 === 3;
    const notes = moves ? [0, chord.tones[1]!, 7, chord.tones[1]!] : [0];
    notes.forEach((tone, i) => {
      const sec = (at(beats) / notes.length) * 0.98;
      const note = { sec, hz: hzOfMidi(chord.root + 12 + tone), force: uneven(tape, 0.7 * push(section)) };
      tape.add(at(beat + (i * beats) / notes.length), bow(CELLO, note, tape.random));
    });
  }
};
