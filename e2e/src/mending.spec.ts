import { Curve, linePoint, valueAt } from '@sure-hand/core/curve';
import { LEVEL_LAW, dbOfGain, leftGain, travelOf } from '@sure-hand/core/units';
import type { Page } from '@playwright/test';
import { expect, test } from './app.js';
import { LANE, LEAD, mended, pairs } from './mendedLane.js';

/** How far the Lead is heard from its curve as it was, just now. */
async function heardOff(page: Page): Promise<number> {
  const { t, gain } = await page.evaluate(() => sureHandProbe!.gain('lead'));
  return dbOfGain(gain / leftGain(3, 0)) - valueAt(Curve.of(LANE), LEVEL_LAW, -5, t);
}

test('a point is moved by the pointer: one step, kept as the hand comes up, taken back, and there after a reload', async ({
  page,
  app,
  ride,
}) => {
  const { place, drag, throwPx, pxPerSec } = await mended(page, app, ride, 9.5);
  const point = await place(8, -12);
  await page.mouse.move(point.x, point.y);
  await expect(page.getByTestId('lanes')).toHaveAttribute('title', /^A point: drag to move it/);
  await drag(point, -20, 30);
  await expect(ride.says).toHaveText('Heard as it would be. Nothing is kept yet.');
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  await page.mouse.up();
  await expect(ride.says).toHaveText(/^1 point of Lead level moved: \+\d+\.\d dB → −\d\.\d dB, −\d+ ms\.$/);
  await expect.poll(async () => pairs(await app.points(LEAD))).not.toEqual(pairs(LANE));
  const [, , moved] = await app.points(LEAD);
  expect(moved!.t).toBeCloseTo(8 - 20 / pxPerSec, 6);
  expect(travelOf(LEVEL_LAW, moved!.v)).toBeCloseTo(travelOf(LEVEL_LAW, -12) + 30 / throwPx, 6);
  await expect(page.getByTestId('picked')).toHaveText('1 picked');

  await page.reload();
  await ride.isOpen();
  expect((await app.points(LEAD))[2]).toEqual(moved);
  await page.keyboard.press('Control+z');
  await expect(ride.says).toHaveText('Taken back: Points of Lead level moved.');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));
});

test('points are picked by a box and one by one, kept to one way by Ctrl, given up by Escape, and cleared by Delete', async ({
  page,
  app,
  ride,
}) => {
  const { place, drag } = await mended(page, app, ride, 1);
  const corner = await place(4, 6);
  await page.keyboard.down('Control');
  await drag(corner, (await place(9, 0)).x - corner.x, corner.y - (await place(9, -30)).y);
  await page.mouse.up();
  await page.keyboard.up('Control');
  await expect(page.getByTestId('picked')).toHaveText('2 picked');
  const third = await place(11, -6);
  await page.keyboard.down('Control');
  await page.mouse.click(third.x, third.y);
  await expect(page.getByTestId('picked')).toHaveText('3 picked');
  // Mostly upwards: it keeps to that way.
  await drag(third, 12, 26);
  await page.mouse.up();
  await page.keyboard.up('Control');
  await expect(ride.says).toHaveText(/^3 points of Lead level moved: one of them \+\d+\.\d dB → −?\d\.\d dB\.$/);
  await expect.poll(async () => (await app.points(LEAD))[3]!.v).toBeGreaterThan(-5);
  expect((await app.points(LEAD)).map(({ t }) => t)).toEqual([2, 5, 8, 11, 14]);
  const kept = pairs(await app.points(LEAD));

  // What is given up in mid-drag leaves everything as it was.
  await drag(await place(14, -20), 0, 40);
  // The first gives up the drag, and nothing else; the next one picks nothing.
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(page.getByTestId('picked')).toHaveText('1 picked');
  expect(pairs(await app.points(LEAD))).toEqual(kept);
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('picked')).toBeHidden();
  expect(pairs(await app.points(LEAD))).toEqual(kept);

  await page.keyboard.press('Control+a');
  await expect(page.getByTestId('picked')).toHaveText('5 picked');
  await page.keyboard.press('Delete');
  await expect(ride.says).toHaveText('5 points of Lead level cleared; 0 left.');
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(kept);
});

test('while the song rolls the curve is bent, and lifted over a range; the picture stands, and both are heard', async ({
  page,
  app,
  ride,
}) => {
  const { place, drag } = await mended(page, app, ride, 1);
  await page.keyboard.press('2');
  await ride.setRange(9, 15);
  await ride.goTo(5.5);
  await ride.play();
  const curve = await place(7.2, -11.47);
  await drag(curve, 0, 14);
  const line = await page.evaluate(() => sureHandProbe!.lineX);
  await ride.heardPast((await ride.heard()) + 0.3);
  expect(await page.evaluate(() => sureHandProbe!.lineX)).toBeGreaterThan(line);
  await page.mouse.up();
  await expect.poll(async () => (await app.points(LEAD))[1]!.shape).toBe('bend');
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));

  await ride.heardPast(9.1);
  const inside = await place(12, -10.7);
  expect(Math.abs(await heardOff(page))).toBeLessThan(0.3);
  await drag(inside, 0, -24);
  // Heard while it is still in the hand, and nothing kept of it.
  await expect.poll(() => heardOff(page)).toBeLessThan(-2);
  expect((await app.points(LEAD)).length).toBe(LANE.length);
  await page.mouse.up();
  await expect.poll(async () => (await app.points(LEAD)).length).toBe(LANE.length + 4);
  const lifted = await app.points(LEAD);
  expect(lifted.filter(({ t }) => t === 9)).toHaveLength(2);
  expect(lifted.filter(({ t }) => t === 15)).toHaveLength(2);
  await ride.stop();
  await page.keyboard.press('Control+z');
  await expect(ride.says).toHaveText('Taken back: Lift of Lead level.');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.points(LEAD)).map(({ shape }) => shape)).toEqual(LANE.map(() => 'line'));
});

test('a double click puts a point on the curve; with trim on, keys mend the trim; a curve that is safe says why it stays', async ({
  page,
  app,
  ride,
}) => {
  const { place } = await mended(page, app, ride, 1);
  const there = await place(6.5, -11);
  await page.mouse.dblclick(there.x, there.y);
  await expect.poll(async () => (await app.points(LEAD)).length).toBe(LANE.length + 1);
  const added = (await app.points(LEAD))[2]!;
  expect(added.t).toBeCloseTo(6.5, 1);
  expect(added.v).toBeCloseTo(-11, 1);

  await page.keyboard.press('0');
  await ride.goTo(7);
  await page.keyboard.press('Insert');
  await expect(page.getByTestId('picked')).toHaveText('1 picked');
  await page.keyboard.press('Alt+ArrowUp');
  await expect(ride.says).toHaveText(/^1 point of Lead level’s trim moved: \+0\.2 dB → \+0\.2 dB\.$/);
  await expect.poll(async () => (await app.points(LEAD, 'trim')).length).toBe(1);
  const [offset] = await app.points(LEAD, 'trim');
  expect(offset!.t).toBeCloseTo(7, 6);
  expect(offset!.v).toBeCloseTo(0.24, 6);
  expect((await app.points(LEAD)).length).toBe(LANE.length + 1);
  await page.keyboard.press('0');

  await page.keyboard.press('j');
  const point = await place(11, -6);
  await page.mouse.move(point.x, point.y);
  await page.mouse.down();
  await page.mouse.move(point.x, point.y - 40, { steps: 4 });
  await expect(page.getByText('Safe: Lead level stays as it is. J takes it out.')).toBeVisible();
  await page.mouse.up();
  await page.keyboard.press('Delete');
  expect((await app.points(LEAD)).find(({ t }) => t === 11)!.v).toBe(-6);
});

test('a range is copied as text, pasted on another lane, cut; a lane is thinned as was said before @long', async ({
  page,
  app,
  ride,
  context,
}) => {
  await context.grantPermissions(['clipboard-read', 'clipboard-write']);
  await mended(page, app, ride, 1);
  await ride.setRange(4, 12);
  await page.keyboard.press('Control+c');
  await expect(ride.says).toHaveText('8.00 s of Lead level copied.');
  const text = await page.evaluate(() => navigator.clipboard.readText());
  expect(text.split('\n')[0]).toBe('Sure Hand curve\tLead level\tlevel\t8');
  await ride.takeInHand('fiddle', 'Fiddle');
  await ride.goTo(9);
  await page.keyboard.press('Control+v');
  await expect(ride.says).toHaveText('8.00 s of Lead level pasted to Fiddle level.');
  await expect.poll(async () => (await app.points('fiddle/level')).length).toBeGreaterThan(4);
  const pasted = await app.points('fiddle/level');
  for (const [t, v] of pairs(LANE).slice(1, 4)) expect(pairs(pasted)).toContainEqual([t! + 5, v]);
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points('fiddle/level')).toEqual([]);

  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('Control+x');
  await expect(ride.says).toHaveText('8.00 s of Lead level cut.');
  await expect.poll(async () => (await app.points(LEAD)).map(({ t }) => t)).toEqual([2, 4, 12, 14]);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));

  // A dense lane: what thinning would leave is said, and nothing is kept until it is asked for.
  const dense = Array.from({ length: 300 }, (_, i) => linePoint(15 + i / 100, -20 + Math.sin(i / 30) + 0.02 * (i % 2)));
  await app.edit({ kind: 'points', control: LEAD, remove: [], add: Curve.of(dense) });
  await ride.setRange(15, 18.1);
  await page.keyboard.press('h');
  const says = page.getByTestId('thin-says');
  await expect(says).toHaveText(
    /^305 points of Lead level become \d+\. Furthest off at .+: −\d+\.\d dB becomes −\d+\.\d dB\.$/,
  );
  const left = Number(/become (\d+)/.exec((await says.textContent())!)![1]);
  expect((await app.points(LEAD)).length).toBe(305);
  await page.keyboard.press('Escape');
  await expect(says).toBeHidden();
  expect((await app.points(LEAD)).length).toBe(305);
  await page.keyboard.press('h');
  await page.getByRole('button', { name: 'Thin', exact: true }).click();
  await expect.poll(async () => (await app.points(LEAD)).length).toBe(left);
  expect(left).toBeLessThan(60);
});

test('a picked point is typed exactly; a shape is drawn over the range, seen before it is kept; points are cleared by scope @long', async ({
  page,
  app,
  ride,
}) => {
  const { place } = await mended(page, app, ride, 1);
  const point = await place(8, -12);
  await page.mouse.click(point.x, point.y);
  await page.keyboard.press('Shift+Equal');
  const sheet = page.getByRole('dialog', { name: '1 point of Lead level' });
  await sheet.getByLabel('Value').fill('-7.5');
  await sheet.getByLabel('Time').fill('0:08.500');
  await page.keyboard.press('Enter');
  await expect.poll(async () => pairs(await app.points(LEAD))[2]).toEqual([8.5, -7.5]);
  await sheet.getByText('S', { exact: true }).click();
  await expect.poll(async () => (await app.points(LEAD))[2]!.shape).toBe('s');
  // What can't be is said, and nothing is changed.
  await sheet.getByLabel('Value').fill('40');
  await page.keyboard.press('Enter');
  await expect(sheet.getByRole('alert')).toHaveText('40.0 dB is outside −∞ dB … 12.0 dB.');
  await page.keyboard.press('Escape');
  expect(pairs(await app.points(LEAD))[2]).toEqual([8.5, -7.5]);

  await ride.setRange(4, 8);
  await page.keyboard.press('g');
  const shape = page.getByRole('dialog', { name: 'Shape over the range' });
  await expect(page.getByTestId('wave-says')).toHaveText(
    /^Lead level between −\d+\.\d dB and −?\d+\.\d dB, \d+ points\.$/,
  );
  const drawn = Number(/(\d+) points/.exec((await page.getByTestId('wave-says').textContent())!)![1]);
  expect((await app.points(LEAD)).length).toBe(LANE.length);
  await shape.getByRole('button', { name: 'Draw' }).click();
  await expect.poll(async () => (await app.points(LEAD)).filter(({ t }) => t >= 4 && t <= 8).length).toBe(drawn);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.points(LEAD)).length).toBe(LANE.length);

  await page.keyboard.press('Shift+Delete');
  const clear = page.getByRole('dialog', { name: 'Clear points' });
  await expect(page.getByTestId('clear-says')).toHaveText('1 point of Lead level will go.');
  await clear.getByText('Lane', { exact: true }).click();
  await expect(page.getByTestId('clear-says')).toHaveText('5 points of Lead level will go.');
  await page.keyboard.press('Enter');
  await expect(ride.says).toHaveText('5 points of Lead level cleared.');
  await expect.poll(() => app.points(LEAD)).toEqual([]);
});

test('what is mended is heard by one key, from before it, again and again; the line comes back, and nothing is written @long', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 1);
  await page.keyboard.press('5');
  await ride.setRange(9, 10);
  await ride.goTo(3);
  await page.keyboard.press('Shift+Q');
  await expect(ride.says).toHaveText('Hearing the range, again and again.');
  // From two seconds before it to its end, and round again.
  await ride.heardPast(9.5);
  await page.waitForFunction(() => sureHandProbe!.heard() < 8);
  await expect.poll(async () => Math.abs(await heardOff(page))).toBeLessThan(0.3);
  await page.keyboard.press('Space');
  await page.waitForFunction(() => Math.abs(sureHandProbe!.heard() - 3) < 0.01);
  expect(await app.passes()).toEqual([]);
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));

  // The control moved last comes into hand by one key.
  await page.keyboard.press('1');
  await page.keyboard.press('ArrowUp');
  await ride.takeInHand('fiddle', 'Fiddle');
  await expect(page.getByTestId('in-hand')).toHaveText('Fiddle');
  await page.keyboard.press('d');
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
});
