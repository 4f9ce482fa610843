import { Curve, CurveMaker, type Point, type Range } from '../curve/index.js';
import {
  channelOf,
  controlOf,
  controlsOf,
  isInDb,
  isSwitch,
  layerLaw,
  swayWithDefaults,
  swayWrong,
  unknownControl,
  withThem,
  type ChannelKey,
  type ControlId,
  type Lane,
  type Layer,
  type Settings,
  type Song,
} from '../song/index.js';
import { MOST_SECONDS } from '../song/schemaParts.js';
import { rangeOf, type Law } from '../units/index.js';

/** A point as it may come from outside: a straight line where no shape is said, bent by half for an `s` (rules, 9). */
export type SparsePoint = Partial<Point>;

/** The curve of points from outside, each with the defaults of what it does not say. */
export function curveWithDefaults(sparse: Curve | readonly SparsePoint[] | undefined): Curve {
  if (!sparse || sparse instanceof Curve) return sparse ?? Curve.EMPTY;
  const maker = new CurveMaker(sparse.length);
  for (const p of sparse) maker.addSparse(p as SparsePoint & Pick<Point, 't' | 'v'>);
  return maker.make();
}

/** Things with points from outside, each with the curve of them; the same list where they have it. */
export const withCurves = <T extends { readonly points: Curve }>(list: readonly T[]): readonly T[] =>
  list.every(({ points }) => points instanceof Curve)
    ? list
    : list.map((one) => ({ ...one, points: curveWithDefaults(one.points) }));

/** Says of values whether they are none that a law has. Less than silence is silence. */
function outsideOf(law: Law): (v: number) => boolean {
  if (law.kind === 'switch') return (v) => v !== 0 && v !== 1;
  const { min, max } = rangeOf(law);
  const least = law.kind === 'level' ? -Number.MAX_VALUE : min;
  return (v) => !(v >= least && v <= max);
}

/** The sentence for a value that a control's layer does not take; null where it takes it. */
export function valueWrong(song: Song, id: ControlId, layer: Layer, v: number): string | null {
  const law = layerLaw(song, id, layer);
  if (!outsideOf(law)(v)) return null;
  if (isSwitch(controlOf(song, id))) return `${id} is a switch and takes 0 or 1, not ${v}.`;
  const { min, max } = rangeOf(law);
  return `${id} takes ${min} to ${max}, not ${v}.`;
}

/** Points that something brings to one layer of a lane, and the stretch they have to lie in, if it says one. */
type Brought = {
  readonly control: ControlId;
  readonly layer: Layer;
  readonly points: Curve;
  readonly span?: Range;
};

/** What is wrong with points: a value out of range, times out of order, more than two at one; null where nothing is. */
export function pointsWrong(song: Song, { control, layer, points, span }: Brought): string | null {
  const law = layerLaw(song, control, layer);
  const isOut = outsideOf(law);
  const [from, to] = span ?? [0, MOST_SECONDS];
  const { t, v } = points;
  // A pass has many thousands: what is wrong is put into words only where something is.
  for (let i = 0; i < points.length; i++) {
    const at = t[i]!;
    const isRight = at >= from && at <= to && at >= 0 && at <= MOST_SECONDS && !isOut(v[i]!);
    const isInOrder = !(i > 0 && at < t[i - 1]!) && !(i > 1 && at === t[i - 2]);
    if (isRight && isInOrder && points.partFrom(i) <= points.partTo(i)) continue;
    return pointWrong(points, i, isOut(v[i]!), `${layer === 'trim' ? 'trim' : 'curve'} of ${control}`, span);
  }
  return null;
}

/** What is wrong with one of some points, which something is wrong with. */
function pointWrong(points: Curve, i: number, isOut: boolean, what: string, span?: Range): string {
  const { t, v, part } = points.point(i);
  const name = `Point ${i + 1} of the ${what} (${t} s)`;
  if (!Number.isFinite(t) || t < 0 || t > MOST_SECONDS) return `${name} has no time of a song.`;
  if (isOut) return `${name} has the value ${v}, outside its range.`;
  if (part && part[0] > part[1]) return `${name} is the part ${part.join(' … ')} of its shape, back to front.`;
  if (span && (t < span[0] || t > span[1])) return `${name} lies outside ${span[0]} … ${span[1]} s.`;
  if (i > 0 && t < points.t[i - 1]!) return `${name} comes before the one it follows; sort the points by t.`;
  return `Three points of the ${what} share ${t} s; at most two may.`;
}

/** The sentence for a stretch that ends before it begins. */
export const spanWrong = (what: string, [from, to]: Range): string | null =>
  from < to ? null : `${what} ends at ${to} s, not after its beginning at ${from} s.`;

/** The sentence for a loop or punch range that ends before it begins. */
export const rangesWrong = ({ punch, loop }: Partial<Settings>): string | null =>
  (punch && spanWrong('The punch range', punch)) ?? (loop && spanWrong('The loop', loop)) ?? null;

/** The sentence for a trim on what has none. */
export const trimWrong = (song: Song, id: ControlId, layer: Layer | undefined): string | null =>
  layer === 'trim' && !isInDb(controlOf(song, id)) ? `${id} is not in dB, so it has no trim.` : null;

/** What is wrong with a lane that comes whole, from an edit or a document; null where nothing is. */
export function laneWrong(song: Song, control: ControlId, { rest, points, trim, sway }: Lane): string | null {
  return (
    unknownControl(song, control) ??
    (sway ? swayWrong(song, control, sway) : null) ??
    valueWrong(song, control, 'base', rest) ??
    pointsWrong(song, { control, layer: 'base', points }) ??
    (trim.length
      ? (trimWrong(song, control, 'trim') ?? pointsWrong(song, { control, layer: 'trim', points: trim }))
      : null)
  );
}

/** The first of some sentences that says anything. */
export const firstWrong = (sentences: Iterable<string | null>): string | null => {
  for (const sentence of sentences) if (sentence !== null) return sentence;
  return null;
};

/** The sentence for the first of some controls that the song does not have. */
export const controlsWrong = (song: Song, ids: readonly ControlId[]): string | null =>
  firstWrong(ids.map((id) => unknownControl(song, id)));

/** The sentence for the first of some values that its control does not take, or that is of none. */
export const valuesWrong = (song: Song, values: { readonly [id: ControlId]: number }): string | null =>
  firstWrong(Object.entries(values).map(([id, v]) => unknownControl(song, id) ?? valueWrong(song, id, 'base', v)));

/** What says which points of some lanes are meant. */
type Picking = {
  readonly controls: readonly ControlId[];
  readonly range?: Range;
  readonly points?: { readonly [id: ControlId]: readonly number[] };
  readonly layer?: Layer;
};

/** The sentence for lanes and points that can't be meant; null where they can. `what` is done with the range. */
export const pickingWrong = (song: Song, what: string, { controls, range, points, layer }: Picking): string | null =>
  controlsWrong(song, controls) ??
  firstWrong(controls.map((id) => trimWrong(song, id, layer))) ??
  (range && points ? `Points to ${what} are given by a range or by their times, not by both.` : null) ??
  (range ? spanWrong(`The range to ${what}`, range) : null) ??
  firstWrong(
    Object.keys(points ?? {}).map((id) =>
      controls.includes(id) ? null : `Points of ${id} are given, which is not among the controls.`,
    ),
  );

/** The control and the layer that something names: there, and with such a layer. */
export const layerWrong = (song: Song, { control, layer }: { control: ControlId; layer?: Layer }): string | null =>
  unknownControl(song, control) ?? trimWrong(song, control, layer);

/** The sentence for a channel that the song does not have. */
export const noChannel = (song: Song, key: ChannelKey): string | null =>
  channelOf(song, key) ? null : `The song has no channel “${key}”.`;

/** A lane with the defaults of what it does not say; one of no control is refused by its name later. */
function wholeLane(song: Song, id: ControlId, lane: Partial<Lane>): Lane {
  const rest = lane.rest ?? (unknownControl(song, id) ? 0 : controlOf(song, id).rest);
  const { parked = false, safe = false, sway } = lane;
  const [points, trim] = [curveWithDefaults(lane.points), curveWithDefaults(lane.trim)];
  return { ...lane, rest, parked, safe, points, trim, ...(sway ? { sway: swayWithDefaults(sway) } : {}) };
}

/** Lanes with the defaults of what they do not say; null stays. */
export function wholeLanes<L extends Lane | null>(
  song: Song,
  lanes: { readonly [id: ControlId]: L },
): { [id: ControlId]: L } {
  const then = withThem(song, lanes);
  return Object.fromEntries(Object.entries(lanes).map(([id, lane]) => [id, (lane && wholeLane(then, id, lane)) as L]));
}

/** What is wrong with some lanes, which may be null: the first of them. A depth's lane may come, or go, with its sway. */
export function lanesWrong(song: Song, lanes: { readonly [id: ControlId]: Lane | null }): string | null {
  const then = withThem(song, lanes);
  return firstWrong(
    Object.entries(lanes).map(([id, lane]) => {
      if (lane) return laneWrong(then, id, lane);
      return controlsOf(then).has(id) ? null : unknownControl(song, id);
    }),
  );
}
