import { laneOf, ownValueAt } from '@sure-hand/core/song';
import { gainOfTravel, leftGain, travelOf, LEVEL_LAW } from '@sure-hand/core/units';
import { expect, test, type RidePage } from './app.js';

const LEVEL = 'lead/level';
const DEPTH = 'lead/level/sway';

/** Gains of the Lead that are heard while the song rolls, the lowest and the highest over so long. */
async function heardBetween(ride: RidePage, sec: number): Promise<[number, number]> {
  const gains = (await ride.gains('lead', sec)).map(({ gain }) => gain);
  return [Math.min(...gains), Math.max(...gains)];
}

test('a level sways as it is chosen, is kept, ridden in its depth over a reload, guarded, and printed @long', async ({
  page,
  app,
  ride,
}) => {
  const { song } = await app.song();
  const steady = ownValueAt(song, LEVEL, 1).base;
  const gainBy = (by: number): number => gainOfTravel(travelOf(LEVEL_LAW, steady) + by) * leftGain(3, 0);
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('Alt+Shift+G');
  const sheet = page.getByRole('dialog', { name: 'Sway of Lead level' });
  await sheet.getByRole('combobox', { name: 'Wave' }).click();
  await page.getByRole('option', { name: 'Square', exact: true }).click();
  await sheet.getByRole('combobox', { name: 'One cycle' }).click();
  await page.getByRole('option', { name: 'in Hz', exact: true }).click();
  await sheet.getByRole('textbox', { name: 'Rate, Hz' }).fill('4');
  // Its depth, by keys on the dial: from 5 % to 10 %.
  await sheet.getByRole('slider', { name: 'Depth, % either side' }).focus();
  for (let k = 0; k < 10; k++) await page.keyboard.press('ArrowRight');
  await expect(sheet.getByTestId('sway-says')).toHaveText(
    'Lead level goes 10.0 % of its throw either side of its curve, a square in 4 Hz.',
  );

  // Heard before it is kept, at both its ends, and nothing of it is in the song yet.
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await ride.heardPast(0.3);
  const [low, high] = await heardBetween(ride, 1);
  expect(low).toBeCloseTo(gainBy(-0.1), 3);
  expect(high).toBeCloseTo(gainBy(0.1), 3);
  expect((await app.song()).song.lanes[LEVEL]?.sway).toBeUndefined();
  await sheet.getByRole('button', { name: 'Let it sway' }).click();
  await expect.poll(async () => (await app.song()).song.lanes[LEVEL]?.sway).toMatchObject({ hz: 4, depth: 0.1 });

  // Its depth is a control like any other: ridden by keys while it rolls.
  await page.getByTestId('sways').click();
  await sheet.getByRole('button', { name: 'Ride its depth' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('in-hand').locator('..')).toContainText('Level sway');
  for (let k = 0; k < 12; k++) await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await heardBetween(ride, 0.3))[1]).toBeGreaterThan(gainBy(0.1) * 1.03);
  await ride.stop();
  expect((await app.points(DEPTH)).length).toBeGreaterThan(2);

  await page.reload();
  await ride.isOpen();
  await expect(page.getByTestId('sways')).toHaveText(/^Sways \d+\.\d %$/);
  // Safe, it takes no change, and says why.
  await page.keyboard.press('j');
  await page.keyboard.press('Alt+Shift+G');
  await expect(page.getByTestId('sway-says')).toContainText('Safe: Lead level stays as it is.');
  await page.keyboard.press('Escape');
  await page.keyboard.press('j');

  // Printed over a range: so many points, its depth 0 there, the rest as it was.
  await ride.setRange(4, 8);
  await page.keyboard.press('Alt+Shift+G');
  await sheet.getByRole('button', { name: 'Print it into points…' }).click();
  const print = sheet.getByRole('button', { name: /^over the range: \d+ points$/ });
  const count = Number(/\d+/.exec((await print.textContent())!)![0]);
  expect(count).toBeGreaterThan(2 * 4 * 4);
  await print.click();
  await expect(ride.says).toContainText(`The sway of Lead level is ${count} points now, over the range.`);
  const printed = (await app.song()).song;
  expect([...laneOf(printed, LEVEL).points].filter(({ t }) => t >= 4 && t <= 8)).toHaveLength(count);
  expect([3.9, 4.1, 7.9, 8.1].map((t) => ownValueAt(printed, DEPTH, t).base > 0)).toEqual([true, false, false, true]);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.points(LEVEL)).length).toBe(laneOf(song, LEVEL).points.length);

  // Taken away, its depth goes with it; undo brings both back.
  await page.keyboard.press('Alt+Shift+G');
  await sheet.getByRole('button', { name: 'Take it away' }).click();
  await expect.poll(async () => DEPTH in (await app.song()).song.lanes).toBe(false);
  await expect(page.getByTestId('in-hand').locator('..')).not.toContainText('sway');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.points(DEPTH)).length).toBeGreaterThan(2);
});
