import { goesMirrored } from '../groups/index.js';
import { layerLaw, type ControlId, type Layer, type Song } from '../song/index.js';
import { travelOf, type Travel } from '../units/index.js';
import type { Finger } from './finger.js';
import { layerInHand } from './mayWrite.js';

/** Which throw a finger has in hand: its control's own, or the trim's while its channel trims. */
export const layerUnder = (song: Song, id: ControlId, finger: Finger | undefined): Layer =>
  finger?.isOnBase ? 'base' : layerInHand(song, id);

/** Where a value stands on a throw of a control. */
const travelOn = (song: Song, id: ControlId, layer: Layer, value: number): Travel =>
  travelOf(layerLaw(song, id, layer), value);

/** Where a finger stands on the throw that it has in hand. */
export const travelUnder = (song: Song, id: ControlId, finger: Finger): Travel =>
  travelOn(song, id, layerUnder(song, id, finger), finger.value);

/** Which way the companions of a control go when it goes up: the same, or the opposite one. */
export const senseOf = (song: Song, id: ControlId): 1 | -1 => (goesMirrored(song, id) ? -1 : 1);
