export { MAX_EFFECTIVE_DB, effectiveValueAt, sumDb, vcaRing, vcasOver } from './vcaSum.js';
