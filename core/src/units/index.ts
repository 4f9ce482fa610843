export {
  MAX_LEVEL_DB,
  SILENCE_DB,
  clamp,
  dbOfGain,
  gainOfDb,
  type Db,
  type Frames,
  type Gain,
  type Seconds,
  type Travel,
} from './unit.js';
export {
  LEVEL_CORNERS_DB,
  LEVEL_LAW,
  PAN_LAW,
  SWITCH_LAW,
  TRIM_LAW,
  TRIM_REACH_DB,
  gainOfTravel,
  levelOfTravel,
  rangeOf,
  travelOf,
  travelOfLevel,
  valueOf,
  type Law,
} from './travel.js';
export { PAN_LAWS, leftBalanceGain, leftGain, type PanLaw } from './panLaw.js';
export { parseValue, printDb, printPan, printValue, type Display, type ParsedValue } from './spokenValue.js';
