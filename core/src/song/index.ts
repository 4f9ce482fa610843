export {
  AFTER_WRITES,
  CHANNEL_KINDS,
  CONTROL_KINDS,
  DEFAULT_SETTINGS,
  FADE_SHAPES,
  FOLD_TRIMS,
  MODES,
  RETURN_SOUNDS,
  channelOf,
  type AfterWrite,
  type Channel,
  type ChannelKey,
  type ChannelKind,
  type Clip,
  type ControlId,
  type ControlKind,
  type FadeShape,
  type FoldTrim,
  type Gang,
  type Lane,
  type Layer,
  type Mode,
  type Note,
  type ReturnSound,
  type Section,
  type Send,
  type Settings,
  type Song,
} from './document.js';
export {
  controlOf,
  controlsOf,
  controlsOfChannel,
  fullName,
  isInDb,
  isSwitch,
  laneOf,
  unknownControl,
  type Control,
} from './control.js';
export { isParked, isReading, layerValueAt, modeInForce, ownValueAt, sendThatIsOff } from './reading.js';
export { REASONS, guardOn, isSafe, type Reason, type Refusal } from './guards.js';
export {
  isUndoStep,
  type Applied,
  type ChannelState,
  type ChannelWords,
  type Clamping,
  type Edit,
  type Heeded,
  type LaneReceipt,
  type LaneVersion,
  type MarkEdit,
  type MarkList,
  type Marks,
  type Piece,
  type Receipt,
} from './edit.js';
export { applyEdit, guardedSince, withoutGuards } from './applyEdit.js';
export { foldedLane, layerLaw, layerPoints, layerRest } from './laneEdits.js';
export { nameOfEdit } from './editName.js';
export { turnedOver } from './olderSettings.js';
export { SONG_SCHEMA } from './schema.js';
export { findRing } from './ring.js';
export { carriesAudio, feedRing, mainOf, outputOf, targetsOf } from './routing.js';
export { CLIP_GAIN, clipAt, shapedClip, type ClipShaping } from './clips.js';
export {
  curvesAgree,
  loggedLanes,
  sectionRanges,
  sidesAlong,
  songWith,
  standsAs,
  versionsInRange,
  versionsOf,
  type LoggedLane,
  type PassSide,
  type SidesAlong,
} from './versions.js';
