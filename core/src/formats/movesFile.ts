import { Ajv, type ValidateFunction } from 'ajv';
import type { HandEvent } from '../pass/index.js';
import { CONTROL_KINDS, MODES } from '../song/index.js';
import type { Read } from './songDocument.js';

const time = { type: 'number', minimum: 0 } as const;
const id = { type: 'string' } as const;
const on = { type: 'boolean' } as const;
const kinds = { type: 'array', items: { enum: CONTROL_KINDS } } as const;
const event = (what: string, properties: object, required: readonly string[]): object => ({
  type: 'object',
  properties: { do: { const: what }, t: time, lap: { type: 'integer', minimum: 0 }, ...properties },
  required: ['do', ...required],
});

/** What each event of a moves list needs (rules, 9). */
const EVENTS: { readonly [what in HandEvent['do']]: object } = {
  play: event('play', { from: time }, ['from']),
  stop: event('stop', {}, []),
  touch: event('touch', { control: id }, ['control']),
  move: event('move', { control: id, value: { type: 'number' } }, ['control', 'value']),
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
};
let compiled: { readonly [kind: string]: ValidateFunction } | null = null;

/** Compiled when the first one is read. */
function checks(): { readonly [kind: string]: ValidateFunction } {
  const ajv = new Ajv({ strict: false });
  compiled ??= Object.fromEntries(Object.entries(EVENTS).map(([kind, schema]) => [kind, ajv.compile(schema)]));
  return compiled;
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
    const what = (one as { do?: unknown } | null)?.do;
    const check = typeof what === 'string' ? checks()[what] : undefined;
    if (!check) {
      const known = Object.keys(EVENTS).join(', ');
      return { ok: false, sentence: `Event ${i + 1} says do: ${JSON.stringify(what)}; it can be ${known}.` };
    }
    if (!check(one)) {
      const error = check.errors![0]!;
      const where = `Event ${i + 1} (${String(what)})${error.instancePath}`;
      return { ok: false, sentence: `${where} ${error.message ?? 'is not valid'}.` };
    }
  }
  return { ok: true, value: events as HandEvent[] };
}
