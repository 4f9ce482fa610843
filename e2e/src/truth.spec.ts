import { RidePage, expect, test } from './app.js';

const LEAD = 'lead/level';

test('a resting value is said to be one: before, while the song rolls, and after', async ({ page, app, ride }) => {
  await ride.takeInHand('fiddle', 'Fiddle');
  await expect(ride.says).toHaveText('Fiddle reads: a hand sets where Fiddle level rests, for the whole song.');
  await ride.play();
  await expect(ride.more).toContainText('Fiddle reads: a hand sets where Fiddle level rests, for the whole song.');
  await ride.dragCap('fiddle', 30, 0.3, false);
  await expect(ride.says).toHaveText('Fiddle reads: a hand sets where Fiddle level rests, for the whole song.');
  await page.mouse.up();
  await ride.stop();
  await expect(ride.says).toHaveText('That pass wrote no curve; it set where Fiddle level rests, for the whole song.');
  const rests = (await app.song()).song.lanes['fiddle/level']!.rest;
  await page.keyboard.press('ArrowUp');
  await expect(ride.says).toHaveText(/^Fiddle level rests at −\d+\.\d dB, for the whole song\.$/);
  await expect.poll(async () => (await app.song()).song.lanes['fiddle/level']!.rest).not.toBe(rests);
});

test('what is said before, while and after a punched pass agrees: the range ends it @long', async ({ page, ride }) => {
  await ride.setRange(1, 6);
  await page.keyboard.press('u');
  await page.keyboard.press('4');
  await ride.goTo(0.5);
  await expect(ride.more).toContainText(
    'From 1·2.53 to 3·2.20, where the punch range ends; nothing is written before a touch.',
  );
  const { x, y } = await ride.cap('lead');
  await page.mouse.move(x, y);
  await ride.play();
  await ride.heardPast(1.1);
  await page.mouse.down();
  await page.mouse.move(x, y - 40);
  await page.mouse.up();
  await expect(ride.more).toHaveText('Held on to 3·2.20, where the punch range ends, or let go with Esc.');
  await ride.heardPast(6.2);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level 1·\S+–3·2\.20\.$/);
});

test('with the desk in write the number and the reach stand first and whole, before, while and after @long', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('Alt+5');
  await expect(page.getByRole('button', { name: 'Every channel: write' })).toBeVisible();
  await expect(ride.says).toHaveText(/^Play writes \d+ controls of 17 channels from 1·1 until you stop\.$/);
  const says = await ride.says.textContent();
  const count = Number(/\d+/.exec(says!)![0]);
  const isWhole = (): Promise<boolean> => ride.says.evaluate((at) => at.scrollWidth <= at.clientWidth);
  expect(await isWhole()).toBe(true);
  await ride.play();
  await expect(ride.says).toHaveText(new RegExp(`^Writing ${count} controls of 17 channels, \\d+\\.\\d s\\.$`));
  await ride.heardPast(1);
  await ride.stop();
  await expect(ride.says).toHaveText(new RegExp(`^Pass 1: ${count} controls of 17 channels, 1·1–\\S+\\.$`));
  expect(await isWhole()).toBe(true);
  await expect.poll(async () => (await app.passes())[0]?.receipt.lanes.length).toBe(count);
  // The desk has fallen back to touch: nothing would be wiped by the next play.
  await expect(page.getByRole('button', { name: 'Every channel: touch' })).toBeVisible();
  // In the log too the number comes first, and each of its lanes is found by name.
  await ride.show('Passes');
  await expect(page.getByRole('button', { name: `Pass 1: ${count} controls of 17 channels` })).toBeVisible();
  await page.getByRole('combobox', { name: 'Lane' }).fill('Fiddle pan');
  await page.getByRole('option', { name: 'Fiddle pan' }).click();
  await expect(page.getByText('Whose Fiddle pan stands where')).toBeVisible();
});

test('a change of what play would do, or of what the pass left, shows at once; the receipt is there again after a reload @long', async ({
  page,
  app,
  ride,
}) => {
  const receipt = /^Pass 1: Lead level \d+·\S+–\d+·\S+\.$/;
  await ride.play();
  await ride.heardPast(0.3);
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(receipt);
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  await page.reload();
  await expect(ride.says).toHaveText(receipt);
  await expect(page.getByRole('button', { name: 'Undo this pass' })).toBeVisible();

  await page.keyboard.press('Alt+Shift+K');
  await expect(ride.says).toHaveText('The song is parked: no curve is read, and play writes nothing.');
  await expect(page.getByRole('button', { name: 'Undo this pass' })).toHaveCount(0);
  await page.keyboard.press('Alt+Shift+K');
  await page.keyboard.press('r');
  await expect(ride.says).toHaveText(receipt);

  await page.keyboard.press('0');
  await expect(ride.says).toHaveText('Play writes what you touch of Lead.');
  await expect(ride.more).toContainText('Trim is on: a hand on Lead level gives an offset.');
  await page.keyboard.press('0');
  await page.getByRole('button', { name: 'Last pass' }).click();
  await expect(ride.says).toHaveText(receipt);

  await page.keyboard.press('Control+z');
  await expect(ride.says).toHaveText(/^Taken back: Pass 1: Lead level/);
  await expect(page.getByRole('button', { name: 'Undo this pass' })).toHaveCount(0);
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  // A second page shows it as the first does.
  const other = new RidePage(await page.context().newPage(), app);
  await other.open();
  await expect(other.says).toHaveText('Play writes what you touch of Lead.');
});
