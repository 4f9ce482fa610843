import equal from 'fast-deep-equal';
import { controlOf, controlsOf, laneOf } from './control.js';
import type { Channel, ControlId, Lane, Song } from './document.js';
import type { Applied, Clamping, Edit, MarkEdit } from './edit.js';
import { guardOn, type Refusal } from './guards.js';
import { broughtBack, carriedLane, foldedLane, spliced } from './laneEdits.js';

/** Times of a pass and of a guard come from one clock, through JSON: they agree to less than this. */
const HEEDED_WITHIN_SEC = 1e-9;

const unchanged = (song: Song, refused: readonly Refusal[] = []): Applied => ({
  song,
  inverse: null,
  changed: [],
  refused,
});

/** Replaces lanes; the inverse puts back what stood there, untouched lanes as untouched. */
function withLanes(song: Song, lanes: { readonly [id: ControlId]: Lane | null }, refused: readonly Refusal[]): Applied {
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

/** Changes every asked-for lane that nothing guards; the guarded ones are left alone and named. */
function changeLanes(song: Song, ids: readonly ControlId[], change: (id: ControlId, lane: Lane) => Lane): Applied {
  const lanes: { [id: ControlId]: Lane } = {};
  const refused: Refusal[] = [];
  for (const id of new Set(ids)) {
    const guard = guardOn(song, id);
    const lane = laneOf(song, id);
    const next = guard ? lane : change(id, lane);
    if (guard) refused.push({ control: id, reason: guard });
    else if (next !== lane) lanes[id] = next;
  }
  return withLanes(song, lanes, refused);
}

/**
 * Puts whole lanes back. The guards stay as they are now: they are no undo steps. Where one of the lanes has been made
 * safe or parked since, the whole is refused, naming it (rules, 4).
 */
function restoreLanes(song: Song, lanes: { readonly [id: ControlId]: Lane | null }): Applied {
  const refused = Object.keys(lanes).flatMap((id): Refusal[] => {
    const guard = controlsOf(song).has(id) ? guardOn(song, id) : null;
    return guard ? [{ control: id, reason: guard }] : [];
  });
  if (refused.length) return unchanged(song, refused);
  const kept = Object.entries(lanes).map(([id, lane]) => {
    const { parked, safe } = laneOf(song, id);
    if (!lane && !parked && !safe) return [id, null] as const;
    return [id, { ...(lane ?? { rest: controlOf(song, id).rest, points: [], trim: [] }), parked, safe }] as const;
  });
  return withLanes(song, Object.fromEntries(kept), []);
}

/** Keeps of `now` just what `changes` names, so that the inverse of a change touches nothing else. */
function previous<T extends object>(now: T, changes: Partial<T>): Partial<T> {
  return Object.fromEntries(Object.keys(changes).map((key) => [key, now[key as keyof T]])) as Partial<T>;
}

/**
 * A list with one item in place of another, in order of time; null where the one to be replaced is not there any more,
 * so that nobody's change is overwritten unseen.
 */
function exchanged<T extends { readonly t: number }>(list: readonly T[], remove: T | null, add: T | null): T[] | null {
  const at = remove ? list.findIndex((item) => equal(item, remove)) : -1;
  if (remove && at < 0) return null;
  const rest = list.filter((_, i) => i !== at);
  return add ? [...rest.filter((item) => item.t <= add.t), add, ...rest.filter((item) => item.t > add.t)] : rest;
}

function exchangeMark(song: Song, edit: MarkEdit): Applied {
  // The list and its items belong together by the edit's type, which a union cannot say of both at once.
  type Any = { readonly t: number };
  const list = exchanged(song[edit.list] as readonly Any[], edit.remove as Any | null, edit.add as Any | null);
  if (!list) return unchanged(song);
  const inverse = { ...edit, remove: edit.add, add: edit.remove } as MarkEdit;
  return { ...unchanged(song), song: { ...song, [edit.list]: list }, inverse };
}

function exchangeClip(song: Song, edit: Edit & { kind: 'clip' }): Applied {
  const channel = song.channels.find((c) => c.key === edit.channel)!;
  const clips = exchanged(channel.clips, edit.remove, edit.add);
  if (!clips) return unchanged(song);
  return {
    ...unchanged(song),
    song: withChannel(song, channel, { clips }),
    inverse: { ...edit, remove: edit.add, add: edit.remove },
  };
}

function setGuard(song: Song, edit: Edit & { kind: 'guard' }): Applied {
  const { control, changes, forget } = edit;
  const lane = laneOf(song, control);
  const lanes: { [id: ControlId]: Lane } = { ...song.lanes, [control]: { ...lane, ...changes } };
  const isUntouched = !lane.points.length && !lane.trim.length && lane.rest === controlOf(song, control).rest;
  if (forget && isUntouched) delete lanes[control];
  const never = song.lanes[control] === undefined ? { forget: true as const } : {};
  return {
    ...unchanged(song),
    song: { ...song, lanes },
    inverse: { kind: 'guard', control, changes: previous(lane, changes), ...never },
  };
}

const withChannel = (song: Song, channel: Channel, changes: Partial<Channel>): Song => ({
  ...song,
  channels: song.channels.map((one) => (one === channel ? { ...one, ...changes } : one)),
});

/**
 * What keeps an edit from being done again: lanes of a pass that have been made safe or parked since it was made. The
 * recorder asked the guards as it went; doing it again is no pass, and is refused whole (rules, 4).
 */
export function guardedSince(song: Song, edit: Edit): Refusal[] {
  if (edit.kind !== 'pass') return [];
  return [...new Set(edit.pieces.map((piece) => piece.control))].flatMap((id) => {
    const guard = guardOn(song, id);
    return guard ? [{ control: id, reason: guard }] : [];
  });
}

/**
 * Lanes of a pass that are guarded now without its having heeded that guard: it did not know of it, or wrote on after it.
 * They are left alone (rules, 4).
 */
function unheeded(song: Song, { pieces, heeded = [] }: Edit & { kind: 'pass' }): Refusal[] {
  const ends = new Map<ControlId, number>();
  for (const { control, span } of pieces) ends.set(control, Math.max(ends.get(control) ?? 0, span[1]));
  return [...ends].flatMap(([control, end]): Refusal[] => {
    const reason = guardOn(song, control);
    const known = heeded.find((one) => one.control === control);
    return reason && !(known && end <= known.t + HEEDED_WITHIN_SEC) ? [{ control, reason }] : [];
  });
}

/** The lanes of a pass as it would have left them had nothing been guarded: what was ridden is kept, to be brought back. */
export function withoutGuards(song: Song, { pieces }: Edit & { kind: 'pass' }): Song {
  const lanes: { [id: ControlId]: Lane } = { ...song.lanes };
  for (const piece of pieces)
    lanes[piece.control] = spliced(song, lanes[piece.control] ?? laneOf(song, piece.control), piece);
  return { ...song, lanes };
}

/** Applies an edit to a song. Pure: the song given is not changed, and what the edit leaves alone is shared with it. */
export function applyEdit(song: Song, edit: Edit): Applied {
  switch (edit.kind) {
    case 'pass': {
      const lanes: { [id: ControlId]: Lane } = {};
      const refused = unheeded(song, edit);
      const left = new Set(refused.map(({ control }) => control));
      for (const piece of edit.pieces)
        if (!left.has(piece.control))
          lanes[piece.control] = spliced(song, lanes[piece.control] ?? laneOf(song, piece.control), piece);
      for (const id of edit.fold ?? [])
        if (lanes[id] && !guardOn(song, id)) lanes[id] = foldedLane(song, id, lanes[id]).lane;
      return withLanes(song, lanes, refused);
    }
    case 'foldTrim': {
      const clamped: Clamping[] = [];
      const applied = changeLanes(song, edit.controls, (id, lane) => {
        const folded = foldedLane(song, id, lane);
        if (folded.clamped.length) clamped.push({ control: id, ranges: folded.clamped });
        return folded.lane;
      });
      return clamped.length ? { ...applied, clamped } : applied;
    }
    case 'carry':
      return changeLanes(song, [edit.control], (_id, lane) => carriedLane(song, lane, edit));
    case 'bringBack': {
      const ids = edit.versions.map((version) => version.control);
      return changeLanes(song, ids, (id, lane) =>
        edit.versions.filter(({ control }) => control === id).reduce((one, v) => broughtBack(song, one, v), lane),
      );
    }
    case 'rest':
      return changeLanes(song, Object.keys(edit.values), (id, lane) => ({ ...lane, rest: edit.values[id]! }));
    case 'lanes':
      return restoreLanes(song, edit.lanes);
    case 'channel': {
      const now = song.channels.find((c) => c.key === edit.channel)!;
      const inverse = { ...edit, changes: previous(now, edit.changes) };
      return { ...unchanged(song), song: withChannel(song, now, edit.changes), inverse };
    }
    case 'describe': {
      const now = song.channels.find((c) => c.key === edit.channel)!;
      const inverse = { ...edit, changes: previous(now, edit.changes) };
      return { ...unchanged(song), song: withChannel(song, now, edit.changes), inverse };
    }
    case 'title':
      return { ...unchanged(song), song: { ...song, name: edit.name }, inverse: { ...edit, name: song.name } };
    case 'mark':
      return exchangeMark(song, edit);
    case 'clip':
      return exchangeClip(song, edit);
    case 'guard':
      return setGuard(song, edit);
    case 'settings':
      return {
        ...unchanged(song),
        song: { ...song, settings: { ...song.settings, ...edit.changes } },
        inverse: { ...edit, changes: previous(song.settings, edit.changes) },
      };
  }
}
