import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { RidePage, expect, test } from './app.js';

test('a value that cannot be is refused in a sentence, and nothing changes', async ({ page, ride }) => {
  await page.keyboard.press('=');
  await page.getByLabel('Value').fill('14');
  await page.keyboard.press('Enter');
  await expect(page.getByText('14.0 dB is outside −∞ dB … 12.0 dB.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(ride.value).toHaveText('−5.0 dB');
});

test('a missing audio file is named, and the rest of the song plays', async ({ page, app, ride }) => {
  rmSync(join(app.data, 'songs/1/fiddle.wav'));
  await page.reload();
  await expect(page.getByRole('alert')).toContainText('fiddle.wav is missing');
  await page.getByRole('button', { name: 'Seen' }).click();
  await ride.play();
  await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.peak('nylon-guitar'))).toBeGreaterThan(0.01);
  expect(await page.evaluate(() => globalThis.sureHandProbe!.peak('fiddle'))).toBe(0);
  await ride.stop();
});

test('a song that is not there leads back to the list', async ({ page, app }) => {
  await page.goto(`${app.address}/songs/99/ride`);
  await expect(page.getByText('There is no song 99.')).toBeVisible();
  await page.getByRole('link', { name: 'Back to the songs' }).click();
  await expect(page.getByRole('link', { name: 'Short song' })).toBeVisible();
});

test('with the server away the ride goes on, and is kept when it is back @long', async ({ page, app, ride }) => {
  await ride.play();
  await ride.heardPast(0.3);
  const { address } = app;
  await app.crash();
  await ride.dragCap('lead', 60, 0.6);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(page.getByText('Server away: 1 edit waits')).toBeVisible();
  await app.start(Number(new URL(address).port));
  await expect.poll(() => app.points('lead/level')).not.toHaveLength(0);
  await expect(page.getByText(/Server away/)).toBeHidden();
});

test('a view whose program could not be fetched says so, and is shown as soon as the server is back', async ({
  page,
  app,
}) => {
  const program = '**/assets/Passes-*.js';
  await page.route(program, (route) => route.abort());
  const ride = new RidePage(page, app);
  await ride.open();
  await page.getByRole('link', { name: 'Passes' }).click();
  await expect(page.getByRole('status').filter({ hasText: 'This view could not be fetched' })).toBeVisible();
  await page.unroute(program);
  await expect(page.getByText(/^No pass has written anything yet/)).toBeVisible();
});
