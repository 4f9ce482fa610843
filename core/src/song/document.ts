import type { Curve, Range, Wave } from '../curve/index.js';
import type { EffectSettings } from '../effects/index.js';
import type { MeterMark, TempoMark } from '../time/index.js';
import type { Db, PanLaw, Seconds, Travel } from '../units/index.js';

/** A control's full name, such as `voice/level` or `voice/send/hall/pan` (rules, 9). */
export type ControlId = string;
export type ChannelKey = string;

/** The kinds of control, as write scope and safe know them. */
export const CONTROL_KINDS = ['level', 'pan', 'mute', 'sends', 'inserts'] as const;
export type ControlKind = (typeof CONTROL_KINDS)[number];

export const MODES = ['off', 'read', 'touch', 'latch', 'write'] as const;
export type Mode = (typeof MODES)[number];

export const CHANNEL_KINDS = ['track', 'bus', 'main', 'vca'] as const;
export type ChannelKind = (typeof CHANNEL_KINDS)[number];

/** How a clip's fade goes in gain: straight, as a quarter of a sine (two of them keep the power), or slow at both ends. */
export const FADE_SHAPES = ['line', 'round', 's'] as const;
export type FadeShape = (typeof FADE_SHAPES)[number];

/** A piece of an audio file on a track's time line; `offset` is where in the file it begins. */
export type Clip = {
  readonly t: Seconds;
  readonly file: string;
  readonly offset: Seconds;
  readonly length: Seconds;
  readonly gain: Db;
  readonly fadeIn: Seconds;
  readonly fadeOut: Seconds;
  readonly fadeInShape: FadeShape;
  readonly fadeOutShape: FadeShape;
};

export type Send = { readonly bus: ChannelKey; readonly tap: 'pre' | 'post'; readonly pan: 'follow' | 'own' };

/** An effect in a channel's path; `slot` is one of its kind there and names its controls, `settings` are what is not automated (page 8). */
export type Insert = { readonly slot: string; readonly effect: string; readonly settings: EffectSettings };

/** What a return bus does to what is sent to it: a fixed sound, until there are inserts. */
export const RETURN_SOUNDS = ['reverb', 'delay', 'chorus'] as const;
export type ReturnSound = (typeof RETURN_SOUNDS)[number];

/** A channel of any kind; what a kind does not use stays empty. */
export type Channel = {
  readonly key: ChannelKey;
  readonly kind: ChannelKind;
  readonly name: string;
  readonly family: string;
  readonly mode: Mode;
  readonly trim: boolean;
  readonly parked: boolean;
  readonly safe: readonly ControlKind[];
  readonly output: ChannelKey;
  readonly solo: boolean;
  readonly clips: readonly Clip[];
  readonly sends: readonly Send[];
  readonly inserts: readonly Insert[];
  readonly members: readonly ChannelKey[];
  /** Buses only: the sound of a return; null where the bus only sums. */
  readonly sound: ReturnSound | null;
};

/**
 * A slow movement on top of a base curve (page 8): its wave, cycles a quarter note or, in its place, a second; `depth` in travel either
 * side, 0 … 0.5, is what its own control rests at; `phase` in turns from the song's start; `seed` is of `steps`, 1 where none is said.
 */
export type Sway = {
  readonly wave: Wave;
  readonly perBeat?: number;
  readonly hz?: number;
  readonly depth: Travel;
  readonly phase: number;
  readonly seed?: number;
  readonly on: boolean;
};

/** The automation of one control. `rest` is what it is at while it has no curve, in its unit. */
export type Lane = {
  readonly rest: number;
  readonly points: Curve;
  readonly trim: Curve;
  readonly parked: boolean;
  readonly safe: boolean;
  /** Absent where it has none. */
  readonly sway?: Sway;
};

/** The layers of a lane that a hand can write: the base curve and the trim on top of it. */
export type Layer = 'base' | 'trim';

/** What a channel in write goes on in after a pass, so that the next play does not write again: touch, or write all the same. */
export const AFTER_WRITES = ['touch', 'write'] as const;
export type AfterWrite = (typeof AFTER_WRITES)[number];

/** When trim becomes part of the curve under it: by hand, or with each pass that wrote it. */
export const FOLD_TRIMS = ['hand', 'pass'] as const;
export type FoldTrim = (typeof FOLD_TRIMS)[number];

export type Settings = {
  readonly returnTime: Seconds;
  readonly edgeTime: Seconds;
  readonly thin: number;
  readonly writeScope: readonly ControlKind[];
  readonly afterWrite: AfterWrite;
  readonly foldTrim: FoldTrim;
  readonly panLaw: PanLaw;
  readonly deskMode: Mode | null;
  readonly parked: boolean;
  readonly punch: Range | null;
  readonly loop: Range | null;
};

export type Section = { readonly t: Seconds; readonly name: string };
/** How a gang's pans go together: all the same way, or the others the opposite way of the one in hand. */
export const GANG_PANS = ['same', 'mirror'] as const;
export type GangPan = (typeof GANG_PANS)[number];

/** Channels linked for some kinds of control, so that a hand on one moves all (rules, 6); `modes`: their modes and trim too. */
export type Gang = {
  readonly key: string;
  readonly name: string;
  readonly channels: readonly ChannelKey[];
  readonly kinds: readonly ControlKind[];
  readonly pan: GangPan;
  readonly modes: boolean;
};

/** For each channel the kinds of control that a snapshot recalls, none of channels it does not name; null recalls all. */
export type RecallFilter = { readonly [channel: ChannelKey]: readonly ControlKind[] } | null;

/** Values of a set of controls at a moment of the song, under a name; what of them comes back goes through its filter (rules, 6). */
export type Snapshot = {
  readonly key: string;
  readonly name: string;
  readonly note: string;
  /** Where in the song it was taken. */
  readonly t: Seconds;
  readonly values: { readonly [id: ControlId]: number };
  readonly filter: RecallFilter;
};

/** What guards some channels and controls, and what passes may write, under a name, to be brought back; null is as it then stands. */
export type GuardSet = {
  readonly key: string;
  readonly name: string;
  readonly scope: readonly ControlKind[] | null;
  readonly channels: { readonly [key: ChannelKey]: Pick<Channel, 'safe' | 'parked'> };
  /** Single controls of those channels that are guarded; all others of them are not. */
  readonly controls: { readonly [id: ControlId]: Pick<Lane, 'safe' | 'parked'> };
};
export type Note = { readonly t: Seconds; readonly text: string; readonly channel?: ChannelKey };

/**
 * A whole song as plain data: the song document (rules, 9) with its defaults filled in. Fields that this version
 * does not know are kept where they stand.
 */
export type Song = {
  readonly format: 'sure-hand-song';
  readonly version: number;
  readonly name: string;
  readonly sampleRate: number;
  readonly length: Seconds;
  readonly tempo: readonly TempoMark[];
  readonly meter: readonly MeterMark[];
  readonly sections: readonly Section[];
  readonly settings: Settings;
  readonly channels: readonly Channel[];
  readonly gangs: readonly Gang[];
  readonly snapshots: readonly Snapshot[];
  readonly guardSets: readonly GuardSet[];
  readonly notes: readonly Note[];
  readonly lanes: { readonly [id: ControlId]: Lane };
};

/** Settings of a song that says nothing of them. */
export const DEFAULT_SETTINGS: Settings = {
  returnTime: 0.25,
  edgeTime: 0.1,
  thin: 0.002,
  writeScope: CONTROL_KINDS,
  afterWrite: 'touch',
  foldTrim: 'hand',
  panLaw: 3,
  deskMode: null,
  parked: false,
  punch: null,
  loop: null,
};

/** The channel with a key; undefined where there is none. */
export const channelOf = (song: Pick<Song, 'channels'>, key: ChannelKey): Channel | undefined =>
  song.channels.find((channel) => channel.key === key);
