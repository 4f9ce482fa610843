import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import {
  DEFAULT_SETTINGS,
  channelWithDefaults,
  controlsOf,
  gangWithDefaults,
  guardSetWithDefaults,
  hostNamed,
  snapshotWithDefaults,
  swayWithDefaults,
  turnedOver,
  type Channel,
  type ControlId,
  type Lane,
  type Song,
} from '../song/index.js';
import { SONG_SCHEMA } from '../song/schema.js';
import {
  channelsWrong,
  gangsWrong,
  keptWrong,
  laneWrong,
  curveWithDefaults,
  rangesWrong,
  type SparsePoint,
} from '../edits/index.js';
import { isTooDeep } from './outside.js';
import { apart } from './packed.js';

/** Something read from outside, or the sentence that says what is wrong with it, where, and what to do. */
export type Read<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly sentence: string };

const refuse = (sentence: string): { readonly ok: false; readonly sentence: string } => ({ ok: false, sentence });

/** Compiled when the first document is read, not when this file is loaded: pages that only decode audio never need it. */
let compiled: ValidateFunction | null = null;
const validator = (): ValidateFunction =>
  (compiled ??= new Ajv({ allErrors: false, strict: false, strictNumbers: true }).compile(SONG_SCHEMA));

function schemaSentence(error: ErrorObject): string {
  const where = error.instancePath || 'the document';
  const allowed = 'allowedValues' in error.params ? ` (${(error.params.allowedValues as unknown[]).join(', ')})` : '';
  return `The song document is wrong at ${where}: it ${error.message ?? 'is not valid'}${allowed}.`;
}

/** Reads a song document from its JSON text. */
export function parseSong(text: string): Read<Song> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    return refuse(`The song document is no JSON: ${(error as Error).message}.`);
  }
  return readSong(json);
}

/**
 * Reads a song document (rules, 9): checks it, fills in the defaults, keeps the fields it does not know. Its points may be
 * lists, as JSON has them, or curves.
 */
export function readSong(given: unknown): Read<Song> {
  const json = withSettingsTurnedOver(given);
  const version = (json as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > 1)
    return refuse(
      `This song document is of version ${version}; this program reads version 1. Open it with a newer one, or save it there as version 1.`,
    );
  const validate = validator();
  if (!validate(apart(json).bare)) return refuse(schemaSentence(validate.errors![0]!));
  if (isTooDeep(json)) return refuse('The song document is nested deeper than any song is.');
  const song = withDefaults(json as unknown as Sparse);
  const wrong =
    rangesWrong(song.settings) ?? channelsWrong(song) ?? gangsWrong(song) ?? keptWrong(song) ?? lanesWrong(song);
  return wrong ? refuse(wrong) : { ok: true, value: song };
}

/** A document of an earlier version of this program, its settings as they are called now. */
function withSettingsTurnedOver(json: unknown): unknown {
  const settings = (json as { settings?: unknown } | null)?.settings;
  return settings && typeof settings === 'object' && !Array.isArray(settings)
    ? { ...(json as object), settings: turnedOver(settings) }
    : json;
}

type SparseLane = Partial<Omit<Lane, 'points' | 'trim'>> & { points?: SparsePoint[]; trim?: SparsePoint[] };
type Sparse = Partial<Omit<Song, 'channels' | 'lanes'>> & {
  length: number;
  channels: readonly Partial<Channel>[];
  lanes?: Record<ControlId, SparseLane>;
};

/**
 * Everything of a song but its lanes, with the defaults of what it does not say: also for songs kept by an earlier
 * version of this program, which may lack a field that has come since.
 */
export function frameWithDefaults(json: Omit<Sparse, 'lanes'>): Omit<Song, 'lanes'> {
  const channels = json.channels.map((channel) => channelWithDefaults(channel, json.length));
  if (!channels.some((channel) => channel.kind === 'main'))
    channels.push(channelWithDefaults({ key: 'main', kind: 'main', name: 'Main' }, json.length));
  return {
    ...json,
    format: 'sure-hand-song',
    version: 1,
    name: json.name ?? 'Untitled song',
    sampleRate: json.sampleRate ?? 48000,
    tempo: json.tempo?.length ? inOrder(json.tempo) : [{ t: 0, bpm: 120 }],
    meter: json.meter?.length ? inOrder(json.meter) : [{ t: 0, beats: 4, unit: 4 }],
    sections: inOrder(json.sections ?? []),
    settings: { ...DEFAULT_SETTINGS, ...turnedOver(json.settings ?? {}) },
    channels,
    gangs: (json.gangs ?? []).map(gangWithDefaults),
    snapshots: (json.snapshots ?? []).map(snapshotWithDefaults),
    guardSets: (json.guardSets ?? []).map(guardSetWithDefaults),
    notes: inOrder(json.notes ?? []),
  };
}

/** Marks by their times: their order in a document says nothing. */
const inOrder = <T extends { readonly t: number }>(marks: readonly T[]): readonly T[] =>
  marks.every((mark, i) => i === 0 || mark.t >= marks[i - 1]!.t) ? marks : [...marks].sort((a, b) => a.t - b.t);

function withDefaults(json: Sparse): Song {
  const song: Song = { ...frameWithDefaults(json), lanes: {} };
  const given = json.lanes ?? {};
  const lanes = Object.entries(given).map(([id, lane]) => {
    const rest = controlsOf(song).get(id)?.rest ?? 0;
    // What a sway says of its depth is what that rests at, whatever its lane says.
    const sway = given[hostNamed(id) ?? '']?.sway;
    return [id, laneWithDefaults(sway ? { ...lane, rest: swayWithDefaults(sway).depth } : lane, rest)] as const;
  });
  return { ...song, lanes: Object.fromEntries(lanes) };
}

function laneWithDefaults(lane: SparseLane, rest: number): Lane {
  return {
    ...lane,
    rest: lane.rest ?? rest,
    points: curveWithDefaults(lane.points),
    trim: curveWithDefaults(lane.trim),
    parked: lane.parked ?? false,
    safe: lane.safe ?? false,
    ...(lane.sway ? { sway: swayWithDefaults(lane.sway) } : {}),
  };
}

function lanesWrong(song: Song): string | null {
  for (const [id, lane] of Object.entries(song.lanes)) {
    const wrong = laneWrong(song, id, lane);
    if (wrong) return wrong;
  }
  return null;
}
