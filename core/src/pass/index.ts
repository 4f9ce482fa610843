export { layerInHand, setsRest, whyGuarded, whyNotWritten } from './mayWrite.js';
export { HAND, type HandEvent } from './handEvent.js';
export { handPath, heldStill, type HandValue } from './handPath.js';
export { lineValueAt, type LaneTake, type ReturnLine, type Span } from './laneTake.js';
export { LATE, OrderedHands, type Deed, type Moment, type Told } from './orderedHands.js';
export { PassRecorder, type Doing, type Outcome } from './recorder.js';
export { type Roll } from './roll.js';
export {
  baseInHand,
  closenessOf,
  givesOffset,
  handDoes,
  ownByHands,
  playWrites,
  touchWrites,
  writesNow,
  wrote,
  type Closeness,
  type HandDoes,
  type Reach,
} from './facts.js';
export {
  preflight,
  remedyFor,
  standings,
  writingEnds,
  writingRange,
  type Preflight,
  type Remedy,
  type Standing,
  type WillWrite,
} from './preflight.js';
export { runMoves, type Ridden } from './moves.js';
export { passState, recoverPass, type PassJournal, type PassState, type Recovered } from './recover.js';
