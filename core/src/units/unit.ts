/**
 * Numbers that carry their unit in the type. A plain literal is accepted anywhere, but a value of one
 * unit cannot be handed to something that asks for another: mixing dB with travel is a compile error.
 */
declare const unit: unique symbol;
type Of<Name extends string> = number & { readonly [unit]?: Name };

/** Song time, or a length of it, in seconds from the song's start. */
export type Seconds = Of<'seconds'>;
/** Decibels. At or below {@link SILENCE_DB} a level is exact silence. */
export type Db = Of<'dB'>;
/** Where a cap stands on its throw, 0 … 1. */
export type Travel = Of<'travel'>;
/** A linear factor on the amplitude. */
export type Gain = Of<'gain'>;
/** Whole samples per channel, counted from the song's start. */
export type Frames = Of<'frames'>;

/** At this many dB, or fewer, a level is exact silence (rules, 1). */
export const SILENCE_DB: Db = -144;
/** The top of every level throw (rules, 1). */
export const MAX_LEVEL_DB: Db = 12;

export const clamp = (x: number, low: number, high: number): number => (x < low ? low : x > high ? high : x);

/** Whether a list is of numbers alone, and of finite ones. */
export function areFinite(list: readonly unknown[]): list is readonly number[] {
  // By places: what is missing is no number either, and a list may have very many.
  for (let i = 0; i < list.length; i++) if (!Number.isFinite(list[i])) return false;
  return true;
}

/** e to the power of this many times a level in dB is its gain: quicker than a power of ten. */
const NEPER_PER_DB = Math.LN10 / 20;

/** Gain of a level in dB; exactly 0 at silence. */
export const gainOfDb = (db: Db): Gain => (db <= SILENCE_DB ? 0 : Math.exp(db * NEPER_PER_DB));

/**
 * {@link gainOfDb} of the number at a place among others: for the audio thread, where a number that a call gives back would be a
 * new thing in memory.
 */
export function gainInPlace(numbers: Float64Array, at: number): void {
  const db = numbers[at]!;
  numbers[at] = db <= SILENCE_DB ? 0 : Math.exp(db * NEPER_PER_DB);
}

/** Level in dB of a gain; {@link SILENCE_DB} for 0 and for anything quieter. */
export const dbOfGain = (gain: Gain): Db => (gain > 0 ? Math.max(SILENCE_DB, 20 * Math.log10(gain)) : SILENCE_DB);
