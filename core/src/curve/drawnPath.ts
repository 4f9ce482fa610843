import type { Seconds, Travel } from '../units/index.js';

/** How closely shapes are drawn as straight lines, in travel (rules, 6); a hair less, for what lies between two looks. */
export const DRAWN_WITHIN: Travel = 0.0018;
const LOOKS = 7;
const DEEPEST = 16;

/** A place on a path that is drawn as straight lines. */
export type PathPlace = { readonly t: Seconds; readonly x: Travel };

/** What a path is over time, in travel, without a step between two times, as places of straight lines close to it. */
export function drawnPath(
  travelAt: (t: Seconds) => Travel,
  a: Seconds,
  b: Seconds,
  within = DRAWN_WITHIN,
): PathPlace[] {
  const places: PathPlace[] = [{ t: a, x: travelAt(a) }];
  const go = (from: PathPlace, to: PathPlace, depth: number): void => {
    const span = to.t - from.t;
    let isClose = true;
    for (let k = 1; k <= LOOKS && isClose; k++) {
      const share = k / (LOOKS + 1);
      isClose = Math.abs(travelAt(from.t + span * share) - (from.x + (to.x - from.x) * share)) <= within;
    }
    if (isClose || depth >= DEEPEST) return void places.push(to);
    const t = from.t + span / 2;
    const middle = { t, x: travelAt(t) };
    go(from, middle, depth + 1);
    go(middle, to, depth + 1);
  };
  go(places[0]!, { t: b, x: travelAt(b) }, 0);
  return places;
}
