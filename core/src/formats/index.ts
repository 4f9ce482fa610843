export {
  FAMILY_NAMES,
  OTHER_FAMILY,
  guessTrack,
  keyFor,
  nameApart,
  newSong,
  type NewSong,
  type NewTrack,
  type TrackWords,
} from './newSong.js';
export { readEdit, readyToRead } from './editDocument.js';
export { bytesOfCurve, curveOfBytes } from './curveBytes.js';
export { PACKED_TYPE, apart, packed, putTogether, unpacked } from './packed.js';
export { isTooDeep } from './outside.js';
export { frameWithDefaults, parseSong, readSong, type Read } from './songDocument.js';
export { readPieceOfPass, type PieceOfPass } from './journalPiece.js';
export { isPiece, printPiece, readPiece, type LanePiece } from './laneText.js';
export {
  pointsOfRows,
  printPointTable,
  readPointTable,
  type RowOfTable,
  type TableTerms,
  type WrongRow,
} from './pointTable.js';
export { parseMoves } from './movesFile.js';
export {
  FrameEncoder,
  decodeFrames,
  findWavInfo,
  isLongWav,
  readWavInfo,
  wavHeader,
  type ReadBytes,
  type SampleFormat,
  type WavInfo,
} from './wav.js';
