import { Curve } from '../../curve/index.js';
import { controlsOf, laneOf, withThem } from '../../song/index.js';
import { type Checked } from '../../song/schemaParts.js';
import { guardsOf, namesOf, unchanged, withLanes } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints } from '../examples.js';
import { lanes } from '../fields.js';
import { lanesWrong, wholeLanes } from '../laneChecks.js';

/** Whole lanes as they were: the inverse of everything that writes lanes. `null` is a lane never touched. */
const schema = fieldsOf('lanes', { lanes });
export type LanesEdit = Checked<typeof schema>;

const UNGUARDED = { parked: false, safe: false } as const;

export const lanesKind: EditKind<LanesEdit> = {
  kind: 'lanes',
  does: 'whole lanes; null takes a lane away',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete: (song, edit) => ({ ...edit, lanes: wholeLanes(song, edit.lanes) }),
  wrong: (song, edit) => lanesWrong(song, edit.lanes),
  /**
   * The guards stay as they are now: they are no undo steps. Where one of the lanes has been made safe or parked since,
   * the whole is refused, naming it (rules, 4).
   */
  apply(song, edit) {
    const refused = guardsOf(song, Object.keys(edit.lanes));
    if (refused.length) return unchanged(song, refused);
    const known = controlsOf(withThem(song, edit.lanes));
    const there = Object.entries(edit.lanes).filter(([id]) => known.has(id));
    const kept = there.map(([id, lane]) => {
      const { parked, safe } = controlsOf(song).has(id) ? laneOf(song, id) : UNGUARDED;
      if (!lane && !parked && !safe) return [id, null] as const;
      return [
        id,
        { ...(lane ?? { rest: known.get(id)!.rest, points: Curve.EMPTY, trim: Curve.EMPTY }), parked, safe },
      ] as const;
    });
    return withLanes(song, Object.fromEntries(kept), []);
  },
  named: (song, edit) => `Lanes of ${namesOf(song, Object.keys(edit.lanes))}`,
  example(song, [a, b, ...more]) {
    const id = anyControl(song, a!);
    const points = anyPoints(song, id, more.slice(0, 3));
    const lane = { rest: points.v[0]!, points, trim: Curve.EMPTY, parked: false, safe: false };
    return { kind: 'lanes', lanes: { [id]: b! < 0.3 ? null : lane } };
  },
};
