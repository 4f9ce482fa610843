import { returnEffect } from '@sure-hand/core/mix';
import { BOX, SKIN, strike, wheel } from '../instruments/others.js';
import { NYLON, pluck } from '../instruments/strings.js';
import { CHORISTER, sing } from '../instruments/voices.js';
import { either } from '../chance.js';
import { SAMPLE_RATE, hzOfMidi, lowPass, shape, swell, through, type Tape } from '../instruments/sound.js';
import { barsOf } from '../score/material.js';
import { at, isChorus, isVerse, loose, uneven, type Part } from './playing.js';
import type { PlacedSection } from '../score/form.js';

/**
 * The pump house itself: two microphones far from the players, who are heard as the room gives them back. It is as loud
 * in the last chorus as in the others, though the band plays harder there: that is left for the mix to open up.
 */
export const pumpHouse: Part = (form, tape) => {
  for (const { section, beat, beats, chord } of barsOf(form)) {
    if (section.material === 'intro') continue;
    const near = isChorus(section) || section.material === 'solo' ? 1 : 0.6;
    for (let b = 0; b < beats; b++) {
      const [struck, stroke] = b % 2 ? ([BOX, 'slap'] as const) : ([SKIN, 'deep'] as const);
      tape.add(loose(tape, at(beat + b)), strike(struck, stroke, uneven(tape, 0.8 * near), tape.random), 0.3);
      const note = { sec: 0.5, hz: hzOfMidi(chord.root + 12 + chord.tones[b % 3]!), force: 0.5 * near };
      tape.add(loose(tape, at(beat + b)), pluck(NYLON, note, tape.random), -0.4);
    }
    if (!isChorus(section)) continue;
    for (const tone of chord.tones) {
      const note = { sec: at(beats) * 0.9, hz: hzOfMidi(chord.root + 24 + tone), force: 0.35 };
      tape.add(at(beat), sing(CHORISTER, 'a', note, tape.random), tone / 7 - 0.5);
    }
  }
  const [left, right] = tape.sides as [Float32Array, Float32Array];
  const house = returnEffect('reverb', SAMPLE_RATE);
  house.clear(0);
  house.process(left, right, left.length);
  for (const section of form.sections.filter((one) => isVerse(one, 2))) rumble(section, tape);
};

/** Pumps far below, that somebody left running in the second verse: a slow unevenness of very low noise. */
function rumble({ t, beats }: PlacedSection, tape: Tape): void {
  const sec = at(beats);
  const noise = Float32Array.from({ length: Math.round(sec * SAMPLE_RATE) }, () => either(tape.random));
  const low = through(noise, [
    [34, 3, 1],
    [52, 4, 0.6],
  ]);
  for (let pass = 0; pass < 3; pass++) lowPass(low, 70);
  shape(low, (s) => RUMBLE * swell(sec - 1.2, 0.8, 1.2)(s) * (0.75 + 0.25 * Math.sin(2 * Math.PI * 0.31 * s)));
  tape.add(t, low);
}
/** How loud that is on the tape, which {@link PROBLEM} says and the demo's tests measure. */
const RUMBLE = 36;

/** Where the wheel is recorded: from the song's start into Verse 1, and from the end of the Last chorus to the end. */
export const millWheel: Part = (form, tape) => {
  const first = form.sections[0]!;
  tape.add(0, wheel(at(first.beats + 12), tape.random));
  const outro = form.sections.find((section) => section.material === 'outro');
  if (outro) tape.add(at(outro.beat - 4), wheel(form.length - at(outro.beat - 4), tape.random));
};
