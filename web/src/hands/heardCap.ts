import { type PassRecorder } from '@sure-hand/core/pass';
import { layerValueAt, type ControlId, type Song } from '@sure-hand/core/song';
import type { Seconds } from '@sure-hand/core/units';

/** Where a cap stands at a time, in the unit of the layer in hand: in a hand, or on the curve as it is heard, be it drafted or compared. */
export function heardCap(recorder: PassRecorder, heard: Song, id: ControlId, t: Seconds): number {
  if (heard === recorder.song || recorder.doing(id, t).what !== 'curve') return recorder.capAt(id, t);
  return layerValueAt(heard, id, recorder.layerOf(id), t);
}
