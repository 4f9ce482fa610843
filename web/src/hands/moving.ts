import type { Move, Range } from '@sure-hand/core/curve';
import { applyEdit, shiftWithin, shiftedSpans, type CurveEdit, type Edit, type LayerOf } from '@sure-hand/core/edits';
import { controlOf, isSwitch, laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import { clamp, type Seconds } from '@sure-hand/core/units';
import { freshSpans } from './carrying.js';
import {
  NOTHING_PICKED,
  freePicked,
  lanesInHand,
  mend,
  oneStep,
  passPicked,
  pointsMeant,
  whenWorkedOut,
  type MendScene,
} from './mending.js';
import { amountWords, movedWords, printShift } from './mendWords.js';
import {
  byLayer,
  countPicked,
  lanesWords,
  pickedMoved,
  pickedOf,
  pickedOfPass,
  pickedThere,
  pointsOfLanes,
  pointsWords,
  timesIn,
  type Picked,
} from './picking.js';

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
  if (picked) return movePicked(scene, picked, by);
  if (!range) return say(NOTHING_PICKED('these keys move what is in it'));
  const lanes = lanesInHand(scene);
  if (!lanes) return;
  if (by.travel) return liftRange(scene, lanes, range, by.travel);
  const inside = pickedOf(lanes.map((of) => ({ ...of, times: timesIn(song, of, ...range) })));
  if (!inside)
    return say(`${lanesWords(song, lanes)} ${lanes.length > 1 ? 'have' : 'has'} no points inside the range.`);
  movePicked(scene, inside, by, (far) => {
    if (far) scene.setRange([clamp(range[0] + far, 0, song.length), clamp(range[1] + far, 0, song.length)]);
  });
}

/** Moves picked points and says how far they went; `then` is told how far in time. */
function movePicked(scene: MendScene, asked: Picked, by: Move, then?: (far: Seconds) => void): void {
  const picked = freePicked(scene, asked);
  if (!picked) return;
  const edit = moveEdit(scene, picked, by);
  if (!edit) return scene.say(NO_FURTHER);
  whenWorkedOut(scene, picked, edit, {
    act: () => {
      const far = moveNow(scene, picked, edit, by);
      then?.(far);
    },
    again: (now, there) => movePicked(now, there, by, then),
  });
}

const NO_FURTHER = 'They can go no further: another point, or an end, is in the way.';

/** Does it; gives back how far they went in time. */
function moveNow(scene: MendScene, picked: Picked, edit: Edit, by: Move): Seconds {
  const { song, say } = scene;
  const applied = applyEdit(song, edit);
  if (!applied.changed.length) {
    say(NO_FURTHER);
    return 0;
  }
  if (passPicked(scene, picked)) {
    const words = by.t ? printShift(by.t) : `${Math.round(Math.abs(by.travel) * 1000) / 10} % of the throw`;
    return passMended(scene, edit, by, words);
  }
  const amount = amountOf(song, applied.song, picked);
  if (!mend(scene, edit, movedWords(song, picked.lanes, countPicked(picked), amount))) return 0;
  const next = pickedMoved(song, applied.song, picked);
  if (scene.picked) scene.pick(next);
  return next ? next.lanes[0]!.times[0]! - picked.lanes[0]!.times[0]! : 0;
}

/** All that the pass wrote moves, and stays picked; how far it went in time, 0 where the song did not take it. `words`: how far, as it is said. */
export function passMended(scene: MendScene, edit: Edit, by: Move, words: string): Seconds {
  const { song, control, fresh } = scene;
  if (!fresh) return 0;
  const { receipt, lanes, changes } = fresh;
  const spans = freshSpans(receipt, changes);
  const far = by.t ? shiftWithin(song, spans, by.t) : 0;
  // One that the song does not take has said so, and has moved nothing.
  if (!control.mendPass(edit, far).changed.length) return 0;
  scene.pick(pickedOfPass(applyEdit(song, edit).song, far ? freshSpans(receipt, [...changes, { shift: far }]) : spans));
  const ways = [
    far ? (far < 0 ? 'put earlier' : 'put later') : '',
    by.travel ? (by.travel > 0 ? 'lifted' : 'lowered') : '',
  ];
  scene.did(`What the pass wrote in ${lanesWords(song, lanes)} ${ways.filter(Boolean).join(' and ')}: ${words}.`);
  return far;
}

function liftRange(scene: MendScene, lanes: readonly LayerOf[], range: Range, travel: number): void {
  const { song, liftEdge, control } = scene;
  const edit = liftEdit(song, lanes, range, { travel, edge: liftEdge });
  if (!edit) return scene.say(`${lanesWords(song, lanes)} is a switch, which can’t be lifted.`);
  control.ahead(
    edit,
    lanes.map((lane) => lane.control),
    (now) => {
      if (now === song) mend(scene, edit, `${lanesWords(song, lanes)} lifted over the range.`);
      else liftRange({ ...scene, song: now }, lanes, range, travel);
    },
  );
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

/** Draws the picked points, or those in the range, apart from the lowest of their lane, or nearer to it. */
export function scalePoints(scene: MendScene, factor: number): void {
  const asked = pointsMeant(scene);
  if (asked) scalePicked(scene, asked, factor);
  else scene.say(NOTHING_PICKED('these keys scale what is in it'));
}

function scalePicked(scene: MendScene, asked: Picked, factor: number): void {
  const { song, say } = scene;
  const picked = freePicked(scene, asked);
  const edit = picked && scaleEdit(song, picked, factor);
  if (!edit) return;
  const percent = Math.round(factor * 1000) / 10;
  const words = `${pointsWords(song, picked.lanes, countPicked(picked))} scaled to ${percent} % about the lowest.`;
  whenWorkedOut(scene, picked, edit, {
    act: () => {
      if (!mend(scene, edit, words)) say('They stand at one height, or at an end: there is nothing to scale.');
    },
    again: (now, there) => scalePicked(now, there, factor),
  });
}
