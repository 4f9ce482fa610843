import type { LayerOf } from '@sure-hand/core/edits';
import type { Range } from '@sure-hand/core/curve';
import { layerInHand } from '@sure-hand/core/pass';
import { controlsOf, fullName, laneOf, layerPoints, type ControlId, type Layer, type Song } from '@sure-hand/core/song';
import { lastNotAfter, type Seconds } from '@sure-hand/core/units';
import type { FreshSpan } from './carrying.js';

/** Points of one layer of a lane, by their times; two that make a step count as one. */
export type PickedPoints = LayerOf & { readonly times: readonly Seconds[] };

/** Points that mending acts on, lane by lane; `isPass`: they are what the last pass wrote, and go with the curve between them. */
export type Picked = { readonly lanes: readonly PickedPoints[]; readonly isPass: boolean };

/** Points of some lanes as they are picked; null where there are none. */
export function pickedOf(lanes: readonly PickedPoints[], isPass = false): Picked | null {
  const some = lanes.filter(({ times }) => times.length > 0);
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

/** What is picked of one layer of a lane, by its times. */
export const timesPicked = (picked: Picked | null, of: LayerOf): readonly Seconds[] =>
  picked?.lanes.find(isOf(of))?.times ?? [];

/** Picks with other ones of one lane in the place of what was picked of it. */
export const withLane = (picked: Picked | null, lane: PickedPoints): Picked | null =>
  pickedOf([...(picked?.lanes.filter((one) => !isOf(lane)(one)) ?? []), lane]);

/** How many points are picked in all. */
export const countPicked = ({ lanes }: Picked): number => lanes.reduce((sum, { times }) => sum + times.length, 0);

/** Times of a layer's points from one to another; each once. */
export const timesIn = (song: Song, { control, layer }: LayerOf, from = -Infinity, to = Infinity): Seconds[] => [
  ...new Set([...layerPoints(laneOf(song, control), layer).t].filter((t) => t >= from && t < to)),
];

/** The points that are picked, as far as they are still there; null where none is. */
export function pickedThere(song: Song, picked: Picked | null): Picked | null {
  if (!picked) return null;
  const lanes = picked.lanes.flatMap((lane) => {
    if (!controlsOf(song).has(lane.control)) return [];
    const { t } = layerPoints(laneOf(song, lane.control), lane.layer);
    const times = lane.times.filter((time) => t[lastNotAfter(t, time)] === time);
    return [times.length === lane.times.length ? lane : { ...lane, times }];
  });
  return pickedOf(lanes, picked.isPass);
}

/** Times at which the picked points of a lane stand in a song that is heard in place of the one they were picked in. */
export function pickedAsHeard(song: Song, heard: Song, { control, layer, times }: PickedPoints): readonly Seconds[] {
  const [was, is] = [song, heard].map((of) => layerPoints(laneOf(of, control), layer).t) as [
    Float64Array,
    Float64Array,
  ];
  if (was === is || was.length !== is.length) return times;
  // Of a step both points are meant. Each is looked for by itself: a lane may have very many more.
  const found: Seconds[] = [];
  for (const time of times) {
    const i = lastNotAfter(was, time);
    if (was[i] !== time) continue;
    if (was[i - 1] === time) found.push(is[i - 1]!);
    found.push(is[i]!);
  }
  return found;
}

/** Picks after their points have moved from one song to another, no point having come or gone. */
export const pickedMoved = (was: Song, is: Song, { lanes, isPass }: Picked): Picked | null =>
  pickedOf(
    lanes.map((lane) => ({ ...lane, times: [...new Set(pickedAsHeard(was, is, lane))] })),
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
