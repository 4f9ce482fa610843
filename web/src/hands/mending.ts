import { valueAt, type Move } from '@sure-hand/core/curve';
import { addedPoint, applyEdit, type Edit, type LayerOf } from '@sure-hand/core/edits';
import { layerInHand } from '@sure-hand/core/pass';
import {
  fullName,
  guardOn,
  isInDb,
  controlOf,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type ControlId,
  type Song,
} from '@sure-hand/core/song';
import { SILENCE_DB, printDb, type Seconds } from '@sure-hand/core/units';
import { staysOf } from './reasonWords.js';
import type { SongControl } from './songControl.js';

/** Points that are picked, by their times: of one layer of the control in hand. */
export type PickedPoints = LayerOf & { readonly times: readonly Seconds[] };

/** How far one press of a key moves points. */
export const STEP = { travel: { coarse: 0.01, fine: 0.0025 }, sec: { coarse: 0.05, fine: 0.01 } } as const;

/** What mending by keys works on. */
export type MendScene = {
  readonly song: Song;
  readonly control: SongControl;
  readonly inHand: ControlId | null;
  readonly range: readonly [number, number] | null;
  readonly picked: PickedPoints | null;
  setRange(range: readonly [number, number] | null): void;
  pick(picked: PickedPoints | null): void;
  say(sentence: string): void;
  did(sentence: string): void;
};

/** The layer of a control that gestures are about: the trim while its channel trims, else the base. */
export const layerOf = (song: Song, control: ControlId): LayerOf => ({ control, layer: layerInHand(song, control) });

/** Times of a layer's points from one to another; each once. */
const timesIn = (song: Song, { control, layer }: LayerOf, from = -Infinity, to = Infinity): Seconds[] => [
  ...new Set([...layerPoints(laneOf(song, control), layer).t].filter((t) => t >= from && t < to)),
];

/** Points in words: `3 points of Lead level`, of a trim `3 points of Lead level’s trim`. */
export const pointsWords = (song: Song, { control, layer }: LayerOf, count: number): string =>
  `${count} ${count === 1 ? 'point' : 'points'} of ${fullName(song, control)}${layer === 'trim' ? '’s trim' : ''}`;

/** A length of time with its sign: `+120 ms`, `−1.25 s`. */
function printShift(sec: Seconds): string {
  const sign = sec < 0 ? '−' : '+';
  const ms = Math.round(Math.abs(sec) * 1000);
  return ms < 1000 ? `${sign}${ms} ms` : `${sign}${(ms / 1000).toFixed(2)} s`;
}

/** How far a point went, in its own words: in dB, or where it was and is; and in time. Nothing of what it did not do. */
export function amountWords(
  song: Song,
  of: LayerOf,
  from: { t: Seconds; v: number },
  to: { t: Seconds; v: number },
): string {
  const { scale } = controlOf(song, of.control);
  const isDb = of.layer === 'trim' || isInDb(controlOf(song, of.control));
  const print = of.layer === 'trim' ? (v: number): string => printDb(v, true) : scale.print;
  const both = Math.min(from.v, to.v) > -144;
  const gone = isDb && both ? `${printDb(to.v - from.v, true)} → ${print(to.v)}` : `${print(from.v)} → ${print(to.v)}`;
  return [from.v === to.v ? '' : gone, Math.abs(to.t - from.t) < 5e-4 ? '' : printShift(to.t - from.t)]
    .filter(Boolean)
    .join(', ');
}

/** What was done to points, one of which went so far: of several it is the one in the hand, or the first. */
export const movedWords = (song: Song, of: LayerOf, count: number, amount: string): string =>
  `${pointsWords(song, of, count)} moved: ${count > 1 ? 'one of them ' : ''}${amount || 'back to where it was'}.`;

/** What keeps a curve from being mended, as a sentence with what takes it away; null where nothing does. */
export function mendRefusal(song: Song, control: ControlId): string | null {
  const guard = guardOn(song, control);
  return guard && staysOf(song, control, guard);
}

/** The points that are picked, as far as they are still there; null where none is. */
export function pickedThere(song: Song, picked: PickedPoints | null): PickedPoints | null {
  if (!picked) return null;
  const there = new Set(layerPoints(laneOf(song, picked.control), picked.layer).t);
  const times = picked.times.filter((t) => there.has(t));
  return times.length ? { ...picked, times } : null;
}

/** Times at which the picked points stand in a song that is heard in place of the one they were picked in, as while they are moved. */
export function pickedAsHeard(song: Song, heard: Song, { control, layer, times }: PickedPoints): readonly Seconds[] {
  const [was, is] = [song, heard].map((of) => layerPoints(laneOf(of, control), layer).t) as [
    Float64Array,
    Float64Array,
  ];
  if (was === is || was.length !== is.length) return times;
  const isPicked = new Set(times);
  return [...is].filter((_, i) => isPicked.has(was[i]!));
}

/** The control in hand and its layer, if its curve can be mended; says why where it can't. */
export function inHandOf({ song, inHand, say }: MendScene): LayerOf | null {
  if (!inHand) return null;
  const refusal = mendRefusal(song, inHand);
  if (refusal) say(refusal);
  return refusal ? null : layerOf(song, inHand);
}

/** Makes an edit and says what it did, unless it found nothing. */
export function mend({ control, did }: MendScene, edit: Edit, words: string): boolean {
  const { changed } = control.mend(edit);
  if (changed.length) did(words);
  return changed.length > 0;
}

/** Takes away the picked points, or what stands inside the range on the lane in hand: how many, and of which lane. */
export function clearPoints(scene: MendScene): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song, range, say } = scene;
  const picked = pickedThere(song, scene.picked);
  const left = layerPoints(laneOf(song, of.control), of.layer).length;
  if (picked) {
    const edit: Edit = {
      kind: 'clear',
      controls: [of.control],
      points: { [of.control]: picked.times },
      layer: of.layer,
    };
    const after = layerPoints(laneOf(applyEdit(song, edit).song, of.control), of.layer).length;
    if (mend(scene, edit, `${pointsWords(song, of, left - after)} cleared; ${after} left.`)) scene.pick(null);
    return;
  }
  if (!range)
    return say(
      'Nothing is picked: click points of the lane in hand, or set a range with I and O; then Delete clears what stands in it.',
    );
  const count = timesIn(song, of, ...range).length;
  if (
    !mend(
      scene,
      { kind: 'clear', controls: [of.control], range, layer: of.layer },
      `${pointsWords(song, of, count)} cleared inside the range; its ends stay.`,
    )
  )
    say(`${fullName(song, of.control)} has no points inside the range.`);
}

/** Picks all points of the lane in hand, or those from the line on. */
export function pickPoints(scene: MendScene, from = -Infinity): void {
  const { song, inHand, say } = scene;
  if (!inHand) return;
  const of = layerOf(song, inHand);
  const times = timesIn(song, of, from);
  if (!times.length)
    return say(`${fullName(song, inHand)} has no points ${from > 0 ? 'from the line on' : 'to pick'}.`);
  scene.pick({ ...of, times });
}

/** Moves the picked points; without any, lifts the range on the lane in hand. */
export function nudgePoints(scene: MendScene, by: Move): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song, range, say } = scene;
  const picked = pickedThere(song, scene.picked);
  const { control, layer } = of;
  if (picked) {
    const before = layerPoints(laneOf(song, control), layer);
    const edit: Edit = { kind: 'move', controls: [control], points: { [control]: picked.times }, by, layer };
    const after = layerPoints(laneOf(applyEdit(song, edit).song, control), layer);
    const at = before.t.indexOf(picked.times[0]!);
    const [was, is] = [before.point(at), after.point(at)];
    const words = movedWords(song, of, picked.times.length, amountWords(song, of, was, is));
    const isPicked = new Set(picked.times);
    const times = [...new Set([...after.t].filter((_, i) => isPicked.has(before.t[i]!)))];
    if (mend(scene, edit, words)) scene.pick({ control, layer, times });
    else say('They can go no further: another point, or an end, is in the way.');
    return;
  }
  if (!range)
    return say(
      'Nothing is picked: click points of the lane in hand, or set a range with I and O; then these keys move what is in it.',
    );
  if (!by.travel)
    return say(
      'A range is lifted up and down; to move it in time, pick its points first (Ctrl+A picks all of the lane).',
    );
  mend(
    scene,
    { kind: 'lift', controls: [control], range, travel: by.travel, edge: 0, layer },
    `${fullName(song, control)} lifted over the range.`,
  );
}

/** Puts a point on the curve in hand at the line, and picks it. */
export function addPointAtLine(scene: MendScene, t: Seconds): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song } = scene;
  const law = layerLaw(song, of.control, of.layer);
  const lane = laneOf(song, of.control);
  const v = valueAt(layerPoints(lane, of.layer), law, layerRest(lane, of.layer), t);
  if (layerPoints(lane, of.layer).t.includes(t)) return scene.pick({ ...of, times: [t] });
  if (
    mend(
      scene,
      addedPoint(song, of, t),
      `A point added to ${fullName(song, of.control)}: ${controlOf(song, of.control).scale.print(v)}.`,
    )
  )
    scene.pick({ ...of, times: [t] });
}

/** Plays what is picked, or the range, from a little before it, once or again and again. */
export function hearRange({ song, control, range, picked, say }: MendScene, isAgain: boolean): void {
  const there = pickedThere(song, picked);
  const times = there?.times ?? [];
  const span = times.length > 1 ? ([Math.min(...times), Math.max(...times)] as const) : range;
  if (span) return void control.playRange(span, isAgain);
  say('There is nothing to hear by itself: set a range with I and O, or pick points of the lane in hand.');
}

/** Fades the level in hand over the range, from silence or to it: its base, as an offset reaches no silence. */
export function fadeRange(scene: MendScene, way: 'in' | 'out'): void {
  const of = inHandOf(scene);
  if (!of) return;
  const { song, range, say } = scene;
  const { control } = of;
  if (!range) return say('There is nothing to fade over: set a range with I and O, or by dragging on the ruler.');
  if (!isInDb(controlOf(song, control)))
    return say(`${fullName(song, control)} is not in dB, so it has no silence to fade to.`);
  const edit: Edit = {
    kind: 'ramp',
    values: { [control]: SILENCE_DB },
    range,
    ...(way === 'in' ? { towards: 'old' } : { after: 'resume' }),
  };
  const words = way === 'in' ? 'in from silence' : 'out to silence';
  mend(scene, edit, `${fullName(song, control)} fades ${words} over the range; after it the curve goes on.`);
}
