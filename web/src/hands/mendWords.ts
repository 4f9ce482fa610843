import type { LayerOf } from '@sure-hand/core/edits';
import { controlOf, isInDb, type Song } from '@sure-hand/core/song';
import { printDb, type Seconds } from '@sure-hand/core/units';
import { pointsWords } from './picking.js';

/** A length of time with its sign: `+120 ms`, `−1.25 s`. */
export function printShift(sec: Seconds): string {
  const sign = sec < 0 ? '−' : '+';
  const ms = Math.round(Math.abs(sec) * 1000);
  return ms < 1000 ? `${sign}${ms} ms` : `${sign}${(ms / 1000).toFixed(2)} s`;
}

/** How far a point went, in its own words: in dB, or where it was and is; and in time. Nothing of what it did not do. */
export function amountWords(
  song: Song,
  of: LayerOf,
  from: { t: Seconds; v: number },
  to: { t: Seconds; v: number },
): string {
  const { scale } = controlOf(song, of.control);
  const isDb = of.layer === 'trim' || isInDb(controlOf(song, of.control));
  const print = of.layer === 'trim' ? (v: number): string => printDb(v, true) : scale.print;
  const both = Math.min(from.v, to.v) > -144;
  const gone = isDb && both ? `${printDb(to.v - from.v, true)} → ${print(to.v)}` : `${print(from.v)} → ${print(to.v)}`;
  return [from.v === to.v ? '' : gone, Math.abs(to.t - from.t) < 5e-4 ? '' : printShift(to.t - from.t)]
    .filter(Boolean)
    .join(', ');
}

/** What was done to points, one of which went so far: of several it is the one in the hand, or the first. */
export const movedWords = (song: Song, of: LayerOf | readonly LayerOf[], count: number, amount: string): string =>
  `${pointsWords(song, of, count)} moved: ${count > 1 ? 'one of them ' : ''}${amount || 'back to where it was'}.`;
