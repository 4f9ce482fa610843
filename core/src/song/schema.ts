import { SHAPES } from '../curve/index.js';
import { PAN_LAWS } from '../units/index.js';
import {
  AFTER_WRITES,
  CHANNEL_KINDS,
  CONTROL_KINDS,
  FADE_SHAPES,
  FOLD_TRIMS,
  MODES,
  RETURN_SOUNDS,
} from './document.js';

const seconds = { type: 'number', minimum: 0, maximum: 86400 } as const;
const key = { type: 'string', pattern: '^(?!__proto__$)[^/\\s]{1,64}$' } as const;
const text = { type: 'string', maxLength: 4000 } as const;
const kinds = { type: 'array', items: { enum: CONTROL_KINDS } } as const;
const range = {
  anyOf: [{ type: 'null' }, { type: 'array', items: seconds, minItems: 2, maxItems: 2 }],
} as const;
/** What stands on a song's time line, by the list it belongs to. */
export const MARK_SCHEMAS = {
  sections: { type: 'object', properties: { t: seconds, name: text }, required: ['t', 'name'] },
  notes: { type: 'object', properties: { t: seconds, text, channel: key }, required: ['t', 'text'] },
  tempo: {
    type: 'object',
    properties: { t: seconds, bpm: { type: 'number', minimum: 10, maximum: 999 } },
    required: ['t', 'bpm'],
  },
  meter: {
    type: 'object',
    properties: {
      t: seconds,
      beats: { type: 'integer', minimum: 1, maximum: 64 },
      unit: { enum: [1, 2, 4, 8, 16, 32] },
    },
    required: ['t', 'beats', 'unit'],
  },
} as const;
const marks = (items: object): object => ({ type: 'array', items });

const list = (properties: object, required: readonly string[]): object => ({
  type: 'array',
  items: { type: 'object', properties, required },
});

export const POINTS_SCHEMA = list(
  {
    t: seconds,
    v: { type: 'number' },
    shape: { enum: SHAPES },
    bend: { type: 'number', minimum: -1, maximum: 1 },
    part: {
      type: 'array',
      items: { type: 'number', minimum: 0, maximum: 1 },
      minItems: 2,
      maxItems: 2,
    },
  },
  ['t', 'v'],
);

export const SETTINGS_SCHEMA = {
  type: 'object',
  properties: {
    returnTime: { type: 'number', minimum: 0, maximum: 5 },
    edgeTime: { type: 'number', minimum: 0, maximum: 2 },
    thin: { type: 'number', minimum: 0, maximum: 0.1 },
    writeScope: kinds,
    afterWrite: { enum: AFTER_WRITES },
    foldTrim: { enum: FOLD_TRIMS },
    panLaw: { enum: PAN_LAWS },
    deskMode: { enum: [...MODES, null] },
    parked: { type: 'boolean' },
    punch: range,
    loop: range,
  },
};

export const CLIP_SCHEMA = {
  type: 'object',
  properties: {
    t: seconds,
    file: { type: 'string', minLength: 1, maxLength: 255 },
    offset: seconds,
    length: seconds,
    gain: { type: 'number', minimum: -144, maximum: 48 },
    fadeIn: seconds,
    fadeOut: seconds,
    fadeInShape: { enum: FADE_SHAPES },
    fadeOutShape: { enum: FADE_SHAPES },
  },
  required: ['file'],
} as const;

const channel = {
  type: 'object',
  properties: {
    key,
    kind: { enum: CHANNEL_KINDS },
    name: text,
    family: text,
    mode: { enum: MODES },
    trim: { type: 'boolean' },
    parked: { type: 'boolean' },
    safe: kinds,
    output: key,
    solo: { type: 'boolean' },
    clips: { type: 'array', items: CLIP_SCHEMA },
    sends: list({ bus: key, tap: { enum: ['pre', 'post'] }, pan: { enum: ['follow', 'own'] } }, ['bus']),
    inserts: { type: 'array' },
    members: { type: 'array', items: key },
    sound: { enum: [...RETURN_SOUNDS, null] },
  },
  required: ['key', 'kind'],
};

export const LANE_SCHEMA = {
  type: 'object',
  properties: {
    rest: { type: 'number' },
    points: POINTS_SCHEMA,
    trim: POINTS_SCHEMA,
    parked: { type: 'boolean' },
    safe: { type: 'boolean' },
  },
};

/** The published JSON Schema of the song document (rules, 9). Fields it does not name are allowed, and kept. */
export const SONG_SCHEMA = {
  $schema: 'http://json-schema.org/draft-07/schema#',
  $id: 'sure-hand-song-1',
  title: 'Sure Hand song document, version 1',
  type: 'object',
  required: ['format', 'version', 'length', 'channels'],
  properties: {
    format: { const: 'sure-hand-song' },
    version: { type: 'integer', minimum: 1, maximum: 1 },
    name: text,
    sampleRate: { type: 'integer', minimum: 8000, maximum: 384000 },
    length: { type: 'number', exclusiveMinimum: 0, maximum: 86400 },
    tempo: marks(MARK_SCHEMAS.tempo),
    meter: marks(MARK_SCHEMAS.meter),
    sections: marks(MARK_SCHEMAS.sections),
    settings: SETTINGS_SCHEMA,
    channels: { type: 'array', items: channel, maxItems: 1000 },
    gangs: list({ key, name: text, channels: { type: 'array', items: key }, kinds }, ['key', 'channels']),
    notes: marks(MARK_SCHEMAS.notes),
    lanes: { type: 'object', additionalProperties: LANE_SCHEMA },
  },
} as const;
