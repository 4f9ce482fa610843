import { vcasOver } from '@sure-hand/core/groups';
import { applyEdit, whyNotMade, type Edit } from '@sure-hand/core/edits';
import { keyFor } from '@sure-hand/core/formats';
import type { Range } from '@sure-hand/core/curve';
import {
  channelNamed,
  channelOf,
  channelWithDefaults,
  controlId,
  controlOf,
  controlsOf,
  fullName,
  gangWithDefaults,
  laneOf,
  sendControlId,
  type Channel,
  type ChannelKey,
  type ControlId,
  type Gang,
  type Song,
} from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { listed } from './familyWords.js';
import { hasCurve } from './laneFilter.js';
import { shortBars } from './reachWords.js';
import { wasRefused } from './reasonWords.js';

/** The channels of some controls, each once, in the song's order. */
export function channelsOf(song: Song, ids: readonly ControlId[]): readonly ChannelKey[] {
  const keys = new Set(ids.map(channelNamed));
  return song.channels.filter(({ key }) => keys.has(key)).map(({ key }) => key);
}

/** A key that nothing of a song has, from a name. */
const freshKey = (song: Song, name: string): string =>
  keyFor(name, new Set([...song.channels, ...song.gangs].map(({ key }) => key)));

/** A new gang of some channels: of levels and pans that no other gang has. */
export function newGang(song: Song, name: string, channels: readonly ChannelKey[]): Gang {
  const isFree = (kind: string): boolean =>
    !song.gangs.some(
      (gang) => gang.kinds.some((one) => one === kind) && gang.channels.some((key) => channels.includes(key)),
    );
  const kinds = (['level', 'pan', 'mute', 'sends'] as const).filter(isFree);
  return gangWithDefaults({ key: freshKey(song, name), name, channels, kinds: kinds.slice(0, 1) });
}

/** A new VCA over some channels. */
export const newVca = (song: Song, name: string, members: readonly ChannelKey[]): Channel =>
  channelWithDefaults({ key: freshKey(song, name), kind: 'vca', name, members }, song.length);

/** A new bus or track without clips. */
export const newChannel = (song: Song, kind: 'track' | 'bus', name: string): Channel =>
  channelWithDefaults({ key: freshKey(song, name), kind, name, family: kind === 'bus' ? 'Buses' : '' }, song.length);

/** Channels that can be members of a VCA: all but itself and those it would close a ring with. */
export const membersToChoose = (song: Song, vca: ChannelKey | null): readonly Channel[] =>
  song.channels.filter(({ key }) => key !== vca && (vca === null || !vcasOver(song, vca).includes(key)));

/** What stands under a VCA or a bus where that is opened: the levels of its members, or all sends that feed it; none of others. */
export function membersOf(
  song: Song,
  { kind, key, members }: Channel,
): readonly { readonly key: ChannelKey; readonly control: ControlId }[] {
  if (kind === 'vca') return members.map((member) => ({ key: member, control: controlId(member, 'level') }));
  if (kind !== 'bus') return [];
  const feeding = song.channels.filter((one) => one.sends.some(({ bus }) => bus === key));
  return feeding.map((one) => ({ key: one.key, control: sendControlId(one.key, key, 'level') }));
}

/** What folding a VCA would do: what it writes, how many points that is, where +12 dB holds a member; or what keeps it from that. */
export type FoldForecast = { readonly can: boolean; readonly says: string; readonly clamps: string | null };

/** Lanes that folding a VCA may have to do with: levels and mutes. */
export const lanesOfFolding = (song: Song): readonly ControlId[] =>
  Object.keys(song.lanes).filter((id) => id.endsWith('/level') || id.endsWith('/mute'));

/** What is said while what a fold would do is still worked out. */
export const FOLD_WORKED_OUT: FoldForecast = {
  can: false,
  says: 'What it would write is being worked out…',
  clamps: null,
};

/** Tells what an edit that folds a VCA would do, by doing it to a song that nobody keeps. */
export function foldForecast(song: Song, edit: Edit): FoldForecast {
  const wrong = whyNotMade(song, edit);
  if (wrong) return { can: false, says: wrong, clamps: null };
  const { song: after, changed, refused, clamped = [] } = applyEdit(song, edit);
  if (refused.length) {
    const names = refused.map(
      ({ control, reason }) => `${fullName(song, control)} (${reason === 'mode' ? 'off' : wasRefused(reason)})`,
    );
    return { can: false, says: `Can’t be folded: ${listed(names)}. Nothing would be changed.`, clamps: null };
  }
  const members = changed.filter((id) => controlsOf(after).has(id) && controlOf(song, id).channel !== vcaOf(edit));
  if (!members.length)
    return { can: edit.kind === 'vca', says: 'It moves nothing: there is nothing to fold.', clamps: null };
  const points = members.reduce((sum, id) => sum + laneOf(after, id).points.length - laneOf(song, id).points.length, 0);
  const names = members.slice(0, 3).map((id) => fullName(song, id));
  const more = members.length > 3 ? [`${members.length - 3} more`] : [];
  const map = meterMap(song.tempo, song.meter);
  const held = clamped.map(
    ({ control, ranges }) =>
      `${fullName(song, control)} at ${ranges.map((range: Range) => `${shortBars(map, range[0])}–${shortBars(map, range[1])}`).join(', ')}`,
  );
  return {
    can: true,
    says: `Writes ${listed([...names, ...more])}: ${points >= 0 ? `${points} points more` : `${-points} points fewer`}. Nothing is heard to change.`,
    clamps: held.length ? `+12 dB holds ${listed(held)}: quieter there than now.` : null,
  };
}

const vcaOf = (edit: Edit): string | null =>
  edit.kind === 'foldVca' ? edit.vca : edit.kind === 'vca' ? (edit.remove?.key ?? null) : null;

/** What goes with a channel that is taken out: lanes with curves, sends to it, places in VCAs and gangs. */
export function goesWith(song: Song, key: ChannelKey): string {
  const channel = channelOf(song, key)!;
  // All lanes that the edit itself takes along: those of sends to it as well.
  const { changed } = applyEdit(song, { kind: 'removeChannel', channel: key });
  const curves = changed.filter((id) => hasCurve(song, id)).length;
  const senders = song.channels.filter((one) => one.sends.some(({ bus }) => bus === key));
  const feeders = song.channels.filter(({ output }) => output === key);
  const vcas = song.channels.filter(({ members }) => members.includes(key));
  const gangs = song.gangs.filter(({ channels }) => channels.includes(key));
  const count = (n: number, one: string, many: string): string => `${n} ${n === 1 ? one : many}`;
  const parts = [
    ...(curves ? [count(curves, 'curve', 'curves')] : []),
    ...(channel.clips.length ? [count(channel.clips.length, 'clip', 'clips')] : []),
    ...(senders.length ? [`the sends of ${listed(senders.map(({ name }) => name))}`] : []),
    ...(vcas.length ? [`its place in ${listed(vcas.map(({ name }) => name))}`] : []),
    ...(gangs.length ? [`its place in the gang ${listed(gangs.map(({ name }) => name))}`] : []),
  ];
  const goesOn = feeders.length
    ? ` What feeds it (${listed(feeders.map(({ name }) => name))}) goes to ${channelOf(song, channel.output)?.name ?? 'Main'}.`
    : '';
  const what = parts.length
    ? `${listed(parts)} ${parts.length === 1 && curves === 1 ? 'goes' : 'go'} with it`
    : 'Nothing goes with it';
  return `${what[0]!.toUpperCase()}${what.slice(1)}; undo brings all of it back.${curves ? ' Passes that wrote it stay in the log.' : ''}${goesOn}`;
}
