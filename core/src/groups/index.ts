export { MAX_EFFECTIVE_DB, effectiveValueAt, hasCurve, sumDb, vcaRing, vcasOver } from './vcaSum.js';
