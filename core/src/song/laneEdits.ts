import { carried, cutOut, foldedCurve, splice, type Point, type Range } from '../curve/index.js';
import { TRIM_LAW, type Law } from '../units/index.js';
import { controlOf, isInDb } from './control.js';
import type { ControlId, Lane, Layer, Song } from './document.js';
import type { Edit, LaneVersion, Piece } from './edit.js';

/** The travel law of one layer of a control. */
export const layerLaw = (song: Song, id: ControlId, layer: Layer): Law =>
  layer === 'trim' ? TRIM_LAW : controlOf(song, id).law;

/** What one layer of a lane is at without points. */
export const layerRest = (lane: Lane, layer: Layer): number => (layer === 'trim' ? 0 : lane.rest);

/** The points of one layer of a lane. */
export const layerPoints = (lane: Lane, layer: Layer): readonly Point[] => (layer === 'trim' ? lane.trim : lane.points);

/** A lane with other points on one layer. */
export const withLayer = (lane: Lane, layer: Layer, points: readonly Point[]): Lane =>
  layer === 'trim' ? { ...lane, trim: points } : { ...lane, points };

/** A lane with a written piece in it. */
export function spliced(song: Song, lane: Lane, { control, layer, span, points }: Piece): Lane {
  const law = layerLaw(song, control, layer);
  return withLayer(lane, layer, splice(layerPoints(lane, layer), law, layerRest(lane, layer), span, points));
}

/** A lane with its trim folded into its base; the same lane where no trim waits. */
export function foldedLane(
  song: Song,
  id: ControlId,
  lane: Lane,
): { readonly lane: Lane; readonly clamped: readonly Range[] } {
  if (!lane.trim.length || !isInDb(controlOf(song, id))) return { lane, clamped: [] };
  const { points, rest, trim } = lane;
  const folded = foldedCurve({ base: points, trim, rest, end: song.length });
  return { lane: { ...lane, points: folded.points, trim: [] }, clamped: folded.clamped };
}

/** A lane with a stretch of it drawn on; the same lane where there is no curve. */
export function carriedLane(song: Song, lane: Lane, { control, from, to, layer }: Edit & { kind: 'carry' }): Lane {
  const on = layer ?? 'base';
  const before = layerPoints(lane, on);
  const points = carried(before, layerLaw(song, control, on), from, to);
  return points === before ? lane : withLayer(lane, on, points);
}

/** A lane with a layer, or a range of it, as it was at another time. */
export function broughtBack(song: Song, lane: Lane, { control, layer, range, points, rest }: LaneVersion): Lane {
  if (!range) return withLayer(lane, layer, points);
  const now = layerPoints(lane, layer);
  // With no curve now or then, and one rest, there is nothing to change.
  if (!now.length && !points.length && rest === layerRest(lane, layer)) return lane;
  const law = layerLaw(song, control, layer);
  return withLayer(lane, layer, splice(now, law, layerRest(lane, layer), range, cutOut(points, law, rest, range)));
}
