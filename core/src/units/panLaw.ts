import type { Gain } from './unit.js';

/** How many dB a source loses at the centre of the pan. */
export type PanLaw = 3 | 4.5 | 6;
export const PAN_LAWS: readonly PanLaw[] = [3, 4.5, 6];

/**
 * The gain of the left side for a mono source at pan p, −1 … +1 (rules, 1). The right side's is this at −p.
 * 3 dB: equal power; 6 dB: equal amplitude; 4.5 dB: the geometric mean of the two.
 */
export function leftGain(law: PanLaw, pan: number): Gain {
  const power = pan >= 1 ? 0 : Math.cos(((pan + 1) * Math.PI) / 4);
  const amplitude = (1 - pan) / 2;
  switch (law) {
    case 3:
      return power;
    case 6:
      return amplitude;
    case 4.5:
      return Math.sqrt(power * amplitude);
  }
}

/** The gain of the left side for a stereo source: a balance, where the side moved towards keeps its full level. */
export const leftBalanceGain = (law: PanLaw, pan: number): Gain => asBalance(leftGain(law, pan), leftGain(law, 0));

/** The gain of a side for a stereo source, of what it is for a mono one there and at the centre. */
export const asBalance = (gain: Gain, centre: Gain): Gain => (gain < centre ? gain / centre : 1);
