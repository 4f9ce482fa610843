import {
  channelOf,
  controlsOf,
  controlsOfChannel,
  laneOf,
  type ChannelKey,
  type ControlId,
  type GuardSet,
  type Song,
} from '../song/index.js';
import type { StatesEdit } from './kinds/states.js';

/** How some channels, and their single controls, are guarded now, to be kept under a name; the write scope with it where that is asked. */
export function guardsKept(
  song: Song,
  {
    key,
    name,
    channels,
    withScope,
  }: {
    readonly key: string;
    readonly name: string;
    readonly channels: readonly ChannelKey[];
    readonly withScope: boolean;
  },
): GuardSet {
  const kept = channels.flatMap((one) => channelOf(song, one) ?? []);
  const controls = kept
    .flatMap((channel) => controlsOfChannel(song, channel))
    .map(({ id }) => ({ id, ...laneOf(song, id) }));
  return {
    key,
    name,
    scope: withScope ? song.settings.writeScope : null,
    channels: Object.fromEntries(kept.map((channel) => [channel.key, { safe: channel.safe, parked: channel.parked }])),
    controls: Object.fromEntries(
      controls.filter(({ safe, parked }) => safe || parked).map(({ id, safe, parked }) => [id, { safe, parked }]),
    ),
  };
}

/** What brings a set of guards back: its channels as they were, their single controls too. What is gone since is left out; what is so already is not said. */
export function statesOfSet(song: Song, { scope, channels, controls }: GuardSet): StatesEdit {
  const known = controlsOf(song);
  const there = Object.entries(channels).flatMap(([key, guards]) => {
    const channel = channelOf(song, key);
    const isSo = channel && channel.parked === guards.parked && sameKinds(channel.safe, guards.safe);
    return channel && !isSo ? [[key, guards] as const] : [];
  });
  const single = Object.keys(channels)
    .flatMap((key) => {
      const channel = channelOf(song, key);
      return channel ? controlsOfChannel(song, channel) : [];
    })
    .flatMap(({ id }): (readonly [ControlId, { safe: boolean; parked: boolean }])[] => {
      const { safe, parked } = laneOf(song, id);
      const to = Object.hasOwn(controls, id) ? controls[id]! : { safe: false, parked: false };
      return known.has(id) && (safe !== to.safe || parked !== to.parked)
        ? [[id, { safe: to.safe, parked: to.parked }]]
        : [];
    });
  const isOther = scope !== null && !sameKinds(scope, song.settings.writeScope);
  return {
    kind: 'states',
    ...(isOther ? { scope } : {}),
    channels: Object.fromEntries(there),
    controls: Object.fromEntries(single),
  };
}

const sameKinds = (a: readonly string[], b: readonly string[]): boolean =>
  a.length === b.length && a.every((kind) => b.includes(kind));
