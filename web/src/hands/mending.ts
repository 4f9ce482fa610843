import { valueAt, type Move, type Range } from '@sure-hand/core/curve';
import {
  addedPoint,
  applyEdit,
  shiftWithin,
  shiftedSpans,
  type CurveEdit,
  type Edit,
  type LayerOf,
} from '@sure-hand/core/edits';
import {
  fullName,
  guardOn,
  isInDb,
  isSwitch,
  controlOf,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { SILENCE_DB, clamp, type Seconds } from '@sure-hand/core/units';
import { freshSpans, type FreshPass, type FreshSpan, type SpanChange } from './carrying.js';
import {
  byLayer,
  countPicked,
  lanesWords,
  layerOf,
  pickedMoved,
  pickedOf,
  pickedOfPass,
  pickedThere,
  pointsOfLanes,
  pointsWords,
  spanOfPicked,
  timesIn,
  timesPicked,
  withLane,
  type Picked,
} from './picking.js';
import { amountWords, movedWords, printShift } from './mendWords.js';
import { staysOf } from './reasonWords.js';
import type { SongControl } from './songControl.js';

/** How far one press of a key moves points; and by how much it scales them. */
export const STEP = {
  travel: { coarse: 0.01, fine: 0.0025 },
  sec: { coarse: 0.05, fine: 0.01 },
  factor: { coarse: 1.1, fine: 1.02 },
} as const;

/** What mending by keys works on. */
export type MendScene = {
  readonly song: Song;
  readonly control: SongControl;
  readonly inHand: ControlId | null;
  /** Lanes that are mended together with the one in hand; none where it is alone. */
  readonly chosen: readonly ControlId[];
  readonly range: Range | null;
  readonly picked: Picked | null;
  /** The last pass while its lanes stand as it left them, and what was done to its spans since. */
  readonly fresh: (FreshPass & { readonly changes: readonly SpanChange[] }) | null;
  /** How long the edges of a lift are. */
  readonly liftEdge: Seconds;
  setRange(range: Range | null): void;
  pick(picked: Picked | null): void;
  say(sentence: string): void;
  did(sentence: string): void;
};

/** What keeps a curve from being mended, as a sentence with what takes it away; null where nothing does. */
export function mendRefusal(song: Song, control: ControlId): string | null {
  const guard = guardOn(song, control);
  return guard && staysOf(song, control, guard);
}

/** The control in hand and its layer, if its curve can be mended; says why where it can't. */
export function inHandOf({ song, inHand, say }: MendScene): LayerOf | null {
  if (!inHand) return null;
  const refusal = mendRefusal(song, inHand);
  if (refusal) say(refusal);
  return refusal ? null : layerOf(song, inHand);
}

/** The lanes that acts on a range are about: the one in hand, with those chosen beside it. Null where all of them are guarded, which is said. */
export function lanesInHand(scene: MendScene): readonly LayerOf[] | null {
  const { song, inHand, chosen, say } = scene;
  if (!inHand) return null;
  const lanes = chosen.includes(inHand) ? chosen : [inHand];
  const refusals = lanes.map((id) => mendRefusal(song, id));
  if (refusals.every((one) => one !== null)) {
    say(refusals[0]!);
    return null;
  }
  return lanes.map((id) => layerOf(song, id));
}

/** Edits of curves as one step. */
export const oneStep = (edits: readonly CurveEdit[], as: string): Edit =>
  edits.length === 1 ? edits[0]! : { kind: 'together', edits, as };

/** Makes an edit and says what it did, unless it found nothing. */
export function mend({ control, did }: MendScene, edit: Edit, words: string): boolean {
  const { changed } = control.mend(edit);
  if (changed.length) did(words);
  return changed.length > 0;
}

/** The lanes that points are picked of; null where all of them are guarded, which is said. */
function freePicked({ song, say }: MendScene, picked: Picked): Picked | null {
  const refusals = picked.lanes.map(({ control }) => mendRefusal(song, control));
  if (refusals.some((one) => one === null)) return picked;
  say(refusals[0]!);
  return null;
}

/** The spans of the last pass as they stand, where they are what is picked; null where something else is. */
function passPicked({ fresh }: Pick<MendScene, 'fresh'>, picked: Picked | null): readonly FreshSpan[] | null {
  return picked?.isPass && fresh ? freshSpans(fresh.receipt, fresh.changes) : null;
}

/** An edit of each span of the pass by itself, as one step. */
const ofSpans = (spans: readonly FreshSpan[], as: string, make: (span: FreshSpan) => CurveEdit): Edit =>
  oneStep(spans.map(make), as);

const NOTHING_PICKED = (what: string): string =>
  `Nothing is picked: click points of the lane in hand, or set a range with I and O; then ${what}.`;

/** Takes away the picked points, or what stands inside the range on the lanes in hand: how many, and of which lanes. */
export function clearPoints(scene: MendScene): void {
  const { song, range, say } = scene;
  const picked = pickedThere(song, scene.picked);
  if (picked) return clearPicked(scene, picked);
  if (!range) return say(NOTHING_PICKED('Delete clears what stands in it'));
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  const count = lanes.reduce((sum, of) => sum + timesIn(song, of, ...range).length, 0);
  const edits = byLayer(lanes).map(({ layer, lanes: some }): CurveEdit => ({
    kind: 'clear',
    controls: some.map(({ control }) => control),
    range,
    layer,
  }));
  if (
    !mend(scene, oneStep(edits, 'Clear'), `${pointsWords(song, lanes, count)} cleared inside the range; its ends stay.`)
  )
    say(`${lanesWords(song, lanes)} ${lanes.length > 1 ? 'have' : 'has'} no points inside the range.`);
}

function clearPicked(scene: MendScene, asked: Picked): void {
  const { song } = scene;
  const picked = freePicked(scene, asked);
  if (!picked) return;
  const { lanes } = picked;
  const spans = passPicked(scene, picked);
  const edit = spans
    ? ofSpans(spans, 'Clear what the pass wrote', ({ control, layer, span }) => ({
        kind: 'clear',
        controls: [control],
        range: span,
        layer,
      }))
    : oneStep(
        byLayer(lanes).map(({ layer, lanes: some }): CurveEdit => ({
          kind: 'clear',
          controls: some.map(({ control }) => control),
          points: pointsOfLanes(some),
          layer,
        })),
        'Clear',
      );
  const left = (of: Song): number =>
    lanes.reduce((sum, { control, layer }) => sum + layerPoints(laneOf(of, control), layer).length, 0);
  const after = left(applyEdit(song, edit).song);
  const what = spans ? 'What the pass wrote: ' : '';
  if (mend(scene, edit, `${what}${pointsWords(song, lanes, left(song) - after)} cleared; ${after} left.`))
    scene.pick(null);
}

/** Picks all points of the lanes in hand, or those from the line on. */
export function pickPoints(scene: MendScene, from = -Infinity): void {
  const { song, inHand, chosen, say } = scene;
  if (!inHand) return;
  const lanes = (chosen.includes(inHand) ? chosen : [inHand]).map((id) => layerOf(song, id));
  const picked = pickedOf(lanes.map((of) => ({ ...of, times: timesIn(song, of, from) })));
  if (!picked)
    return say(
      `${lanesWords(song, lanes)} ${lanes.length > 1 ? 'have' : 'has'} no points ${from > 0 ? 'from the line on' : 'to pick'}.`,
    );
  scene.pick(picked);
}

/** Picks the points that stand in the range, of the lanes in hand. */
export function pickRange(scene: MendScene): void {
  const { range, say } = scene;
  if (!range) return say('There is no range to pick the points of: set one with I and O, or by dragging on the ruler.');
  const picked = pointsToScale({ ...scene, picked: null });
  if (picked) scene.pick(picked);
  else say('No points of the lane in hand stand in the range.');
}

/** Picks what the last pass wrote, of all its lanes. */
export function pickPass(scene: MendScene): void {
  const { song, fresh, say } = scene;
  if (!fresh) return say('There is no pass whose lanes stand as it left them.');
  const picked = pickedOfPass(song, freshSpans(fresh.receipt, fresh.changes));
  if (picked) scene.pick(picked);
  else say('The last pass wrote no points.');
}

/** An edit that moves picked points, and what it does with the pass where that is picked: then shoulders are made. */
export function moveEdit(scene: Pick<MendScene, 'song' | 'fresh'>, picked: Picked, by: Move): Edit | null {
  const spans = passPicked(scene, picked);
  const { song, fresh } = scene;
  if (!spans)
    return oneStep(
      byLayer(picked.lanes).map(({ layer, lanes }): CurveEdit => ({
        kind: 'move',
        controls: lanes.map(({ control }) => control),
        points: pointsOfLanes(lanes),
        by,
        layer,
      })),
      'Move',
    );
  const shift = by.t ? shiftedSpans(song, spans, fresh!.lanes, by.t) : null;
  const far = shift ? shiftWithin(song, spans, by.t) : 0;
  const lifts = by.travel
    ? spans
        .filter(({ control }) => !isSwitch(controlOf(song, control)))
        .map(({ control, layer, span }): CurveEdit => ({
          kind: 'lift',
          controls: [control],
          range: [span[0] + far, span[1] + far],
          travel: by.travel,
          layer,
        }))
    : [];
  const edits = [...(shift ? [shift] : []), ...lifts];
  return edits.length ? oneStep(edits, 'What the pass wrote moved') : null;
}

/** How far an edit took the first of the points it is about, in words. */
export function amountOf(before: Song, after: Song, picked: Picked): string {
  const [first] = picked.lanes;
  const [was, is] = [before, after].map((of) => layerPoints(laneOf(of, first!.control), first!.layer));
  const at = was!.t.indexOf(first!.times[0]!);
  return was!.length === is!.length && at >= 0 ? amountWords(before, first!, was!.point(at), is!.point(at)) : '';
}

/** Moves the picked points; without any, those in the range in time, or lifts the range. */
export function nudgePoints(scene: MendScene, by: Move): void {
  const { song, range, say } = scene;
  const picked = pickedThere(song, scene.picked);
  if (picked) return void movePicked(scene, picked, by);
  if (!range) return say(NOTHING_PICKED('these keys move what is in it'));
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  if (by.travel) return liftRange(scene, lanes, range, by.travel);
  const inside = pickedOf(lanes.map((of) => ({ ...of, times: timesIn(song, of, ...range) })));
  if (!inside)
    return say(`${lanesWords(song, lanes)} ${lanes.length > 1 ? 'have' : 'has'} no points inside the range.`);
  const far = movePicked(scene, inside, by);
  if (far) scene.setRange([clamp(range[0] + far, 0, song.length), clamp(range[1] + far, 0, song.length)]);
}

/** Moves picked points and says how far they went; gives back how far in time. */
function movePicked(scene: MendScene, asked: Picked, by: Move): Seconds {
  const { song, say } = scene;
  const picked = freePicked(scene, asked);
  if (!picked) return 0;
  const edit = moveEdit(scene, picked, by);
  const applied = edit && applyEdit(song, edit);
  if (!edit || !applied?.changed.length) {
    say('They can go no further: another point, or an end, is in the way.');
    return 0;
  }
  if (passPicked(scene, picked)) {
    const words = by.t ? printShift(by.t) : `${Math.round(Math.abs(by.travel) * 1000) / 10} % of the throw`;
    return passMended(scene, edit, by, words);
  }
  const amount = amountOf(song, applied.song, picked);
  mend(scene, edit, movedWords(song, picked.lanes, countPicked(picked), amount));
  const next = pickedMoved(song, applied.song, picked);
  if (scene.picked) scene.pick(next);
  return next ? next.lanes[0]!.times[0]! - picked.lanes[0]!.times[0]! : 0;
}

/** All that the pass wrote moves, and stays picked; how far it went in time. `words`: how far, as it is said. */
export function passMended(scene: MendScene, edit: Edit, by: Move, words: string): Seconds {
  const { song, control, fresh } = scene;
  if (!fresh) return 0;
  const { receipt, lanes, changes } = fresh;
  const spans = freshSpans(receipt, changes);
  const far = by.t ? shiftWithin(song, spans, by.t) : 0;
  control.mendPass(edit, far);
  scene.pick(pickedOfPass(applyEdit(song, edit).song, far ? freshSpans(receipt, [...changes, { shift: far }]) : spans));
  const ways = [
    far ? (far < 0 ? 'put earlier' : 'put later') : '',
    by.travel ? (by.travel > 0 ? 'lifted' : 'lowered') : '',
  ];
  scene.did(`What the pass wrote in ${lanesWords(song, lanes)} ${ways.filter(Boolean).join(' and ')}: ${words}.`);
  return far;
}

function liftRange(scene: MendScene, lanes: readonly LayerOf[], range: Range, travel: number): void {
  const { song, liftEdge } = scene;
  const edit = liftEdit(song, lanes, range, { travel, edge: liftEdge });
  if (edit) mend(scene, edit, `${lanesWords(song, lanes)} lifted over the range.`);
  else scene.say(`${lanesWords(song, lanes)} is a switch, which can’t be lifted.`);
}

/** The edit that lifts a range of some lanes, switches left out; null where all are switches. */
export function liftEdit(
  song: Song,
  lanes: readonly LayerOf[],
  range: Range,
  { travel, edge }: { readonly travel: number; readonly edge: Seconds },
): Edit | null {
  const even = lanes.filter(({ control }) => !isSwitch(controlOf(song, control)));
  const edits = byLayer(even).map(({ layer, lanes: some }): CurveEdit => ({
    kind: 'lift',
    controls: some.map(({ control }) => control),
    range,
    travel,
    edge,
    layer,
  }));
  return edits.length ? oneStep(edits, 'Lift') : null;
}

/** The edit that scales points about the lowest of their lane, or a value; null where all are of switches. */
export function scaleEdit(song: Song, { lanes }: Picked, factor: number, pivot?: number): Edit | null {
  const even = lanes.filter(({ control }) => !isSwitch(controlOf(song, control)));
  const edits = byLayer(even).map(({ layer, lanes: some }): CurveEdit => ({
    kind: 'scale',
    controls: some.map(({ control }) => control),
    points: pointsOfLanes(some),
    factor,
    layer,
    ...(pivot === undefined ? {} : { pivot }),
  }));
  return edits.length ? oneStep(edits, 'Scale') : null;
}

/** What scales: the picked points, or without any those in the range. */
export function pointsToScale(scene: MendScene): Picked | null {
  const { song, range, inHand, chosen } = scene;
  const picked = pickedThere(song, scene.picked);
  if (picked || !range || !inHand) return picked;
  const lanes = (chosen.includes(inHand) ? chosen : [inHand]).map((id) => layerOf(song, id));
  return pickedOf(lanes.map((of) => ({ ...of, times: timesIn(song, of, ...range) })));
}

/** Draws the picked points, or those in the range, apart from the lowest of their lane, or nearer to it. */
export function scalePoints(scene: MendScene, factor: number): void {
  const { song, say } = scene;
  const asked = pointsToScale(scene);
  if (!asked) return say(NOTHING_PICKED('these keys scale what is in it'));
  const picked = freePicked(scene, asked);
  const edit = picked && scaleEdit(song, picked, factor);
  if (!edit) return;
  const percent = Math.round(factor * 1000) / 10;
  if (
    !mend(
      scene,
      edit,
      `${pointsWords(song, picked.lanes, countPicked(picked))} scaled to ${percent} % about the lowest.`,
    )
  )
    say('They stand at one height, or at an end: there is nothing to scale.');
}

/** Puts a point on the curve in hand at the line, and picks it. */
export function addPointAtLine(scene: MendScene, t: Seconds): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song } = scene;
  const law = layerLaw(song, of.control, of.layer);
  const lane = laneOf(song, of.control);
  const v = valueAt(layerPoints(lane, of.layer), law, layerRest(lane, of.layer), t);
  const own = pickedOf([{ ...of, times: [t] }]);
  if (layerPoints(lane, of.layer).t.includes(t)) return scene.pick(own);
  if (
    mend(
      scene,
      addedPoint(song, of, t),
      `A point added to ${fullName(song, of.control)}: ${controlOf(song, of.control).scale.print(v)}.`,
    )
  )
    scene.pick(own);
}

/** Plays what is picked, or the range, from a little before it, once or again and again. */
export function hearRange({ song, control, range, picked, say }: MendScene, isAgain: boolean): void {
  const there = pickedThere(song, picked);
  const span = there && countPicked(there) > 1 ? spanOfPicked(there) : range;
  if (span && span[1] > span[0]) return void control.playRange(span, isAgain);
  say('There is nothing to hear by itself: set a range with I and O, or pick points of the lane in hand.');
}

/** Fades the levels in hand over the range, from silence or to it: their base, as an offset reaches no silence. */
export function fadeRange(scene: MendScene, way: 'in' | 'out'): void {
  const { song, range, say } = scene;
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  if (!range) return say('There is nothing to fade over: set a range with I and O, or by dragging on the ruler.');
  const levels = lanes.filter(({ control }) => isInDb(controlOf(song, control)));
  if (!levels.length) return say(`${fullName(song, lanes[0]!.control)} is not in dB, so it has no silence to fade to.`);
  const edit: Edit = {
    kind: 'ramp',
    values: Object.fromEntries(levels.map(({ control }) => [control, SILENCE_DB])),
    range,
    ...(way === 'in' ? { towards: 'old' } : { after: 'resume' }),
  };
  const words = way === 'in' ? 'in from silence' : 'out to silence';
  const names = lanesWords(
    song,
    levels.map(({ control }) => ({ control, layer: 'base' as const })),
  );
  mend(
    scene,
    edit,
    `${names} ${levels.length > 1 ? 'fade' : 'fades'} ${words} over the range; after it the curve goes on.`,
  );
}

/** One more point of a lane picked, or one less. */
export function pickOneMore(song: Song, picked: Picked | null, of: LayerOf, t: Seconds): Picked | null {
  const before = timesPicked(picked, of);
  const times = before.includes(t) ? before.filter((one) => one !== t) : [...before, t];
  return withLane(pickedThere(song, picked), { ...of, times: [...times].sort((a, b) => a - b) });
}
