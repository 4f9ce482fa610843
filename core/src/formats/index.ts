export { readEdit } from './editDocument.js';
export { parseSong, readSong, type Read } from './songDocument.js';
export { parseMoves } from './movesFile.js';
export { FrameEncoder, decodeFrames, readWavInfo, wavHeader, type SampleFormat, type WavInfo } from './wav.js';
