import { shoulderedPoint, type LayerOf } from '@sure-hand/core/edits';
import { laneOf, layerPoints, type Song } from '@sure-hand/core/song';
import { meterAt, meterMap } from '@sure-hand/core/time';
import type { Seconds } from '@sure-hand/core/units';
import { mend, mendRefusal, type MendScene } from './mending.js';
import { countPicked, pickedOf, pickedThere, type Picked } from './picking.js';

/** How far shoulders stand from their point: a beat there. */
function shoulderReach(song: Song, t: Seconds): Seconds {
  const map = meterMap(song.tempo, song.meter);
  const tempo = song.tempo.findLast((mark) => mark.t <= t) ?? song.tempo[0];
  return (60 / (tempo?.bpm ?? 120)) * (4 / meterAt(map, t).unit);
}

/** The lone point that is picked; null where there is another number of them. */
export function lonePoint(song: Song, picked: Picked | null): (LayerOf & { readonly index: number }) | null {
  const there = pickedThere(song, picked);
  const [lane] = there?.lanes ?? [];
  if (!there || !lane || countPicked(there) !== 1) return null;
  const { t } = layerPoints(laneOf(song, lane.control), lane.layer);
  const index = t.indexOf(lane.times[0]!);
  return t[index + 1] === t[index] ? null : { control: lane.control, layer: lane.layer, index };
}

/** Gives the picked point shoulders, so that only what lies between them goes with it. */
export function putShoulders(scene: MendScene): void {
  const lone = lonePoint(scene.song, scene.picked);
  if (!lone) return scene.say('Shoulders are for a lone point: pick one.');
  const { song } = scene;
  const points = layerPoints(laneOf(song, lone.control), lone.layer);
  const t = points.t[lone.index]!;
  const reach = shoulderReach(song, t);
  const of = { control: lone.control, layer: lone.layer };
  const refusal = mendRefusal(song, lone.control);
  if (refusal) return scene.say(refusal);
  const edit = shoulderedPoint(song, of, lone.index, { reach, was: points });
  if (!edit) return scene.say('There is no room for shoulders: its neighbours stand nearer than a beat.');
  if (mend(scene, edit, `Shoulders a beat from the point: only what lies between them goes with it.`))
    scene.pick(pickedOf([{ ...of, times: [t] }]));
}
