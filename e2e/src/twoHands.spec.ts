import type { CDPSession } from '@playwright/test';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { expect, test } from './app.js';

test.use({ hasTouch: true });

type Finger = { readonly id: number; readonly x: number; readonly y: number };
const touch = (
  cdp: CDPSession,
  type: 'touchStart' | 'touchMove' | 'touchEnd',
  touchPoints: readonly Finger[],
): Promise<unknown> => cdp.send('Input.dispatchTouchEvent', { type, touchPoints: [...touchPoints] });

test('two fingers ride two caps in one pass, and a third scrolls nothing away from under them @long', async ({
  page,
  app,
  ride,
}) => {
  // So low that there is something to scroll.
  await page.setViewportSize({ width: 1280, height: 560 });
  await page.getByTestId('row-lead').scrollIntoViewIfNeeded();
  await app.edit({ kind: 'channel', channel: 'fiddle', changes: { mode: 'touch' } });
  await expect(page.getByTestId('row-fiddle').getByText('Touch')).toBeVisible();
  const cdp = await page.context().newCDPSession(page);
  const [one, other] = [await ride.cap('lead'), await ride.cap('fiddle')];
  const head = (await page.getByTestId('row-lead').boundingBox())!;
  const scrolled = (): Promise<number> => page.locator('.ride-scroll').evaluate((at) => at.scrollTop);
  const before = await scrolled();

  await ride.play();
  await ride.heardPast(0.5);
  let [a, b]: Finger[] = [
    { id: 1, ...one },
    { id: 2, ...other },
  ] as [Finger, Finger];
  await touch(cdp, 'touchStart', [a!]);
  await touch(cdp, 'touchStart', [a!, b!]);
  expect(new Set(await page.evaluate(() => globalThis.sureHandProbe!.touched()))).toEqual(
    new Set(['lead/level', 'fiddle/level']),
  );
  // One goes up by a tenth of the throw, the other down by two tenths, in twelve steps each.
  for (let i = 1; i <= 12; i++) {
    a = { ...a!, y: one.y - 5 * i };
    b = { ...b!, y: other.y + 10 * i };
    await touch(cdp, 'touchMove', [a, b]);
    await ride.heardPast((await ride.heard()) + 0.04);
  }
  // A third finger on the names: they stand still as long as hands are down.
  let third: Finger = { id: 3, x: head.x + 60, y: head.y + 60 };
  await touch(cdp, 'touchStart', [a!, b!, third]);
  for (let i = 1; i <= 8; i++) {
    third = { ...third, y: third.y - 12 };
    await touch(cdp, 'touchMove', [a!, b!, third]);
  }
  await touch(cdp, 'touchEnd', [a!, b!]);
  expect(await scrolled()).toBe(before);
  await touch(cdp, 'touchEnd', [a!]);
  await touch(cdp, 'touchEnd', []);
  expect(await page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual([]);
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();

  await expect(ride.says).toHaveText(/^Pass 1: Lead level .*, Fiddle level /);
  const [pass] = await app.passes();
  const lanes = pass!.receipt.lanes as readonly { control: string; moves: number }[];
  expect(lanes.map(({ control }) => control).sort()).toEqual(['fiddle/level', 'lead/level']);
  for (const { moves } of lanes) expect(moves).toBeGreaterThan(8);
  const travels = async (id: string): Promise<number[]> =>
    (await app.points(id)).map(({ v }) => travelOf(LEVEL_LAW, v));
  const [up, down] = [await travels('lead/level'), await travels('fiddle/level')];
  expect(Math.max(...up) - up[0]!).toBeCloseTo(60 / 600, 2);
  expect(down[0]! - Math.min(...down)).toBeCloseTo(120 / 600, 2);
});

test('a hand that is down while its view is left by a key is let go of, and the pass goes on', async ({
  page,
  ride,
}) => {
  await ride.play();
  await ride.heardPast(0.5);
  await ride.dragCap('lead', 60, 0.5, false);
  await expect(ride.says).toHaveText(/^Writing Lead level/);
  await page.keyboard.press('v');
  await expect(page.getByTestId('lanes')).toHaveCount(0);
  await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual([]);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await page.keyboard.press('Shift+V');
  await expect(ride.says).toHaveText(/^Pass 1: Lead level /);
});

test('a mute that is held while its row goes out of sight is let go of, and the pass goes on @long', async ({
  page,
  ride,
}) => {
  await ride.takeInHand('fiddle', 'Fiddle');
  await page.keyboard.press('3');
  await ride.takeInHand('lead', 'Lead');
  await ride.play();
  await ride.heardPast(0.5);
  await page.getByTestId('row-fiddle').hover();
  await page.getByRole('button', { name: 'Mute Fiddle' }).hover();
  await page.mouse.down();
  await expect(ride.says).toHaveText(/^Writing Fiddle mute/);
  await page.getByRole('button', { name: 'Strings & reeds 3', exact: true }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('row-fiddle')).toHaveCount(0);
  await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual([]);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Fiddle mute /);
});
