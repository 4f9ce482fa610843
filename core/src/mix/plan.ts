import { columnsOf, type CurveColumns, type Swaying } from '../curve/index.js';
import { EFFECTS, type Effect, type EffectSettings } from '../effects/index.js';
import { vcasOver } from '../groups/index.js';
import {
  carriesAudio,
  channelOf,
  controlId,
  controlsOf,
  effectIn,
  feedRing,
  insertControlId,
  isReading,
  isSwaying,
  keyOf,
  keysOf,
  laneOf,
  mainOf,
  outputOf,
  sendControlId,
  settingsOf,
  swayControlId,
  swayOf,
  swayingOf,
  targetsOf,
  type Channel,
  type ChannelKey,
  type Clip,
  type Control,
  type ControlId,
  type FadeShape,
  type Insert,
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
  /** What sways on its base, how, and the slot of how deep; null where nothing does. */
  readonly sway: { readonly swaying: Swaying; readonly depth: number } | null;
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

/** An insert of a channel, its controls as slots. */
export type InsertPlan = {
  readonly slot: string;
  readonly effect: string;
  readonly settings: EffectSettings;
  /** In the effect's order. */
  readonly params: readonly number[];
  readonly on: number;
  /** The earlier node that it listens to in place of its own input. */
  readonly key: ChannelKey | null;
  /** What stands in for a parameter, by the tempo: its values, each from a frame on; null where nothing does. */
  readonly standIn: {
    readonly param: number;
    readonly frames: readonly Frames[];
    readonly values: readonly number[];
  } | null;
};

/** A channel that carries audio, its controls as slots. Nothing in it changes as other channels come, go or are soloed. */
export type NodePlan = {
  readonly key: ChannelKey;
  /** Its place in the shared memory of meters and gains, for as long as it is there. */
  readonly slot: number;
  /** A later node; null for the main. */
  readonly output: ChannelKey | null;
  readonly clips: readonly ClipPlan[];
  /** Its source has two sides: it is balanced, not panned. */
  readonly isStereo: boolean;
  readonly inserts: readonly InsertPlan[];
  /** It has two sides after its inserts. */
  readonly isWide: boolean;
  /** Others' inserts listen to it, after its level. */
  readonly isKey: boolean;
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
  /** 1 for each feed that is heard, 0 where another channel's solo keeps it from that: of each node as {@link feedsOf} has them. */
  readonly heard: Uint8Array;
};

/** How many feeds a node has: its output, then its sends, then what listens to it as a key. */
export const feedsOf = ({ sends, isKey }: Pick<NodePlan, 'sends' | 'isKey'>): number =>
  1 + sends.length + (isKey ? 1 : 0);

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
    isBypassed && control.channel === main
      ? atUnity(control)
      : controlPlan(song, control, (id) => slots.controls.of(id)),
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
  const keys = new Set(order.flatMap(keysOf));
  const files: string[] = [];
  const slot = (id: ControlId): number => slots.controls.of(id);
  const nodes = order.map((channel): NodePlan => {
    const { key, kind } = channel;
    const vcas = vcasOver(song, key);
    const isStereo = kind !== 'track' || channel.clips.some((clip) => options.stereo?.has(clip.file));
    const inserts = channel.inserts.flatMap((insert) => insertPlan(song, key, insert, slot));
    return {
      key,
      slot: slots.nodes.of(key),
      output: outputHere(song, channel),
      clips: kind === 'track' ? channel.clips.map((clip) => clipPlan(song, clip, files)) : [],
      isStereo,
      inserts,
      isWide: isStereo || inserts.some(({ effect }) => EFFECTS.get(effect)!.makesStereo),
      isKey: keys.has(key),
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
    nodes.flatMap(({ key, output, sends, isKey }) => [
      output === null || hears(key, output) ? 1 : 0,
      ...sends.map(({ bus }) => (hears(key, bus) ? 1 : 0)),
      // No solo silences what is a key.
      ...(isKey ? [1] : []),
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
  sway: null,
});

/** A control's plan as its lane stands: what has to be sent anew when an edit changed it. */
export function controlPlan(song: Song, control: Control, slotOf: (id: ControlId) => number): ControlPlan {
  const lane = laneOf(song, control.id);
  const reads = isReading(song, control.id);
  const sway = isSwaying(song, control.id) ? swayOf(song, control.id) : null;
  return {
    id: control.id,
    law: control.law,
    rest: travelOf(control.law, lane.rest),
    curve: reads && lane.points.length ? columnsOf(lane.points, control.law) : null,
    trim: reads && lane.trim.length ? columnsOf(lane.trim, TRIM_LAW) : null,
    sway: sway && { swaying: swayingOf(song, sway), depth: slotOf(swayControlId(control.id)) },
  };
}

/** Tracks, then buses, each after all that feeds it and that it listens to, then the main. */
function inRenderOrder(song: Song): Channel[] {
  const ring = feedRing(song);
  if (ring) throw new Error(`outputs, sends and keys feed back: ${ring.join(' → ')}`);
  const ofKind = (one: 'track' | 'bus'): Channel[] => song.channels.filter(({ kind }) => kind === one);
  const [tracks, buses] = [ofKind('track'), ofKind('bus')];
  const ordered = new Set<Channel>();
  const place = (channel: Channel): void => {
    if (ordered.has(channel)) return;
    const heard = keysOf(channel).flatMap((key) => channelOf(song, key) ?? []);
    const feeds =
      channel.kind === 'track' ? [] : [...tracks, ...buses].filter((one) => targetsOf(song, one).includes(channel.key));
    for (const one of [...feeds, ...heard]) place(one);
    ordered.add(channel);
  };
  [...tracks, ...buses, mainOf(song)].forEach(place);
  return [...ordered].filter(carriesAudio);
}

/** The plan of an insert; none of an effect that this program does not know. */
function insertPlan(song: Song, channel: ChannelKey, insert: Insert, slot: (id: ControlId) => number): InsertPlan[] {
  const effect = effectIn(insert);
  if (!effect) return [];
  const settings = settingsOf(insert);
  const id = (param: string): ControlId => insertControlId(channel, insert.slot, param);
  const key = keyOf(insert);
  return [
    {
      ...{ slot: insert.slot, effect: insert.effect, settings },
      params: effect.params(settings).map((param) => slot(id(param.key))),
      on: slot(id('on')),
      key: key !== null && channelOf(song, key) ? key : null,
      standIn: standInOf(song, effect, settings),
    },
  ];
}

/** See {@link InsertPlan}: the tempo jumps at its marks. */
function standInOf(song: Song, { byTempo }: Effect, settings: EffectSettings): InsertPlan['standIn'] {
  if (!byTempo || byTempo.value(settings, 120) === null) return null;
  return {
    param: byTempo.param,
    frames: song.tempo.map(({ t }, i) => (i === 0 ? 0 : Math.round(t * song.sampleRate))),
    values: song.tempo.map(({ bpm }) => byTempo.value(settings, bpm)!),
  };
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
