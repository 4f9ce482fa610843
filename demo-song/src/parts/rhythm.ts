import { BOX, BRUSHED, BRUSH_TAP, SHAKEN, SKIN, clap, rustle, strike, type Stroke } from '../instruments/others.js';
import type { Tape } from '../instruments/sound.js';
import type { Form, Material, PlacedSection } from '../score/form.js';
import { barsOf } from '../score/material.js';
import { at, isChorus, loose, push, uneven, type Part } from './playing.js';

/** A bar in sixteenths, one letter each; a dot is nothing. */
type Pattern = string;

/** Plays a pattern of each bar; `hit` is what a letter sounds like. */
function beatOut(
  form: Form,
  tape: Tape,
  patternOf: (section: PlacedSection, bar: number) => Pattern,
  hit: (letter: string, section: PlacedSection) => Float32Array,
): void {
  for (const { section, bar, beat, beats } of barsOf(form))
    [...patternOf(section, bar)].slice(0, beats * 4).forEach((letter, i) => {
      if (letter !== '.') tape.add(loose(tape, at(beat + i / 4)), hit(letter, section));
    });
}

const DRUM: Record<Material, Pattern> = {
  intro: '',
  verse: 'D..t..S.t.D...St',
  chorus: 'D..tS.t.D.D.S.tt',
  solo: 'D..tS.ttD.D.S.tt',
  bridge: 'D.......t...S...',
  outro: 'D.......S.......',
};
const STROKE: Record<string, readonly [Stroke, number]> = { D: ['deep', 0.9], S: ['slap', 0.7], t: ['tap', 0.4] };

export const frameDrum: Part = (form, tape) =>
  beatOut(
    form,
    tape,
    (section) => DRUM[section.material],
    (letter, section) => {
      const [stroke, force] = STROKE[letter]!;
      return strike(SKIN, stroke, uneven(tape, force * push(section)), tape.random);
    },
  );

export const box: Part = (form, tape) =>
  beatOut(
    form,
    tape,
    (section) => (isChorus(section) ? 'D.t.S.tDt.D.S.t.' : section.material === 'solo' ? 'D.ttS.tt..DtS.tS' : ''),
    (letter, section) => {
      const [stroke, force] = STROKE[letter]!;
      return strike(BOX, stroke, uneven(tape, force * push(section)), tape.random);
    },
  );

export const brushes: Part = (form, tape) =>
  beatOut(
    form,
    tape,
    (section) => (section.material === 'verse' ? 'b...t...b...t.b.' : section.material === 'bridge' ? 'b...b...' : ''),
    (letter) => rustle(letter === 'b' ? BRUSHED : BRUSH_TAP, uneven(tape, letter === 'b' ? 0.6 : 0.9), tape.random),
  );

export const shaker: Part = (form, tape) =>
  beatOut(
    form,
    tape,
    (section) => (isChorus(section) || section.material === 'solo' ? 'S.s.S.s.S.s.Sss.' : ''),
    (letter, section) => rustle(SHAKEN, uneven(tape, (letter === 'S' ? 0.9 : 0.55) * push(section)), tape.random),
  );

export const claps: Part = (form, tape) =>
  beatOut(
    form,
    tape,
    (section) => (isChorus(section, 2) || isChorus(section, 3) ? '....C.......C...' : ''),
    () => clap(uneven(tape, 0.9), tape.random),
  );
