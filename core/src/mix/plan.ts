import { columnsOf, type CurveColumns } from '../curve/index.js';
import { vcasOver } from '../groups/index.js';
import {
  carriesAudio,
  controlId,
  controlsOf,
  feedRing,
  isReading,
  laneOf,
  mainOf,
  outputOf,
  sendControlId,
  targetsOf,
  type Channel,
  type ChannelKey,
  type Clip,
  type Control,
  type ControlId,
  type FadeShape,
  type ReturnSound,
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
import { heardOf, heardUnderSolo, type Hears } from './heard.js';
import { Slots } from './slots.js';

/** A control as the audio thread needs it; its place in the list is its slot in the hands' shared memory, for as long as it is there. */
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
  readonly fadeInShape: FadeShape;
  readonly fadeOutShape: FadeShape;
};

/** A send of a channel, its controls as slots. */
export type SendPlan = {
  readonly bus: ChannelKey;
  readonly isPre: boolean;
  readonly level: number;
  readonly on: number;
  /** −1 where the send follows the channel's pan. */
  readonly pan: number;
};

/** A channel that carries audio, its controls as slots. Nothing in it changes as other channels come, go or are soloed. */
export type NodePlan = {
  readonly key: ChannelKey;
  /** Its place in the shared memory of meters and gains, for as long as it is there. */
  readonly slot: number;
  /** A later node; null for the main. */
  readonly output: ChannelKey | null;
  readonly clips: readonly ClipPlan[];
  readonly isStereo: boolean;
  readonly level: number;
  readonly pan: number;
  readonly mute: number;
  readonly vcaLevels: readonly number[];
  readonly vcaMutes: readonly number[];
  readonly sends: readonly SendPlan[];
  readonly sound: ReturnSound | null;
};

/** Everything the block renderer needs of a song but its controls. */
export type PlanFrame = {
  readonly sampleRate: number;
  readonly length: Frames;
  readonly panLaw: PanLaw;
  readonly files: readonly string[];
  /** In the order in which they are rendered: what feeds a node comes before it, the main last. */
  readonly nodes: readonly NodePlan[];
  /** 1 for each feed that is heard, 0 where another channel's solo keeps it from that: of each node its output, then its sends. */
  readonly heard: Uint8Array;
};

/** Everything the block renderer needs of a song, as plain data that can be sent to another thread. */
export type MixPlan = PlanFrame & {
  /** By slot; those that nothing has stand at rest. */
  readonly controls: readonly ControlPlan[];
};

/** One channel alone: through the main's fader, pan and mute, or as it comes to the main. */
export type StemOf = { readonly channel: ChannelKey; readonly throughMain: boolean };

/**
 * How a plan is to be made. `ignoreSolo`: as a bounce does unless asked. `stem`: one channel alone, whatever is soloed.
 * `stereo`: names of files with two channels.
 */
export type PlanOptions = {
  readonly ignoreSolo?: boolean;
  readonly stem?: StemOf | null;
  readonly stereo?: ReadonlySet<string>;
};

/** Where the controls and the channels of a song have their places. */
export type PlanSlots = { readonly controls: Slots; readonly nodes: Slots };

/** Makes the plan of a song's mix (rules, 3). Throws where it feeds back: the document's reading refuses those. */
export function mixPlan(song: Song, options: PlanOptions = {}): MixPlan {
  const slots = { controls: new Slots(), nodes: new Slots() };
  assignSlots(song, slots);
  const main = mainOf(song).key;
  const isBypassed = options.stem && !options.stem.throughMain;
  const controls = [...controlsOf(song).values()].map((control) =>
    isBypassed && control.channel === main ? atUnity(control) : controlPlan(song, control),
  );
  return { ...planFrame(song, slots, options), controls };
}

/** Gives all controls and channels of a song their places; gives back the slots of controls that have gone. */
export function assignSlots(song: Song, { controls, nodes }: PlanSlots): number[] {
  nodes.assign(new Set(song.channels.filter(carriesAudio).map(({ key }) => key)));
  return controls.assign(new Set(controlsOf(song).keys()));
}

/** The plan of a song's mix but for its controls, which have their places in `slots`. */
export function planFrame(song: Song, slots: PlanSlots, options: PlanOptions = {}): PlanFrame {
  const order = inRenderOrder(song);
  const files: string[] = [];
  const slot = (id: ControlId): number => slots.controls.of(id);
  const nodes = order.map((channel): NodePlan => {
    const { key, kind } = channel;
    const vcas = vcasOver(song, key);
    return {
      key,
      slot: slots.nodes.of(key),
      output: outputHere(song, channel),
      clips: kind === 'track' ? channel.clips.map((clip) => clipPlan(song, clip, files)) : [],
      isStereo: kind !== 'track' || channel.clips.some((clip) => options.stereo?.has(clip.file)),
      level: slot(controlId(key, 'level')),
      pan: slot(controlId(key, 'pan')),
      mute: slot(controlId(key, 'mute')),
      vcaLevels: vcas.map((vca) => slot(controlId(vca, 'level'))),
      vcaMutes: vcas.map((vca) => slot(controlId(vca, 'mute'))),
      sends: channel.sends.map(({ bus, tap, pan }): SendPlan => ({
        bus,
        isPre: tap === 'pre',
        level: slot(sendControlId(key, bus, 'level')),
        on: slot(sendControlId(key, bus, 'on')),
        pan: pan === 'own' ? slot(sendControlId(key, bus, 'pan')) : -1,
      })),
      sound: kind === 'bus' ? channel.sound : null,
    };
  });
  const length = Math.round(song.length * song.sampleRate);
  const heard = heardFeeds(nodes, hearsBy(song, options));
  return { sampleRate: song.sampleRate, length, panLaw: song.settings.panLaw, files, nodes, heard };
}

const outputHere = (song: Song, channel: Channel): ChannelKey | null =>
  channel.kind === 'main' ? null : outputOf(song, channel);

/** See {@link PlanFrame}'s `heard`. */
const heardFeeds = (nodes: readonly NodePlan[], hears: Hears): Uint8Array =>
  Uint8Array.from(
    nodes.flatMap(({ key, output, sends }) => [
      output === null || hears(key, output) ? 1 : 0,
      ...sends.map(({ bus }) => (hears(key, bus) ? 1 : 0)),
    ]),
  );

function hearsBy(song: Song, { ignoreSolo, stem }: PlanOptions): Hears {
  if (stem) return heardOf(song, [stem.channel]);
  return ignoreSolo ? () => true : heardUnderSolo(song);
}

/** A control at rest where it changes nothing: its default. */
const atUnity = ({ id, law, rest }: Control): ControlPlan => ({
  id,
  law,
  rest: travelOf(law, rest),
  curve: null,
  trim: null,
});

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

/** Tracks, then buses each after all that feeds it, then the main. */
function inRenderOrder(song: Song): Channel[] {
  const ring = feedRing(song);
  if (ring) throw new Error(`outputs and sends feed back: ${ring.join(' → ')}`);
  const ordered = new Set<Channel>(song.channels.filter((channel) => channel.kind === 'track'));
  const buses = song.channels.filter((channel) => channel.kind === 'bus');
  const place = (bus: Channel): void => {
    for (const other of buses) if (!ordered.has(other) && targetsOf(song, other).includes(bus.key)) place(other);
    ordered.add(bus);
  };
  buses.forEach(place);
  ordered.add(mainOf(song));
  return [...ordered].filter(carriesAudio);
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
    fadeInShape: clip.fadeInShape,
    fadeOutShape: clip.fadeOutShape,
  };
}
