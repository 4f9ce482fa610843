import type { Page } from '@playwright/test';
import { expect, test, type RidePage } from './app.js';

const FIDDLE_PAN = 'fiddle/pan';
const range = (page: Page): Promise<string | null> => page.locator('.strip-range').getAttribute('style');

/** A place of the song on the strip. */
async function onStrip(ride: RidePage, share: number): Promise<{ x: number; y: number }> {
  const box = (await ride.page.getByTestId('strip').boundingBox())!;
  return { x: box.x + share * box.width, y: box.y + box.height / 2 };
}

test('a pan of the Desk is ridden as far as the pointer goes, over the edges of its strip and beyond', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('v');
  const foot = page.getByTestId('strip-fiddle');
  await foot.scrollIntoViewIfNeeded();
  const box = (await foot.boundingBox())!;
  const throws = (await page.getByTestId('throws').boundingBox())!;
  const at = { x: box.x + box.width / 2, y: throws.y + throws.height - 14 };
  const before = (await app.song()).song.lanes[FIDDLE_PAN]?.rest ?? 0;
  await page.mouse.move(at.x, at.y);
  await page.mouse.down();
  // 1:1 on a throw of 600 px: 200 px are a third of it, and lead two strips further.
  for (let k = 1; k <= 20; k++) await page.mouse.move(at.x + 10 * k, at.y);
  await page.mouse.up();
  await expect.poll(async () => (await app.song()).song.lanes[FIDDLE_PAN]?.rest).toBeCloseTo(before + 2 / 3, 2);
  await expect(ride.says).toContainText('Fiddle pan');
});

test('only the main button does anything on the strip and the heads, and a drag is given up by Esc or by a lost pointer', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'Softer here', channel: 'lead' } });
  await expect(page.getByLabel('Note: Softer here')).toBeVisible();
  // A click with another button goes nowhere, and ends no pass.
  await ride.play();
  await ride.heardPast(0.5);
  for (const button of ['right', 'middle'] as const) {
    const { x, y } = await onStrip(ride, 0.8);
    await page.mouse.click(x, y, { button });
  }
  expect(await ride.heard()).toBeLessThan(5);
  await ride.stop();
  expect(await app.passes()).toEqual([]);

  // A range that is being swept, on the strip and on the ruler.
  await ride.setRange(2, 4);
  const was = await range(page);
  const lanes = (await page.getByTestId('lanes').boundingBox())!;
  for (const from of [await onStrip(ride, 0.4), { x: lanes.x + 500, y: lanes.y + 8 }]) {
    const stood = await ride.heard();
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    for (let k = 1; k <= 5; k++) await page.mouse.move(from.x + 30 * k, from.y);
    await expect.poll(() => range(page)).not.toBe(was);
    await page.keyboard.press('Escape');
    await expect.poll(() => range(page)).toBe(was);
    await page.mouse.up();
    expect(await range(page)).toBe(was);
    expect(await ride.heard()).toBe(stood);
  }

  // A section's edge and a note that are being carried.
  const marks = (await app.song()).song;
  const edge = page.locator('.section-edge').nth(1);
  for (const [mark, of] of [
    [edge, 'sections'],
    [page.getByLabel('Note: Softer here'), 'notes'],
  ] as const) {
    const box = (await mark.boundingBox())!;
    const at = { x: box.x + Math.min(4, box.width / 2), y: box.y + box.height / 2 };
    await page.mouse.move(at.x, at.y);
    await page.mouse.down();
    for (let k = 1; k <= 4; k++) await page.mouse.move(at.x + 25 * k, at.y);
    await page.keyboard.press('Escape');
    await page.mouse.up();
    expect((await app.song()).song[of]).toEqual(marks[of]);
  }

  // The heads' edge; and a pointer that the system takes away.
  const heads = page.getByRole('separator', { name: 'Width of the names' });
  const width = await heads.getAttribute('aria-valuenow');
  for (const giveUp of ['Escape', 'lost'] as const) {
    const box = (await heads.boundingBox())!;
    await page.mouse.move(box.x + box.width / 2, box.y + 200);
    await page.mouse.down();
    await page.mouse.move(box.x + 60, box.y + 200, { steps: 4 });
    await expect(heads).not.toHaveAttribute('aria-valuenow', width!);
    if (giveUp === 'Escape') await page.keyboard.press('Escape');
    else await heads.evaluate((at) => at.releasePointerCapture(1));
    await expect(heads).toHaveAttribute('aria-valuenow', width!);
    await page.mouse.up();
  }
  await page.mouse.click((await heads.boundingBox())!.x + 2, (await heads.boundingBox())!.y + 300, { button: 'right' });
  await page.mouse.move(600, 300, { steps: 3 });
  await expect(heads).toHaveAttribute('aria-valuenow', width!);
});

test('what is swept sideways where nothing scrolls does not lead the browser away from the song', async ({
  page,
  ride,
}) => {
  const address = page.url();
  await ride.play();
  for (const [i, place] of ['navigation', 'contentinfo', 'main'].entries()) {
    const { x, y, width, height } = (await page
      .getByRole(place as 'main')
      .first()
      .boundingBox())!;
    await page.mouse.move(x + width / 2, y + height / 2);
    await page.mouse.wheel(-300, 0);
    // A browser that goes back has gone by then.
    await ride.heardPast(1.2 * (i + 1));
    expect(page.url()).toBe(address);
  }
  await ride.stop();
});

test('a hand whose button comes up while another is down lets go there and then', async ({ page, ride }) => {
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('3');
  await ride.play();
  await ride.heardPast(0.5);
  const { x, y } = await ride.grabCap('lead');
  await page.mouse.move(x, y - 40, { steps: 4 });
  await page.mouse.down({ button: 'right' });
  await page.mouse.up();
  await page.mouse.move(x + 40, y - 80, { steps: 3 });
  await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual([]);
  await page.mouse.up({ button: 'right' });
  await ride.stop();
});

test('on a finer screen, or as the browser zooms, the lanes are drawn as finely @long', async ({ page, ride }) => {
  await ride.isOpen();
  const canvas = page.locator('[data-testid=lanes] canvas');
  const width = (): Promise<number> => canvas.evaluate((at: HTMLCanvasElement) => at.width / at.clientWidth);
  expect(await width()).toBe(1);
  // The browser tells of another density only with another size.
  const client = await page.context().newCDPSession(page);
  await client.send('Emulation.setDeviceMetricsOverride', {
    width: 1281,
    height: 800,
    deviceScaleFactor: 2,
    mobile: false,
  });
  await expect.poll(width).toBe(2);
  await client.send('Emulation.clearDeviceMetricsOverride');
  await client.detach();
});
