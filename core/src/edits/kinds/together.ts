import * as Type from '@sinclair/typebox';
import type { ControlId, Refusal, Song } from '../../song/index.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { namesOf, withLanes } from '../applied.js';
import { fieldsOf, type Applied, type EditKind } from '../editKind.js';
import { pick } from '../examples.js';
import { words } from '../fields.js';
import { valuesPlaced } from '../placing.js';
import { carry, type CarryEdit } from './carry.js';
import { clear, type ClearEdit } from './clear.js';
import { copy, type CopyEdit } from './copy.js';
import { draw, type DrawEdit } from './draw.js';
import { lift, type LiftEdit } from './lift.js';
import { move, type MoveEdit } from './move.js';
import { place, type PlaceEdit } from './place.js';
import { points, type PointsEdit } from './points.js';
import { ramp, type RampEdit } from './ramp.js';
import { scale, type ScaleEdit } from './scale.js';
import { shape, type ShapeEdit } from './shape.js';
import { thin, type ThinEdit } from './thin.js';

/** An edit of curves, which can be made together with others. */
export type CurveEdit =
  | CarryEdit
  | ClearEdit
  | CopyEdit
  | DrawEdit
  | LiftEdit
  | MoveEdit
  | PlaceEdit
  | PointsEdit
  | RampEdit
  | ScaleEdit
  | ShapeEdit
  | ThinEdit;

const KINDS = [place, ramp, lift, move, scale, clear, copy, thin, shape, points, draw, carry] as const;
const BY_NAME = new Map(KINDS.map((one) => [one.kind, one as unknown as EditKind<CurveEdit>]));
const kindOf = (edit: CurveEdit): EditKind<CurveEdit> => BY_NAME.get(edit.kind)!;

const one = Type.Unsafe<CurveEdit>({
  type: 'object',
  required: ['kind'],
  discriminator: { propertyName: 'kind' },
  oneOf: KINDS.map(({ schema }) => schema),
});
/** Edits of curves, one after the other, as one step: what the last pass wrote is lifted, each of its stretches by itself. */
const schema = fieldsOf('together', {
  edits: Type.Array(one, { minItems: 1, maxItems: 10_000 }),
  ...maybe({ as: words }),
});
export type TogetherEdit = Checked<typeof schema>;

/** Makes the edits one after the other; what one of them finds is what those before it left. */
function madeInTurn(
  song: Song,
  edits: readonly CurveEdit[],
): { readonly song: Song; readonly made: readonly Applied[] } {
  const made: Applied[] = [];
  let now = song;
  for (const edit of edits) {
    const applied = kindOf(edit).apply(now, edit);
    made.push(applied);
    now = applied.song;
  }
  return { song: now, made };
}

/** The controls that an edit is about. */
function controlsOfEdit(song: Song, edit: CurveEdit): readonly ControlId[] {
  if ('controls' in edit) return edit.controls;
  if (edit.kind === 'place' || edit.kind === 'ramp') return Object.keys(valuesPlaced(song, edit).values);
  if ('pieces' in edit) return edit.pieces.map(({ control }) => control);
  return ['to' in edit && edit.kind === 'copy' ? edit.to : (edit as { control: ControlId }).control];
}

/** Each control that is left alone, once. */
const refusedOf = (made: readonly Applied[]): Refusal[] => [
  ...new Map(made.flatMap(({ refused }) => refused.map((one) => [one.control, one] as const))).values(),
];

export const together: EditKind<TogetherEdit> = {
  kind: 'together',
  does: 'edits of curves made one after the other, as one step; `as` is what undo calls it',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  complete: (song, edit) => ({
    ...edit,
    edits: edit.edits.map((inner) => kindOf(inner).complete?.(song, inner) ?? inner),
  }),
  wrong(song, { edits }) {
    let now = song;
    for (const [i, edit] of edits.entries()) {
      const sentence = kindOf(edit).wrong(now, edit);
      if (sentence) return edits.length > 1 ? `Edit ${i + 1}: ${sentence}` : sentence;
      now = kindOf(edit).apply(now, edit).song;
    }
    return null;
  },
  apply(song, { edits }) {
    const { song: after, made } = madeInTurn(song, edits);
    const changed = [...new Set(made.flatMap((one) => one.changed))];
    const lanes = Object.fromEntries(changed.map((id: ControlId) => [id, after.lanes[id] ?? null]));
    const gone = made.flatMap((one) => one.gone ?? []);
    const [clamped, thinned] = [made.flatMap((one) => one.clamped ?? []), made.flatMap((one) => one.thinned ?? [])];
    return {
      ...withLanes(song, lanes, refusedOf(made)),
      ...(made.some((one) => one.gone) ? { gone: [...new Set(gone)] } : {}),
      ...(clamped.length ? { clamped } : {}),
      ...(thinned.length ? { thinned } : {}),
    };
  },
  named(song, { edits, as }) {
    if (edits.length === 1 && !as) return kindOf(edits[0]!).named(song, edits[0]!, null);
    return `${as ?? 'Mending'}: ${namesOf(song, [...new Set(edits.flatMap((edit) => controlsOfEdit(song, edit)))])}`;
  },
  example(song, draws) {
    const kinds = [pick(KINDS, draws[0]!), pick(KINDS, draws[1]!)] as unknown as EditKind<CurveEdit>[];
    const edits: CurveEdit[] = [];
    let now = song;
    for (const [i, kind] of kinds.entries()) {
      const edit = kind.example(now, [...draws.slice(i + 1), ...draws.slice(0, i + 1)]);
      if (kind.wrong(now, edit)) continue;
      edits.push(edit);
      now = kind.apply(now, edit).song;
    }
    return { kind: 'together', edits: edits.length ? edits : [lift.example(song, draws)] };
  },
};
