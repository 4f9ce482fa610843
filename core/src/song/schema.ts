import * as Type from '@sinclair/typebox';
import type { Static, TSchema, TUnsafe } from '@sinclair/typebox';
import type { EffectSettings } from '../effects/index.js';
import { SHAPES, WAVES, type Curve, type Point } from '../curve/index.js';
import type { MeterMark, TempoMark } from '../time/index.js';
import { PAN_LAWS, type Db, type Travel } from '../units/index.js';
import {
  AFTER_WRITES,
  CHANNEL_KINDS,
  CONTROL_KINDS,
  FADE_SHAPES,
  FOLD_TRIMS,
  GANG_PANS,
  MODES,
  RETURN_SOUNDS,
  type Channel,
  type Clip,
  type Gang,
  type GuardSet,
  type Insert,
  type Lane,
  type Note,
  type Section,
  type Send,
  type Settings,
  type Snapshot,
  type Sway,
} from './document.js';
import { MOST_SECONDS, key, maybe, on, oneOf, orNull, range, schemaOf, seconds, text } from './schemaParts.js';

const kinds = Type.Array(oneOf(CONTROL_KINDS));

/** What stands on a song's time line, by the list it belongs to. */
export const MARK_SCHEMAS = {
  sections: schemaOf<Section>()(Type.Object({ t: seconds, name: text })),
  notes: schemaOf<Note>()(Type.Object({ t: seconds, text, ...maybe({ channel: key }) })),
  tempo: schemaOf<TempoMark>()(Type.Object({ t: seconds, bpm: Type.Number({ minimum: 10, maximum: 999 }) })),
  meter: schemaOf<MeterMark>()(
    Type.Object({
      t: seconds,
      beats: Type.Integer({ minimum: 1, maximum: 64 }),
      unit: Type.Unsafe<number>({ enum: [1, 2, 4, 8, 16, 32] }),
    }),
  ),
};

const part = Type.Unsafe<readonly [number, number]>({
  type: 'array',
  items: { type: 'number', minimum: 0, maximum: 1 },
  minItems: 2,
  maxItems: 2,
});
const point = schemaOf<Point>()(
  Type.Object({
    t: seconds,
    v: Type.Number(),
    ...maybe({ shape: oneOf(SHAPES), bend: Type.Number({ minimum: -1, maximum: 1 }), part }),
  }),
);
/** Points as they come from outside: a list, in which one may leave out its shape. They are held as a curve. */
export const POINTS_SCHEMA = Type.Unsafe<Curve>(Type.Array(point));

const SETTINGS = {
  returnTime: Type.Number({ minimum: 0, maximum: 5 }),
  edgeTime: Type.Number({ minimum: 0, maximum: 2 }),
  thin: Type.Number({ minimum: 0, maximum: 0.1 }),
  writeScope: kinds,
  afterWrite: oneOf(AFTER_WRITES),
  foldTrim: oneOf(FOLD_TRIMS),
  panLaw: oneOf(PAN_LAWS),
  deskMode: oneOf([...MODES, null]),
  parked: on,
  punch: orNull(range),
  loop: orNull(range),
};
/** All settings of a song, said. */
export const WHOLE_SETTINGS_SCHEMA = schemaOf<Settings>()(Type.Object(SETTINGS));
/** Settings of which some are said. */
export const SOME_SETTINGS = maybe(SETTINGS);

const FILE = { file: Type.String({ minLength: 1, maxLength: 255 }) };
const CLIP = {
  t: seconds,
  offset: seconds,
  length: seconds,
  gain: Type.Unsafe<Db>({ type: 'number', minimum: -144, maximum: 48 }),
  fadeIn: seconds,
  fadeOut: seconds,
  fadeInShape: oneOf(FADE_SHAPES),
  fadeOutShape: oneOf(FADE_SHAPES),
};
/** A clip that says everything of itself. */
export const WHOLE_CLIP_SCHEMA = schemaOf<Clip>()(Type.Object({ ...CLIP, ...FILE }));

/** A send, of which a document need only say where it goes. */
export const SEND_SCHEMA = schemaOf<Send>()(
  Type.Object({ bus: key, ...maybe({ tap: oneOf(['pre', 'post'] as const), pan: oneOf(['follow', 'own'] as const) }) }),
);
/** An insert, of which a document need only say its slot and effect; its settings are the effect's. */
export const INSERT_SCHEMA = schemaOf<Insert>()(
  Type.Object({
    slot: Type.String({ minLength: 1, maxLength: 400, description: 'a–z, 0–9 and -, at most 24' }),
    effect: text,
    ...maybe({ settings: Type.Unsafe<EffectSettings>({ type: 'object' }) }),
  }),
);
const CHANNEL = maybe({
  name: text,
  family: text,
  mode: oneOf(MODES),
  trim: on,
  parked: on,
  safe: kinds,
  output: key,
  solo: on,
  clips: Type.Array(Type.Object({ ...FILE, ...maybe(CLIP) })),
  sends: Type.Array(SEND_SCHEMA),
  inserts: Type.Array(INSERT_SCHEMA),
  members: Type.Array(key),
  sound: oneOf([...RETURN_SOUNDS, null]),
});
/** A channel, of which a document need only say its key and kind. */
export const CHANNEL_SCHEMA = schemaOf<Channel>()(Type.Object({ key, kind: oneOf(CHANNEL_KINDS), ...CHANNEL }));
/** A VCA where nothing else is meant: of its kind nothing need be said. */
export const VCA_SCHEMA = Type.Object({ key, ...maybe({ kind: oneOf(['vca'] as const) }), ...CHANNEL });
/** A gang, of which a document need only say its key and channels. */
export const GANG_SCHEMA = schemaOf<Gang>()(
  Type.Object({ key, channels: Type.Array(key), ...maybe({ name: text, kinds, pan: oneOf(GANG_PANS), modes: on }) }),
);
const byId = <S extends TSchema>(of: S): TUnsafe<{ readonly [id: string]: Static<S> }> =>
  Type.Unsafe<{ readonly [id: string]: Static<S> }>({
    type: 'object',
    propertyNames: { maxLength: 400 },
    additionalProperties: of,
  });
/** A snapshot, of which a document need only say its key and values. */
export const SNAPSHOT_SCHEMA = schemaOf<Snapshot>()(
  Type.Object({
    key,
    values: byId(Type.Number()),
    ...maybe({ name: text, note: text, t: seconds, filter: orNull(byId(kinds)) }),
  }),
);
/** A set of guards, of which a document need only say its key. */
export const GUARD_SET_SCHEMA = schemaOf<GuardSet>()(
  Type.Object({
    key,
    ...maybe({
      name: text,
      scope: orNull(kinds),
      channels: byId(Type.Object({ safe: kinds, parked: on })),
      controls: byId(Type.Object({ safe: on, parked: on })),
    }),
  }),
);
/** A sway, of which a document need only say what is not as ever. */
export const SWAY_SCHEMA = schemaOf<Sway>()(
  Type.Object(
    maybe({
      wave: oneOf(WAVES),
      perBeat: Type.Number({ exclusiveMinimum: 0, maximum: 64 }),
      hz: Type.Number({ minimum: 0.01, maximum: 20 }),
      depth: Type.Unsafe<Travel>({ type: 'number', minimum: 0, maximum: 0.5 }),
      phase: Type.Number({ minimum: -1000, maximum: 1000 }),
      seed: Type.Integer({ minimum: 0 }),
      on,
    }),
  ),
);
/** A lane of which a document may leave out what is as ever. */
export const LANE_SCHEMA = schemaOf<Lane>()(
  Type.Object(
    maybe({
      rest: Type.Number(),
      points: POINTS_SCHEMA,
      trim: POINTS_SCHEMA,
      parked: on,
      safe: on,
      sway: SWAY_SCHEMA,
    }),
  ),
);

/** The published JSON Schema of the song document (rules, 9). Fields it does not name are allowed, and kept. */
export const SONG_SCHEMA = Type.Object(
  {
    format: Type.Literal('sure-hand-song'),
    version: Type.Integer({ minimum: 1, maximum: 1 }),
    length: Type.Number({ exclusiveMinimum: 0, maximum: MOST_SECONDS }),
    channels: Type.Array(CHANNEL_SCHEMA, { maxItems: 1000 }),
    ...maybe({
      name: text,
      sampleRate: Type.Integer({ minimum: 8000, maximum: 384000 }),
      tempo: Type.Array(MARK_SCHEMAS.tempo),
      meter: Type.Array(MARK_SCHEMAS.meter),
      sections: Type.Array(MARK_SCHEMAS.sections),
      settings: Type.Object(SOME_SETTINGS),
      gangs: Type.Array(GANG_SCHEMA),
      snapshots: Type.Array(SNAPSHOT_SCHEMA),
      guardSets: Type.Array(GUARD_SET_SCHEMA),
      notes: Type.Array(MARK_SCHEMAS.notes),
      lanes: Type.Unsafe<{ readonly [id: string]: Lane }>({ type: 'object', additionalProperties: LANE_SCHEMA }),
    }),
  },
  {
    $schema: 'http://json-schema.org/draft-07/schema#',
    $id: 'sure-hand-song-1',
    title: 'Sure Hand song document, version 1',
  },
);
