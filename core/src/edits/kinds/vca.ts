import equal from 'fast-deep-equal';
import * as Type from '@sinclair/typebox';
import {
  channelNamed,
  channelOf,
  channelWithDefaults,
  type Channel,
  type ChannelKey,
  type ControlId,
  type Song,
} from '../../song/index.js';
import { VCA_SCHEMA } from '../../song/schema.js';
import { maybe, on, type Checked } from '../../song/schemaParts.js';
import { guardsOf, lanesThere, lanesWithout, unchanged, withChannel, withLanes } from '../applied.js';
import { channelsWrong } from '../channelChecks.js';
import { fieldsOf, type Applied, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { count, exchange, lanes } from '../fields.js';
import { lanesWrong, wholeLanes } from '../laneChecks.js';
import { addChannel, tiesSchema } from './addChannel.js';
import { foldMutes } from './foldMutes.js';
import { foldVca } from './foldVca.js';
import { removeChannel } from './removeChannel.js';

/**
 * A VCA out, in, or in another's place. `fold`, as one goes: its level and mute go into its members first, so that nothing
 * is heard to change. `at`, `lanes` and `ties`, what it and its members had, stand in inverses.
 */
const schema = fieldsOf('vca', {
  ...exchange(Type.Unsafe<Channel>(VCA_SCHEMA)),
  ...maybe({ fold: on, at: count, lanes, ties: tiesSchema }),
});
export type VcaEdit = Checked<typeof schema>;

/** What the edit is about: a VCA's name and members. Its mode and guards are no undo steps, so they don't count here. */
const frameOf = ({ name, family, members }: Channel): Pick<Channel, 'name' | 'family' | 'members'> => ({
  name,
  family,
  members,
});
const stands = (song: Song, one: Channel): boolean => {
  const now = channelOf(song, one.key);
  return now?.kind === 'vca' && equal(frameOf(now), frameOf(one));
};

const ownLanes = (song: Song, key: ChannelKey): ControlId[] =>
  Object.keys(song.lanes).filter((id) => channelNamed(id) === key);

/** The song with one VCA in another's place, in whatever the other stood in; the lanes are as they were. */
function inPlace(song: Song, was: ChannelKey, add: Channel): Song {
  const renamed = (keys: readonly ChannelKey[]): readonly ChannelKey[] =>
    keys.includes(was) ? keys.map((key) => (key === was ? add.key : key)) : keys;
  const channels = song.channels.map((one) => (one.key === was ? add : { ...one, members: renamed(one.members) }));
  return { ...song, channels, gangs: song.gangs.map((gang) => ({ ...gang, channels: renamed(gang.channels) })) };
}

function exchanged(song: Song, { remove, add, lanes: had }: VcaEdit & { remove: Channel; add: Channel }): Applied {
  const now = channelOf(song, remove.key)!;
  if (remove.key === add.key) {
    if (equal(frameOf(now), frameOf(add))) return unchanged(song);
    const changed = withChannel(song, now, frameOf(add));
    return { ...unchanged(song), song: changed, inverse: { kind: 'vca', remove: add, add: now } };
  }
  const goes = ownLanes(song, remove.key);
  const refused = guardsOf(song, goes);
  if (refused.length) return unchanged(song, refused);
  const framed = inPlace(song, remove.key, add);
  const back = lanesThere(framed, had);
  const kept = Object.fromEntries(goes.map((id) => [id, song.lanes[id]!]));
  return {
    song: { ...framed, lanes: { ...lanesWithout(song.lanes, goes), ...back } },
    inverse: { kind: 'vca', remove: add, add: now, lanes: kept },
    changed: [...goes, ...Object.keys(back)],
    refused: [],
  };
}

/** What a VCA does to its members put into their own lanes: its level, then its mute. */
function folded(song: Song, vca: ChannelKey): Applied {
  const level = foldVca.apply(song, { kind: 'foldVca', vca });
  if (level.refused.length) return level;
  const mute = foldMutes(level.song, vca);
  if (mute.refused.length) return mute;
  const changed = [...new Set([...level.changed, ...mute.changed])];
  return { ...level, song: mute.song, changed };
}

function dissolved(song: Song, { remove, fold }: VcaEdit & { remove: Channel }): Applied {
  const into = fold ? folded(song, remove.key) : unchanged(song);
  if (into.refused.length) return unchanged(song, into.refused);
  const out = removeChannel.apply(into.song, { kind: 'removeChannel', channel: remove.key });
  if (out.refused.length) return unchanged(song, out.refused);
  const ids = [...new Set([...into.changed, ...ownLanes(song, remove.key)])];
  const { at, ties } = out.inverse as Extract<typeof out.inverse, { kind: 'addChannel' }>;
  const had = Object.fromEntries(ids.map((id) => [id, song.lanes[id] ?? null]));
  const inverse = { kind: 'vca', remove: null, add: channelOf(song, remove.key)!, at, ties, lanes: had } as const;
  const clamped = into.clamped ? { clamped: into.clamped } : {};
  return { song: out.song, inverse: fold ? { ...inverse, fold } : inverse, changed: ids, refused: [], ...clamped };
}

/** A VCA put in, and what it had been folded into as that was before. */
function made(song: Song, { add, at, ties, lanes: had = {}, fold }: VcaEdit & { add: Channel }): Applied {
  const isOwn = (id: ControlId): boolean => channelNamed(id) === add.key;
  const others = Object.fromEntries(Object.entries(had).filter(([id]) => !isOwn(id)));
  const refused = guardsOf(song, Object.keys(others));
  if (refused.length) return unchanged(song, refused);
  const own = Object.fromEntries(Object.entries(had).filter(([id]) => isOwn(id)));
  const place = { ...(at === undefined ? {} : { at }), ...(ties ? { ties } : {}) };
  const into = addChannel.apply(song, { kind: 'addChannel', channel: add, lanes: own, ...place });
  const back = withLanes(into.song, others, []);
  const inverse = { kind: 'vca', remove: add, add: null, ...(fold ? { fold } : {}) } as const;
  return { song: back.song, inverse, changed: [...into.changed, ...back.changed], refused: [] };
}

/** A VCA as it is meant: what is not said of one that is there is as it stands. */
const complete = (song: Song, one: Channel | null): Channel | null =>
  one && channelWithDefaults({ ...vcaThere(song, one.key), ...one, kind: 'vca' }, song.length);

function vcaThere(song: Song, key: ChannelKey): Channel | undefined {
  const now = channelOf(song, key);
  return now?.kind === 'vca' ? now : undefined;
}

/** The song as the edit leaves its channels, to be looked over. */
function framed(song: Song, { remove, add, at, ties }: VcaEdit): Song {
  if (!add) return song;
  if (remove)
    return inPlace(song, remove.key, remove.key === add.key ? { ...channelOf(song, add.key)!, ...frameOf(add) } : add);
  const place = { ...(at === undefined ? {} : { at }), ...(ties ? { ties } : {}) };
  return addChannel.apply(song, { kind: 'addChannel', channel: add, ...place }).song;
}

export const vca: EditKind<VcaEdit> = {
  kind: 'vca',
  does: 'one VCA out, in, or in another’s place; a ring of VCAs is refused by name. `fold`, as one goes, puts its level and mute into its members first, refused whole where a lane of those is guarded; without it they are dropped. `at`, `lanes` and `ties`, in inverses, are what it had',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete(song, edit) {
    const whole = { ...edit, remove: complete(song, edit.remove), add: complete(song, edit.add) };
    return edit.lanes ? { ...whole, lanes: wholeLanes(framed(song, whole), edit.lanes) } : whole;
  },
  wrong(song, edit) {
    const { remove, add } = edit;
    if (!remove && !add) return 'The VCA edit puts nothing in and takes nothing out.';
    if (remove && !stands(song, remove))
      return `The VCA ${remove.name} has been changed meanwhile; nothing was done. Look at it, and do it again if it is still wanted.`;
    if (!add) return null;
    if (!remove && edit.at !== undefined && edit.at > song.channels.length)
      return `The song has ${song.channels.length} channels; ${add.name} can’t stand at place ${edit.at}.`;
    const next = framed(song, edit);
    return channelsWrong(next) ?? lanesWrong(next, edit.lanes ?? {});
  },
  apply(song, edit) {
    const { remove, add } = edit;
    if (remove && !stands(song, remove)) return unchanged(song);
    if (remove && add) return exchanged(song, { ...edit, remove, add });
    if (remove) return dissolved(song, { ...edit, remove });
    return add ? made(song, { ...edit, add }) : unchanged(song);
  },
  named: (_song, { remove, add, fold }) => {
    const act = !remove ? 'made' : add ? 'changed' : fold ? 'folded into its members and dissolved' : 'dissolved';
    return `VCA ${(add ?? remove)!.name} ${act}`;
  },
  example(song, [a, b, c, d, e]) {
    const vcas = song.channels.filter(({ kind }) => kind === 'vca');
    const remove = vcas.length && a! < 0.7 ? pick(vcas, a! / 0.7) : null;
    const members = [...new Set([pick(song.channels, b!).key, pick(song.channels, c!).key])];
    const key = remove && d! < 0.5 ? remove.key : `vca-${Math.floor(99 * b!)}`;
    const add = channelWithDefaults({ key, kind: 'vca', name: `VCA ${key}`, members }, song.length);
    if (remove && e! < 0.5) return { kind: 'vca', remove, add: null, fold: e! < 0.35 };
    return { kind: 'vca', remove, add };
  },
};
