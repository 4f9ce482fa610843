import { columnsOf, type CurveColumns } from '../curve/index.js';
import { vcasOver } from '../groups/index.js';
import {
  controlsOf,
  isReading,
  laneOf,
  type Channel,
  type ChannelKey,
  type Clip,
  type Control,
  type ControlId,
  type Song,
} from '../song/index.js';
import {
  TRIM_LAW,
  travelOf,
  type Frames,
  type Gain,
  type Law,
  type PanLaw,
  type Travel,
  gainOfDb,
} from '../units/index.js';

/** A control as the audio thread needs it; its place in the list is its slot in the hands' shared memory. */
export type ControlPlan = {
  readonly id: ControlId;
  readonly law: Law;
  readonly rest: Travel;
  /** The base curve; null where the control rests: it has no points, or does not read them. */
  readonly curve: CurveColumns | null;
  /** The trim curve; null where there is none or it is not read. */
  readonly trim: CurveColumns | null;
};

/** A stretch of a file on a track, in frames of the song. */
export type ClipPlan = {
  readonly from: Frames;
  readonly to: Frames;
  readonly file: number;
  readonly fileFrom: Frames;
  readonly gain: Gain;
  readonly fadeIn: Frames;
  readonly fadeOut: Frames;
};

/** A channel that carries audio, its controls as slots, its output as the place of a later node; −1 for the main. */
export type NodePlan = {
  readonly key: ChannelKey;
  readonly output: number;
  readonly clips: readonly ClipPlan[];
  readonly isStereo: boolean;
  readonly level: number;
  readonly pan: number;
  readonly mute: number;
  readonly vcaLevels: readonly number[];
  readonly vcaMutes: readonly number[];
  /** Kept from being heard by another channel's solo. */
  readonly silenced: boolean;
};

/** Everything the block renderer needs of a song, as plain data that can be sent to another thread. */
export type MixPlan = {
  readonly sampleRate: number;
  readonly length: Frames;
  readonly panLaw: PanLaw;
  readonly files: readonly string[];
  readonly controls: readonly ControlPlan[];
  /** In the order in which they are rendered: what feeds a node comes before it, the main last. */
  readonly nodes: readonly NodePlan[];
};

/** How a plan is to be made. `ignoreSolo`: as a bounce does unless asked. `stereo`: names of files with two channels. */
export type PlanOptions = { readonly ignoreSolo?: boolean; readonly stereo?: ReadonlySet<string> };

/** Makes the plan of a song's mix (rules, 3). Throws where outputs run in a ring: the document's reading refuses those. */
export function mixPlan(song: Song, options: PlanOptions = {}): MixPlan {
  const order = nodesInOrder(song);
  const place = new Map(order.map((channel, i) => [channel.key, i]));
  const files: string[] = [];
  const slots = new Map([...controlsOf(song).keys()].map((id, slot) => [id, slot]));
  const heard = options.ignoreSolo ? null : heardUnderSolo(song);
  const nodes = order.map((channel): NodePlan => {
    const vcas = vcasOver(song, channel.key);
    return {
      key: channel.key,
      output: channel.kind === 'main' ? -1 : place.get(outputOf(song, channel))!,
      clips: channel.clips.map((clip) => clipPlan(song, clip, files)),
      isStereo: channel.kind !== 'track' || channel.clips.some((clip) => options.stereo?.has(clip.file)),
      level: slots.get(`${channel.key}/level`)!,
      pan: slots.get(`${channel.key}/pan`)!,
      mute: slots.get(`${channel.key}/mute`)!,
      vcaLevels: vcas.map((vca) => slots.get(`${vca}/level`)!),
      vcaMutes: vcas.map((vca) => slots.get(`${vca}/mute`)!),
      silenced: heard !== null && !heard.has(channel.key),
    };
  });
  const controls = [...controlsOf(song).values()].map((control) => controlPlan(song, control));
  const length = Math.round(song.length * song.sampleRate);
  return { sampleRate: song.sampleRate, length, panLaw: song.settings.panLaw, files, controls, nodes };
}

/** A control's plan as its lane stands: what has to be sent anew when an edit changed it. */
export function controlPlan(song: Song, control: Control): ControlPlan {
  const lane = laneOf(song, control.id);
  const reads = isReading(song, control.id);
  return {
    id: control.id,
    law: control.law,
    rest: travelOf(control.law, lane.rest),
    curve: reads && lane.points.length ? columnsOf(lane.points, control.law) : null,
    trim: reads && lane.trim.length ? columnsOf(lane.trim, TRIM_LAW) : null,
  };
}

const mainOf = (song: Song): Channel => song.channels.find((channel) => channel.kind === 'main')!;

function outputOf(song: Song, channel: Channel): ChannelKey {
  return song.channels.some((c) => c.key === channel.output) ? channel.output : mainOf(song).key;
}

/** Tracks, then buses each after all that feeds it, then the main. */
function nodesInOrder(song: Song): Channel[] {
  const buses = song.channels.filter((channel) => channel.kind === 'bus');
  const ordered: Channel[] = [];
  while (ordered.length < buses.length) {
    const next = buses.find(
      (bus) =>
        !ordered.includes(bus) && buses.every((b) => ordered.includes(b) || b === bus || outputOf(song, b) !== bus.key),
    );
    const ring = buses.filter((bus) => !ordered.includes(bus));
    if (!next) throw new Error(`the outputs of ${ring.map((b) => b.name).join(', ')} run in a ring`);
    ordered.push(next);
  }
  return [...song.channels.filter((channel) => channel.kind === 'track'), ...ordered, mainOf(song)];
}

/**
 * The channels heard while some are soloed; null where none is. Solo is in place: what feeds a soloed bus, and the buses
 * that a soloed channel goes through, stay heard.
 */
function heardUnderSolo(song: Song): Set<ChannelKey> | null {
  const soloed = song.channels.filter((channel) => channel.solo && channel.kind !== 'vca' && channel.kind !== 'main');
  if (!soloed.length) return null;
  const heard = new Set<ChannelKey>([mainOf(song).key]);
  const wayOut = (from: Channel): ChannelKey[] => {
    const way = [from.key];
    for (let at = from; at.kind !== 'main';) {
      at = song.channels.find((channel) => channel.key === outputOf(song, at))!;
      way.push(at.key);
    }
    return way;
  };
  for (const channel of soloed) for (const key of wayOut(channel)) heard.add(key);
  const soloKeys = new Set(soloed.map((channel) => channel.key));
  for (const channel of song.channels)
    if (channel.kind === 'track' || channel.kind === 'bus')
      if (wayOut(channel).some((key) => soloKeys.has(key))) heard.add(channel.key);
  return heard;
}

function clipPlan(song: Song, clip: Clip, files: string[]): ClipPlan {
  const frames = (sec: number): Frames => Math.round(sec * song.sampleRate);
  let file = files.indexOf(clip.file);
  if (file < 0) file = files.push(clip.file) - 1;
  return {
    from: frames(clip.t),
    to: frames(clip.t) + frames(clip.length),
    file,
    fileFrom: frames(clip.offset),
    gain: gainOfDb(clip.gain),
    fadeIn: frames(clip.fadeIn),
    fadeOut: frames(clip.fadeOut),
  };
}
