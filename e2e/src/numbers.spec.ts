import type { Page } from '@playwright/test';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { expect, test } from './app.js';
import { LANE, LEAD, mended, pairs } from './mendedLane.js';

/** Pastes a text into the table, as the browser does it. */
const paste = (page: Page, text: string): Promise<void> =>
  page.getByRole('grid').evaluate((grid, data) => {
    const clipboardData = new DataTransfer();
    clipboardData.setData('text/plain', data);
    grid.dispatchEvent(new ClipboardEvent('paste', { clipboardData, bubbles: true, cancelable: true }));
  }, text);
const copied = (page: Page): Promise<string> =>
  page.getByRole('grid').evaluate((grid) => {
    const clipboardData = new DataTransfer();
    grid.dispatchEvent(new ClipboardEvent('copy', { clipboardData, bubbles: true, cancelable: true }));
    return clipboardData.getData('text/plain');
  });

test('points are typed, sorted and picked as numbers, by the pointer and by keys; what is none says why', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 1);
  await page.keyboard.press('Alt+N');
  const grid = page.getByRole('grid');
  await expect(page.getByTestId('numbers-count')).toHaveText('5 points');
  await expect(grid.getByRole('row').nth(1)).toHaveText(/0:05\.00000:00:05:00−10\.0 dBline$/);
  await grid.getByRole('row').nth(2).getByRole('gridcell').nth(3).click();
  await expect(page.getByTestId('picked')).toHaveText('1 picked');
  await page.keyboard.press('Enter');
  await page.keyboard.type('-4.5');
  await page.keyboard.press('Enter');
  await expect
    .poll(async () => pairs(await app.points(LEAD)))
    .toEqual(pairs(LANE.map((p) => (p.t === 8 ? { ...p, v: -4.5 } : p))));
  await page.keyboard.press('Enter');
  await page.keyboard.type('loud');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('“loud” is no level.');
  // By keys: two columns to the left is the clock's time; a point may pass its neighbours.
  for (let i = 0; i < 2; i++) await page.keyboard.press('ArrowLeft');
  await page.keyboard.press('F2');
  await page.keyboard.type('0:12.5');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await app.points(LEAD)).map(({ t }) => t)).toEqual([2, 5, 11, 12.5, 14]);
  await page.getByLabel('Sort by value').click();
  await page.getByLabel('Sort by value').click();
  await expect(grid.getByRole('row').first()).toContainText('−4.5 dB');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));
});

test('a table goes to a spreadsheet and comes back: wrong rows stay out by row and reason, the rest goes in @long', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 1);
  await page.keyboard.press('Alt+N');
  await page.getByRole('grid').focus();
  const text = await copied(page);
  expect(text.split('\n').slice(0, 3)).toEqual(['Seconds\tValue\tShape\tBend', '2\t-20\tline\t0', '5\t-10\tline\t0']);
  // Back as it went nothing changes.
  await paste(page, text);
  await expect(ride.says).toHaveText('5 rows went into Lead level.');
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  await paste(page, text.replace('-12', 'quiet').replace('11\t-6\tline', '11\t-3\ts'));
  await expect(ride.says).toHaveText('4 rows went into Lead level; 1 stayed out.');
  await expect(page.getByRole('alert')).toContainText('Row 4 has no value that fits: “quiet” is no level.');
  await expect.poll(async () => (await app.points(LEAD))[3]).toMatchObject({ t: 11, v: -3, shape: 's' });
  // Of a guarded lane nothing changes, and it is said what would let it.
  await page.keyboard.press('j');
  await paste(page, '20\t-3');
  await expect(page.getByRole('alert')).toContainText('Safe: Lead level stays as it is.');
  expect(await app.points(LEAD)).toHaveLength(5);
});

test('thousands of rows stand in it without waiting, and of all of them only those in sight are built @long', async ({
  page,
  app,
  ride,
}) => {
  const many = Array.from({ length: 8000 }, (_, i) => linePoint(i / 500, -20 + (i % 30) / 2));
  await app.edit({ kind: 'points', control: LEAD, remove: [], add: Curve.of(many) });
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('Alt+N');
  const grid = page.getByRole('grid');
  await expect(page.getByTestId('numbers-count')).toHaveText('8000 points');
  expect(await grid.getByRole('row').count()).toBeLessThan(60);
  await grid.focus();
  await page.keyboard.press('End');
  await expect(grid.getByRole('row').last()).toContainText('0:15.998');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.keyboard.press('Delete');
  await expect(page.getByTestId('numbers-count')).toHaveText('7999 points');
});
