import { cutOut, sameCurve, valueAt, type Curve, type Range } from '../curve/index.js';
import { travelOf, type Law, type Seconds, type Travel } from '../units/index.js';
import { controlsOf, laneOf, layerLaw, layerPoints, layerRest, withLayer } from '../song/index.js';
import type { ControlId, Lane, Layer, Section, Song } from '../song/index.js';
import type { LaneVersion } from './kinds/bringBack.js';

/** One layer of a lane as a pass found it and left it, whole; `rest` is what the layer was at without points. */
export type LoggedLane = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly rest: number;
  readonly before: Curve;
  readonly after: Curve;
};

/** What a pass found, or what it left. */
export type PassSide = 'before' | 'after';

/** Layers of lanes that differ between two songs, as a pass that made one of the other is logged. */
export function loggedLanes(before: Song, after: Song, ids: readonly ControlId[]): LoggedLane[] {
  return [...new Set(ids)].flatMap((control) =>
    (['base', 'trim'] as const).flatMap((layer): LoggedLane[] => {
      const [was, is] = [laneOf(before, control), laneOf(after, control)];
      const points = { before: layerPoints(was, layer), after: layerPoints(is, layer) };
      if (points.before === points.after || !(points.before.length + points.after.length)) return [];
      return [{ control, layer, rest: layerRest(was, layer), ...points }];
    }),
  );
}

/** The song with the lanes of a pass as it found or left them; everything else as it is now. Lanes that are gone are left out. */
export function songWith(song: Song, lanes: readonly LoggedLane[], side: PassSide): Song {
  const changed: { [id: ControlId]: Lane } = {};
  for (const lane of lanes)
    if (controlsOf(song).has(lane.control)) {
      const now = changed[lane.control] ?? laneOf(song, lane.control);
      changed[lane.control] = withLayer(now, lane.layer, lane[side]);
    }
  return { ...song, lanes: { ...song.lanes, ...changed } };
}

/** Logged lanes as an edit brings them back: whole, or over a range. */
export const versionsOf = (lanes: readonly LoggedLane[], side: PassSide, range: Range | null): LaneVersion[] =>
  lanes.map(({ control, layer, rest, ...points }) => ({ control, layer, range, points: points[side], rest }));

/** How far two curves may be apart to count as the same, in travel: what cutting and joining costs. */
const SAME_TRAVEL: Travel = 1e-7;

/** One state of a layer of a lane: its points, and what it rests at without any. */
export type LayerCurve = Pick<LaneVersion, 'points' | 'rest'>;

/** So many times tell of most curves that differ that they do, before they are looked through. */
const PROBES = 16;

/** Whether two states of a layer are the same in a range. */
export function curvesAgree(law: Law, one: LayerCurve, other: LayerCurve, range: Range): boolean {
  if (one.points === other.points && one.rest === other.rest) return true;
  const travelAt = ({ points, rest }: LayerCurve, t: Seconds): Travel => travelOf(law, valueAt(points, law, rest, t));
  for (let k = 0; k < PROBES; k++) {
    const t = range[0] + ((range[1] - range[0]) * (k + 0.5)) / PROBES;
    if (Math.abs(travelAt(one, t) - travelAt(other, t)) > 2 * SAME_TRAVEL) return false;
  }
  const a = cutOut(one.points, law, one.rest, range);
  const b = cutOut(other.points, law, other.rest, range);
  if (sameCurve(a, b)) return true;
  const differ = (t: Seconds): boolean =>
    Math.abs(travelOf(law, valueAt(a, law, 0, t)) - travelOf(law, valueAt(b, law, 0, t))) > SAME_TRAVEL;
  // Between points of both, the curves are straight or bent alike: their middles tell.
  const times = inOrder([...a.t, ...b.t]).filter((t) => t < range[1]);
  return times.every((t, i) => !differ(t) && !differ((t + (times[i + 1] ?? range[1])) / 2));
}

/** Times in order, each once. */
const inOrder = (times: readonly Seconds[]): Seconds[] => [
  ...Float64Array.from(times)
    .sort()
    .filter((t, i, all) => i === 0 || t !== all[i - 1]),
];

/** Whether a layer of a lane is in a range what it was in a version. */
export function standsAs(
  song: Song,
  { control, layer, points, rest }: Omit<LaneVersion, 'range'>,
  range: Range,
): boolean {
  const lane = laneOf(song, control);
  const now = { points: layerPoints(lane, layer), rest: layerRest(lane, layer) };
  return curvesAgree(layerLaw(song, control, layer), now, { points, rest }, range);
}

/**
 * Whose version of a lane's layer stands in a range, and which versions made a difference there. `versions` are its
 * states, newest first, the one before all passes last. `stands` is the version that brought what is there now, the
 * oldest of those that are alike; null where none is: somebody has changed it since.
 */
export function versionsInRange(
  song: Song,
  lane: { readonly control: ControlId; readonly layer: Layer },
  versions: readonly LayerCurve[],
  range: Range,
): { readonly differs: readonly boolean[]; readonly stands: number | null } {
  const law = layerLaw(song, lane.control, lane.layer);
  const differs = versions.map((one, i) => {
    const before = versions[i + 1];
    return before !== undefined && !curvesAgree(law, one, before, range);
  });
  const alike = versions.findIndex((one) => standsAs(song, { ...lane, ...one }, range));
  if (alike < 0) return { differs, stands: null };
  let stands = alike;
  while (stands < versions.length - 1 && !differs[stands]) stands++;
  return { differs, stands };
}

/** The sections of a song as ranges, the first from the song's start; one for all of a song without sections. */
export function sectionRanges(
  sections: readonly Section[],
  length: Seconds,
): { readonly name: string; readonly range: Range }[] {
  const inside = sections.filter((section) => section.t < length);
  const named = inside[0]?.t === 0 ? inside : [{ t: 0, name: inside.length ? '' : 'Song' }, ...inside];
  return named.map(({ t, name }, i) => ({ name, range: [t, named[i + 1]?.t ?? length] as const }));
}

/** Two sides of a lane read at the same times: travels, and how far apart in dB, or in per cent of its range where it has none. */
export type SidesAlong = {
  readonly t: readonly Seconds[];
  readonly before: readonly Travel[];
  readonly after: readonly Travel[];
  readonly difference: readonly number[];
  readonly unit: 'dB' | '%';
};

/** Below this a level counts as this low where two are compared: silence is not infinitely far from everything. */
const COMPARED_FLOOR_DB = -60;

/** Reads both sides of a lane over a range, at evenly spaced times and on both sides of each point. */
export function sidesAlong(song: Song, lane: LoggedLane, [from, to]: Range, steps: number): SidesAlong {
  const law = layerLaw(song, lane.control, lane.layer);
  const isDb = law.kind === 'level' || law.kind === 'trim';
  const inside = [...lane.before.t, ...lane.after.t].filter((t) => t > from && t < to);
  const even = Array.from({ length: steps + 1 }, (_, i) => from + ((to - from) * i) / steps);
  const hair = (to - from) * 1e-6;
  const t = inOrder([...even, ...inside, ...inside.map((at) => at - hair)]);
  const read = (side: PassSide): number[] => t.map((at) => valueAt(lane[side], law, lane.rest, at));
  const [before, after] = [read('before'), read('after')];
  const difference = t.map((_, i) => {
    const floored = (v: number): number => Math.max(COMPARED_FLOOR_DB, v);
    if (isDb) return floored(after[i]!) - floored(before[i]!);
    return 100 * (travelOf(law, after[i]!) - travelOf(law, before[i]!));
  });
  const travels = (values: readonly number[]): Travel[] => values.map((v) => travelOf(law, v));
  return { t, before: travels(before), after: travels(after), difference, unit: isDb ? 'dB' : '%' };
}

/**
 * What is to be seen of two sides in so many columns: where each of them and their difference is lowest and highest in a column, and the
 * ends. As it is where that is no less.
 */
export function inSight(sides: SidesAlong, columns: number): SidesAlong {
  const { t, before, after, difference } = sides;
  const lines = [before, after, difference];
  if (t.length <= 2 * lines.length * columns) return sides;
  const [from, to] = [t[0]!, t.at(-1)!];
  const columnOf = (i: number): number => Math.floor(((t[i]! - from) / (to - from)) * columns);
  const kept = new Set([0, t.length - 1]);
  for (let i = 0; i < t.length;) {
    const column = columnOf(i);
    const most = lines.flatMap(() => [i, i]);
    for (; i < t.length && columnOf(i) === column; i++)
      lines.forEach((line, k) => {
        if (line[i]! < line[most[2 * k]!]!) most[2 * k] = i;
        if (line[i]! > line[most[2 * k + 1]!]!) most[2 * k + 1] = i;
      });
    for (const one of most) kept.add(one);
  }
  const places = [...kept].sort((a, b) => a - b);
  const of = (line: readonly number[]): number[] => places.map((i) => line[i]!);
  return { t: of(t), before: of(before), after: of(after), difference: of(difference), unit: sides.unit };
}
