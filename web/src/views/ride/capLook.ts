import { layerInHand, type Doing } from '@sure-hand/core/pass';
import { isParked, modeInForce, controlOf, laneOf, type ControlId, type Song } from '@sure-hand/core/song';

/** How a cap and its line are drawn; shape first, colour second (screens, Look). */
export type CapLook =
  | 'reading'
  | 'resting'
  | 'heard'
  | 'touch'
  | 'latch'
  | 'write'
  | 'returning'
  | 'poised'
  | 'aside'
  | 'off'
  | 'parked';

/** What a control looks like, from what the recorder says it does. */
export function capLook(song: Song, id: ControlId, doing: Doing): CapLook {
  const mode = modeInForce(song, controlOf(song, id).channel);
  if (doing.what === 'return') return 'returning';
  if (doing.what === 'aside') return 'aside';
  if (doing.what === 'hand') {
    if (doing.poised) return 'poised';
    if (!doing.writes) return 'heard';
    if (mode === 'write') return 'write';
    return doing.finger ? 'touch' : 'latch';
  }
  if (isParked(song, id)) return 'parked';
  if (mode === 'off') return 'off';
  const lane = laneOf(song, id);
  return (layerInHand(song, id) === 'trim' ? lane.trim : lane.points).length ? 'reading' : 'resting';
}
