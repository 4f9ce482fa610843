import { Curve } from '../curve/index.js';
import { EFFECTS } from '../effects/index.js';
import {
  LEVEL_SCALE,
  MUTE_SCALE,
  PAN_SCALE,
  SILENCE_DB,
  SWAY_SCALE,
  SWITCH_SCALE,
  TRIM_SCALE,
  unitOf,
  type Law,
  type ValueScale,
} from '../units/index.js';
import {
  channelOf,
  type Channel,
  type ChannelKey,
  type ControlId,
  type ControlKind,
  type Insert,
  type Lane,
  type Layer,
  type Send,
  type Song,
} from './document.js';
import { effectIn, settingsOf } from './inserts.js';

/** A switch that, where it is off, keeps other controls from being heard; in short, and what is not heard then. */
export type Gate = { readonly id: ControlId; readonly whenOff: string; readonly unheard: string };

/** What a control is: where it belongs, how its value stands on its throw and is said, what it rests at when nobody said. */
export type Control = {
  readonly id: ControlId;
  readonly channel: ChannelKey;
  /** What it is of its channel, whichever that is: controls of two channels with the same one are alike. */
  readonly like: string;
  readonly kind: ControlKind;
  /** What it is called within its channel: `Level`, `Hall send`. */
  readonly name: string;
  readonly scale: ValueScale;
  readonly law: Law;
  readonly rest: number;
  /** The switch of the send or insert that it belongs to; null where there is none. */
  readonly switch: Gate | null;
  /** Of the depth of a sway: the control that sways, whose guards and scope are its own (page 8). Null of all others. */
  readonly host: ControlId | null;
};

/** What every channel has; VCAs have no pan. */
export type OwnControl = 'level' | 'pan' | 'mute';
/** What a send has; the pan only where it is its own. */
export type SendControl = 'level' | 'on' | 'pan';

/** The id of a channel's own level, pan or mute (rules, 9). */
export const controlId = (channel: ChannelKey, what: OwnControl): ControlId => `${channel}/${what}`;
/** The id of a control of a channel's send to a bus (rules, 9). */
export const sendControlId = (channel: ChannelKey, bus: ChannelKey, what: SendControl): ControlId =>
  `${channel}/send/${bus}/${what}`;
/** The id of a parameter of an insert, or of its switch `on` (rules, 9). */
export const insertControlId = (channel: ChannelKey, slot: string, param: string): ControlId =>
  `${channel}/insert/${slot}/${param}`;

const SWAY = '/sway';
/** The id of the depth of a control's sway (page 8). */
export const swayControlId = (host: ControlId): ControlId => host + SWAY;
/** The control whose sway's depth an id names, whether or not the song has it; null where it names no depth. */
export const hostNamed = (id: ControlId): ControlId | null => (id.endsWith(SWAY) ? id.slice(0, -SWAY.length) : null);
/** The control that is guarded where this one is to be: the one that sways, for its depth. */
export const guardedAs = (id: ControlId): ControlId => hostNamed(id) ?? id;

/** The channel that a control's id names, whether or not the song has it. */
export const channelNamed = (id: ControlId): ChannelKey => id.split('/')[0] ?? '';

/** The kind that a control's id says it is of, whether or not the song has it. */
export function kindNamed(id: ControlId): ControlKind {
  const what = id.split('/')[1];
  if (what === 'send') return 'sends';
  return what === 'pan' || what === 'mute' || what === 'level' ? what : 'inserts';
}

/** Whether a control is in dB, so that it can be trimmed. */
export const isInDb = (control: Control): boolean => unitOf(control.law) === 'dB';
/** Whether a control is a level, which has silence at its foot. */
export const isLevel = (control: Control): boolean => control.law.kind === 'level';
/** Whether a control is a switch, so that it has no lines between values. */
export const isSwitch = (control: Control): boolean => control.law.kind === 'switch';

/** How the values of one layer of a control stand on their throw and are said: trim is an offset in dB. */
export const layerScale = (control: Control, layer: Layer): ValueScale =>
  layer === 'trim' ? TRIM_SCALE : control.scale;

type Rest = { readonly rest?: number; readonly switch?: Gate | null; readonly host?: ControlId };
const made = (id: ControlId, is: Pick<Control, 'channel' | 'kind' | 'name' | 'scale'> & Rest): Control => ({
  rest: 0,
  switch: null,
  host: null,
  ...is,
  id,
  like: id.slice(is.channel.length + 1),
  law: is.scale.law,
});

const level = (channel: ChannelKey): Control =>
  made(controlId(channel, 'level'), { channel, kind: 'level', name: 'Level', scale: LEVEL_SCALE });
const pan = (channel: ChannelKey): Control =>
  made(controlId(channel, 'pan'), { channel, kind: 'pan', name: 'Pan', scale: PAN_SCALE });
const mute = (channel: ChannelKey): Control =>
  made(controlId(channel, 'mute'), { channel, kind: 'mute', name: 'Mute', scale: MUTE_SCALE });

function sendControls(song: Song, channel: ChannelKey, { bus, pan: panning }: Send): Control[] {
  const name = `${channelOf(song, bus)?.name ?? bus} send`;
  const id = (what: SendControl): ControlId => sendControlId(channel, bus, what);
  const gate = { id: id('on'), whenOff: 'Send is off', unheard: 'its level is not heard' };
  const common = { channel, kind: 'sends' as const, switch: gate };
  return [
    made(id('level'), { ...common, name, scale: LEVEL_SCALE, rest: SILENCE_DB }),
    made(id('on'), { channel, kind: 'sends', name: `${name} on`, scale: SWITCH_SCALE, rest: 1 }),
    ...(panning === 'own' ? [made(id('pan'), { ...common, name: `${name} pan`, scale: PAN_SCALE })] : []),
  ];
}

/** What an insert is called within its channel: its effect's name, with a number where there is more than one of it. */
export function insertName(inserts: readonly Insert[], { slot, effect }: Insert): string {
  const alike = inserts.filter((one) => one.effect === effect);
  const name = EFFECTS.get(effect)?.name ?? effect;
  return alike.length > 1 ? `${name} ${alike.findIndex((one) => one.slot === slot) + 1}` : name;
}

/** The controls of an insert: its effect's parameters, then its switch. None where this program does not know the effect. */
function insertControls(channel: ChannelKey, inserts: readonly Insert[], insert: Insert): Control[] {
  const effect = effectIn(insert);
  if (!effect) return [];
  const id = (param: string): ControlId => insertControlId(channel, insert.slot, param);
  const common = { channel, kind: 'inserts' as const };
  const called = insertName(inserts, insert);
  const gate = { id: id('on'), whenOff: `${called} is off`, unheard: 'it is not heard' };
  return [
    ...effect
      .params(settingsOf(insert))
      .map(({ key, name, scale, rest }) =>
        made(id(key), { ...common, name: `${called} ${name}`, scale, rest, switch: gate }),
      ),
    made(id('on'), { ...common, name: `${called} on`, scale: SWITCH_SCALE, rest: 1 }),
  ];
}

/** The depth of a control's sway, which is guarded, written and switched with that control. */
const swayControl = ({ id, channel, kind, name, switch: gate }: Control): Control =>
  made(swayControlId(id), { channel, kind, name: `${name} sway`, scale: SWAY_SCALE, switch: gate, host: id });

/** Every control of a channel, in the order it is shown: level, pan, mute, then its sends, then its inserts, the depth of a sway after what sways. */
export const controlsOfChannel = (song: Song, channel: Channel): Control[] =>
  steadyControls(song, channel).flatMap((one) => (song.lanes[one.id]?.sway ? [one, swayControl(one)] : [one]));

function steadyControls(song: Song, { key, kind, sends, inserts }: Channel): Control[] {
  if (kind === 'vca') return [level(key), mute(key)];
  return [
    level(key),
    pan(key),
    mute(key),
    ...sends.flatMap((send) => sendControls(song, key, send)),
    ...inserts.flatMap((insert) => insertControls(key, inserts, insert)),
  ];
}

type Controls = ReadonlyMap<ControlId, Control>;
/** The controls of a list of channels, by what sways of them; and which those are of lanes that were asked for. */
const controlsCache = new WeakMap<
  readonly Channel[],
  { readonly bySways: Map<string, Controls>; readonly byLanes: WeakMap<Song['lanes'], Controls> }
>();
const swaysIn = ({ lanes }: Song): string => {
  let sways = '';
  for (const id in lanes) if (lanes[id]!.sway) sways += ` ${id}`;
  return sways;
};

/** The control of a channel that is like another's; undefined where it has none. */
export const likeOn = (song: Song, channel: Channel, like: string): Control | undefined =>
  controlsOfChannel(song, channel).find((control) => control.like === like);

/** Every control of a song by id, channels in their order. The same map for a list of channels of which the same ones sway. */
export function controlsOf(song: Song): Controls {
  let cache = controlsCache.get(song.channels);
  if (!cache) controlsCache.set(song.channels, (cache = { bySways: new Map(), byLanes: new WeakMap() }));
  const known = cache.byLanes.get(song.lanes);
  if (known) return known;
  const sways = swaysIn(song);
  let controls = cache.bySways.get(sways);
  if (!controls) {
    controls = new Map(song.channels.flatMap((one) => controlsOfChannel(song, one)).map((one) => [one.id, one]));
    cache.bySways.set(sways, controls);
  }
  cache.byLanes.set(song.lanes, controls);
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
  const key = channelNamed(id);
  const channel = channelOf(song, key);
  if (!channel) {
    return `There is no control “${id}”: the song has no channel “${key}”. Its channels are ${song.channels.map((c) => c.key).join(', ')}.`;
  }
  const host = hostNamed(id);
  if (host !== null && controlsOf(song).has(host))
    return `There is no control “${id}”: ${fullName(song, host)} has no sway. Give it one first.`;
  const ids = controlsOfChannel(song, channel).map((c) => c.id);
  return `There is no control “${id}”: ${channel.name} has ${ids.join(', ')}.`;
}

/** Channel and control in one: `Lead level`, `Voice Hall send`. */
export function fullName(song: Song, id: ControlId): string {
  const { channel, kind, name } = controlOf(song, id);
  const isNamed = kind === 'sends' || kind === 'inserts';
  return `${channelOf(song, channel)?.name ?? channel} ${isNamed ? name : name.toLowerCase()}`;
}

/** A control's lane; one that was never touched rests at the control's default, the depth of a sway at what the sway says. */
export function laneOf(song: Song, id: ControlId): Lane {
  const host = hostNamed(id);
  return (
    song.lanes[id] ?? {
      rest: (host === null ? null : song.lanes[host]?.sway?.depth) ?? controlOf(song, id).rest,
      points: Curve.EMPTY,
      trim: Curve.EMPTY,
      parked: false,
      safe: false,
    }
  );
}
