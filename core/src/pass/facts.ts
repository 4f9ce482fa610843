import { TRIM_REACH_DB, levelOfTravel, travelOf, type Db, type Law, type Seconds } from '../units/index.js';
import { placesIn, type Curve, type Range } from '../curve/index.js';
import { type LaneReceipt, type Receipt } from '../edits/index.js';
import type { OwnAt, OwnValue } from '../groups/index.js';
import {
  channelNamed,
  controlOf,
  controlsOf,
  ownValueAt,
  swayControlId,
  swayOf,
  swayedValue,
  type ControlId,
  type Layer,
  type Song,
} from '../song/index.js';
import { HAND } from './handEvent.js';
import { isCurved, keepsPoised, setsRest, whyGuarded } from './mayWrite.js';
import { preflight } from './preflight.js';
import type { Waiting } from './waiting.js';
import type { PassRecorder } from './recorder.js';

/** What is written of which controls, of how many channels, from where to where; `to` is null where only a stop or a release ends it. */
export type Reach = {
  readonly lanes: readonly { readonly control: ControlId; readonly layer: Layer }[];
  readonly channels: number;
  readonly from: Seconds;
  readonly to: Seconds | null;
};

type Written = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly from: Seconds;
  readonly to: Seconds | null;
};

function reachOf(written: readonly Written[], channelOf: (id: ControlId) => string): Reach | null {
  if (!written.length) return null;
  const ends = written.map(({ to }) => to);
  return {
    lanes: written.map(({ control, layer }) => ({ control, layer })),
    channels: new Set(written.map(({ control }) => channelOf(control))).size,
    from: Math.min(...written.map(({ from }) => from)),
    to: ends.includes(null) ? null : Math.max(...(ends as number[])),
  };
}

/** What play from a place writes by itself, with no hand on anything: what is poised, and channels in write; null where nothing. */
export function playWrites(song: Song, at: Seconds, waiting: Waiting): Reach | null {
  const will = preflight(song, at, waiting).will.filter((one) => one.when === 'play');
  return reachOf(will, (id) => controlOf(song, id).channel);
}

/** Channels of which play from a place would write what is touched. */
export function touchWrites(song: Song, at: Seconds, waiting: Waiting): readonly string[] {
  const will = preflight(song, at, waiting).will.filter((one) => one.when === 'touched');
  return [...new Set(will.map(({ control }) => controlOf(song, control).channel))];
}

/** What an open pass is writing now, from where its spans began. */
export function writesNow({ song, roll }: PassRecorder, to: Seconds | null): Reach | null {
  const open = roll?.takes.filter((take) => take.isOpen) ?? [];
  const written = open.map(({ control, layer, spans }) => ({ control, layer, from: spans.at(-1)!.from, to }));
  return reachOf(written, (id) => controlOf(song, id).channel);
}

/** What a pass wrote, by its receipt. */
export function wrote(receipt: Receipt): Reach | null {
  const written = receipt.lanes.map(({ control, layer, spans }): Written => {
    return { control, layer, from: spans[0]![0], to: spans.at(-1)![1] };
  });
  return reachOf(written, channelNamed);
}

/** Where controls are at t by their own lanes, and by the hands that are on them: what is heard of each, without the others. */
export const ownByHands =
  (recorder: PassRecorder, heard: Song, t: Seconds): OwnAt =>
  (id) => {
    const { base, trim } = steadyByHands(recorder, heard, id, t);
    if (!swayOf(heard, id)) return { base, trim };
    const depth = steadyByHands(recorder, heard, swayControlId(id), t).base;
    return { base: swayedValue(heard, id, base, t, depth), trim };
  };

/** The same without its sway. */
function steadyByHands(recorder: PassRecorder, heard: Song, id: ControlId, t: Seconds): OwnValue {
  const own = ownValueAt(heard, id, t);
  // A depth that is only tried is not the recorder's yet.
  if (!controlsOf(recorder.song).has(id) || recorder.doing(id, t).what === 'curve') return own;
  const value = recorder.capAt(id, t);
  return recorder.layerOf(id) === 'trim' ? { ...own, trim: value } : { ...own, base: value };
}

/** The base of a control as hands have it at t: where it is held, poised or written, null where no hand has it. */
export function baseInHand(recorder: PassRecorder, id: ControlId, t: Seconds): number | null {
  const doing = recorder.doing(id, t);
  if (doing.what === 'aside') return doing.value;
  if (doing.what === 'hand') return doing.layer === 'base' ? doing.value : null;
  return doing.what === 'return' && doing.layer === 'base' ? recorder.capAt(id, t) : null;
}

/** What a hand on a control would do now: write, wait for the pass to come, set where the control rests, only be heard, or hold it aside. */
export type HandDoes = 'writes' | 'poises' | 'rests' | 'heard' | 'aside';

/** The recorder's own decision, asked before a hand is there (rules, 4 and 5). */
export function handDoes(recorder: PassRecorder, id: ControlId): HandDoes {
  const { song, roll } = recorder;
  if (recorder.tryout.takes(id)) return 'aside';
  const reason = recorder.whyNot(id, roll?.now ?? null);
  if (roll && reason === null) return 'writes';
  if (!roll && reason === null && (keepsPoised(song, id) || recorder.isRecalled(id))) return 'poises';
  const { punch } = song.settings;
  const isPreRoll = roll !== null && punch !== null && roll.now < punch[0];
  if (isPreRoll && keepsPoised(song, id) && whyGuarded(song, id) === null) return 'poises';
  const curved = isCurved(song, id) || (roll?.take(id, 'base')?.spans.length ?? 0) > 0;
  return setsRest(song, id, roll !== null, curved) ? 'rests' : 'heard';
}

/** Whether a hand on a control gives an offset on top of its curve. */
export const givesOffset = (recorder: PassRecorder, id: ControlId): boolean => recorder.layerGiven(id) === 'trim';

/**
 * How closely a lane of a pass was kept: exactly, within so many dB (of a level, where it is above −60 dB: below that
 * `fromDb` says so), or within a share of its throw. `plateaus`: stretches in which the hand held still.
 */
export type Closeness = {
  readonly within:
    | { readonly unit: 'exact' }
    | { readonly unit: 'dB'; readonly db: Db; readonly fromDb: Db | null }
    | { readonly unit: 'travel'; readonly travel: number };
  readonly plateaus: number;
};

/** Below this the level law goes straight in gain, and a distance in travel is no distance in dB. */
const FOOT = { travel: 0.05, db: -60 } as const;
const EXACT = 1e-9;

/** How closely a pass kept one of its lanes; `curve` is the layer's curve as the pass left it. */
export function closenessOf(lane: LaneReceipt, curve: Curve, law: Law): Closeness {
  const written = lane.spans.map((span) => curve.slice(...placesIn(curve, span)));
  return { within: withinOf(lane.maxDeviation, written, law), plateaus: plateausIn(written, lane.spans) };
}

function withinOf(deviation: number, written: readonly Curve[], law: Law): Closeness['within'] {
  if (deviation < EXACT) return { unit: 'exact' };
  if (law.kind === 'trim') return { unit: 'dB', db: 2 * TRIM_REACH_DB * deviation, fromDb: null };
  const values = written.flatMap(({ v }) => [...v]);
  if (law.kind !== 'level' || !values.length) return { unit: 'travel', travel: deviation };
  // The throw is the finest where it is lowest: there a distance in travel is the most in dB.
  const lowest = travelOf(law, least(values)) - deviation;
  const from = Math.max(FOOT.travel, lowest);
  const db = levelOfTravel(from + deviation) - levelOfTravel(from);
  return { unit: 'dB', db, fromDb: lowest < FOOT.travel ? FOOT.db : null };
}

/** Stretches of a span with one value, longer than a moving hand needs for its next. */
function plateausIn(written: readonly Curve[], spans: readonly Range[]): number {
  let count = 0;
  written.forEach(({ t, v, length }, k) => {
    const [from, to] = spans[k]!;
    for (let i = 0; i + 1 < length; i++) {
      const isInside = t[i]! >= from && t[i + 1]! <= to;
      const isNew = i === 0 || v[i - 1] !== v[i] || t[i - 1] === t[i];
      if (isInside && isNew && v[i + 1] === v[i] && t[i + 1]! - t[i]! > HAND.stillSec) count++;
    }
  });
  return count;
}

const least = (values: readonly number[]): number => values.reduce((low, v) => Math.min(low, v), Infinity);
