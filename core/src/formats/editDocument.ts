import { Ajv, type ValidateFunction } from 'ajv';
import { channelOf, unknownControl, controlOf, type Edit, type Song } from '../song/index.js';
import { LANE_SCHEMA, POINTS_SCHEMA, SETTINGS_SCHEMA } from '../song/schema.js';
import { CONTROL_KINDS, MODES } from '../song/document.js';
import { rangeOf } from '../units/index.js';
import type { Read } from './songDocument.js';

const on = { type: 'boolean' } as const;
const closed = (properties: object, required: readonly string[] = []): object => ({
  type: 'object',
  properties,
  required,
  additionalProperties: false,
});
const piece = {
  type: 'object',
  required: ['control', 'layer', 'span', 'points'],
  properties: {
    control: { type: 'string' },
    layer: { enum: ['base', 'trim'] },
    span: { type: 'array', items: { type: 'number', minimum: 0 }, minItems: 2, maxItems: 2 },
    points: POINTS_SCHEMA,
  },
};

/** What each kind of edit needs. */
const KINDS: { readonly [kind in Edit['kind']]: object } = {
  pass: closed(
    {
      kind: {},
      pieces: { type: 'array', items: piece, minItems: 1 },
      receipt: { type: 'object', required: ['from', 'to', 'lanes'] },
    },
    ['pieces', 'receipt'],
  ),
  rest: closed({ kind: {}, values: { type: 'object', additionalProperties: { type: 'number' } } }, ['values']),
  lanes: closed(
    { kind: {}, lanes: { type: 'object', additionalProperties: { anyOf: [{ type: 'null' }, LANE_SCHEMA] } } },
    ['lanes'],
  ),
  channel: closed(
    {
      kind: {},
      channel: { type: 'string' },
      changes: closed({
        mode: { enum: MODES },
        trim: on,
        parked: on,
        solo: on,
        safe: { type: 'array', items: { enum: CONTROL_KINDS } },
      }),
    },
    ['channel', 'changes'],
  ),
  guard: closed({ kind: {}, control: { type: 'string' }, changes: closed({ parked: on, safe: on }) }, [
    'control',
    'changes',
  ]),
  settings: closed({ kind: {}, changes: { ...SETTINGS_SCHEMA, additionalProperties: false } }, ['changes']),
};
let compiled: { readonly [kind: string]: ValidateFunction } | null = null;

/** Compiled when the first one is read. */
function checks(): { readonly [kind: string]: ValidateFunction } {
  const ajv = new Ajv({ strict: false });
  compiled ??= Object.fromEntries(Object.entries(KINDS).map(([kind, schema]) => [kind, ajv.compile(schema)]));
  return compiled;
}

/** Checks an edit that came from outside against a song: its shape, and that what it names is there. */
export function readEdit(song: Song, json: unknown): Read<Edit> {
  const kind = (json as { kind?: unknown } | null)?.kind;
  const check = typeof kind === 'string' ? checks()[kind] : undefined;
  if (!check)
    return {
      ok: false,
      sentence: `There is no edit of kind ${JSON.stringify(kind)}; there are ${Object.keys(KINDS).join(', ')}.`,
    };
  if (!check(json)) {
    const error = check.errors![0]!;
    return {
      ok: false,
      sentence: `The ${String(kind)} edit is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    };
  }
  const edit = json as Edit;
  const sentence = whatItNamesIsWrong(song, edit);
  return sentence ? { ok: false, sentence } : { ok: true, value: edit };
}

function whatItNamesIsWrong(song: Song, edit: Edit): string | null {
  switch (edit.kind) {
    case 'channel':
      return channelOf(song, edit.channel) ? null : `The song has no channel “${edit.channel}”.`;
    case 'guard':
      return unknownControl(song, edit.control);
    case 'pass':
      return firstWrong(edit.pieces.map((p) => unknownControl(song, p.control) ?? spanWrong(p.control, p.span)));
    case 'lanes':
      return firstWrong(Object.keys(edit.lanes).map((id) => unknownControl(song, id)));
    case 'rest':
      return firstWrong(
        Object.entries(edit.values).map(([id, v]) => unknownControl(song, id) ?? restWrong(song, id, v)),
      );
    case 'settings':
      return null;
  }
}

const firstWrong = (sentences: readonly (string | null)[]): string | null => sentences.find((s) => s !== null) ?? null;
const spanWrong = (id: string, [from, to]: readonly [number, number]): string | null =>
  from < to ? null : `The span of ${id} ends at ${to} s, not after its beginning at ${from} s.`;

function restWrong(song: Song, id: string, v: number): string | null {
  const { law } = controlOf(song, id);
  const { min, max } = rangeOf(law);
  return v > max || (v < min && law.kind !== 'level') ? `${id} takes ${min} to ${max}, not ${v}.` : null;
}
