import { Ajv, type ValidateFunction } from 'ajv';
import type { HandEvent } from '../pass/index.js';
import { CONTROL_KINDS, MODES } from '../song/index.js';
import { MOST_SECONDS } from '../song/schemaParts.js';
import { called } from './outside.js';
import type { Read } from './songDocument.js';

/** A loop goes round so often at most: each lap is a pass of its own. */
const MOST_LAPS = 1000;

const time = { type: 'number', minimum: 0, maximum: MOST_SECONDS } as const;
const id = { type: 'string', maxLength: 400 } as const;
const on = { type: 'boolean' } as const;
const led = { type: 'object', additionalProperties: { type: 'number', minimum: -2, maximum: 2 } } as const;
const kinds = { type: 'array', items: { enum: CONTROL_KINDS } } as const;
const by = (what: object): object => ({ type: 'object', additionalProperties: what });
const closed = (properties: object): object => ({ type: 'object', properties, additionalProperties: false });
const guards = closed({ safe: on, parked: on });
const channelStates = closed({ mode: { enum: MODES }, trim: on, parked: on, safe: kinds });
const event = (what: string, properties: object, required: readonly string[]): object => ({
  type: 'object',
  properties: { do: { const: what }, t: time, lap: { type: 'integer', minimum: 0, maximum: MOST_LAPS }, ...properties },
  required: ['do', ...required],
});

/** What each event of a moves list needs (rules, 9). */
const EVENTS: { readonly [what in HandEvent['do']]: object } = {
  play: event('play', { from: time }, ['from']),
  stop: event('stop', {}, []),
  touch: event('touch', { control: id, alone: on, led }, ['control']),
  move: event('move', { control: id, value: { type: 'number' }, alone: on }, ['control', 'value']),
  release: event('release', { control: id }, ['control']),
  letgo: event('letgo', {}, []),
  mode: event('mode', { channel: id, mode: { enum: MODES } }, ['channel', 'mode']),
  desk: event('desk', { mode: { enum: [...MODES, null] } }, ['mode']),
  trim: event('trim', { channel: id, on }, ['channel', 'on']),
  safe: {
    ...event('safe', { channel: id, control: id, kinds, on }, []),
    anyOf: [{ required: ['channel', 'kinds'] }, { required: ['control', 'on'] }],
  },
  park: event('park', { channel: id, control: id, on }, ['on']),
  scope: event('scope', { kinds }, ['kinds']),
  states: event('states', { scope: kinds, channels: by(channelStates), controls: by(guards) }, []),
  snapshot: event('snapshot', { key: id, values: by({ type: 'number' }) }, ['key']),
  tryout: event('tryout', { on }, ['on']),
  aside: event('aside', { values: by({ type: 'number' }) }, ['values']),
  drop: event('drop', { controls: { type: 'array', items: id } }, []),
  before: event('before', { on }, ['on']),
};
let compiled: ReadonlyMap<string, ValidateFunction> | null = null;

/** Compiled when the first one is read. */
function checks(): ReadonlyMap<string, ValidateFunction> {
  const ajv = new Ajv({ strict: false, strictNumbers: true });
  compiled ??= new Map(Object.entries(EVENTS).map(([kind, schema]) => [kind, ajv.compile(schema)]));
  return compiled;
}

/** What is wrong with one event from outside; null where it is one. */
export function eventWrong(one: unknown): string | null {
  const what = (one as { do?: unknown } | null)?.do;
  const check = typeof what === 'string' ? checks().get(what) : undefined;
  if (!check) return `says do: ${called(what)}; it can be ${Object.keys(EVENTS).join(', ')}.`;
  if (check(one)) return null;
  const error = check.errors![0]!;
  return `(${String(what)})${error.instancePath} ${error.message ?? 'is not valid'}.`;
}

/** Reads a moves list from its JSON text. */
export function parseMoves(text: string): Read<HandEvent[]> {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch (error) {
    return { ok: false, sentence: `The moves are no JSON: ${(error as Error).message}.` };
  }
  const events = (json as { events?: unknown } | null)?.events;
  if (!Array.isArray(events)) return { ok: false, sentence: 'The moves need a list “events”.' };
  for (const [i, one] of events.entries()) {
    const wrong = eventWrong(one);
    if (wrong) return { ok: false, sentence: `Event ${i + 1} ${wrong}` };
  }
  return { ok: true, value: events as HandEvent[] };
}
