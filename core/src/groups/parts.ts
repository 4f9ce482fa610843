import { trimmedDb } from '../curve/index.js';
import {
  controlId,
  controlOf,
  isInDb,
  isLevel,
  ownValueAt,
  swayedValue,
  type ControlId,
  type Song,
} from '../song/index.js';
import type { Db, Seconds } from '../units/index.js';
import { sumDb, vcasOver } from './vcaSum.js';

/** What a control's own lane gives: its base, in its unit, its sway in it, and its trim in dB. */
export type OwnValue = { readonly base: number; readonly trim: Db };
/** Where a control is by its own lane: by the song, or by the hands that are on it. */
export type OwnAt = (id: ControlId) => OwnValue;

/** What a level that is heard is made of, in dB: the channel's own, its trim, each VCA over it with its trim, and their sum. */
export type LevelParts = {
  readonly base: Db;
  readonly trim: Db;
  readonly vcas: readonly { readonly control: ControlId; readonly db: Db }[];
  readonly sum: Db;
};

/** What a control in dB is made of: for a channel's level with every VCA over it (rules, 3). */
export function levelParts(song: Song, id: ControlId, own: OwnAt): LevelParts {
  const { base, trim } = own(id);
  const { channel, kind } = controlOf(song, id);
  const overs = kind === 'level' ? vcasOver(song, channel).map((vca) => controlId(vca, 'level')) : [];
  const vcas = overs.map((control) => ({ control, value: own(control) }));
  return {
    base,
    trim,
    vcas: vcas.map(({ control, value }) => ({ control, db: sumDb([value.base, value.trim]) })),
    sum: sumDb([base, trim, ...vcas.flatMap(({ value }) => [value.base, value.trim])]),
  };
}

/** What mutes a channel: its own mute, or those of VCAs over it; none where it is heard. */
export function mutedBy(song: Song, channel: string, own: OwnAt): readonly ControlId[] {
  return [channel, ...vcasOver(song, channel)].map((key) => controlId(key, 'mute')).filter((id) => own(id).base >= 0.5);
}

/** By the song alone, at a time: a base with its sway in it. */
export const ownBySong =
  (song: Song, t: Seconds): OwnAt =>
  (id) => {
    const own = ownValueAt(song, id, t);
    return { ...own, base: swayedValue(song, id, own.base, t) };
  };

/** A control's value as heard at t: with its trim and, for a channel's level or mute, with every VCA over it. */
export const effectiveValueAt = (song: Song, id: ControlId, t: Seconds): number =>
  heardValue(song, id, ownBySong(song, t));

/** The same by where each control is by its own lane. */
export function heardValue(song: Song, id: ControlId, own: OwnAt): number {
  const control = controlOf(song, id);
  if (control.kind === 'mute') return mutedBy(song, control.channel, own).length ? 1 : 0;
  if (isLevel(control)) return levelParts(song, id, own).sum;
  const { base, trim } = own(id);
  return isInDb(control) ? trimmedDb(control.law, base, trim) : base;
}
