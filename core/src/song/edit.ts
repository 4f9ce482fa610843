import type { Point, Range } from '../curve/index.js';
import type { Channel, ChannelKey, Clip, ControlId, Lane, Layer, Note, Section, Settings, Song } from './document.js';
import type { MeterMark, TempoMark } from '../time/index.js';
import type { Seconds } from '../units/index.js';
import type { Refusal } from './guards.js';

/** One lane of a receipt: what a pass wrote there (rules, 9). `points` and `maxDeviation` as kept after thinning. */
export type LaneReceipt = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly spans: readonly Range[];
  readonly moves: number;
  readonly points: number;
  /** In travel. */
  readonly maxDeviation: number;
  readonly clamped: readonly Range[];
};

/** What a pass did: where it ran, what it wrote, what it refused, and which resting values hands have set. */
export type Receipt = {
  readonly lap: number;
  readonly from: number;
  readonly to: number;
  readonly lanes: readonly LaneReceipt[];
  readonly refused: readonly Refusal[];
  readonly rested: readonly ControlId[];
};

/** A guard that came on in the middle of a pass, and when: nothing of the pass is written at or after that time. */
export type Heeded = Refusal & { readonly t: Seconds };

/** A stretch of one lane's layer and the points that replace it, values in the layer's unit. */
export type Piece = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly span: Range;
  readonly points: readonly Point[];
};

/**
 * One layer of a lane as it was at another time, whole, and where it is wanted; null is everywhere. `rest` is what it
 * rested at then, in the layer's unit: what a layer without points is at.
 */
export type LaneVersion = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly range: Range | null;
  readonly points: readonly Point[];
  readonly rest: number;
};

/** Where +12 dB kept a lane, on folding its trim, from being as loud as both layers together. */
export type Clamping = { readonly control: ControlId; readonly ranges: readonly Range[] };

/** What belongs to a channel and can be changed without being an undo step: its mode and guards, its solo. */
export type ChannelState = Pick<Channel, 'mode' | 'trim' | 'parked' | 'safe' | 'solo'>;

/** What stands on the song's time line besides its clips and curves, by the list it belongs to. */
export type Marks = {
  readonly sections: Section;
  readonly notes: Note;
  readonly tempo: TempoMark;
  readonly meter: MeterMark;
};
export type MarkList = keyof Marks;
/** One mark taken out, put in, or put in the place of another: so two tabs can change different ones at once. */
export type MarkEdit = {
  [list in MarkList]: {
    readonly kind: 'mark';
    readonly list: list;
    readonly remove: Marks[list] | null;
    readonly add: Marks[list] | null;
  };
}[MarkList];

/** What a channel is called and where it stands among the others. */
export type ChannelWords = Pick<Channel, 'name' | 'family'>;

/** Every change there is to a song, as data. Browser, server and command line apply the same ones. */
export type Edit =
  /**
   * What a pass wrote. `fold`: controls whose trim is folded once it is written. `heeded`: guards that came on while it
   * rolled and still stood at its end; what it had written up to then counts.
   */
  | {
      readonly kind: 'pass';
      readonly pieces: readonly Piece[];
      readonly receipt: Receipt;
      readonly fold?: readonly ControlId[];
      readonly heeded?: readonly Heeded[];
    }
  /** Base becomes base and trim together, and the trim is cleared. */
  | { readonly kind: 'foldTrim'; readonly controls: readonly ControlId[] }
  /** A span's end drawn on to a later time, or its beginning back to an earlier one; see {@link carried}. */
  | {
      readonly kind: 'carry';
      readonly control: ControlId;
      readonly from: Seconds;
      readonly to: Seconds;
      /** The base where nothing is said. */
      readonly layer?: Layer;
    }
  /** Lanes, or ranges of them, as a pass found or left them. */
  | {
      readonly kind: 'bringBack';
      readonly versions: readonly LaneVersion[];
      /** The pass in the log, and whether it is what it found or what it left. */
      readonly pass: number;
      readonly side: 'before' | 'after';
    }
  /** Resting values set by a hand, in each control's unit. */
  | { readonly kind: 'rest'; readonly values: { readonly [id: ControlId]: number } }
  /** Whole lanes as they were: the inverse of everything that writes lanes. `null` is a lane never touched. */
  | { readonly kind: 'lanes'; readonly lanes: { readonly [id: ControlId]: Lane | null } }
  | { readonly kind: 'channel'; readonly channel: ChannelKey; readonly changes: Partial<ChannelState> }
  | {
      readonly kind: 'guard';
      readonly control: ControlId;
      readonly changes: Partial<Pick<Lane, 'parked' | 'safe'>>;
      /** The lane was never touched before: taking its guard back leaves none. Only inverses say it. */
      readonly forget?: true;
    }
  | { readonly kind: 'settings'; readonly changes: Partial<Settings> }
  | MarkEdit
  /** One clip of a channel in place of another, or put in, or taken out. */
  | {
      readonly kind: 'clip';
      readonly channel: ChannelKey;
      readonly remove: Clip | null;
      readonly add: Clip | null;
    }
  | { readonly kind: 'describe'; readonly channel: ChannelKey; readonly changes: Partial<ChannelWords> }
  | { readonly kind: 'title'; readonly name: string };

/** What an edit did. Where everything it asked for was refused, the song is the same one and there is no inverse. */
export type Applied = {
  readonly song: Song;
  readonly inverse: Edit | null;
  readonly changed: readonly ControlId[];
  readonly refused: readonly Refusal[];
  /** Only where something was clamped. */
  readonly clamped?: readonly Clamping[];
};

/** Whether undo takes an edit back. Modes, guards, scope, transport and view are no undo steps (rules, 4). */
export function isUndoStep(edit: Edit): boolean {
  switch (edit.kind) {
    case 'pass':
    case 'foldTrim':
    case 'carry':
    case 'bringBack':
    case 'rest':
    case 'lanes':
    case 'mark':
    case 'clip':
    case 'describe':
    case 'title':
      return true;
    case 'channel':
    case 'guard':
    case 'settings':
      return false;
  }
}
