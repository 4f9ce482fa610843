export {
  FAMILY_NAMES,
  OTHER_FAMILY,
  guessTrack,
  newSong,
  type NewSong,
  type NewTrack,
  type TrackWords,
} from './newSong.js';
export { readEdit } from './editDocument.js';
export { frameWithDefaults, parseSong, readSong, type Read } from './songDocument.js';
export { parseMoves } from './movesFile.js';
export {
  FrameEncoder,
  decodeFrames,
  findWavInfo,
  readWavInfo,
  wavHeader,
  type ReadBytes,
  type SampleFormat,
  type WavInfo,
} from './wav.js';
