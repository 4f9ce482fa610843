import { applyEdit, type Edit } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import {
  NEW_SWAY,
  controlOf,
  fullName,
  guardOn,
  guardedAs,
  isSwitch,
  laneOf,
  type ControlId,
  type Song,
  type Sway,
} from '@sure-hand/core/song';
import { SWAY_SCALE } from '@sure-hand/core/units';
import { staysOf } from './reasonWords.js';
import { RATES, WAVE_NAMES, cyclesPerQuarter, type Rate } from './waves.js';

/** How often a sway comes round: so long in notes, or so many times a second. */
export type SwayRate = Rate | 'hz';

/** The sway that a control has, or the one that it would get. */
export const swayNow = (song: Song, id: ControlId): Sway => laneOf(song, id).sway ?? NEW_SWAY;

/** What a sway is of: the control in hand, or what it is the depth of. */
export const swayTarget = (inHand: ControlId | null): ControlId | null => inHand && guardedAs(inHand);

/** The rate of a sway among those to choose from; null where it is another: bars are by the meter at the song's start, where it begins. */
export function rateOf(song: Song, { hz, perBeat }: Sway): SwayRate | null {
  if (hz !== undefined) return 'hz';
  return RATES.find((rate) => Math.abs(cyclesPerQuarter(song, rate, 0) - perBeat!) < 1e-9) ?? null;
}

/** How often a sway comes round, in words. */
export function rateWords(song: Song, sway: Sway): string {
  const rate = rateOf(song, sway);
  if (rate?.includes('/')) return `a ${rate} note`;
  if (sway.hz !== undefined) return `${Number(sway.hz.toFixed(2))} Hz`;
  return rate ?? `${Number((1 / sway.perBeat!).toFixed(2))} quarter notes`;
}

/** A sway that comes round at another rate. */
export function withRate(song: Song, { perBeat: _perBeat, hz, ...sway }: Sway, rate: SwayRate): Sway {
  return rate === 'hz' ? { ...sway, hz: hz ?? 1 } : { ...sway, perBeat: cyclesPerQuarter(song, rate, 0) };
}

/** The edit that gives a control a sway, or takes it away; null where that is what it has. */
export function swayEdit(song: Song, id: ControlId, sway: Sway | null): Edit | null {
  const edit: Edit = { kind: 'sway', control: id, sway };
  return applyEdit(song, edit).changed.length ? edit : null;
}

/** Why a control takes no change of sway; null where it does. */
export function whyNoSway(song: Song, id: ControlId): string | null {
  if (isSwitch(controlOf(song, id))) return `${fullName(song, id)} is a switch: it is on or off, and does not sway.`;
  const guard = guardOn(song, id);
  return guard && staysOf(song, id, guard);
}

/** What a control does with a sway, in a sentence. */
export function swayWords(song: Song, id: ControlId, sway: Sway): string {
  const name = fullName(song, id);
  if (!sway.on) return `The sway of ${name} is off: its curve alone is heard.`;
  const wave = WAVE_NAMES[sway.wave].toLowerCase();
  return `${name} goes ${SWAY_SCALE.print(sway.depth)} of its throw either side of its curve, a ${wave} in ${rateWords(song, sway)}.`;
}

/** The edit that prints a control's sway, over a range or whole. */
export const printEdit = (id: ControlId, range: Range | null): Edit => ({
  kind: 'printSway',
  control: id,
  ...(range ? { range } : {}),
});

/** Prints a control's sway for its points to be counted: those that its curve has there then. */
export function pointsPrinted(song: Song, id: ControlId, range: Range | null): number {
  const { t } = laneOf(applyEdit(song, printEdit(id, range)).song, id).points;
  const [from, to] = range ?? [0, Infinity];
  return t.filter((one) => one >= from && one <= to).length;
}
