import { CurveMaker, holdPoint, type Curve } from '../curve/index.js';
import type { Seconds, Travel } from '../units/index.js';
import { HAND } from './handEvent.js';

/**
 * A value a hand had at a time, in the layer's unit. `x` is its travel, where it was worked out as it came: at a stop there
 * can be hundreds of thousands of them.
 */
export type HandValue = { readonly t: Seconds; readonly v: number; readonly x?: Travel };

/** The points a span leaves after thinning, and how far they are from the hand's path at most, in travel. */
export type KeptPath = { readonly points: Curve; readonly maxDeviation: number };

/** Whether a hand held still from one of its values to the next, rather than moving all the way (rules, 5, Hand path). */
export const heldStill = (from: HandValue, to: HandValue): boolean => to.t - from.t > HAND.stillSec;

/**
 * The path of a hand from its first value to `end`: straight in travel from one to the next; where the hand held still
 * between them the value holds, but for the last 20 ms (rules, 5). Of several values at one time the path goes to the
 * first and leaves with the last.
 */
export function handPath(values: readonly HandValue[], end: Seconds): HandValue[] {
  const path: HandValue[] = [];
  for (const value of values) {
    const last = path.at(-1);
    if (last?.t === value.t) {
      const isStep = path.length === 1 || path.at(-2)!.t === value.t;
      if (isStep) path.pop();
    } else if (last && heldStill(last, value)) path.push({ ...last, t: value.t - HAND.glideSec });
    path.push(value);
  }
  const last = path.at(-1);
  if (last && last.t < end) path.push({ ...last, t: end });
  return path;
}

/** A switch's path: each value holds until the next; of several at one time the last counts. */
export function switchPoints(values: readonly HandValue[]): Curve {
  const maker = new CurveMaker();
  for (const { t, v } of values) {
    if (maker.timeFromEnd(1) === t) maker.pop();
    if (!maker.length || maker.lastValue !== v) maker.add(holdPoint(t, v));
  }
  return maker.make();
}
