import equal from 'fast-deep-equal';
import {
  controlsOf,
  fullName,
  guardOn,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  withDepths,
  withLayer,
  withThem,
  type Channel,
  type ControlId,
  type Lane,
  type Layer,
  type EditReason,
  type Refusal,
  type Song,
} from '../song/index.js';
import type { Curve, LaneCurve } from '../curve/index.js';
import type { Applied } from './editKind.js';

/** What an edit did that left the song as it was. */
export const unchanged = (song: Song, refused: readonly Refusal[] = []): Applied => ({
  song,
  inverse: null,
  changed: [],
  refused,
});

/** Replaces lanes, and what follows of sways; the inverse puts back what stood there, untouched lanes as untouched. */
export function withLanes(
  song: Song,
  asked: { readonly [id: ControlId]: Lane | null },
  refused: readonly Refusal[],
): Applied {
  const lanes = withDepths(song, asked);
  const changed = Object.keys(lanes);
  if (!changed.length) return unchanged(song, refused);
  const next: { [id: ControlId]: Lane } = { ...song.lanes };
  const before: { [id: ControlId]: Lane | null } = {};
  for (const [id, lane] of Object.entries(lanes)) {
    before[id] = song.lanes[id] ?? null;
    if (lane) next[id] = lane;
    else delete next[id];
  }
  return { song: { ...song, lanes: next }, inverse: { kind: 'lanes', lanes: before }, changed, refused };
}

/** Lanes without some of them. */
export const lanesWithout = (lanes: Song['lanes'], ids: readonly ControlId[]): Song['lanes'] => {
  const rest = { ...lanes };
  for (const id of ids) delete rest[id];
  return rest;
};

/** What of some lanes can be put back: those of controls that a song has. */
export const lanesThere = (
  song: Song,
  lanes: { readonly [id: ControlId]: Lane | null } | undefined,
): { [id: ControlId]: Lane } => {
  const there: { [id: ControlId]: Lane } = {};
  const known = controlsOf(withThem(song, lanes ?? {}));
  for (const [id, lane] of Object.entries(lanes ?? {})) if (lane && known.has(id)) there[id] = lane;
  return there;
};

/**
 * A song with another frame: without the lanes of controls that go with it, with those that come back. `had`: the lanes that went,
 * for the inverse to give back; absent where none did.
 */
export function reframed(
  song: Song,
  framed: Song,
  { goes, back }: { readonly goes: readonly ControlId[]; readonly back: Parameters<typeof lanesThere>[1] },
): { readonly song: Song; readonly changed: readonly ControlId[]; readonly had: { readonly lanes?: Song['lanes'] } } {
  const gone = goes.filter((id) => song.lanes[id]);
  const come = lanesThere(framed, back);
  const changed = [...gone, ...Object.keys(come)];
  return {
    song: changed.length ? { ...framed, lanes: { ...lanesWithout(song.lanes, gone), ...come } } : framed,
    changed,
    had: gone.length ? { lanes: Object.fromEntries(gone.map((id) => [id, song.lanes[id]!])) } : {},
  };
}

/** What keeps an edit from a control; null where nothing does. */
type WhyNot = (song: Song, id: ControlId) => EditReason | null;

/** Controls of some that are guarded, and by what. */
export const guardsOf = (song: Song, ids: Iterable<ControlId>, whyNot: WhyNot = guardOn): Refusal[] =>
  [...new Set(ids)].flatMap((control): Refusal[] => {
    const reason = controlsOf(song).has(control) ? whyNot(song, control) : null;
    return reason ? [{ control, reason }] : [];
  });

/**
 * Changes every asked-for lane that is there and that nothing guards; the guarded ones are left alone and named. `whyNot`: what
 * guards them, besides safe and parked.
 */
export function changeLanes(
  song: Song,
  ids: readonly ControlId[],
  change: (id: ControlId, lane: Lane) => Lane,
  whyNot: WhyNot = guardOn,
): Applied {
  const refused = guardsOf(song, ids, whyNot);
  const guarded = new Set(refused.map(({ control }) => control));
  const lanes: { [id: ControlId]: Lane } = {};
  for (const id of new Set(ids)) {
    if (!controlsOf(song).has(id)) continue;
    const lane = laneOf(song, id);
    const next = guarded.has(id) ? lane : change(id, lane);
    if (next !== lane) lanes[id] = next;
  }
  return withLanes(song, lanes, refused);
}

/** One layer of a lane as a curve, with the law of its throw and what it is at without points. */
export const curveOf = (song: Song, id: ControlId, lane: Lane, on: Layer): LaneCurve => ({
  points: layerPoints(lane, on),
  law: layerLaw(song, id, on),
  rest: layerRest(lane, on),
});

/** {@link changeLanes} of one layer's curve: a lane whose curve stays the same object stays as it is. */
export const changeCurves = (
  song: Song,
  ids: readonly ControlId[],
  on: Layer,
  change: (curve: LaneCurve, id: ControlId) => Curve,
  whyNot?: WhyNot,
): Applied =>
  changeLanes(
    song,
    ids,
    (id, lane) => {
      const points = change(curveOf(song, id, lane, on), id);
      return points === layerPoints(lane, on) ? lane : withLayer(lane, on, points);
    },
    whyNot,
  );

/** Keeps of `now` just what `changes` names, so that the inverse of a change touches nothing else. */
export function previous<T extends object>(now: T, changes: Partial<T>): Partial<T> {
  return Object.fromEntries(Object.keys(changes).map((key) => [key, now[key as keyof T]])) as Partial<T>;
}

/**
 * A list with one item in place of another, in order of time; null where the one to be replaced is not there any more,
 * so that nobody's change is overwritten unseen.
 */
export function exchanged<T extends { readonly t: number }>(
  list: readonly T[],
  remove: T | null,
  add: T | null,
): T[] | null {
  const at = remove ? list.findIndex((item) => equal(item, remove)) : -1;
  if (remove && at < 0) return null;
  const rest = list.filter((_, i) => i !== at);
  return add ? [...rest.filter((item) => item.t <= add.t), add, ...rest.filter((item) => item.t > add.t)] : rest;
}

/** A song with one of its channels changed. */
export const withChannel = (song: Song, channel: Channel, changes: Partial<Channel>): Song => ({
  ...song,
  channels: song.channels.map((one) => (one === channel ? { ...one, ...changes } : one)),
});

/** What a control is called; its id where the song does not have it any more. */
export const nameOf = (song: Song, id: ControlId): string => (controlsOf(song).has(id) ? fullName(song, id) : id);

/** The first of some controls by name, and how many more there are. */
export function namesOf(song: Song, ids: readonly ControlId[]): string {
  const [first, ...more] = ids;
  if (first === undefined) return 'nothing';
  return more.length ? `${nameOf(song, first)} and ${more.length} more` : nameOf(song, first);
}
