import { Curve, linePoint } from '@sure-hand/core/curve';
import { expect, test } from './app.js';
import { LEAD, mended } from './mendedLane.js';

test('lanes of a channel are found by name, those with curves first, and kept open below each other; all go and come back by one key', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({ kind: 'points', control: 'lead/pan', remove: [], add: Curve.of([linePoint(4, -0.5)]) });
  await mended(page, app, ride, 1);
  await page.keyboard.press('a');
  const found = page.getByRole('group', { name: 'Lanes found' });
  await expect(found.locator('.lane-found-name').first()).toHaveText(/^Level5 points$/);
  await expect(found.locator('.lane-found-name').nth(1)).toHaveText(/^Pan1 point$/);
  await page.getByLabel('Find a lane').fill('pan');
  await page.keyboard.press('Shift+Enter');
  await page.keyboard.press('Escape');
  const pan = page.getByTestId('lane-lead/pan');
  await expect(pan).toBeVisible();
  // Its lane is ridden and mended like any other: here a click takes its cap's row in hand.
  await pan.getByRole('button', { name: 'Lead pan', exact: true }).click();
  await expect(page.getByTestId('in-hand').locator('..')).toContainText('Pan');
  await expect(page.getByTestId('row-lead')).toBeVisible();
  await page.reload();
  await ride.isOpen();
  await expect(pan).toBeVisible();

  await page.keyboard.press('Shift+A');
  await expect(ride.says).toHaveText('All lanes are put away; Shift+A brings them back.');
  await expect(pan).toBeHidden();
  await ride.takeInHand('fiddle', 'Fiddle');
  // Its mark says that curves are out of sight.
  await expect(page.getByTestId('row-lead').getByLabel('Curves out of sight: pan')).toBeAttached();
  await page.keyboard.press('Shift+A');
  await expect(pan).toBeVisible();
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('Alt+L');
  await expect(pan).toBeHidden();
});

test('rows are looked at by name, by what has curves, by kind and mode; families fold; the view is kept @long', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 1);
  const rows = page.locator('[data-testid^="row-"]');
  const all = await rows.count();
  await page.keyboard.press('Alt+A');
  await expect(rows).toHaveCount(1);
  await expect(page.getByTestId('row-lead')).toBeVisible();
  await page.reload();
  await ride.isOpen();
  await expect(rows).toHaveCount(1);
  await page.getByLabel('All rows again').click();
  await expect(rows).toHaveCount(all);
  await page.keyboard.press('Alt+/');
  await page.keyboard.type('fid');
  await page.keyboard.press('Enter');
  // The one in hand stays: keys act on it.
  await expect(rows).toHaveCount(2);
  await page.keyboard.press('Tab');
  await expect(page.getByTestId('in-hand')).toHaveText('Fiddle');
  await expect(rows).toHaveCount(1);
  await page.getByLabel('All rows again').click();
  await page.getByLabel('Rows by kind and mode').click();
  await page.getByRole('menuitem', { name: 'Mutes' }).click();
  // Every row but the one in hand shows its mute.
  await expect(page.getByRole('slider', { name: 'Lead mute' })).toBeAttached();
  await page.getByLabel('All rows again').click();
  await expect(page.getByRole('slider', { name: 'Lead level' })).toBeAttached();
  await page.keyboard.press('Alt+F');
  const { song } = await app.song();
  const family = song.channels.find(({ key }) => key === 'fiddle')!.family;
  const folded = song.channels.filter((one) => one.family === family && one.key !== 'fiddle').length;
  await expect(rows).toHaveCount(all - folded);
  expect((await app.points(LEAD)).length).toBe(5);
});
