export { channelsModedWith, companionsOf, gangOf, gangsWrong, goesMirrored } from './gangs.js';
export {
  effectiveValueAt,
  heardValue,
  levelParts,
  mutedBy,
  ownBySong,
  type LevelParts,
  type OwnAt,
  type OwnValue,
} from './parts.js';
export { MAX_EFFECTIVE_DB, sumDb, vcaRing, vcasOver } from './vcaSum.js';
