import { quickExpInPlace, type Law } from '../units/index.js';

/** Places in the numbers of a law with a range of its own: where its throw begins, how far it goes, and whether that is a logarithm. */
const OWN_LAW = { low: 0, reach: 1, isLog: 2, length: 3 } as const;

/** A law as numbers; of one without a range of its own the value is the travel. */
export function ownLawOf(law: Law): Float64Array {
  const numbers = new Float64Array(OWN_LAW.length);
  numbers[OWN_LAW.low] = 'min' in law ? law.min : 0;
  numbers[OWN_LAW.reach] = !('min' in law) ? 1 : law.kind === 'log' ? Math.log(law.max / law.min) : law.max - law.min;
  numbers[OWN_LAW.isLog] = law.kind === 'log' ? 1 : 0;
  return numbers;
}

/**
 * The travel at a place among numbers becomes its value, in place, by the law from a place on among others, whose numbers are so far apart:
 * for the audio thread (see {@link FOUND}).
 */
export function ownValueInPlace(
  numbers: Float64Array,
  at: number,
  laws: Float64Array,
  law: number,
  apart: number,
): void {
  numbers[at]! *= laws[law + OWN_LAW.reach * apart]!;
  if (laws[law + OWN_LAW.isLog * apart] === 0) numbers[at]! += laws[law]!;
  else {
    quickExpInPlace(numbers, at);
    numbers[at]! *= laws[law]!;
  }
}
