export { makeSong, type DemoName, type MakeOptions, type Progress } from './makeSong.js';
export { TRACKS } from './score/tracks.js';
