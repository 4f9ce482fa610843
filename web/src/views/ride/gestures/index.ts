import { boxPoints } from './boxPoints.js';
import { carryEnd } from './carryEnd.js';
import { clearMeters } from './clearMeters.js';
import { drawByHand } from './drawByHand.js';
import { HeldGestures, type StageRef } from './gesture.js';
import { mendCurve } from './mendCurve.js';
import { mendPoints } from './mendPoints.js';
import { rideCap } from './rideCap.js';
import { scaleByGrip } from './scaleByGrip.js';
import { scrubLine } from './scrubLine.js';
import { shapeClip } from './shapeClip.js';
import { sweepRange } from './sweepRange.js';

export { HeldGestures, type LaneStage, type PointerAt, type StageRef } from './gesture.js';

/** What pointers can do on the lanes of Ride, the first that fits first. */
export const rideGestures = (stage: StageRef): HeldGestures =>
  new HeldGestures([
    scrubLine(stage),
    drawByHand(stage),
    rideCap(stage),
    clearMeters(stage),
    carryEnd(stage),
    scaleByGrip(stage),
    mendPoints(stage),
    boxPoints(stage),
    mendCurve(stage),
    shapeClip(stage),
    sweepRange(stage),
  ]);
