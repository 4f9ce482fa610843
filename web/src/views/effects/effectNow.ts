import { trimmedDb } from '@sure-hand/core/curve';
import {
  effectIn,
  insertControlId,
  isInDb,
  controlOf,
  ownValueAt,
  settingsOf,
  type ControlId,
  type Insert,
  type Song,
} from '@sure-hand/core/song';
import { heardValue } from '@sure-hand/core/groups';
import { ownByHands } from '@sure-hand/core/pass';
import { meterMap, quartersAt, timeOfQuarters } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { heardCap } from '../../hands/heardCap.js';
import type { OpenSong } from '../../open/openSong.js';
import type { EffectNow } from './effectShape.js';

/** An insert of a channel. */
export type InsertOf = { readonly channel: string; readonly insert: Insert };

export const paramId = ({ channel, insert }: InsertOf, param: string): ControlId =>
  insertControlId(channel, insert.slot, param);

/** Where a control's cap stands on its own throw: with its trim on it. */
function capValue({ session }: Pick<OpenSong, 'session'>, id: ControlId, t: Seconds): number {
  const { recorder, heardSong } = session;
  const cap = heardCap(recorder, heardSong, id, t);
  const control = controlOf(heardSong, id);
  if (!isInDb(control)) return cap;
  const own = ownValueAt(heardSong, id, t);
  return recorder.layerOf(id) === 'trim'
    ? trimmedDb(control.law, own.base, cap)
    : trimmedDb(control.law, cap, own.trim);
}

const quarterAt = (song: Song, t: Seconds): Seconds => {
  const map = meterMap(song.tempo, song.meter);
  const at = quartersAt(map, t);
  return timeOfQuarters(map, at + 1) - t;
};

/** What an insert is set to at a moment of the song, hands and all. */
export function effectNow(open: Pick<OpenSong, 'session'>, of: InsertOf, t: Seconds): EffectNow {
  const { recorder, heardSong } = open.session;
  const own = ownByHands(recorder, heardSong, t);
  const caps = new Map<string, number>();
  const heard = new Map<string, number>();
  const kept =
    (values: Map<string, number>, read: (id: ControlId) => number) =>
    (param: string): number => {
      const known = values.get(param);
      if (known !== undefined) return known;
      const value = read(paramId(of, param));
      values.set(param, value);
      return value;
    };
  return {
    value: kept(caps, (id) => capValue(open, id, t)),
    heard: kept(heard, (id) => heardValue(heardSong, id, own)),
    settings: settingsOf(of.insert),
    sampleRate: heardSong.sampleRate,
    quarter: quarterAt(heardSong, t),
  };
}

/** The parameters of an insert, in their order. */
export const paramsOf = ({ insert }: InsertOf): readonly string[] =>
  effectIn(insert)
    ?.params(settingsOf(insert))
    .map(({ key }) => key) ?? [];
