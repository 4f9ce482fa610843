import { Curve, linePoint, pointsOfSway, splice, swayedCurve, type Range, type Swayed } from '../../curve/index.js';
import {
  laneOf,
  swayControlId,
  swayOf,
  swayingOf,
  unknownControl,
  type ControlId,
  type Lane,
  type Song,
} from '../../song/index.js';
import { maybe, type Checked } from '../../song/schemaParts.js';
import { MOST_SWAY, type Travel } from '../../units/index.js';
import { curveOf, guardsOf, nameOf, unchanged, withLanes } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyRange, pick } from '../examples.js';
import { control, range } from '../fields.js';
import { spanWrong } from '../laneChecks.js';
import { steadyLane } from './sway.js';

/** A sway made points of its control's curve, over a range, where it is 0 deep from then on, or the whole song, and it is gone (page 8). */
const schema = fieldsOf('printSway', { control, ...maybe({ range }) });
export type PrintSwayEdit = Checked<typeof schema>;

/** However finely the song is thinned, what is printed may be so far off in travel. */
const PRINTED_WITHIN: Travel = 0.002;
/** More points than that are no hand's work, and hold everything up. */
const MOST_POINTS = 200_000;

/** What a control's sway is printed from; null where it has none that is on. */
function swayedOf(song: Song, id: ControlId): Swayed | null {
  const one = swayOf(song, id);
  if (!one) return null;
  const depth = swayControlId(id);
  return {
    base: curveOf(song, id, laneOf(song, id), 'base'),
    depth: curveOf(song, depth, laneOf(song, depth), 'base'),
    swaying: swayingOf(song, one),
    most: MOST_SWAY,
  };
}

/** From the song's start to its end, or past it where points stand there. */
const wholeOf = (song: Song, { base, depth }: Swayed): Range => [
  0,
  Math.max(song.length, base.points.at(-1)?.t ?? 0, depth.points.at(-1)?.t ?? 0),
];

/** The lanes of a control and of its sway's depth after printing. */
function printed(song: Song, id: ControlId, swayed: Swayed, where: Range | undefined): { [id: ControlId]: Lane } {
  const { base, depth } = swayed;
  const lane = laneOf(song, id);
  const within = Math.max(song.settings.thin, PRINTED_WITHIN);
  const points = swayedCurve(swayed, where ?? wholeOf(song, swayed), within);
  if (!where) return { [id]: { ...steadyLane(lane), points } };
  const deep = swayControlId(id);
  const none = Curve.of([linePoint(where[0], 0), linePoint(where[1], 0)]);
  return {
    [id]: { ...lane, points: splice(base.points, base.law, base.rest, where, points) },
    [deep]: { ...laneOf(song, deep), points: splice(depth.points, depth.law, depth.rest, where, none) },
  };
}

export const printSway: EditKind<PrintSwayEdit> = {
  kind: 'printSway',
  does: 'a control’s sway made points of its curve, within the song’s thinning, at least 0.002 of travel: over a range, where its depth is 0 from then on, or whole, and the sway is gone',
  schema,
  isUndoStep: true,
  canFindNothing: true,
  wrong(song, { control: id, range: where }) {
    const wrong = unknownControl(song, id) ?? (where ? spanWrong('The range to print', where) : null);
    if (wrong) return wrong;
    const swayed = swayedOf(song, id);
    if (!swayed) return `${nameOf(song, id)} has no sway that is on, so there is nothing to print.`;
    const most = Math.ceil(pointsOfSway(swayed, where ?? wholeOf(song, swayed)));
    return most > MOST_POINTS
      ? `The sway of ${nameOf(song, id)} could be ${most} points, more than ${MOST_POINTS}; print a shorter range.`
      : null;
  },
  apply(song, { control: id, range: where }) {
    const swayed = swayedOf(song, id);
    if (!swayed) return unchanged(song);
    const refused = guardsOf(song, [id]);
    return refused.length ? unchanged(song, refused) : withLanes(song, printed(song, id, swayed, where), []);
  },
  named: (song, edit) => `Sway of ${nameOf(song, edit.control)} printed`,
  example(song, [a, b, c, d]) {
    const swaying = Object.keys(song.lanes).filter((id) => swayOf(song, id));
    const id = swaying.length ? pick(swaying, a!) : anyControl(song, a!);
    return { kind: 'printSway', control: id, ...(d! < 0.3 ? {} : { range: anyRange(b!, c!) }) };
  },
};
