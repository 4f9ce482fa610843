export { ELSEWHERE, IN_THREAD, codeMemory, compiled, threadMemory, type CodeMemory } from './machineCode.js';
export { quickExpInPlace, quickTanInPlace } from './quick.js';
export { tableText } from './table.js';
export { lastKeyedNotAfter, lastNotAfter } from './search.js';
export {
  MAX_LEVEL_DB,
  SILENCE_DB,
  areFinite,
  clamp,
  dbOfGain,
  gainInPlace,
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
  levelGainInPlace,
  levelOfTravel,
  rangeOf,
  travelOf,
  travelOfLevel,
  trimGainInPlace,
  unitOf,
  valueOf,
  type Law,
} from './travel.js';
export { quoted } from './quoted.js';
export { PAN_LAWS, asBalance, leftBalanceGain, leftGain, leftGainInPlace, type PanLaw } from './panLaw.js';
export {
  LEVEL_SCALE,
  MOST_SWAY,
  MUTE_SCALE,
  PAN_SCALE,
  SWAY_SCALE,
  SWITCH_SCALE,
  TRIM_SCALE,
  numberScale,
  parseValue,
  plainValue,
  printDb,
  printPan,
  readNumber,
  speakValue,
  throwMarks,
  type ParsedValue,
  type ThrowMark,
  type ValueScale,
} from './valueScale.js';
