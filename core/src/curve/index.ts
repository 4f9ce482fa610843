export { Curve, CurveMaker, sameCurve, type Columns, type MoreOfPoint } from './curve.js';
export { SHAPES, SHAPE_CODE, holdPoint, linePoint, type Point, type Range, type Shape } from './point.js';
export { isStraight, partFraction, shapeFraction } from './shapes.js';
export { CurveReader, columnsOf, pointBefore, travelIn, valueArriving, valueAt, type CurveColumns } from './lookup.js';
export { lastNotAfter } from '../units/index.js';
export { cutOut, placesIn, splice } from './splice.js';
export { carried } from './carry.js';
export { lifted, type LaneCurve, type Lift } from './lift.js';
export { FOLD, foldedCurve, trimmedDb, type Folded, type TrimmedCurve } from './fold.js';
export {
  THIN_LIMITS,
  ThinStream,
  thinRun,
  type Samples,
  type ThinLimits,
  type ThinMark,
  type Thinned,
} from './thin.js';
