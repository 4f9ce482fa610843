import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import { vcaRing } from '../groups/index.js';
import {
  DEFAULT_SETTINGS,
  channelOf,
  controlsOf,
  feedRing,
  isInsertId,
  turnedOver,
  type Channel,
  type Clip,
  type ControlId,
  type Lane,
  type Song,
} from '../song/index.js';
import { SONG_SCHEMA } from '../song/schema.js';
import { laneWrong, pointsWithDefaults, rangesWrong, type SparsePoint } from '../edits/index.js';
import { isTooDeep } from './outside.js';

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

/** Reads a song document (rules, 9): checks it, fills in the defaults, keeps the fields it does not know. */
export function readSong(given: unknown): Read<Song> {
  const json = withSettingsTurnedOver(given);
  const version = (json as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > 1)
    return refuse(
      `This song document is of version ${version}; this program reads version 1. Open it with a newer one, or save it there as version 1.`,
    );
  const validate = validator();
  if (!validate(json)) return refuse(schemaSentence(validate.errors![0]!));
  if (isTooDeep(json)) return refuse('The song document is nested deeper than any song is.');
  const song = withDefaults(json as unknown as Sparse);
  const wrong = rangesWrong(song.settings) ?? channelsWrong(song) ?? lanesWrong(song);
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
    gangs: (json.gangs ?? []).map((gang) => ({ ...gang, name: gang.name ?? gang.key, kinds: gang.kinds ?? ['level'] })),
    notes: inOrder(json.notes ?? []),
  };
}

/** Marks by their times: their order in a document says nothing. */
const inOrder = <T extends { readonly t: number }>(marks: readonly T[]): readonly T[] =>
  marks.every((mark, i) => i === 0 || mark.t >= marks[i - 1]!.t) ? marks : [...marks].sort((a, b) => a.t - b.t);

function withDefaults(json: Sparse): Song {
  const song: Song = { ...frameWithDefaults(json), lanes: {} };
  const lanes = Object.entries(json.lanes ?? {}).map(([id, lane]) => {
    const rest = controlsOf(song).get(id)?.rest ?? 0;
    return [id, laneWithDefaults(lane, rest)] as const;
  });
  return { ...song, lanes: Object.fromEntries(lanes) };
}

function channelWithDefaults(channel: Partial<Channel>, length: number): Channel {
  return {
    ...channel,
    key: channel.key!,
    kind: channel.kind!,
    name: channel.name ?? channel.key!,
    family: channel.family ?? '',
    mode: channel.mode ?? 'read',
    trim: channel.trim ?? false,
    parked: channel.parked ?? false,
    safe: channel.safe ?? [],
    output: channel.output ?? 'main',
    solo: channel.solo ?? false,
    clips: (channel.clips ?? []).map((clip) => clipWithDefaults(clip, length)),
    sends: (channel.sends ?? []).map((send) => ({ ...send, tap: send.tap ?? 'post', pan: send.pan ?? 'follow' })),
    inserts: channel.inserts ?? [],
    members: channel.members ?? [],
    sound: channel.sound ?? null,
  };
}

function clipWithDefaults(clip: Partial<Clip>, songLength: number): Clip {
  const t = clip.t ?? 0;
  return {
    ...clip,
    t,
    file: clip.file!,
    offset: clip.offset ?? 0,
    length: clip.length ?? Math.max(0, songLength - t),
    gain: clip.gain ?? 0,
    fadeIn: clip.fadeIn ?? 0,
    fadeOut: clip.fadeOut ?? 0,
    fadeInShape: clip.fadeInShape ?? 'line',
    fadeOutShape: clip.fadeOutShape ?? 'line',
  };
}

function laneWithDefaults(lane: SparseLane, rest: number): Lane {
  return {
    ...lane,
    rest: lane.rest ?? rest,
    points: pointsWithDefaults(lane.points),
    trim: pointsWithDefaults(lane.trim),
    parked: lane.parked ?? false,
    safe: lane.safe ?? false,
  };
}

function channelsWrong(song: Song): string | null {
  const keys = new Set<string>();
  for (const { key } of song.channels) {
    if (keys.has(key)) return `Two channels have the key “${key}”; give one of them another.`;
    keys.add(key);
  }
  if (song.channels.filter((channel) => channel.kind === 'main').length > 1)
    return 'The song has more than one main channel; keep one.';
  for (const { name, kind, output, sends, members } of song.channels) {
    for (const named of [...members, ...sends.map((send) => send.bus)])
      if (!keys.has(named)) return `${name} names the channel “${named}”, which the song does not have.`;
    const bus = sends.find((send) => channelOf(song, send.bus)!.kind !== 'bus');
    if (bus) return `${name} sends to “${bus.bus}”, which is no bus.`;
    const twice = sends.find((send, i) => sends.findIndex((other) => other.bus === send.bus) < i);
    if (twice) return `${name} sends to “${twice.bus}” twice; keep one of the two.`;
    const out = channelOf(song, output);
    if ((kind === 'track' || kind === 'bus') && output !== 'main' && out?.kind !== 'bus' && out?.kind !== 'main')
      return `${name} goes out to “${output}”, which is neither a bus nor the main.`;
  }
  const held = vcaRing(song);
  if (held) return `The VCAs ${held.join(' → ')} hold each other in a ring; take one out of the other.`;
  const fed = feedRing(song);
  const names = fed?.map((key) => channelOf(song, key)!.name).join(' → ');
  return fed ? `Outputs and sends feed back in a loop: ${names}. Take one of them out.` : null;
}

function lanesWrong(song: Song): string | null {
  for (const [id, lane] of Object.entries(song.lanes)) {
    // Parameters of inserts are kept as they stand until there are inserts.
    if (isInsertId(id) && !controlsOf(song).has(id)) continue;
    const wrong = laneWrong(song, id, lane);
    if (wrong) return wrong;
  }
  return null;
}
