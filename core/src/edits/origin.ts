import { valueAt } from '../curve/index.js';
import { travelOf, type Law, type Seconds, type Travel } from '../units/index.js';
import type { LayerCurve } from './versions.js';

/** Less than this, in travel, is no difference: what cutting and joining costs. */
const SAME_TRAVEL: Travel = 1e-7;
/** Right after a time is looked at too: at a step it is what comes that was written. */
const AFTER_SEC: Seconds = 1e-3;

/** Whether of two states of a layer, one after the other, the later one says something else at t. */
export const changedAt = (law: Law, before: LayerCurve, after: LayerCurve, t: Seconds): boolean =>
  [t, t + AFTER_SEC].some((time) => {
    const travel = ({ points, rest }: LayerCurve): Travel => travelOf(law, valueAt(points, law, rest, time));
    return Math.abs(travel(before) - travel(after)) > SAME_TRAVEL;
  });
