import { Ajv, type ValidateFunction } from 'ajv';
import { EDIT_KINDS, editKind, type Edit } from '../edits/index.js';
import type { Song } from '../song/index.js';
import { called, isTooDeep } from './outside.js';
import type { Read } from './songDocument.js';

let compiled: ReadonlyMap<string, ValidateFunction> | null = null;

/** Compiled when the first one is read. */
function checks(): ReadonlyMap<string, ValidateFunction> {
  const ajv = new Ajv({ strict: false, strictNumbers: true, discriminator: true });
  compiled ??= new Map(EDIT_KINDS.map(({ kind, schema }) => [kind, ajv.compile(schema)]));
  return compiled;
}

const refuse = (sentence: string): Read<Edit> => ({ ok: false, sentence });

/** Checks an edit that came from outside against a song: its shape, that what it names is there, and every value and time. */
export function readEdit(song: Song, json: unknown): Read<Edit> {
  const named = (json as { kind?: unknown } | null)?.kind;
  const kind = typeof named === 'string' ? editKind(named) : undefined;
  if (!kind) {
    const known = EDIT_KINDS.map((one) => one.kind).join(', ');
    return refuse(`There is no edit of kind ${called(named)}; there are ${known}.`);
  }
  const check = checks().get(kind.kind)!;
  if (!check(json)) {
    const error = check.errors![0]!;
    return refuse(
      `The ${kind.kind} edit is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    );
  }
  // A pass is large, and no field of it is open to anything deep.
  if (kind.kind !== 'pass' && isTooDeep(json))
    return refuse(`The ${kind.kind} edit is nested deeper than any edit is.`);
  const edit = kind.complete?.(song, json as Edit) ?? (json as Edit);
  const sentence = kind.wrong(song, edit);
  return sentence ? refuse(sentence) : { ok: true, value: edit };
}
