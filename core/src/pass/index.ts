export { layerInHand, setsRest, whyGuarded, whyNotWritten } from './mayWrite.js';
export { HAND, type HandEvent } from './handEvent.js';
export { handPath, type HandValue } from './handPath.js';
export { lineValueAt, type LaneTake, type ReturnLine, type Span } from './laneTake.js';
export { PassRecorder, type Doing, type Outcome } from './recorder.js';
export { type Roll } from './roll.js';
export {
  preflight,
  remedyFor,
  standings,
  writingRange,
  type Preflight,
  type Remedy,
  type Standing,
  type WillWrite,
} from './preflight.js';
export { runMoves, type Ridden } from './moves.js';
export { passState, recoverPass, type PassJournal, type PassState } from './recover.js';
