import type { Page } from 'puppeteer-core';
import type { LoggedPass } from '@sure-hand/server';
import { expect, test } from './app.js';
import { Firefox, hasFirefox } from './firefox.js';

// `npm run harness` installs what it takes.
test.skip(!process.env.SURE_HAND_ALL || !hasFirefox, 'A walk in another browser, by npm run harness');

const text = (page: Page, selector: string): Promise<string> => page.$eval(selector, (one) => one.textContent);
const says = (page: Page): Promise<string> => text(page, '[data-testid=hand-says]');
const heard = (page: Page): Promise<number> => page.evaluate(() => globalThis.sureHandProbe!.heard());
/** The song is heard past a time. */
const heardPast = (page: Page, t: number): Promise<void> => expect.poll(() => heard(page)).toBeGreaterThan(t);
const isMoving = (page: Page): Promise<boolean> => page.evaluate(() => globalThis.sureHandProbe!.isMoving());

const isOpen = (page: Page): Promise<void> =>
  expect
    .poll(() => page.evaluate(() => document.querySelector('[data-testid=hand-says]')?.textContent ?? ''), {
      timeout: 60_000,
    })
    .not.toBe('');

/** Opens Ride, and gives back where what is thrown and what is called an error is noted. */
async function openRide(page: Page, address: string): Promise<string[]> {
  const wrong: string[] = [];
  page.on('pageerror', (error) => wrong.push(String(error)));
  page.on('console', (message) => void (message.type() === 'error' && wrong.push(message.text())));
  await page.goto(`${address}/songs/1/ride`);
  await isOpen(page);
  return wrong;
}

/** Plays; on a busy machine a browser's first sound may take longer than the page waits for it: then it says so, and is asked again. */
async function plays(page: Page): Promise<void> {
  for (let k = 0; k < 5; k++) {
    await page.keyboard.press(' ');
    await expect.poll(async () => (await heard(page)) > 0 || (await page.$('[role=alert]')) !== null).toBe(true);
    if (await isMoving(page)) return;
    expect(await text(page, '[role=alert]')).toMatch(/^No sound device answers/);
  }
}

test.describe('in Firefox', () => {
  const firefox: { one: Firefox | null } = { one: null };
  test.beforeEach(() => void (firefox.one = new Firefox()));
  test.afterEach(() => firefox.one!.end());

  test('a song is played, ridden, told of, taken back, mended, and gone through in all views', async ({ app }) => {
    const page = await firefox.one!.start(true);
    const wrong = await openRide(page, app.address);
    await plays(page);
    await heardPast(page, 0.5);
    const at = await page.evaluate(() => {
      const lanes = document.querySelector('[data-testid=lanes]')!.getBoundingClientRect();
      const row = document.querySelector('[data-testid=row-lead]')!.getBoundingClientRect();
      return { x: lanes.x + globalThis.sureHandProbe!.lineX, y: row.y + row.height / 2 };
    });
    await page.mouse.move(at.x, at.y);
    await page.mouse.down();
    expect(await page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual(['lead/level']);
    for (let i = 1; i <= 10; i++) {
      await page.mouse.move(at.x, at.y - 4 * i);
      await heardPast(page, (await heard(page)) + 0.05);
    }
    expect(await says(page)).toMatch(/^Writing Lead level/);
    await page.mouse.up();
    await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual([]);
    await page.keyboard.press(' ');
    await expect.poll(() => says(page)).toMatch(/^Pass 1: Lead level/);
    expect(await isMoving(page)).toBe(false);
    const passes = (): Promise<LoggedPass[]> => app.get('/songs/1/passes');
    await expect.poll(async () => (await passes()).length).toBe(1);
    const [pass] = await passes();
    expect(pass!.receipt.lanes).toEqual([expect.objectContaining({ control: 'lead/level' })]);
    expect(pass!.receipt.lanes[0]!.moves).toBeGreaterThanOrEqual(10);
    const written = await app.points('lead/level');
    expect(Math.max(...written.map(({ v }) => v))).toBeGreaterThan(-4.5);

    // Taken back and done again, and mended: a fade over a range.
    const control = async (...keys: readonly string[]): Promise<void> => {
      for (const key of keys.slice(0, -1)) await page.keyboard.down(key as 'Control');
      await page.keyboard.press(keys.at(-1) as 'z');
      for (const key of keys.slice(0, -1).reverse()) await page.keyboard.up(key as 'Control');
    };
    await control('Control', 'z');
    await expect.poll(() => app.points('lead/level')).toEqual([]);
    await control('Control', 'Shift', 'Z');
    await expect.poll(() => app.points('lead/level')).toEqual(written);
    await page.keyboard.press('i');
    await control('Control', 'ArrowRight');
    await page.keyboard.press(' ');
    await heardPast(page, (await heard(page)) + 1);
    await page.keyboard.press(' ');
    await page.keyboard.press('o');
    await control('Alt', 'o');
    await expect.poll(() => app.points('lead/level')).not.toEqual(written);

    for (const view of ['desk', 'passes', 'snapshots', 'guards', 'files', 'ride']) {
      await page.keyboard.press('v');
      await expect.poll(() => page.url()).toMatch(new RegExp(`/${view}$`));
      await expect
        .poll(() => page.evaluate(() => document.querySelector('main')?.textContent.length ?? 0))
        .toBeGreaterThan(20);
      expect(await says(page)).not.toBe('');
      // Keys are the song's in every one of them.
      await page.keyboard.press(' ');
      await expect.poll(() => isMoving(page)).toBe(true);
      await page.keyboard.press(' ');
      await expect.poll(() => isMoving(page)).toBe(false);
    }
    const mended = await app.points('lead/level');
    await page.reload();
    await isOpen(page);
    expect(await app.points('lead/level')).toEqual(mended);
    expect(wrong).toEqual([]);
  });

  test('where there is no sound device, Play says so, and what to do', async ({ app }) => {
    const page = await firefox.one!.start(false);
    await openRide(page, app.address);
    await page.keyboard.press(' ');
    await expect
      .poll(() => page.evaluate(() => document.querySelector('[role=alert]')?.textContent), { timeout: 30_000 })
      .toMatch(/^No sound device answers, so nothing can play\. Connect one/);
    expect(await isMoving(page)).toBe(false);
    // What is no sound can be done as ever.
    await page.keyboard.press('v');
    await expect.poll(() => page.url()).toMatch(/\/desk$/);
  });
});
