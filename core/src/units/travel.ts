import { MAX_LEVEL_DB, SILENCE_DB, clamp, gainInPlace, gainOfDb, type Db, type Gain, type Travel } from './unit.js';

/**
 * How a control's value stands on its throw (rules, 1). `level` is the fader law in dB, `trim` the ±12 dB offset,
 * `switch` off or on; `linear` and `log` are for everything that declares its own range.
 */
export type Law =
  | { readonly kind: 'level' }
  | { readonly kind: 'trim' }
  | { readonly kind: 'switch' }
  | ({ readonly kind: 'linear' } & OwnRange)
  | ({ readonly kind: 'log' } & OwnRange);
/** The ends of a throw in its own unit, and what that is: values of one unit stand for each other, and dB can be trimmed. */
type OwnRange = { readonly min: number; readonly max: number; readonly unit?: string };

export const LEVEL_LAW: Law = { kind: 'level' };
export const TRIM_LAW: Law = { kind: 'trim' };
export const SWITCH_LAW: Law = { kind: 'switch' };
export const PAN_LAW: Law = { kind: 'linear', min: -1, max: 1 };

/** Trim reaches this far either side of 0 dB. */
export const TRIM_REACH_DB: Db = 12;

/** The level law's corners: linear in dB between them, linear in gain below the first. */
const CORNER_TRAVEL = [0.05, 0.15, 0.3, 0.5, 0.75, 1] as const;
/** In dB, from the foot, below which it is linear in gain, to the top. */
export const LEVEL_CORNERS_DB: readonly Db[] = [-60, -45, -30, -15, 0, 12];
const CORNER_DB = [-60, -45, -30, -15, 0, 12] as const;
const FOOT_TRAVEL = CORNER_TRAVEL[0];
const FOOT_GAIN = gainOfDb(CORNER_DB[0]);

/** Level law, dB to travel. Silence is 0, +12 dB and above 1. */
export function travelOfLevel(db: Db): Travel {
  if (db <= SILENCE_DB) return 0;
  if (db >= MAX_LEVEL_DB) return 1;
  if (db < CORNER_DB[0]) return (FOOT_TRAVEL * gainOfDb(db)) / FOOT_GAIN;
  let i = 1;
  while (db > CORNER_DB[i]!) i++;
  const share = (db - CORNER_DB[i - 1]!) / (CORNER_DB[i]! - CORNER_DB[i - 1]!);
  return CORNER_TRAVEL[i - 1]! + share * (CORNER_TRAVEL[i]! - CORNER_TRAVEL[i - 1]!);
}

/**
 * Level law, travel to dB, of the number at a place among others: for the audio thread, where a number that a call gives back
 * would be a new thing in memory. Travel 0 is {@link SILENCE_DB}.
 */
function levelInPlace(numbers: Float64Array, at: number): void {
  const travel = numbers[at]!;
  if (travel <= 0) numbers[at] = SILENCE_DB;
  else if (travel >= 1) numbers[at] = MAX_LEVEL_DB;
  else if (travel < FOOT_TRAVEL)
    numbers[at] = Math.max(SILENCE_DB, 20 * Math.log10((travel / FOOT_TRAVEL) * FOOT_GAIN));
  else {
    let i = 1;
    while (travel > CORNER_TRAVEL[i]!) i++;
    const share = (travel - CORNER_TRAVEL[i - 1]!) / (CORNER_TRAVEL[i]! - CORNER_TRAVEL[i - 1]!);
    numbers[at] = CORNER_DB[i - 1]! + share * (CORNER_DB[i]! - CORNER_DB[i - 1]!);
  }
}

/** Level law, travel straight to gain, in place: see {@link levelInPlace}. */
export function levelGainInPlace(numbers: Float64Array, at: number): void {
  levelInPlace(numbers, at);
  gainInPlace(numbers, at);
}

/** Trim law, travel to dB, in place: see {@link levelInPlace}. */
function trimInPlace(numbers: Float64Array, at: number): void {
  numbers[at] = numbers[at]! * 2 * TRIM_REACH_DB - TRIM_REACH_DB;
}

/** Trim law, travel straight to gain, in place: see {@link levelInPlace}. */
export function trimGainInPlace(numbers: Float64Array, at: number): void {
  trimInPlace(numbers, at);
  gainInPlace(numbers, at);
}

/** Where a law is asked for one number. */
const ASKED = new Float64Array(1);

function trimOfTravel(travel: Travel): Db {
  ASKED[0] = travel;
  trimInPlace(ASKED, 0);
  return ASKED[0];
}

/** Level law, travel to dB. Travel 0 is {@link SILENCE_DB}. */
export function levelOfTravel(travel: Travel): Db {
  ASKED[0] = travel;
  levelInPlace(ASKED, 0);
  return ASKED[0];
}

/** Level law, travel straight to gain. */
export function gainOfTravel(travel: Travel): Gain {
  ASKED[0] = travel;
  levelGainInPlace(ASKED, 0);
  return ASKED[0];
}

/** Where a value stands on its throw; values outside the range stand at its end. */
export function travelOf(law: Law, value: number): Travel {
  switch (law.kind) {
    case 'level':
      return travelOfLevel(value);
    case 'trim':
      return clamp((value + TRIM_REACH_DB) / (2 * TRIM_REACH_DB), 0, 1);
    case 'switch':
      return clamp(value, 0, 1);
    case 'linear':
      return clamp((value - law.min) / (law.max - law.min), 0, 1);
    case 'log':
      return clamp(Math.log(value / law.min) / Math.log(law.max / law.min), 0, 1);
  }
}

/** The value at a place on the throw: the inverse of {@link travelOf}. */
export function valueOf(law: Law, travel: Travel): number {
  const x = clamp(travel, 0, 1);
  switch (law.kind) {
    case 'level':
      return levelOfTravel(x);
    case 'trim':
      return trimOfTravel(x);
    case 'switch':
      return x;
    case 'linear':
      return law.min + x * (law.max - law.min);
    case 'log':
      return law.min * (law.max / law.min) ** x;
  }
}

/** What values of a law are in; null where it is nothing that others have too. */
export function unitOf(law: Law): string | null {
  if (law.kind === 'level' || law.kind === 'trim') return 'dB';
  return law.kind === 'switch' ? null : (law.unit ?? null);
}

/** The ends of a law's range in its own unit. */
export function rangeOf(law: Law): { readonly min: number; readonly max: number } {
  switch (law.kind) {
    case 'level':
      return { min: SILENCE_DB, max: MAX_LEVEL_DB };
    case 'trim':
      return { min: -TRIM_REACH_DB, max: TRIM_REACH_DB };
    case 'switch':
      return { min: 0, max: 1 };
    case 'linear':
    case 'log':
      return { min: law.min, max: law.max };
  }
}
