export { channelsModedWith, companionsOf, gangOf, gangsWrong, goesMirrored } from './gangs.js';
export { MAX_EFFECTIVE_DB, effectiveValueAt, sumDb, vcaRing, vcasOver } from './vcaSum.js';
