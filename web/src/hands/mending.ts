import { valueAt, type Range } from '@sure-hand/core/curve';
import { addedPoint, applyEdit, type CurveEdit, type Edit, type LayerOf } from '@sure-hand/core/edits';
import {
  fullName,
  guardOn,
  isLevel,
  controlOf,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { SILENCE_DB, type Seconds } from '@sure-hand/core/units';
import { freshSpans, type FreshPass, type FreshSpan, type SpanChange } from './carrying.js';
import {
  byLayer,
  countPicked,
  lanesWords,
  layerOf,
  pickedOf,
  pickedOfPass,
  pickedThere,
  pointsOfLanes,
  pointsWords,
  spanOfPicked,
  timesIn,
  timesPicked,
  togetherWith,
  withLane,
  type Picked,
} from './picking.js';
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
  const lanes = togetherWith(inHand, chosen);
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

/**
 * Has an edit of picked points done once what it comes to was worked out; where the song is another by then it is asked for `again`, with
 * those of the points that are still there. What the last pass wrote goes at once: it might not stand any more.
 */
export function whenWorkedOut<S extends MendScene>(
  scene: S,
  picked: Picked,
  edit: Edit,
  { act, again }: { readonly act: () => void; readonly again: (scene: S, picked: Picked) => void },
): void {
  const controls = picked.lanes.map(({ control }) => control);
  if (passPicked(scene, picked)) return act();
  scene.control.ahead(edit, controls, (song) => {
    if (song === scene.song) return act();
    const there = pickedThere(song, picked);
    if (there) again({ ...scene, song }, there);
  });
}

/** The lanes that points are picked of; null where all of them are guarded, which is said. */
export function freePicked({ song, say }: MendScene, picked: Picked): Picked | null {
  const refusals = picked.lanes.map(({ control }) => mendRefusal(song, control));
  if (refusals.some((one) => one === null)) return picked;
  say(refusals[0]!);
  return null;
}

/** The spans of the last pass as they stand, where they are what is picked; null where something else is. */
export function passPicked({ fresh }: Pick<MendScene, 'fresh'>, picked: Picked | null): readonly FreshSpan[] | null {
  return picked?.isPass && fresh ? freshSpans(fresh.receipt, fresh.changes) : null;
}

/** An edit of each span of the pass by itself, as one step. */
const ofSpans = (spans: readonly FreshSpan[], as: string, make: (span: FreshSpan) => CurveEdit): Edit =>
  oneStep(spans.map(make), as);

export const NOTHING_PICKED = (what: string): string =>
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

/** What acts on several points are about: the picked points, or without any those in the range. */
export function pointsMeant(scene: MendScene): Picked | null {
  const { song, range, inHand, chosen } = scene;
  const picked = pickedThere(song, scene.picked);
  if (picked || !range || !inHand) return picked;
  const lanes = togetherWith(inHand, chosen).map((id) => layerOf(song, id));
  return pickedOf(lanes.map((of) => ({ ...of, times: timesIn(song, of, ...range) })));
}

/** Picks all points of the lanes in hand, or those from the line on. */
export function pickPoints(scene: MendScene, from = -Infinity): void {
  const { song, inHand, chosen, say } = scene;
  if (!inHand) return;
  const lanes = togetherWith(inHand, chosen).map((id) => layerOf(song, id));
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
  const picked = pointsMeant({ ...scene, picked: null });
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
  const levels = lanes.filter(({ control }) => isLevel(controlOf(song, control)));
  if (!levels.length) return say(`${fullName(song, lanes[0]!.control)} is no level, so it has no silence to fade to.`);
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
