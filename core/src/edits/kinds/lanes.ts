import { controlOf, laneOf, unknownControl, type ControlId, type Lane, type Song } from '../../song/index.js';
import { LANE_SCHEMA } from '../../song/schema.js';
import { type Checked } from '../../song/schemaParts.js';
import { Type } from '@sinclair/typebox';
import { guardsOf, namesOf, unchanged, withLanes } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints } from '../examples.js';
import { firstWrong, laneWrong, pointsWithDefaults } from '../laneChecks.js';

const lanes = Type.Unsafe<{ readonly [id: ControlId]: Lane | null }>({
  type: 'object',
  additionalProperties: { anyOf: [{ type: 'null' }, LANE_SCHEMA] },
});
/** Whole lanes as they were: the inverse of everything that writes lanes. `null` is a lane never touched. */
const schema = fieldsOf('lanes', { lanes });
export type LanesEdit = Checked<typeof schema>;

/** A lane with the defaults of what it does not say; one of no control is refused by its name later. */
function wholeLane(song: Song, id: ControlId, lane: Partial<Lane>): Lane {
  const rest = lane.rest ?? (unknownControl(song, id) ? 0 : controlOf(song, id).rest);
  const { parked = false, safe = false } = lane;
  return { ...lane, rest, parked, safe, points: pointsWithDefaults(lane.points), trim: pointsWithDefaults(lane.trim) };
}

export const lanesKind: EditKind<LanesEdit> = {
  kind: 'lanes',
  does: 'whole lanes; null takes a lane away',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete: (song, edit) => ({
    ...edit,
    lanes: Object.fromEntries(
      Object.entries(edit.lanes).map(([id, lane]) => [id, lane && wholeLane(song, id, lane)] as const),
    ),
  }),
  wrong: (song, edit) =>
    firstWrong(
      Object.entries(edit.lanes).map(([id, lane]) => (lane ? laneWrong(song, id, lane) : unknownControl(song, id))),
    ),
  /**
   * The guards stay as they are now: they are no undo steps. Where one of the lanes has been made safe or parked since,
   * the whole is refused, naming it (rules, 4).
   */
  apply(song, edit) {
    const refused = guardsOf(song, Object.keys(edit.lanes));
    if (refused.length) return unchanged(song, refused);
    const kept = Object.entries(edit.lanes).map(([id, lane]) => {
      const { parked, safe } = laneOf(song, id);
      if (!lane && !parked && !safe) return [id, null] as const;
      return [id, { ...(lane ?? { rest: controlOf(song, id).rest, points: [], trim: [] }), parked, safe }] as const;
    });
    return withLanes(song, Object.fromEntries(kept), []);
  },
  named: (song, edit) => `Lanes of ${namesOf(song, Object.keys(edit.lanes))}`,
  example(song, [a, b, ...more]) {
    const id = anyControl(song, a!);
    const points = anyPoints(song, id, more.slice(0, 3));
    const lane = { rest: points[0]!.v, points, trim: [], parked: false, safe: false };
    return { kind: 'lanes', lanes: { [id]: b! < 0.3 ? null : lane } };
  },
};
