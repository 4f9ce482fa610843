import { companionsOf, gangOf, levelParts, mutedBy, type OwnAt } from '@sure-hand/core/groups';
import { isHeardUnderSolo } from '@sure-hand/core/mix';
import {
  channelOf,
  controlOf,
  controlsOf,
  fullName,
  isLevel,
  isParked,
  modeInForce,
  type ChannelKey,
  type ControlId,
  type Gang,
  type Song,
} from '@sure-hand/core/song';
import { SILENCE_DB, printDb, type Db } from '@sure-hand/core/units';
import { KIND_NAMES } from './laneFilter.js';

/** Some names in a row: `Lead, Choir and Harmony low`. */
export const listed = (names: readonly string[]): string =>
  names.length < 2 ? (names[0] ?? '') : `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`;

const nameOf = (song: Song, key: ChannelKey): string => channelOf(song, key)?.name ?? key;

/** What a gang is: `Gang Harmonies: levels and pans of Harmony low and Harmony high, pans mirrored, modes too`. */
export function gangWords(song: Song, { name, channels, kinds, pan, modes }: Gang): string {
  const what = kinds.length ? listed(kinds.map((kind) => KIND_NAMES[kind].toLowerCase())) : 'nothing';
  const more = [kinds.includes('pan') && pan === 'mirror' && 'pans mirrored', modes && 'modes and trim too'];
  const how = more.filter(Boolean).map((word) => `, ${String(word)}`);
  return `Gang ${name}: ${what} of ${listed(channels.map((key) => nameOf(song, key)))}${how.join('')}`;
}

/** Whom a hand on a control moves along; null where it moves it alone. */
export function alongWords(song: Song, id: ControlId): string | null {
  const gang = gangOf(song, id);
  const names = companionsOf(song, id).map((one) => nameOf(song, controlOf(song, one).channel));
  if (!gang || !names.length) return null;
  return `Moves ${listed(names)} along (gang ${gang.name}; 9 held leaves them out).`;
}

const signed = (db: Db): string => printDb(db, true);

/** What a level is made of, in a row: `own −12.4, trim +1.0, Voices −1.5 dB`; null where it is its own value alone. */
export function partsWords(song: Song, id: ControlId, own: OwnAt): string | null {
  if (!isLevel(controlOf(song, id))) return null;
  const { base, trim, vcas } = levelParts(song, id, own);
  if (!vcas.length) return null;
  const parts = [
    `own ${printDb(base)}`,
    ...(trim ? [`trim ${signed(trim)}`] : []),
    ...vcas.map(({ control, db }) => `${nameOf(song, controlOf(song, control).channel)} ${signed(db)}`),
  ];
  return parts.join(', ');
}

/** Why a channel is as quiet as it is, or as loud, in one sentence: what keeps it silent first, then what takes or adds the most. */
export function whySoQuiet(song: Song, id: ControlId, own: OwnAt): string {
  const control = controlOf(song, id);
  const name = fullName(song, id);
  const { key, name: channel } = channelOf(song, control.channel)!;
  if (!isLevel(control)) return `${name} is no level: it is as its own lane says.`;
  if (control.kind === 'level') {
    const [mute] = mutedBy(song, key, own);
    if (mute) {
      const by = controlOf(song, mute).channel;
      return by === key
        ? `${channel} is silent: it is muted.`
        : `${channel} is silent: the VCA ${nameOf(song, by)} is muted.`;
    }
    const soloed = song.channels.filter(({ solo }) => solo);
    if (soloed.length && !isHeardUnderSolo(song, key)) {
      const names = listed(soloed.map((one) => one.name));
      return `${channel} is silent: ${names} ${soloed.length === 1 ? 'is' : 'are'} soloed.`;
    }
  }
  const { base, trim, vcas, sum } = levelParts(song, id, own);
  const unread = isParked(song, id)
    ? ', parked where it rests'
    : modeInForce(song, key) === 'off'
      ? ', off where it rests'
      : '';
  const silent = [
    ...(base <= SILENCE_DB ? ['its own level'] : []),
    ...vcas.flatMap(({ control: one, db }) => (db <= SILENCE_DB ? [nameOf(song, controlOf(song, one).channel)] : [])),
  ];
  if (silent.length) return `${name} is silent: ${listed(silent)} ${silent.length === 1 ? 'is' : 'are'} at −∞ dB.`;
  const takes = [
    ...(trim ? [{ who: 'its trim', db: trim }] : []),
    ...vcas.map(({ control: one, db }) => ({ who: nameOf(song, controlOf(song, one).channel), db })),
  ].filter(({ db }) => Math.abs(db) >= 0.05);
  takes.sort((a, b) => Math.abs(b.db) - Math.abs(a.db));
  const each = takes.map(({ who, db }) => `${who} ${db < 0 ? 'takes' : 'adds'} ${Math.abs(db).toFixed(1)} dB`);
  const alone = `${name} is at ${printDb(sum)}${unread}`;
  if (!each.length) return `${alone}: by its own lane alone.`;
  return `${alone}: its own lane is at ${printDb(base)}, ${listed(each)}.`;
}

/** What can stand on all throws, by what it is of each channel: pans, mutes, each bus's sends, with what one calls it. */
export function throwsOf(song: Song): ReadonlyMap<string, string> {
  const found = new Map<string, string>();
  for (const { like, name } of controlsOf(song).values()) if (!found.has(like)) found.set(like, name);
  return found;
}
