import type { WavInfo } from '@sure-hand/core/formats';
import { HandTable, type MixPlan, type PlanChange } from '@sure-hand/core/mix';
import { SILENCE_DB } from '@sure-hand/core/units';

/** Frames of one page of one channel of a file: what is fetched, kept and dropped at a time. */
export const PAGE_FRAMES = 16384;
/** Pages kept for each channel of each file: about 4 s, most of it ahead of the line. */
const PAGES_A_STREAM = 12;
const SPARE_PAGES = 32;
/** Places for channels and controls that come while the song is open. */
const SPARE_CHANNELS = 256;
const SPARE_CONTROLS = 4096;
/** Places for the sides of files that come while it is open: pages in the pool, and places in the table for an hour of each. */
const SPARE_STREAMS = 48;
const SPARE_TABLE = SPARE_STREAMS * 10_550;

/** A file as the audio thread and the page worker know it. */
export type StreamedFile = { readonly name: string; readonly info: WavInfo };

/** Places in the transport's integers. `roll`: the play, by its number, that wraps and anchors are of; `seq` is odd while they are written. */
export const T_INT = { seq: 0, playing: 1, missed: 2, blocks: 3, late: 4, wraps: 5, roll: 6, length: 8 } as const;
/**
 * So many anchors are kept, each a song frame and the context time it has: the one that a play began with, or that the loop's last
 * wraps made. Rendered is ahead of heard, so with a short loop more than one wrap is under way.
 */
export const ANCHORS = 32;
/** Places in the transport's floats: the frame to come; from `anchors` on the last anchors, that of wrap n at n modulo their number. */
export const T_FLOAT = {
  frame: 0,
  wanted: 5,
  /** What the whole mix measures: short-term loudness in LUFS, mean square of the last 0.3 s, peak, and true peak since play. */
  shortTerm: 6,
  meanSquare: 7,
  peak: 8,
  truePeak: 9,
  /** Of the compressor that is watched: what it has held down most of late, and the level that it listens to, in dB. */
  heldDown: 10,
  listened: 11,
  anchors: 12,
  length: 12 + 2 * ANCHORS,
} as const;

/**
 * All memory that main thread, page worker and audio thread share for one song. Made once; the buffers are posted, and
 * each side lays the same views over them with {@link viewsOf}.
 */
export type SharedBuffers = {
  readonly transportInts: SharedArrayBuffer;
  readonly transportFloats: SharedArrayBuffer;
  readonly hands: SharedArrayBuffer;
  readonly meters: SharedArrayBuffer;
  readonly gains: SharedArrayBuffer;
  readonly pages: SharedArrayBuffer;
  readonly table: SharedArrayBuffer;
  /** For how many controls the hands have room, whatever comes and goes. */
  readonly controlRoom: number;
  /** How many pages of the pool the files have that the song was opened with; those after them are for files that come. */
  readonly poolPages: number;
};

export type SharedViews = {
  readonly ints: Int32Array;
  readonly floats: Float64Array;
  readonly meters: Float32Array;
  /** The left gain of each node at the frame to come, by its slot: what is really applied. */
  readonly gains: Float32Array;
  /** The pool: page after page. */
  readonly pages: Float32Array;
  /** For every page of every channel of every file the place in the pool where it lies, −1 where it does not. */
  readonly table: Int32Array;
};

/** Where the pages of a file's channel begin in the table. */
export function tableStarts(files: readonly StreamedFile[]): number[][] {
  let at = 0;
  return files.map(({ info }) =>
    Array.from({ length: info.channels }, () => {
      const start = at;
      at += Math.ceil(info.frames / PAGE_FRAMES);
      return start;
    }),
  );
}

export function makeBuffers(files: readonly StreamedFile[], plan: MixPlan): SharedBuffers {
  const streams = files.reduce((sum, { info }) => sum + info.channels, 0);
  const pages = files.reduce((sum, { info }) => sum + info.channels * Math.ceil(info.frames / PAGE_FRAMES), 0);
  const pool = Math.min(pages, streams * PAGES_A_STREAM + SPARE_PAGES);
  const controlRoom = plan.controls.length + SPARE_CONTROLS;
  const buffers = {
    controlRoom,
    poolPages: Math.max(1, pool),
    transportInts: new SharedArrayBuffer(T_INT.length * 4),
    transportFloats: new SharedArrayBuffer(T_FLOAT.length * 8),
    hands: new SharedArrayBuffer(HandTable.bytes(controlRoom)),
    meters: new SharedArrayBuffer((plan.nodes.length + SPARE_CHANNELS) * 2 * 4),
    gains: new SharedArrayBuffer((plan.nodes.length + SPARE_CHANNELS) * 4),
    // Memory that nobody has touched costs nothing.
    pages: new SharedArrayBuffer((Math.max(1, pool) + SPARE_STREAMS * PAGES_A_STREAM) * PAGE_FRAMES * 4),
    table: new SharedArrayBuffer((pages + SPARE_TABLE) * 4),
  };
  new Int32Array(buffers.table).fill(-1);
  new Float64Array(buffers.transportFloats)[T_FLOAT.shortTerm] = SILENCE_DB;
  return buffers;
}

/** Whether there is room for files besides those that are there. */
export function hasRoomFor(
  files: readonly StreamedFile[],
  more: readonly StreamedFile[],
  { table, pages, poolPages }: SharedBuffers,
): boolean {
  const all = [...files, ...more];
  const placesIn = (list: readonly StreamedFile[]): number =>
    list.reduce((sum, { info }) => sum + info.channels * Math.ceil(info.frames / PAGE_FRAMES), 0);
  const spare = pages.byteLength / 4 / PAGE_FRAMES - poolPages;
  return placesIn(all) <= table.byteLength / 4 && morePages(more) <= spare;
}

/** How many pages of the pool some files want that have come since. */
export const morePages = (more: readonly StreamedFile[]): number =>
  more.reduce((sum, { info }) => sum + info.channels * PAGES_A_STREAM, 0);

export function viewsOf(buffers: SharedBuffers): SharedViews {
  return {
    ints: new Int32Array(buffers.transportInts),
    floats: new Float64Array(buffers.transportFloats),
    meters: new Float32Array(buffers.meters),
    gains: new Float32Array(buffers.gains),
    pages: new Float32Array(buffers.pages),
    table: new Int32Array(buffers.table),
  };
}

/** What the audio thread is told. Frames are the song's. */
export type ToWorklet =
  | {
      readonly type: 'open';
      readonly plan: MixPlan;
      readonly files: readonly StreamedFile[];
      readonly buffers: SharedBuffers;
      readonly version: number;
    }
  /** All files there are: those that were there before stand first, as they did. */
  | { readonly type: 'files'; readonly files: readonly StreamedFile[] }
  | { readonly type: 'change'; readonly change: PlanChange; readonly version: number }
  /** `roll`: the number of this play, greater than any before it. */
  | { readonly type: 'play'; readonly frame: number; readonly roll: number }
  | { readonly type: 'locate'; readonly frame: number }
  /** The song is heard as a hand draws it under the line, towards the frame that is wanted; or no more. */
  | { readonly type: 'scrub'; readonly on: boolean }
  /** A channel's sound after its inserts is to be seen, and what one of them, by its slot, has to show; or none any more. */
  | { readonly type: 'watch'; readonly watch: { readonly channel: string; readonly slot: string } | null }
  | { readonly type: 'loop'; readonly loop: readonly [number, number] | null }
  | { readonly type: 'stop' };

/** What the audio thread says. */
export type FromWorklet =
  | { readonly type: 'planned'; readonly version: number }
  /** A play, by its number, has been rendered to the song's end. */
  | { readonly type: 'ended'; readonly roll: number };
