import { vcasOver } from '@sure-hand/core/groups';
import type { PassRecorder } from '@sure-hand/core/pass';
import {
  channelOf,
  controlId,
  controlOf,
  fullName,
  isParked,
  isSafe,
  laneOf,
  layerScale,
  modeInForce,
  ownGuards,
  ownValueAt,
  type ControlId,
  type Layer,
  type Song,
} from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';

/** One layer of one lane that a control is made of: the base of its own, its trim, the level or mute of a VCA over it. */
export type OriginPart = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly name: string;
  /** Its value there, as it is printed. */
  readonly value: string;
  /** It has no curve: it rests there. */
  readonly isBare: boolean;
};

/** What a control is made of at a time, its own lane first: whose origins are asked for. */
export function originParts(song: Song, id: ControlId, t: Seconds): OriginPart[] {
  const part = (control: ControlId, layer: Layer, name: string): OriginPart => {
    const own = ownValueAt(song, control, t);
    const lane = laneOf(song, control);
    const value = layerScale(controlOf(song, control), layer).print(layer === 'trim' ? own.trim : own.base);
    return { control, layer, name, value, isBare: (layer === 'trim' ? lane.trim : lane.points).length === 0 };
  };
  const { channel, kind } = controlOf(song, id);
  const like = kind === 'level' ? 'level' : kind === 'mute' ? 'mute' : null;
  const overs = like ? vcasOver(song, channel) : [];
  return [
    part(id, 'base', 'Its own curve'),
    ...(laneOf(song, id).trim.length ? [part(id, 'trim', 'Its trim')] : []),
    ...overs.map((vca) => part(controlId(vca, like!), 'base', `VCA ${channelOf(song, vca)!.name}`)),
  ];
}

/** What keeps a control from being written, and what of it is not read, in sentences; none where nothing does. */
export function guardWords({ song, tryout }: PassRecorder, id: ControlId): string[] {
  const { channel: key, kind } = controlOf(song, id);
  const channel = channelOf(song, key)!;
  const name = fullName(song, id);
  const mode = modeInForce(song, key);
  return [
    tryout.held.has(id) ? `${name} is held aside: what is heard of it is not its curve.` : '',
    isSafe(song, id)
      ? ownGuards(song, id).safe
        ? `${name} is safe by itself.`
        : `${channel.name} has its ${kind} safe.`
      : '',
    isParked(song, id)
      ? song.settings.parked
        ? 'The song is parked: it is at where it rests.'
        : `${channel.parked ? channel.name : name} is parked: it is at where it rests.`
      : '',
    mode === 'off' ? `${channel.name} is off: it is at where it rests.` : '',
    song.settings.writeScope.includes(kind) ? '' : `The write scope leaves ${kind} out.`,
    mode === 'read' ? `${channel.name} reads: no pass writes it.` : '',
  ].filter(Boolean);
}
