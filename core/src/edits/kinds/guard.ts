import * as Type from '@sinclair/typebox';
import {
  controlOf,
  guardedAs,
  laneOf,
  unknownControl,
  type ControlId,
  type Lane,
  controlsOf,
} from '../../song/index.js';
import { closed, maybe, on, type Checked } from '../../song/schemaParts.js';
import { nameOf, previous, unchanged } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl } from '../examples.js';
import { control } from '../fields.js';

/** `forget`: the lane was never touched before, so taking its guard back leaves none. Only inverses say it. */
const schema = fieldsOf('guard', {
  control,
  changes: closed(maybe({ parked: on, safe: on })),
  forget: Type.Optional(Type.Literal(true)),
});
export type GuardEdit = Checked<typeof schema>;

export const guard: EditKind<GuardEdit> = {
  kind: 'guard',
  does: 'guards of one control; `forget`, in inverses, leaves no lane where there was none; no undo step',
  schema,
  isUndoStep: false,
  canFindNothing: false,
  wrong: (song, edit) => unknownControl(song, edit.control),
  apply(song, { control, changes, forget }) {
    if (!controlsOf(song).has(control)) return unchanged(song);
    // The depth of a sway is guarded with what sways.
    const id = guardedAs(control);
    const lane = laneOf(song, id);
    const lanes: { [id: ControlId]: Lane } = { ...song.lanes, [id]: { ...lane, ...changes } };
    const isUntouched =
      !lane.points.length && !lane.trim.length && !lane.sway && lane.rest === controlOf(song, id).rest;
    if (forget && isUntouched) delete lanes[id];
    const never = song.lanes[id] === undefined ? { forget: true as const } : {};
    return {
      ...unchanged(song),
      song: { ...song, lanes },
      inverse: { kind: 'guard', control: id, changes: previous(lane, changes), ...never },
    };
  },
  named: (song, edit) => `${nameOf(song, edit.control)}: ${Object.keys(edit.changes).join(', ')}`,
  example: (song, [a, b, c]) => ({
    kind: 'guard',
    control: anyControl(song, a!),
    changes: b! < 0.5 ? { safe: c! < 0.4 } : { parked: c! < 0.4 },
  }),
};
