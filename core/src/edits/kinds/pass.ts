import * as Type from '@sinclair/typebox';
import { splice } from '../../curve/index.js';
import {
  controlOf,
  controlsOf,
  isInDb,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  withLayer,
  type ControlId,
  type Lane,
  type Layer,
  type Refusal,
  type Song,
} from '../../song/index.js';
import { seconds, type Checked } from '../../song/schemaParts.js';
import { guardsOf, namesOf, withLanes } from '../applied.js';
import { fieldsOf, type EditKind } from '../editKind.js';
import { anyControl, anyPoints } from '../examples.js';
import { brought, control, controls, count, layer, range, refusal } from '../fields.js';
import { controlsWrong, firstWrong, layerWrong, withCurves, pointsWrong, spanWrong } from '../laneChecks.js';
import { whyNotFolded } from '../placing.js';
import { foldedLane } from './foldTrim.js';

/** A stretch of one lane's layer and the points that replace it, values in the layer's unit. */
const piece = Type.Object({ ...brought, span: range });
export type Piece = Checked<typeof piece>;

/** One lane of a receipt: what a pass wrote there (rules, 9). `points` and `maxDeviation` as kept after thinning. */
const laneReceipt = Type.Object({
  control,
  layer,
  spans: Type.Array(range),
  moves: count,
  points: count,
  /** In travel. */
  maxDeviation: Type.Number({ minimum: 0 }),
  clamped: Type.Array(range),
  /** Spans that end in a return line: from the release to where the line ends. Nothing where none does. */
  returns: Type.Optional(Type.Array(range)),
});
export type LaneReceipt = Checked<typeof laneReceipt>;

/** What a pass did: where it ran, what it wrote, what it refused, and which resting values hands have set. */
const receipt = Type.Object({
  lap: count,
  from: seconds,
  to: seconds,
  lanes: Type.Array(laneReceipt),
  refused: Type.Array(refusal),
  rested: controls,
  /** Of snapshots used in it: controls that are gone. Nothing where none is. */
  gone: Type.Optional(controls),
});
export type Receipt = Checked<typeof receipt>;

/** A guard that came on in the middle of a pass, and when: nothing of the pass is written at or after that time. */
const heeded = Type.Object({ ...refusal.properties, t: seconds });
export type Heeded = Checked<typeof heeded>;

/**
 * What a pass wrote. `fold`: controls whose trim is folded once it is written. `heeded`: guards that came on while it
 * rolled and still stood at its end; what it had written up to then counts.
 */
const schema = fieldsOf('pass', {
  pieces: Type.Array(piece, { minItems: 1 }),
  receipt,
  fold: Type.Optional(controls),
  heeded: Type.Optional(Type.Array(heeded)),
});
export type PassEdit = Checked<typeof schema>;

/** Times of a pass and of a guard come from one clock, through JSON: they agree to less than this. */
const HEEDED_WITHIN_SEC = 1e-9;

/** A lane with a written piece in it. */
function spliced(song: Song, lane: Lane, { control: id, layer: on, span, points }: Piece): Lane {
  return withLayer(lane, on, splice(layerPoints(lane, on), layerLaw(song, id, on), layerRest(lane, on), span, points));
}

/** The lanes of a song that pieces are written to, as they are then. */
function splicedLanes(song: Song, pieces: readonly Piece[]): { [id: ControlId]: Lane } {
  const lanes: { [id: ControlId]: Lane } = {};
  // What was ridden of a control that has gone meanwhile has no place any more.
  for (const one of pieces.filter((piece) => controlsOf(song).has(piece.control)))
    lanes[one.control] = spliced(song, lanes[one.control] ?? laneOf(song, one.control), one);
  return lanes;
}

/**
 * Lanes of a pass that are guarded now without its having heeded that guard: it did not know of it, or wrote on after it.
 * They are left alone (rules, 4).
 */
function unheeded(song: Song, { pieces, heeded: known = [] }: PassEdit): Refusal[] {
  const ends = new Map<ControlId, number>();
  for (const { control: id, span } of pieces) ends.set(id, Math.max(ends.get(id) ?? 0, span[1]));
  return guardsOf(song, ends.keys()).filter(({ control: id }) => {
    const guard = known.find((one) => one.control === id);
    return !(guard && ends.get(id)! <= guard.t + HEEDED_WITHIN_SEC);
  });
}

/** The lanes of a pass as it would have left them had nothing been guarded: what was ridden is kept, to be brought back. */
export const withoutGuards = (song: Song, { pieces }: PassEdit): Song => ({
  ...song,
  lanes: { ...song.lanes, ...splicedLanes(song, pieces) },
});

export const pass: EditKind<PassEdit> = {
  kind: 'pass',
  does: 'what a pass wrote; `fold` lists controls whose trim is folded with it',
  schema,
  isUndoStep: true,
  canFindNothing: false,
  complete(_song, edit) {
    const pieces = withCurves(edit.pieces);
    return pieces === edit.pieces ? edit : { ...edit, pieces };
  },
  wrong: (song, { pieces, fold = [], heeded: known = [] }) =>
    firstWrong(
      pieces.map(
        (one) => layerWrong(song, one) ?? spanWrong(`The span of ${one.control}`, one.span) ?? pointsWrong(song, one),
      ),
    ) ?? controlsWrong(song, [...fold, ...known.map((guard) => guard.control)]),
  apply(song, edit) {
    const refused = unheeded(song, edit);
    const left = new Set(refused.map((one) => one.control));
    const lanes = splicedLanes(
      song,
      edit.pieces.filter((one) => !left.has(one.control)),
    );
    for (const id of edit.fold ?? [])
      if (lanes[id] && !whyNotFolded(song, id)) lanes[id] = foldedLane(song, id, lanes[id]).lane;
    return withLanes(song, lanes, refused);
  },
  // The recorder asked the guards as it went; doing it again is no pass, and is refused whole (rules, 4).
  refusesAgain: (song, { pieces }) =>
    guardsOf(
      song,
      pieces.map((one) => one.control),
    ),
  named(song, edit, passNumber) {
    const ids = edit.receipt.lanes.map((lane) => lane.control);
    return `Pass${passNumber === null ? '' : ` ${passNumber}`}: ${namesOf(song, ids)}`;
  },
  example(song, [a, b, c, ...more]) {
    const id = anyControl(song, a!);
    const on: Layer = isInDb(controlOf(song, id)) && b! < 0.4 ? 'trim' : 'base';
    const points = anyPoints(song, id, [c!, ...more.slice(0, 3)], on);
    const span = [points.t[0]!, points.at(-1)!.t + 0.5] as const;
    const written = { control: id, layer: on, spans: [span], moves: 4, points: 4, maxDeviation: 0, clamped: [] };
    // It heeded a guard at its end, or so it says, or one that came on before.
    const guards = { control: id, reason: 'safe', t: more[3]! < 0.5 ? span[1] : span[0] } as const;
    return {
      kind: 'pass',
      pieces: [{ control: id, layer: on, span, points }],
      receipt: { lap: 0, from: 0, to: 0, lanes: [written], refused: [], rested: [] },
      ...(on === 'trim' && c! < 0.5 ? { fold: [id] } : {}),
      ...(more[4]! < 0.5 ? { heeded: [guards] } : {}),
    };
  },
};
