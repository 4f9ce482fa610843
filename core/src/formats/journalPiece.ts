import { Ajv, type ValidateFunction } from 'ajv';
import type { HandEvent, PassState } from '../pass/index.js';
import { CONTROL_KINDS, MODES } from '../song/index.js';
import { firstWrong, rangesWrong } from '../edits/index.js';
import { WHOLE_SETTINGS_SCHEMA } from '../song/schema.js';
import { turnedOver } from '../song/index.js';
import { isTooDeep } from './outside.js';
import { eventWrong } from './movesFile.js';
import { type Read } from './songDocument.js';

/** What of an open pass is written down at a time: how the song stood as it began, and what hands did since. */
export type PieceOfPass = { readonly began?: PassState; readonly events: readonly HandEvent[] };

const on = { type: 'boolean' } as const;
const closed = (properties: object): object => ({
  type: 'object',
  properties,
  required: Object.keys(properties),
});
const BEGAN = closed({
  channels: {
    type: 'object',
    additionalProperties: closed({
      mode: { enum: MODES },
      trim: on,
      parked: on,
      safe: { type: 'array', items: { enum: CONTROL_KINDS } },
      solo: on,
    }),
  },
  settings: WHOLE_SETTINGS_SCHEMA,
  guards: { type: 'object', additionalProperties: closed({ safe: on, parked: on }) },
});
let compiled: ValidateFunction | null = null;

/** Checks a piece of a journal from outside: whatever is kept of a pass can be made one again. */
export function readPieceOfPass({
  began,
  events,
}: {
  readonly began?: unknown;
  readonly events: readonly unknown[];
}): Read<PieceOfPass> {
  const wrong = firstWrong(events.map(eventWrong));
  if (wrong) return { ok: false, sentence: `An event of the journal ${wrong}` };
  if (began === undefined) return { ok: true, value: { events: events as readonly HandEvent[] } };
  const state = began && typeof began === 'object' ? withSettings(began as PassState) : began;
  compiled ??= new Ajv({ strict: false, strictNumbers: true }).compile(BEGAN);
  if (!compiled(state)) {
    const error = compiled.errors![0]!;
    return {
      ok: false,
      sentence: `The journal’s beginning is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    };
  }
  if (isTooDeep(state)) return { ok: false, sentence: 'The journal’s beginning is nested deeper than any is.' };
  const ranges = rangesWrong((state as PassState).settings);
  if (ranges) return { ok: false, sentence: ranges };
  return { ok: true, value: { began: state as PassState, events: events as readonly HandEvent[] } };
}

const withSettings = (began: PassState): PassState =>
  began.settings && typeof began.settings === 'object' ? { ...began, settings: turnedOver(began.settings) } : began;
