import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv';
import { EDIT_KINDS, completedEdit, editKind, type Edit } from '../edits/index.js';
import type { Song } from '../song/index.js';
import { called, isTooDeep } from './outside.js';
import { apart } from './packed.js';
import type { Read } from './songDocument.js';

/** Made when the first edit is read, not when this file is loaded: pages never read one. */
let ajv: Ajv | null = null;
const compiled = new Map<string, ValidateFunction>();

/** The check of a kind's shape, compiled when the first edit of that kind is read: all of them take a quarter of a second. */
function checkOf({ kind, schema }: { readonly kind: string; readonly schema: object }): ValidateFunction {
  ajv ??= new Ajv({ verbose: true, strict: false, strictNumbers: true, discriminator: true });
  const check = compiled.get(kind) ?? ajv.compile(schema);
  compiled.set(kind, check);
  return check;
}

/** Makes ready for edits of a kind: the first of them then takes no longer than any other. */
export const readyToRead = (kind: Edit['kind']): void => void checkOf(editKind(kind)!);

/** Of what is wrong with something that may also be null, what is wrong with it as it is: the furthest in. */
function tellingError(errors: readonly ErrorObject[]): ErrorObject {
  const telling = errors.filter(({ keyword, schema }) => keyword !== 'anyOf' && schema !== 'null');
  const depth = ({ instancePath }: ErrorObject): number => instancePath.split('/').length;
  return telling.reduce((most, one) => (depth(one) > depth(most) ? one : most), telling[0] ?? errors[0]!);
}

const refuse = (sentence: string): Read<Edit> => ({ ok: false, sentence });

/**
 * Checks an edit that came from outside against a song: its shape, that what it names is there, and every value and time.
 * Its points may be lists, as JSON has them, or curves.
 */
export function readEdit(song: Song, json: unknown): Read<Edit> {
  const named = (json as { kind?: unknown } | null)?.kind;
  const kind = typeof named === 'string' ? editKind(named) : undefined;
  if (!kind) {
    const known = EDIT_KINDS.map((one) => one.kind).join(', ');
    return refuse(`There is no edit of kind ${called(named)}; there are ${known}.`);
  }
  const check = checkOf(kind);
  if (!check(apart(json).bare)) {
    const error = tellingError(check.errors!);
    return refuse(
      `The ${kind.kind} edit is wrong at ${error.instancePath || 'its top'}: it ${error.message ?? 'is not valid'}.`,
    );
  }
  // A pass is large, and no field of it is open to anything deep.
  if (kind.kind !== 'pass' && isTooDeep(json))
    return refuse(`The ${kind.kind} edit is nested deeper than any edit is.`);
  const edit = completedEdit(song, json as Edit);
  const sentence = kind.wrong(song, edit);
  return sentence ? refuse(sentence) : { ok: true, value: edit };
}
