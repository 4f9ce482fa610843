import { sectionRanges, isAsPlaced, type PlacedEntry } from '@sure-hand/core/edits';
import { keyFor } from '@sure-hand/core/formats';
import { baseInHand, type PassRecorder } from '@sure-hand/core/pass';
import {
  CONTROL_KINDS,
  channelNamed,
  channelOf,
  controlOf,
  controlsOf,
  kindNamed,
  type ChannelKey,
  type ControlId,
  type ControlKind,
  type RecallFilter,
  type Snapshot,
  type Song,
} from '@sure-hand/core/song';
import { controlsTaken, isRecalled } from '@sure-hand/core/snapshots';
import type { Range } from '@sure-hand/core/curve';
import type { Seconds } from '@sure-hand/core/units';
import { channelsOf } from './families.js';
import { familyOf } from './laneFilter.js';
import { sectionAt, valuesNow } from './placing.js';

/** What a snapshot is taken of: what hands write or hold now, the chosen channels, the family of the one in hand, or everything. */
export const TAKEN_OF = ['now', 'chosen', 'family', 'all'] as const;
export type TakenOf = (typeof TAKEN_OF)[number];

type TakeScene = {
  readonly recorder: PassRecorder;
  readonly inHand: ControlId | null;
  readonly chosen: readonly ControlId[];
};

/** The controls that are taken, of some kinds. */
export function controlsToTake(
  { recorder, inHand, chosen }: TakeScene,
  of: TakenOf,
  kinds: readonly ControlKind[],
  t: Seconds,
): ControlId[] {
  const { song } = recorder;
  switch (of) {
    case 'now':
      return controlsTaken(song, { channels: null, kinds }).filter((id) => baseInHand(recorder, id, t) !== null);
    case 'chosen':
      return controlsTaken(song, {
        channels: channelsOf(song, chosen.length ? chosen : inHand ? [inHand] : []),
        kinds,
      });
    case 'family': {
      const own = inHand ? familyOf(channelOf(song, channelNamed(inHand))!) : null;
      const channels = song.channels.filter((one) => familyOf(one) === own).map(({ key }) => key);
      return controlsTaken(song, { channels, kinds });
    }
    case 'all':
      return controlsTaken(song, { channels: null, kinds });
  }
}

/** A name for a snapshot taken at a time: its section's, numbered where there is one already. */
export function nameToTake(song: Song, t: Seconds): string {
  const name = sectionAt(song, t).name || 'Snapshot';
  const taken = new Set(song.snapshots.map((one) => one.name));
  if (!taken.has(name)) return name;
  for (let n = 2; ; n++) if (!taken.has(`${name}, ${n}`)) return `${name}, ${n}`;
}

const freshKey = (song: Song, name: string): string => keyFor(name, new Set(song.snapshots.map(({ key }) => key)));

/** A snapshot of some controls as they are now, the hands' values where hands have them. */
export const takenNow = (
  recorder: PassRecorder,
  {
    name,
    note,
    ids,
    t,
  }: { readonly name: string; readonly note: string; readonly ids: readonly ControlId[]; readonly t: Seconds },
): Snapshot => ({
  key: freshKey(recorder.song, name),
  name,
  note,
  t,
  values: valuesNow(recorder, ids, t),
  filter: null,
});

/** A snapshot with the values that its controls have now; what is gone keeps what it had. */
export function updatedNow(recorder: PassRecorder, snapshot: Snapshot, t: Seconds): Snapshot {
  const known = controlsOf(recorder.song);
  const there = Object.keys(snapshot.values).filter((id) => known.has(id));
  return { ...snapshot, t, values: { ...snapshot.values, ...valuesNow(recorder, there, t) } };
}

/** A second one of a snapshot, to be changed. */
export function duplicated(song: Song, snapshot: Snapshot): Snapshot {
  const name = `${snapshot.name} (copy)`;
  return { ...snapshot, name, key: freshKey(song, name) };
}

/** The channels and kinds that a snapshot has values of, channels in the song's order; what is gone is left out. */
export function gridOf(
  song: Song,
  { values }: Snapshot,
): { readonly channels: readonly ChannelKey[]; readonly kinds: readonly ControlKind[] } {
  const ids = Object.keys(values).filter((id) => controlsOf(song).has(id));
  const kinds = new Set(ids.map(kindNamed));
  return { channels: channelsOf(song, ids), kinds: CONTROL_KINDS.filter((kind) => kinds.has(kind)) };
}

/** Whether a snapshot has values of a kind on a channel. */
export const hasCell = ({ values }: Snapshot, channel: ChannelKey, kind: ControlKind): boolean =>
  Object.keys(values).some((id) => channelNamed(id) === channel && kindNamed(id) === kind);

export const recallsCell = ({ filter }: Snapshot, channel: ChannelKey, kind: ControlKind): boolean =>
  filter === null || (Object.hasOwn(filter, channel) && filter[channel]!.includes(kind));

/** The filter with some cells recalled, or not; null again where everything is. */
export function filterWith(
  snapshot: Snapshot,
  cells: readonly { readonly channel: ChannelKey; readonly kind: ControlKind }[],
  isOn: boolean,
): RecallFilter {
  const filter: { [channel: ChannelKey]: ControlKind[] } = {};
  for (const id of Object.keys(snapshot.values)) {
    const [channel, kind] = [channelNamed(id), kindNamed(id)];
    const own = (filter[channel] ??= []);
    const isAsked = cells.some((cell) => cell.channel === channel && cell.kind === kind);
    const isRecalledNow = isAsked ? isOn : recallsCell(snapshot, channel, kind);
    if (isRecalledNow && !own.includes(kind)) own.push(kind);
  }
  const { values } = snapshot;
  return Object.keys(values).every((id) => isRecalled({ filter }, id)) ? null : filter;
}

const KIND_WORDS: Record<ControlKind, string> = {
  level: 'levels',
  pan: 'pans',
  mute: 'mutes',
  sends: 'sends',
  inserts: 'inserts',
};
const joined = (words: readonly string[]): string => words.join(', ').replace(/, ([^,]*)$/, ' and $1');

/** What a snapshot brings back, in the job's words: `31 controls of Voices and Strings: levels, Hall sends`. */
export function holdsWords(song: Song, snapshot: Snapshot): string {
  const ids = Object.keys(snapshot.values).filter((id) => controlsOf(song).has(id) && isRecalled(snapshot, id));
  if (!ids.length) return 'Nothing that is recalled.';
  const channels = channelsOf(song, ids).map((key) => channelOf(song, key)!);
  const families = [...new Set(channels.map(familyOf))];
  const isAll = channels.length === song.channels.length;
  const of =
    channels.length === 1
      ? channels[0]!.name
      : isAll
        ? 'all channels'
        : families.length <= 2
          ? joined(families)
          : `${channels.length} channels`;
  const kinds = CONTROL_KINDS.filter((kind) => ids.some((id) => controlOf(song, id).kind === kind));
  const buses = [
    ...new Set(ids.flatMap((id) => (id.endsWith('/level') && id.includes('/send/') ? [controlOf(song, id).name] : []))),
  ];
  const words = kinds.map((kind) => (kind === 'sends' && buses.length === 1 ? `${buses[0]}s` : KIND_WORDS[kind]));
  return `${ids.length} ${ids.length === 1 ? 'control' : 'controls'} of ${of}: ${words.join(', ')}`;
}

/** An entry of the log as far as it tells where a snapshot went. */
type SnapshotEntry = { readonly number: number; readonly undone: boolean; readonly entry: PlacedEntry | null };
/** A snapshot on a section: whether it stands there as it was placed, and which entry of the log placed it. */
export type Joined = { readonly section: number; readonly stands: boolean; readonly number: number };

/** How much of a section has to lie under a range for the range to be told there. */
const LEAST_SEC: Seconds = 0.05;

/** The sections that a snapshot was placed on last, and whether it stands there still; `entries` are the log's, newest first. */
export function joinedTo(song: Song, key: string, entries: readonly SnapshotEntry[]): Joined[] {
  const sections = sectionRanges(song.sections, song.length);
  const own = entries.filter(({ undone, entry }) => !undone && entry?.snapshot?.key === key);
  return sections.flatMap(({ range: [from, to] }, section): Joined[] => {
    const isOn = ([a, b]: Range): boolean => Math.min(b, to) - Math.max(a, from) > LEAST_SEC;
    const last = own.find(({ entry }) => entry!.ranges.some(isOn));
    if (!last) return [];
    const stands = last.entry!.ranges.filter(isOn).every((range) => isAsPlaced(song, last.entry!, range));
    return [{ section, stands, number: last.number }];
  });
}
