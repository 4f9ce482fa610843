import { meterWords } from '../meterWords.js';
import { RIDE } from '../rideLayout.js';
import { DONE, type GestureKind, type StageRef } from './gesture.js';

/** A click on the meters clears what they hold. */
export const clearMeters = (stage: StageRef): GestureKind => ({
  hit({ x, row }) {
    if (x >= RIDE.meterPx || !row?.isHead) return null;
    return { cursor: '', title: meterWords(stage.current.open, row.channel) };
  },
  begin({ x }) {
    if (x >= RIDE.meterPx) return null;
    stage.current.open.meters.clear();
    return DONE;
  },
});
