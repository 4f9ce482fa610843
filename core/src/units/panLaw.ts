import type { Gain } from './unit.js';

/** How many dB a source loses at the centre of the pan. */
export type PanLaw = 3 | 4.5 | 6;
export const PAN_LAWS: readonly PanLaw[] = [3, 4.5, 6];

/**
 * The gain of the left side for a mono source at pan p, −1 … +1 (rules, 1), in place: from the pan at a place among numbers to
 * the gain there. The right side's is this at −p. 3 dB: equal power; 6 dB: equal amplitude; 4.5 dB: the geometric mean of the two.
 */
export function leftGainInPlace(law: PanLaw, numbers: Float64Array, at: number): void {
  const pan = numbers[at]!;
  const power = pan >= 1 ? 0 : Math.cos(((pan + 1) * Math.PI) / 4);
  const amplitude = (1 - pan) / 2;
  numbers[at] = law === 3 ? power : law === 6 ? amplitude : Math.sqrt(power * amplitude);
}

/** Where the law is asked for one number. */
const ASKED = new Float64Array(1);

/** The gain of the left side for a mono source: see {@link leftGainInPlace}. */
export function leftGain(law: PanLaw, pan: number): Gain {
  ASKED[0] = pan;
  leftGainInPlace(law, ASKED, 0);
  return ASKED[0];
}

/** The gain of the left side for a stereo source: a balance, where the side moved towards keeps its full level. */
export const leftBalanceGain = (law: PanLaw, pan: number): Gain => asBalance(leftGain(law, pan), leftGain(law, 0));

/** The gain of a side for a stereo source, of what it is for a mono one there and at the centre. */
export const asBalance = (gain: Gain, centre: Gain): Gain => (gain < centre ? gain / centre : 1);
