import { goesMirrored } from '../groups/index.js';
import { layerLaw, type ControlId, type Song } from '../song/index.js';
import { travelOf, type Travel } from '../units/index.js';
import { layerInHand } from './mayWrite.js';

/** Where a value stands on the throw that a control has in hand: its own, or the trim's. */
export const travelInHand = (song: Song, id: ControlId, value: number): Travel =>
  travelOf(layerLaw(song, id, layerInHand(song, id)), value);

/** Which way the companions of a control go when it goes up: the same, or the opposite one. */
export const senseOf = (song: Song, id: ControlId): 1 | -1 => (goesMirrored(song, id) ? -1 : 1);
