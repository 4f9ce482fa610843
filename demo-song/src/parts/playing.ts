import { either } from '../chance.js';
import { gainOf, type Tape } from '../instruments/sound.js';
import { SEC_PER_BEAT, type Form, type PlacedSection } from '../score/form.js';

/** What a player does over a whole form: adds sounds to a tape. */
export type Part = (form: Form, tape: Tape) => void;

/** How far the players are from what the mix needs, in dB: what the demo's tests measure. */
export const PROBLEM = {
  /** Verse 2: the Lead sings this much softer, and the Pump organ plays this much louder. */
  leadSinks: -5,
  organRises: 5,
  /** The Fiddle's solo is this much under the level at which it plays the tune elsewhere. */
  fiddleTooLow: -5,
  /** Chorus 2: the harmonies sing this much louder than in Chorus 1. */
  harmoniesRise: 6,
  /** Verse 2: below 80 Hz the Pump house is this much louder than in Verse 1. */
  houseRumbles: 12,
  /** Last chorus: around 3.2 kHz the Lead is this much louder, against the rest of its voice. */
  leadSharp: 7,
} as const;
export const problemGain = (problem: keyof typeof PROBLEM): number => gainOf(PROBLEM[problem]);

export const at = (beat: number): number => beat * SEC_PER_BEAT;
/** A hand's small unevenness: up to 12 ms either way, and a little of the force. */
export const loose = (tape: Tape, t: number): number => Math.max(0, t + either(tape.random) * 0.012);
export const uneven = (tape: Tape, force: number): number => force * (0.92 + 0.16 * tape.random());

/** How much harder everyone plays in the last chorus. */
export const push = (section: PlacedSection): number => (section.take === 3 ? 1.15 : 1);
export const isVerse = (section: PlacedSection, take?: number): boolean =>
  section.material === 'verse' && (take === undefined || section.take === take);
export const isChorus = (section: PlacedSection, take?: number): boolean =>
  section.material === 'chorus' && (take === undefined || section.take === take);
