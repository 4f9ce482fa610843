import type { Curve } from '../curve/index.js';
import { TRIM_LAW, type Law } from '../units/index.js';
import { controlOf } from './control.js';
import type { ControlId, Lane, Layer, Song } from './document.js';

/** The travel law of one layer of a control. */
export const layerLaw = (song: Song, id: ControlId, layer: Layer): Law =>
  layer === 'trim' ? TRIM_LAW : controlOf(song, id).law;

/** What one layer of a lane is at without points. */
export const layerRest = (lane: Lane, layer: Layer): number => (layer === 'trim' ? 0 : lane.rest);

/** The points of one layer of a lane. */
export const layerPoints = (lane: Lane, layer: Layer): Curve => (layer === 'trim' ? lane.trim : lane.points);

/** A lane with other points on one layer. */
export const withLayer = (lane: Lane, layer: Layer, points: Curve): Lane =>
  layer === 'trim' ? { ...lane, trim: points } : { ...lane, points };
