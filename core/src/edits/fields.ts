import * as Type from '@sinclair/typebox';
import type { Static, TSchema, TUnsafe } from '@sinclair/typebox';
import type { ControlId, Lane, Layer } from '../song/index.js';
import type { Seconds } from '../units/index.js';
import { EDIT_REASONS } from '../song/index.js';
import { LANE_SCHEMA, POINTS_SCHEMA } from '../song/schema.js';
import { maybe, oneOf, orNull, range, seconds } from '../song/schemaParts.js';

/** A control's id. */
export const control = Type.Unsafe<ControlId>({ type: 'string', maxLength: 400 });
export const controls = Type.Array(control);
export const channel = Type.String({ maxLength: 400 });
export const layer = oneOf<Layer>(['base', 'trim']);
/** Whole lanes by control; null is one that was never touched. */
export const lanes = Type.Unsafe<{ readonly [id: ControlId]: Lane | null }>({
  type: 'object',
  additionalProperties: { anyOf: [{ type: 'null' }, LANE_SCHEMA] },
});
/** What people call something: it has to be called something. */
export const words = Type.String({ minLength: 1, maxLength: 200 });
export const count = Type.Integer({ minimum: 0 });
/** A refusal, as passes and receipts name them. */
export const refusal = Type.Object({ control, reason: oneOf(EDIT_REASONS) });
/** Values by control, each in its unit. */
export const values = Type.Unsafe<{ readonly [id: ControlId]: number }>({
  type: 'object',
  additionalProperties: { type: 'number' },
});
/** Times of points that an act is about, by control. */
const pointTimes = Type.Unsafe<{ readonly [id: ControlId]: readonly Seconds[] }>({
  type: 'object',
  additionalProperties: { type: 'array', items: seconds },
});
/** Which points of some lanes an act is about: those of a range, or those at some times; all where neither is said. */
export const picking = { controls, ...maybe({ range, points: pointTimes, layer }) };
/** Points that something brings to a layer of a lane, values in the layer's unit. */
export const brought = { control, layer, points: POINTS_SCHEMA };
export { range };
/** One thing taken out, another put in; either may be null. */
export const exchange = <S extends TSchema>(
  thing: S,
): { remove: TUnsafe<Static<S> | null>; add: TUnsafe<Static<S> | null> } => ({
  remove: orNull(thing),
  add: orNull(thing),
});
