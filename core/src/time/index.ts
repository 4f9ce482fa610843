export {
  barLines,
  meterAt,
  meterMap,
  placeAt,
  quartersAt,
  timeOfPlace,
  timeOfQuarters,
  type BarPlace,
  type MeterMap,
  type MeterMark,
  type TempoMark,
} from './meterMap.js';
export {
  TIME_FORMATS,
  frameRate,
  parseTime,
  printBars,
  printClock,
  printTime,
  printTimecode,
  type TimeFormat,
} from './clockTime.js';
export { GRIDS, snap, type Grid, type GridSong } from './grid.js';
