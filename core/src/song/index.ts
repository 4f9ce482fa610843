export {
  AFTER_WRITES,
  CHANNEL_KINDS,
  CONTROL_KINDS,
  DEFAULT_SETTINGS,
  FADE_SHAPES,
  FOLD_TRIMS,
  GANG_PANS,
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
  type GangPan,
  type GuardSet,
  type Insert,
  type Lane,
  type Layer,
  type Mode,
  type Note,
  type RecallFilter,
  type ReturnSound,
  type Section,
  type Send,
  type Settings,
  type Snapshot,
  type Song,
  type Sway,
} from './document.js';
export {
  channelNamed,
  controlId,
  controlOf,
  controlsOf,
  controlsOfChannel,
  fullName,
  guardedAs,
  hostNamed,
  insertControlId,
  insertName,
  isInDb,
  isLevel,
  isSwitch,
  kindNamed,
  laneOf,
  layerScale,
  likeOn,
  sendControlId,
  swayControlId,
  unknownControl,
  type Control,
  type Gate,
} from './control.js';
export { isParked, isReading, layerValueAt, modeInForce, ownValueAt, gateThatIsOff, withTrimAt } from './reading.js';
export { EDIT_REASONS, REASONS, guardOn, isSafe, ownGuards, type EditReason, type Reason, type Refusal } from './guards.js';
export { MOST_INSERTS, effectIn, insertsWrong, keyOf, listeningTo, settingsOf } from './inserts.js';
export { NEW_SWAY, swayOf, swayWithDefaults, swayWrong, swayedValue, swayingOf, withDepths, withThem } from './sways.js';
export { layerLaw, layerPoints, layerRest, withLayer } from './layers.js';
export { turnedOver } from './olderSettings.js';
export { SONG_SCHEMA } from './schema.js';
export {
  channelWithDefaults,
  gangWithDefaults,
  guardSetWithDefaults,
  insertWithDefaults,
  sendWithDefaults,
  snapshotWithDefaults,
} from './defaults.js';
export { findRing } from './ring.js';
export { carriesAudio, feedRing, keysOf, mainOf, outputOf, targetsOf } from './routing.js';
export { CLIP_GAIN, clipAt, shapedClip, type ClipShaping } from './clips.js';
