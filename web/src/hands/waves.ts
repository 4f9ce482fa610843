import { applyEdit, type Edit } from '@sure-hand/core/edits';
import {
  layerScale,
  controlOf,
  fullName,
  guardOn,
  isSwitch,
  layerLaw,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import type { Wave } from '@sure-hand/core/curve';
import { meterAt, meterMap } from '@sure-hand/core/time';
import { clamp, valueOf } from '@sure-hand/core/units';
import { layerOf } from './picking.js';

export const WAVE_NAMES: Readonly<Record<Wave, string>> = {
  sine: 'Sine',
  triangle: 'Triangle',
  square: 'Square',
  sawUp: 'Saw up',
  sawDown: 'Saw down',
  steps: 'Random steps',
};

/** How long one cycle takes, in notes; bars by the meter at the range's start. T marks triplets. */
export const RATES = [
  '4 bars',
  '2 bars',
  '1 bar',
  '1/2',
  '1/4',
  '1/4T',
  '1/8',
  '1/8T',
  '1/16',
  '1/16T',
  '1/32',
] as const;
export type Rate = (typeof RATES)[number];

/** Cycles a quarter note, of a rate at a place of the song. */
export function cyclesPerQuarter(song: Song, rate: Rate, t: number): number {
  const [count, unit] = rate.split(' ');
  if (unit) {
    const { beats, unit: note } = meterAt(meterMap(song.tempo, song.meter), t);
    return note / (Number(count) * beats * 4);
  }
  const part = Number(rate.replace('T', '').split('/')[1]);
  return (part / 4) * (rate.endsWith('T') ? 1.5 : 1);
}

/** A shape as it is asked for; depth and centre in travel, phase in turns. */
export type AskedWave = {
  readonly wave: Wave;
  readonly rate: Rate;
  readonly depth: number;
  readonly centre: number;
  readonly phase: number;
  readonly seed: number;
};

/** The edit that draws a shape over the range on the control in hand; null where there is none of the two, or it is guarded. */
export function waveEdit(
  song: Song,
  inHand: ControlId | null,
  range: readonly [number, number] | null,
  { rate, ...shape }: AskedWave,
): Edit | null {
  if (!inHand || !range || guardOn(song, inHand)) return null;
  return { kind: 'shape', ...layerOf(song, inHand), range, perBeat: cyclesPerQuarter(song, rate, range[0]), ...shape };
}

/** What a shape goes between, in the control's own words, and how many points it makes. */
export function waveWords(song: Song, edit: Edit | null, { depth, centre }: AskedWave): string {
  if (edit?.kind !== 'shape') return '';
  const { control, layer = 'base' } = edit;
  const { print } = layerScale(controlOf(song, control), layer);
  const law = layerLaw(song, control, layer);
  const end = (x: number): string => print(valueOf(law, clamp(x, 0, 1)));
  const { song: after } = applyEdit(song, edit);
  const lane = after.lanes[control]!;
  const { t } = layer === 'trim' ? lane.trim : lane.points;
  const points = t.filter((one) => one >= edit.range[0] && one <= edit.range[1]).length;
  const between = isSwitch(controlOf(song, control))
    ? ''
    : ` between ${end(centre - depth)} and ${end(centre + depth)}`;
  return `${fullName(song, control)}${between}, ${points} points.`;
}
