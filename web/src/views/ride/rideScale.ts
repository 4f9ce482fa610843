import type { Seconds } from '@sure-hand/core/units';
import { RIDE } from './rideLayout.js';

/** How time lies on the screen: the time at the left edge of the lanes, the line, and pixels a second. All x count from the canvas' left. */
export type RideScale = {
  readonly left: Seconds;
  readonly pxPerSec: number;
  readonly lineX: number;
  readonly width: number;
};

export const xOf = (scale: RideScale, t: Seconds): number => RIDE.meterPx + (t - scale.left) * scale.pxPerSec;
export const timeAt = (scale: RideScale, x: number): Seconds => scale.left + (x - RIDE.meterPx) / scale.pxPerSec;

/** The song runs under a line that stands a third of the way in. */
export function runningScale(position: Seconds, width: number, secPerScreen: number): RideScale {
  const lanes = width - RIDE.meterPx;
  const pxPerSec = lanes / secPerScreen;
  return {
    left: position - (lanes * RIDE.lineAt) / pxPerSec,
    pxPerSec,
    lineX: RIDE.meterPx + lanes * RIDE.lineAt,
    width,
  };
}

/** The song stands and the line walks; when it leaves the page, the page turns. `left` is where the page began. */
export function standingScale(position: Seconds, width: number, secPerScreen: number, left: Seconds): RideScale {
  const lanes = width - RIDE.meterPx;
  const pxPerSec = lanes / secPerScreen;
  const page = position < left || position > left + secPerScreen ? position - secPerScreen * 0.05 : left;
  return { left: page, pxPerSec, lineX: RIDE.meterPx + (position - page) * pxPerSec, width };
}

/** A song that is seen whole has so much free on either side: a cap at its start or end stands whole, too. */
const MARGIN_PX = 26;

/** A song that is seen whole stands, and the line walks over it. */
export function wholeScale(position: Seconds, width: number, length: Seconds): RideScale {
  const lanes = width - RIDE.meterPx;
  const pxPerSec = Math.max(1, lanes - 2 * MARGIN_PX) / length;
  const left = -MARGIN_PX / pxPerSec;
  return { left, pxPerSec, lineX: RIDE.meterPx + (position - left) * pxPerSec, width };
}

/** Whether the loop fits the view, so that the line walks over it instead. */
export const loopFits = (loop: readonly [Seconds, Seconds] | null, position: Seconds, secPerScreen: number): boolean =>
  loop !== null && position >= loop[0] - 0.01 && position <= loop[1] && loop[1] - loop[0] <= secPerScreen * 0.96;
