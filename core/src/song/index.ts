export {
  CHANNEL_KINDS,
  CONTROL_KINDS,
  DEFAULT_SETTINGS,
  FADE_SHAPES,
  MODES,
  RETURN_SOUNDS,
  channelOf,
  type Channel,
  type ChannelKey,
  type ChannelKind,
  type Clip,
  type ControlId,
  type ControlKind,
  type FadeShape,
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
  type LaneReceipt,
  type LaneVersion,
  type MarkEdit,
  type MarkList,
  type Marks,
  type Piece,
  type Receipt,
} from './edit.js';
export { applyEdit, guardedSince } from './applyEdit.js';
export { foldedLane, layerLaw, layerPoints, layerRest } from './laneEdits.js';
export { nameOfEdit } from './editName.js';
export { SONG_SCHEMA } from './schema.js';
export { findRing } from './ring.js';
export { carriesAudio, feedRing, mainOf, outputOf, targetsOf } from './routing.js';
export { CLIP_GAIN, clipAt, shapedClip, type ClipShaping } from './clips.js';
export {
  loggedLanes,
  sectionRanges,
  sidesAlong,
  songWith,
  standsAs,
  versionsOf,
  type LoggedLane,
  type PassSide,
  type SidesAlong,
} from './versions.js';
