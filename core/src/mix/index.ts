export {
  mixPlan,
  type ClipPlan,
  type ControlPlan,
  type MixPlan,
  type NodePlan,
  type PlanOptions,
  type SendPlan,
  type StemOf,
} from './plan.js';
export { MixPlanner, changedPlan, type PlanChange } from './planner.js';
export { isHeardUnderSolo, soloedIn } from './heard.js';
export { bounce, framesOf, type BounceSink } from './bounce.js';
export { FOUND } from './found.js';
export { DOES, HandTable } from './hands.js';
export { copyFrames } from './copyFrames.js';
export { fadeGain } from './fade.js';
export { GAIN } from './nodeGains.js';
export { MAX_BLOCK, MixRenderer, type Meters, type SampleSource } from './renderer.js';
export { PEAK_FRAMES, PeakMaker, peakBytes, peaksOf, type PeakPyramid } from './peaks.js';
export { Resampler, framesAtRate } from './resample.js';
export { TAIL_SEC, returnEffect, type ReturnEffect } from './returnSound.js';
