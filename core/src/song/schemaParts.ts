import * as Type from '@sinclair/typebox';
import type { Static, TObject, TOptional, TProperties, TSchema, TUnsafe } from '@sinclair/typebox';
import type { Curve, Range } from '../curve/index.js';
import type { Seconds } from '../units/index.js';

/** Times that a song can have, in seconds: a day is the most. */
export const MOST_SECONDS: Seconds = 86400;

/** What is held as it is, whatever its fields are. */
type Plain = Curve | string | number | boolean | null | undefined;
/** What a schema lets through, as this program holds it: nothing of it is ever changed in place. */
export type Checked<S extends TSchema> = Frozen<Static<S>>;
type Frozen<T> = unknown extends T ? T : T extends Plain ? T : { readonly [field in keyof T]: Frozen<T[field]> };

/** A type with every field said, all the way down: a document may leave out what has a default, a song does not. */
type Whole<T> = T extends Plain ? T : { readonly [field in keyof T]-?: Whole<Exclude<T[field], undefined>> };
type Same<A, B> = [A] extends [B] ? ([B] extends [A] ? true : false) : false;

/** Holds a schema to a type of the document: where one of them knows a field that the other does not, it does not compile. */
export const schemaOf =
  <T>() =>
  <S extends TSchema>(schema: Same<Whole<Static<S>>, Whole<T>> extends true ? S : never): S =>
    schema;

/** One of some words, or numbers. */
export const oneOf = <const T>(values: readonly T[]): TUnsafe<T> => Type.Unsafe<T>({ enum: [...values] });
/** Something, or null. */
export const orNull = <S extends TSchema>(schema: S): TUnsafe<Static<S> | null> =>
  Type.Unsafe<Static<S> | null>({ anyOf: [{ type: 'null' }, schema] });
/** Fields that may each be left out. */
export const maybe = <P extends TProperties>(fields: P): { [field in keyof P]: TOptional<P[field]> } =>
  Object.fromEntries(Object.entries(fields).map(([name, schema]) => [name, Type.Optional(schema)])) as {
    [field in keyof P]: TOptional<P[field]>;
  };
/** Fields, and no others. */
export const closed = <P extends TProperties>(fields: P): TObject<P> =>
  Type.Object(fields, { additionalProperties: false });

export const seconds = Type.Unsafe<Seconds>({ type: 'number', minimum: 0, maximum: MOST_SECONDS });
export const range = Type.Unsafe<Range>({ type: 'array', items: seconds, minItems: 2, maxItems: 2 });
/** A key that a document gives to a channel and such: no blanks, no strokes. */
export const key = Type.Unsafe<string>({ type: 'string', pattern: '^(?!__proto__$)[^/\\s]{1,64}$' });
export const text = Type.Unsafe<string>({ type: 'string', maxLength: 4000 });
export const on = Type.Boolean();
