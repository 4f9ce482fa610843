export { Curve, CurveMaker, sameCurve, type Columns, type MoreOfPoint } from './curve.js';
export { SHAPES, SHAPE_CODE, holdPoint, linePoint, type Point, type Range, type Shape } from './point.js';
export { isStraight, partFraction, shapeFraction, withPart } from './shapes.js';
export { CurveReader, columnsOf, pointBefore, travelIn, valueArriving, valueAt, type CurveColumns } from './lookup.js';
export { lastNotAfter } from '../units/index.js';
export { firstNotBefore, cutOut, placesIn, splice } from './splice.js';
export { carried, type Carrying } from './carry.js';
export { lifted, type LaneCurve, type Lift } from './lift.js';
export { FOLD, foldedCurve, type Folded, type HeardTogether } from './fold.js';
export { heldDb, trimmedDb } from './together.js';
export {
  THIN_LIMITS,
  ThinStream,
  thinRun,
  type Samples,
  type ThinLimits,
  type ThinMark,
  type Thinned,
} from './thin.js';
export { cleared, withoutPointsAt } from './clear.js';
export { furthest, moved, picksOf, scaled, type Move, type Picked, type Picks } from './move.js';
export { mappingBetween, pieceFor, type Goal, type Mapping } from './copy.js';
export { WAVES, pointsOfWave, waveOver, type Cycles, type Wave, type WaveShape } from './wave.js';
export { thinnedCurve, type ThinnedCurve } from './thinCurve.js';
export { SwayReader, swayingAt, turnsAt, type Swaying, type Turning } from './sway.js';
export { pointsOfSway, swayedCurve, type Swayed } from './swayed.js';
