import { Curve, holdPoint, valueAt, type Point } from '../../curve/index.js';
import { vcasOver } from '../../groups/index.js';
import {
  controlId,
  controlOf,
  laneOf,
  type ChannelKey,
  type ControlId,
  type Lane,
  type Song,
} from '../../song/index.js';
import { unchanged, withLanes } from '../applied.js';
import type { Applied } from '../editKind.js';
import { refusalsOf } from './foldVca.js';

/** A mute that is on wherever one of two is. */
function either(song: Song, id: ControlId, own: Lane, over: Lane): Lane {
  if (!own.points.length && !over.points.length) return { ...own, rest: Math.max(own.rest, over.rest) };
  const { law } = controlOf(song, id);
  const at = (t: number): number => Math.max(...[own, over].map(({ points, rest }) => valueAt(points, law, rest, t)));
  const times = [...new Set([...own.points.t, ...over.points.t])].sort((a, b) => a - b);
  const points: Point[] = [];
  let is = Math.max(...[own, over].map(({ points: curve, rest }) => curve.v[0] ?? rest));
  for (const t of times) {
    // Before its first point the first value holds: one that changes there needs both.
    if (!points.length) points.push(holdPoint(t, is));
    const next = at(t);
    if (next !== is) points.push(holdPoint(t, next));
    is = next;
  }
  return { ...own, points: Curve.of(points) };
}

/** A VCA's mute put into the mute lanes of the members it reaches, as it is dissolved (rules, 6); refused whole as its level's fold. */
export function foldMutes(song: Song, vca: ChannelKey): Applied {
  const own = controlId(vca, 'mute');
  const over = laneOf(song, own);
  if (!over.points.length && over.rest < 0.5) return unchanged(song);
  const ids = song.channels
    .filter(({ key, kind }) => kind !== 'vca' && vcasOver(song, key).includes(vca))
    .map(({ key }) => controlId(key, 'mute'));
  const refused = refusalsOf(song, [...ids, own]);
  if (refused.length) return unchanged(song, refused);
  return withLanes(song, Object.fromEntries(ids.map((id) => [id, either(song, id, laneOf(song, id), over)])), []);
}
