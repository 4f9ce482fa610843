import { freeSlot, type Edit } from '@sure-hand/core/edits';
import { EFFECTS, type Setting } from '@sure-hand/core/effects';
import {
  controlsOf,
  controlsOfChannel,
  effectIn,
  hostNamed,
  insertControlId,
  insertName,
  insertWithDefaults,
  ownValueAt,
  settingsOf,
  type Channel,
  type ChannelKey,
  type ControlId,
  type Insert,
  type Song,
} from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';
import type { Asked } from './asked.js';

/** Every effect by the name that a document calls it, and what it is called. */
export const EFFECT_CHOICES: readonly { readonly value: string; readonly label: string }[] = [...EFFECTS].map(
  ([value, { name }]) => ({ value, label: name }),
);

/** One effect more at a channel's end, in a slot named after it. */
export const addedInsert = (channel: Channel, effect: string): Edit => ({
  kind: 'insert',
  channel: channel.key,
  remove: null,
  add: insertWithDefaults({ slot: freeSlot(channel, effect), effect }),
});

export const withoutInsert = ({ key }: Channel, insert: Insert): Edit => ({
  kind: 'insert',
  channel: key,
  remove: insert,
  add: null,
});

/** An insert one place further, or back; null where there is none. */
export function movedInsert({ key, inserts }: Channel, slot: string, by: 1 | -1): Edit | null {
  const slots = inserts.map((one) => one.slot);
  const at = slots.indexOf(slot);
  const to = at + by;
  if (at < 0 || to < 0 || to >= slots.length) return null;
  [slots[at], slots[to]] = [slots[to]!, slots[at]!];
  return { kind: 'insertOrder', channel: key, slots };
}

/** An insert with another setting; its curves stay. */
export const settingChanged = ({ key }: Channel, insert: Insert, name: string, value: unknown): Edit => ({
  kind: 'insert',
  channel: key,
  remove: insert,
  add: { ...insert, settings: { ...insert.settings, [name]: value } },
});

/** An insert on another channel, or once more on its own, with its curves. */
export const copiedInsert = ({ key }: Channel, { slot }: Insert, to: ChannelKey): Edit => ({
  kind: 'copyInsert',
  from: key,
  slot,
  to,
  lanes: true,
});

/** The same without its curves: it rests where its parameters are at a time. */
export function insertCopiedAt(song: Song, { key }: Channel, { slot }: Insert, to: ChannelKey, t: Seconds): Edit {
  const within = insertControlId(key, slot, '');
  const ids = [...controlsOf(song).keys()].filter((id) => id.startsWith(within) && hostNamed(id) === null);
  const values = Object.fromEntries(ids.map((id) => [id.slice(within.length), ownValueAt(song, id, t).base]));
  return { kind: 'copyInsert', from: key, slot, to, values };
}

/** What there is to choose of an insert, and what is chosen. */
export const settingsChosen = (
  insert: Insert,
): readonly { readonly key: string; readonly is: Setting; readonly value: unknown }[] =>
  Object.entries(effectIn(insert)?.settings ?? {}).map(([key, is]) => ({ key, is, value: settingsOf(insert)[key] }));

/** Words of settings that read otherwise than a document has them. */
const WORDS: Readonly<Record<string, string>> = {
  lowShelf: 'Low shelf',
  highShelf: 'High shelf',
  low: 'Low pass',
  high: 'High pass',
  band: 'Band pass',
  12: '12 dB',
  24: '24 dB',
};
export const settingWord = (value: string | number): string =>
  WORDS[value] ?? `${String(value).slice(0, 1).toUpperCase()}${String(value).slice(1)}`;

/** An insert as it stands in its channel: what it is called, its switch, its first parameter. */
export type InsertRow = {
  readonly insert: Insert;
  readonly name: string;
  readonly on: ControlId;
  readonly first: ControlId;
};

/** The insert that a control's id is of; null where it is of none. */
export function insertNamed(id: ControlId | null): { readonly channel: ChannelKey; readonly slot: string } | null {
  const [channel, what, slot] = id?.split('/') ?? [];
  return channel && what === 'insert' && slot ? { channel, slot } : null;
}

/** Whether the picture of an insert is open and shows a control: its throw is there, and would stand in the picture's way. */
export const isPictured = (asked: Asked | null, id: ControlId | null): boolean =>
  asked?.what === 'effect' && insertNamed(id) !== null;

/** The inserts of a channel whose effects this program knows, in their order. */
export const insertRows = (song: Parameters<typeof controlsOfChannel>[0], channel: Channel): readonly InsertRow[] =>
  channel.inserts.flatMap((insert): InsertRow[] => {
    const within = insertControlId(channel.key, insert.slot, '');
    const [first] = controlsOfChannel(song, channel).filter(({ id }) => id.startsWith(within));
    if (!first) return [];
    return [{ insert, name: insertName(channel.inserts, insert), on: `${within}on`, first: first.id }];
  });
