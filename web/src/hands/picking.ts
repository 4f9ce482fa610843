import type { LayerOf } from '@sure-hand/core/edits';
import { picksOf, type Curve, type Picks, type Range } from '@sure-hand/core/curve';
import { layerInHand } from '@sure-hand/core/pass';
import { controlsOf, fullName, laneOf, layerPoints, type ControlId, type Layer, type Song } from '@sure-hand/core/song';
import { type Seconds } from '@sure-hand/core/units';
import type { FreshSpan } from './carrying.js';

/** Points of one layer of a lane, by their times; two that make a step count as one. */
export type PickedPoints = LayerOf & { readonly times: readonly Seconds[] };

/** Points that mending acts on, lane by lane; `isPass`: they are what the last pass wrote, and go with the curve between them. */
export type Picked = { readonly lanes: readonly PickedPoints[]; readonly isPass: boolean };

/** Points of some lanes as they are picked; null where there are none. */
export function pickedOf(lanes: readonly PickedPoints[], isPass = false): Picked | null {
  const some = lanes.filter(({ times }) => times.length > 0);
  // The store freezes what it is given, and looks through it number by number where it is not frozen yet.
  for (const { times } of some) Object.freeze(times);
  return some.length ? { lanes: some, isPass } : null;
}

/** The layer of a control that gestures are about: the trim while its channel trims, else the base. */
export const layerOf = (song: Song, control: ControlId): LayerOf => ({ control, layer: layerInHand(song, control) });

/** The controls that acts on a range are about: the one in hand, with those chosen beside it where it is among them. */
export const togetherWith = (inHand: ControlId, chosen: readonly ControlId[]): readonly ControlId[] =>
  chosen.includes(inHand) ? chosen : [inHand];

const isOf =
  ({ control, layer }: LayerOf) =>
  (other: LayerOf): boolean =>
    other.control === control && other.layer === layer;

/** What is picked of one layer of a lane; undefined where nothing is. */
export const lanePicked = (picked: Picked | null, of: LayerOf): PickedPoints | undefined =>
  picked?.lanes.find(isOf(of));

/** The same by its times. */
export const timesPicked = (picked: Picked | null, of: LayerOf): readonly Seconds[] =>
  lanePicked(picked, of)?.times ?? [];

/** Picks with other ones of one lane in the place of what was picked of it. */
export const withLane = (picked: Picked | null, lane: PickedPoints): Picked | null =>
  pickedOf([...(picked?.lanes.filter((one) => !isOf(lane)(one)) ?? []), lane]);

/** How many points are picked in all. */
export const countPicked = ({ lanes }: Picked): number => lanes.reduce((sum, { times }) => sum + times.length, 0);

/** Times of a layer's points from one to another; each once. */
export function timesIn(song: Song, { control, layer }: LayerOf, from = -Infinity, to = Infinity): Seconds[] {
  const { t, length } = layerPoints(laneOf(song, control), layer);
  const times: Seconds[] = [];
  for (let i = 0; i < length; i++) if (t[i]! >= from && t[i]! < to && t[i] !== t[i - 1]) times.push(t[i]!);
  return times;
}

/** Picked times as they are in a curve: their points, and how many of the times are still there. */
type Found = { readonly curve: Curve; readonly picks: Picks; readonly count: number };
/** Looked for once: they are asked for with each picture and each word. */
const found = new WeakMap<readonly Seconds[], Found>();

function findIn(song: Song, { control, layer, times }: PickedPoints): Found {
  const curve = layerPoints(laneOf(song, control), layer);
  const last = found.get(times);
  if (last?.curve === curve) return last;
  const picks = picksOf(curve, { times });
  const now = { curve, picks, count: countAt(curve, picks) };
  found.set(times, now);
  return now;
}

/** Which points of a layer are picked, by their times. */
export const picksIn = (song: Song, lane: PickedPoints): Picks => findIn(song, lane).picks;

/** The times of points at some places of a curve, in order; each once. */
function timesAt({ t }: Curve, { at }: Picks): Seconds[] {
  const times: Seconds[] = [];
  for (let k = 0; k < at.length; k++) if (k === 0 || t[at[k]!] !== t[at[k - 1]!]) times.push(t[at[k]!]!);
  return times;
}

/** The points that are picked, as far as they are still there; null where none is. */
export function pickedThere(song: Song, picked: Picked | null): Picked | null {
  if (!picked) return null;
  const lanes = picked.lanes.flatMap((lane) => {
    if (!controlsOf(song).has(lane.control)) return [];
    const { curve, picks, count } = findIn(song, lane);
    return [count === lane.times.length ? lane : { ...lane, times: timesAt(curve, picks) }];
  });
  return pickedOf(lanes, picked.isPass);
}

/** How many times there are among the points at some places: two that make a step stand at one. */
function countAt({ t }: Curve, { at }: Picks): number {
  let count = 0;
  for (let k = 0; k < at.length; k++) if (k === 0 || t[at[k]!] !== t[at[k - 1]!]) count++;
  return count;
}

/** Which points are the picked ones of a lane in a song that is heard in place of the one they were picked in. */
export function picksAsHeard(song: Song, heard: Song, lane: PickedPoints): Picks {
  const [was, is] = [song, heard].map((of) => layerPoints(laneOf(of, lane.control), lane.layer).length);
  // No point has come or gone: they are the same ones, wherever they stand now.
  return picksIn(was === is ? song : heard, lane);
}

/** Picks after their points have moved from one song to another, no point having come or gone. */
export const pickedMoved = (was: Song, is: Song, { lanes, isPass }: Picked): Picked | null =>
  pickedOf(
    lanes.map((lane) => {
      const curve = layerPoints(laneOf(is, lane.control), lane.layer);
      return { ...lane, times: timesAt(curve, picksAsHeard(was, is, lane)) };
    }),
    isPass,
  );

/** All points that the last pass wrote, where its spans stand now. */
export const pickedOfPass = (song: Song, fresh: readonly FreshSpan[]): Picked | null => {
  const lanes: PickedPoints[] = [];
  for (const { control, layer, span } of fresh) {
    const at = lanes.findIndex(isOf({ control, layer }));
    const times = timesIn(song, { control, layer }, span[0], span[1] + 1e-9);
    if (at < 0) lanes.push({ control, layer, times });
    else lanes[at] = { ...lanes[at]!, times: [...new Set([...lanes[at]!.times, ...times])] };
  }
  return pickedOf(lanes, true);
};

/** From the first picked point to the last, over all lanes. */
export function spanOfPicked({ lanes }: Picked): Range {
  const times = lanes.flatMap((lane) => lane.times);
  return [times.reduce((a, b) => Math.min(a, b)), times.reduce((a, b) => Math.max(a, b))];
}

/** Times by control, as edits take them. */
export const pointsOfLanes = (lanes: readonly PickedPoints[]): { [id: ControlId]: readonly Seconds[] } =>
  Object.fromEntries(lanes.map(({ control, times }) => [control, times]));

/** Some lanes by their layer: an edit is about one of them. */
export function byLayer<L extends LayerOf>(
  lanes: readonly L[],
): { readonly layer: Layer; readonly lanes: readonly L[] }[] {
  const layers = [...new Set(lanes.map(({ layer }) => layer))];
  return layers.map((layer) => ({ layer, lanes: lanes.filter((one) => one.layer === layer) }));
}

/** Lanes in words: the one by its name, of a trim `Lead level’s trim`; of more their number. */
export function lanesWords(song: Song, lanes: readonly LayerOf[]): string {
  const [only, ...more] = lanes;
  if (!only) return 'nothing';
  if (more.length) return `${lanes.length} lanes`;
  return `${fullName(song, only.control)}${only.layer === 'trim' ? '’s trim' : ''}`;
}

/** Points in words: `3 points of Lead level`, of a trim `3 points of Lead level’s trim`, `7 points of 2 lanes`. */
export const pointsWords = (song: Song, of: LayerOf | readonly LayerOf[], count: number): string =>
  `${count} ${count === 1 ? 'point' : 'points'} of ${lanesWords(song, 'control' in of ? [of] : of)}`;
