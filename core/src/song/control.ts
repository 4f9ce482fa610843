import { LEVEL_LAW, PAN_LAW, SILENCE_DB, SWITCH_LAW, type Display, type Law } from '../units/index.js';
import {
  channelOf,
  type Channel,
  type ChannelKey,
  type ControlId,
  type ControlKind,
  type Lane,
  type Song,
} from './document.js';

/** What a control is: where it belongs, how its value stands on its throw, what it rests at when nobody said. */
export type Control = {
  readonly id: ControlId;
  readonly channel: ChannelKey;
  readonly kind: ControlKind;
  /** What it is called within its channel: `Level`, `Hall send`. */
  readonly name: string;
  readonly law: Law;
  readonly display: Display;
  readonly rest: number;
};

/** Whether a control is in dB, so that it can be trimmed. */
export const isInDb = (control: Control): boolean => control.law.kind === 'level';
/** Whether a control is a switch, so that it has no lines between values. */
export const isSwitch = (control: Control): boolean => control.law.kind === 'switch';

const level = (channel: ChannelKey): Control => ({
  id: `${channel}/level`,
  channel,
  kind: 'level',
  name: 'Level',
  law: LEVEL_LAW,
  display: 'dB',
  rest: 0,
});
const pan = (channel: ChannelKey): Control => ({
  id: `${channel}/pan`,
  channel,
  kind: 'pan',
  name: 'Pan',
  law: PAN_LAW,
  display: 'pan',
  rest: 0,
});
const mute = (channel: ChannelKey): Control => ({
  id: `${channel}/mute`,
  channel,
  kind: 'mute',
  name: 'Mute',
  law: SWITCH_LAW,
  display: 'mute',
  rest: 0,
});

function sendControls(song: Song, { key, sends }: Channel): Control[] {
  return sends.flatMap(({ bus, pan: panning }): Control[] => {
    const busName = channelOf(song, bus)?.name ?? bus;
    const common = { channel: key, kind: 'sends' as const };
    const id = `${key}/send/${bus}`;
    const controls: Control[] = [
      { ...level(key), ...common, id: `${id}/level`, name: `${busName} send`, rest: SILENCE_DB },
      { ...common, id: `${id}/on`, name: `${busName} send on`, law: SWITCH_LAW, display: 'switch', rest: 1 },
    ];
    if (panning === 'own') controls.push({ ...pan(key), ...common, id: `${id}/pan`, name: `${busName} send pan` });
    return controls;
  });
}

/** Every control of a channel, in the order it is shown: level, pan, mute, then its sends. */
export function controlsOfChannel(song: Song, channel: Channel): Control[] {
  if (channel.kind === 'vca') return [level(channel.key), mute(channel.key)];
  return [level(channel.key), pan(channel.key), mute(channel.key), ...sendControls(song, channel)];
}

const controlsCache = new WeakMap<readonly Channel[], ReadonlyMap<ControlId, Control>>();

/** Every control of a song by id, channels in their order. Made once for a list of channels. */
export function controlsOf(song: Song): ReadonlyMap<ControlId, Control> {
  const known = controlsCache.get(song.channels);
  if (known) return known;
  const controls = new Map<ControlId, Control>();
  for (const channel of song.channels)
    for (const control of controlsOfChannel(song, channel)) controls.set(control.id, control);
  controlsCache.set(song.channels, controls);
  return controls;
}

/** The control with an id; throws where there is none: ids from outside are checked by {@link unknownControl} first. */
export function controlOf(song: Song, id: ControlId): Control {
  const control = controlsOf(song).get(id);
  if (!control) throw new Error(`no control ${id} in ${song.name}`);
  return control;
}

/** The sentence for an id that names no control of the song; null where it does name one. */
export function unknownControl(song: Song, id: ControlId): string | null {
  if (controlsOf(song).has(id)) return null;
  const key = id.split('/')[0] ?? '';
  const channel = channelOf(song, key);
  if (!channel) {
    return `There is no control “${id}”: the song has no channel “${key}”. Its channels are ${song.channels.map((c) => c.key).join(', ')}.`;
  }
  const ids = controlsOfChannel(song, channel).map((c) => c.id);
  return `There is no control “${id}”: ${channel.name} has ${ids.join(', ')}.`;
}

/** Channel and control in one: `Lead level`, `Voice Hall send`. */
export function fullName(song: Song, id: ControlId): string {
  const control = controlOf(song, id);
  const channel = channelOf(song, control.channel);
  const name = control.kind === 'sends' ? control.name : control.name.toLowerCase();
  return `${channel?.name ?? control.channel} ${name}`;
}

/** A control's lane; one that was never touched rests at the control's default. */
export function laneOf(song: Song, id: ControlId): Lane {
  return song.lanes[id] ?? { rest: controlOf(song, id).rest, points: [], trim: [], parked: false, safe: false };
}
