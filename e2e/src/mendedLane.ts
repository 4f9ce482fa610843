import { Curve, linePoint, type Point } from '@sure-hand/core/curve';
import type { Song } from '@sure-hand/core/song';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import type { Page } from '@playwright/test';
import type { App, RidePage } from './app.js';

export const LEAD = 'lead/level';
export const LANE: readonly Point[] = [
  linePoint(2, -20),
  linePoint(5, -10),
  linePoint(8, -12),
  linePoint(11, -6),
  linePoint(14, -20),
];

/** The Lead's level with a curve, in hand, and where its times and values stand on the screen while the song stands at a time. */
export async function mended(page: Page, app: App, ride: RidePage, at: number) {
  await app.edit({ kind: 'points', control: LEAD, remove: [], add: Curve.of(LANE) });
  // What was made elsewhere comes to the page when it is told: a hand that is quicker finds no points there.
  await page.waitForFunction(
    (n) => (JSON.parse(sureHandProbe!.document()) as Pick<Song, 'lanes'>).lanes['lead/level']?.points.length === n,
    LANE.length,
  );
  await ride.takeInHand('lead', 'Lead');
  await ride.goTo(at);
  const lanes = (await page.getByTestId('lanes').boundingBox())!;
  const pxPerSec = (lanes.width - 14) / ride.secPerScreen;
  const place = async (t: number, db: number): Promise<{ x: number; y: number }> => {
    const row = (await page.getByTestId('row-lead').boundingBox())!;
    const [line, now] = await page.evaluate(() => [sureHandProbe!.lineX, sureHandProbe!.heard()] as const);
    return {
      x: lanes.x + line + (t - now) * pxPerSec,
      y: row.y + 12 + (1 - travelOf(LEVEL_LAW, db)) * (row.height - 24),
    };
  };
  const drag = async (from: { x: number; y: number }, right: number, up: number): Promise<void> => {
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    for (let i = 1; i <= 6; i++) await page.mouse.move(from.x + (right * i) / 6, from.y - (up * i) / 6);
  };
  return { place, drag, throwPx: (await page.getByTestId('row-lead').boundingBox())!.height - 24, pxPerSec };
}

export const pairs = (points: readonly Point[]): number[][] => points.map(({ t, v }) => [t, v]);
