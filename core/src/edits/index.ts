export {
  EDIT_KINDS,
  applyEdit,
  completedEdit,
  editKind,
  guardedSince,
  isUndoStep,
  nameOfEdit,
  takeApplied,
  whyNotMade,
  type Edit,
} from './registry.js';
export { editTable, editTableText } from './editTable.js';
export { type Applied, type Clamping, type EditKind, type LaneThinned } from './editKind.js';
export { type LaneVersion } from './kinds/bringBack.js';
export { type ChannelState } from './kinds/channel.js';
export { type ChannelWords } from './kinds/describe.js';
export { freeSlot } from './kinds/copyInsert.js';
export { foldedLane } from './kinds/foldTrim.js';
export { type MarkEdit, type MarkList, type Marks } from './kinds/mark.js';
export { withoutGuards, type Heeded, type LaneReceipt, type PassEdit, type Piece, type Receipt } from './kinds/pass.js';
export { furthestMove, type MoveEdit } from './kinds/move.js';
export { type CurveEdit, type TogetherEdit } from './kinds/together.js';
export { addedPoint, bentThrough, canBend, shapedSegment, shoulderedPoint, type LayerOf } from './mends.js';
export { shiftWithin, shiftedSpans, type WrittenSpan } from './shifting.js';
export { isAsPlaced, isLogged, placedEntry, placedReceipt, type PlacedEntry } from './entry.js';
export { changedAt } from './origin.js';
export { guardsKept, statesOfSet } from './guardSets.js';
export { keptWrong } from './keptChecks.js';
export { valuesPlaced, whyNotFolded, whyNotPlaced, type Placed } from './placing.js';
export { channelsWrong } from './channelChecks.js';
export { gangsWrong } from '../groups/index.js';
export { firstWrong, laneWrong, curveWithDefaults, rangesWrong, spanWrong, type SparsePoint } from './laneChecks.js';
export {
  curvesAgree,
  inSight,
  loggedLanes,
  sectionRanges,
  sidesAlong,
  songWith,
  standsAs,
  versionsInRange,
  versionsOf,
  type LayerCurve,
  type LoggedLane,
  type PassSide,
  type SidesAlong,
} from './versions.js';
