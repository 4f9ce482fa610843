export { comparedValues, isApart, type Compared } from './compare.js';
export { isRecalled, recalledFrom, snapshotOf, type Recalled } from './recall.js';
export { controlsTaken, valuesTaken, type HandOn, type TakenOf } from './take.js';
