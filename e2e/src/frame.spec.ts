import type { Page } from '@playwright/test';
import { expect, test, type RidePage } from './app.js';

/** Parts of the top bar that have their places. */
const PARTS = [
  '.song-name',
  '.views',
  '.top-position',
  '.top-transport',
  '.top-modes',
  '.top-parked',
  '.top-steps',
  '.server-state',
  '[aria-label="More: song, light, keys"]',
];

type Box = { readonly x: number; readonly y: number; readonly width: number; readonly height: number };
/** Where each part stands; null where it is not shown. */
const boxes = async (page: Page): Promise<(Box | null)[]> =>
  Promise.all(PARTS.map((part) => page.locator(`.top-bar ${part}`).boundingBox()));

const buttons = (page: Page): Promise<(Box | null)[]> =>
  page
    .locator('.top-transport')
    .locator('button')
    .all()
    .then((all) => Promise.all(all.map((one) => one.boundingBox())));

test('the top bar keeps still whatever is on, parked, undone or away, and nothing in it lies over anything else', async ({
  page,
  app,
  ride,
}) => {
  const still = await boxes(page);
  const transport = await buttons(page);
  const expectStill = async (): Promise<void> => {
    expect(await boxes(page)).toEqual(still);
    expect(await buttons(page)).toEqual(transport);
  };
  expect(still.every((box) => box !== null)).toBe(true);
  await expectApart(page);

  await ride.setRange(1, 3);
  await page.keyboard.press('u');
  await expect(page.getByRole('button', { name: /^Punch \d/ })).toHaveAttribute('aria-pressed', 'true');
  await expectStill();
  await page.keyboard.press('l');
  await page.keyboard.press('Alt+5');
  await page.keyboard.press('Alt+Shift+K');
  await expect(page.getByRole('button', { name: 'Song parked' })).toBeVisible();
  await expectStill();
  // Played once, so that its audio is in the page when the server goes; what that changed has been sent.
  await ride.play();
  await ride.stop();
  await app.settled();
  await app.crash();
  await page.keyboard.press('4');
  await expect(page.getByText('Server away: 1 edit waits')).toBeVisible();
  await expectStill();
  await ride.play();
  await expectStill();
  await ride.stop();

  for (const width of [1200, 1024]) {
    await page.setViewportSize({ width, height: 800 });
    await expect(page.getByRole('button', { name: 'View: Ride' })).toBeVisible();
    await expectApart(page);
  }
});

/** No two parts of the top bar share a place, and all are inside it. */
async function expectApart(page: Page): Promise<void> {
  const { width } = page.viewportSize()!;
  const selectors = [...PARTS.filter((part) => part !== '.views'), '.views, .views-menu'];
  const all: Box[] = [];
  for (const part of selectors)
    for (const one of await page.locator('.top-bar').locator(part).all()) {
      const box = await one.boundingBox();
      if (box && box.width > 0) all.push(box);
    }
  expect(all.length).toBeGreaterThanOrEqual(selectors.length);
  for (const [i, a] of all.entries()) {
    expect(a.x).toBeGreaterThanOrEqual(0);
    expect(a.x + a.width).toBeLessThanOrEqual(width);
    for (const b of all.slice(i + 1)) {
      const isApart =
        a.x + a.width <= b.x + 0.5 || b.x + b.width <= a.x + 0.5 || a.y + a.height <= b.y || b.y + b.height <= a.y;
      expect([a, b, isApart]).toEqual([a, b, true]);
    }
  }
}

test('the whole song stands in view from its first to its last moment, and the line walks over it @long', async ({
  page,
  app,
  ride,
}) => {
  const { length } = (await app.song()).song;
  await page.keyboard.press('Shift+BracketLeft');
  const lanes = (await page.getByTestId('lanes').boundingBox())!;
  const lineX = (): Promise<number> => page.evaluate(() => globalThis.sureHandProbe!.lineX);
  const atStart = await lineX();
  await ride.goTo(length - 0.05);
  await expect.poll(lineX).toBeGreaterThan(atStart + 0.85 * lanes.width);
  expect(await lineX()).toBeLessThan(lanes.width);
  expect(atStart).toBeGreaterThan(0);
  expect(atStart).toBeLessThan(60);
});

test('Esc closes a sheet from within its fields, and what is typed next is a key again', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('Shift+T');
  const sheet = page.getByRole('dialog').first();
  await expect(sheet).toBeVisible();
  await sheet.getByLabel('Name', { exact: false }).first().focus();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('4');
  await expect(page.getByRole('button', { name: 'Mode of Lead: Latch' })).toBeVisible();
  expect((await app.song()).song.name).toBe('Short song');
  await expect(ride.says).toHaveText('Play writes what you touch of Lead.');
});

/** Which lanes of a channel are in sight, and how tall. */
const rowHeight = async (page: Page, channel: string): Promise<number> =>
  (await page.getByTestId(`row-${channel}`).boundingBox())!.height;

test('what a pass wrote stays in sight after it, whatever is taken in hand next', async ({ page, app, ride }) => {
  await ride.play();
  await ride.heardPast(0.3);
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(() => app.points('lead/level')).not.toHaveLength(0);
  await ride.takeInHand('fiddle', 'Fiddle');
  await expect(page.getByTestId('in-hand')).toHaveText('Fiddle');
  await expect.poll(() => rowHeight(page, 'fiddle')).toBeGreaterThan(150);
  expect(await rowHeight(page, 'lead')).toBeGreaterThan(3 * (await rowHeight(page, 'choir')));
  await expectCurveSeen(ride);
});

test('rows that open after a pass push nothing that is looked at from its place @long', async ({ page, ride }) => {
  await ride.takeInHand('fiddle', 'Fiddle');
  await page.keyboard.press('4');
  await page.keyboard.press('ArrowUp');
  await expect(page.getByTestId('poised')).toHaveText('1 poised');
  await ride.takeInHand('lead', 'Lead');
  const y = async (): Promise<number> => (await page.getByTestId('row-lead').boundingBox())!.y;
  const slim = await rowHeight(page, 'fiddle');
  const before = await y();
  await ride.play();
  await ride.heardPast(1);
  await ride.stop();
  await expect.poll(() => rowHeight(page, 'fiddle')).toBeGreaterThan(3 * slim);
  expect(await y()).toBeCloseTo(before, 0);
});

async function expectCurveSeen(ride: RidePage): Promise<void> {
  await expect.poll(() => ride.curveY('lead', -20)).not.toBeNull();
}

test('a note brings its channel to hand with the lane that stands in front, and covers no row @long', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'Softer here', channel: 'lead' } });
  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('lead pan');
  await page.keyboard.press('Enter');
  await expect(ride.value).toHaveText('C');
  const note = page.getByLabel('Note: Softer here');
  await note.hover();
  const told = page.getByRole('tooltip', { name: /Softer here/ });
  await expect(told).toBeVisible();
  const row = (await page.getByTestId('row-frame-drum').boundingBox())!;
  const box = (await told.boundingBox())!;
  expect(box.y + box.height).toBeLessThanOrEqual(row.y);
  await note.click();
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  await expect(ride.value).toHaveText('C');
});

test('what is pointed at says what it is: a mark stays under the pointer, what can’t be done says why', async ({
  page,
  ride,
}) => {
  await ride.takeInHand('fiddle', 'Fiddle');
  await page.keyboard.press('j');
  await ride.takeInHand('lead', 'Lead');
  const mark = page.getByTestId('row-fiddle').getByRole('img', { name: 'Safe, written by nothing: level' });
  const { x, y } = (await mark.boundingBox())!;
  await page.mouse.move(x + 6, y + 6, { steps: 4 });
  await expect(page.getByRole('tooltip')).toHaveText('Safe, written by nothing: level');
  await expect(page.getByRole('button', { name: 'Mute Fiddle' })).toBeVisible();
  expect(await mark.boundingBox()).toMatchObject({ x, y });
  const loop = (await page.getByRole('button', { name: 'Loop', exact: true }).boundingBox())!;
  await page.mouse.move(loop.x + 20, loop.y + 10, { steps: 4 });
  await expect(page.getByRole('tooltip')).toHaveText('Set a range first: drag on the ruler, or I and O');
  await page.keyboard.press('Escape');
  await expect(page.getByRole('tooltip')).toBeHidden();
});

test('the grid of versions shows where passes differ, and which one stands there @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.play();
  await ride.heardPast(0.3);
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  await ride.goTo(12);
  await ride.play();
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  await ride.show('Passes');
  await expect(page.getByRole('button', { name: 'Pass 1 stands in Verse' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Pass 2 stands in Chorus' })).toBeVisible();
  await expect(page.getByRole('img', { name: 'Pass 2 left Verse as it was' })).toBeVisible();
  await page.getByRole('button', { name: 'Let what was before them all stand in Verse' }).click();
  await expect(page.getByRole('button', { name: 'Before them all stands in Verse' })).toBeVisible();
  await expect.poll(async () => (await app.points('lead/level')).filter(({ t }) => t < 5 && t > 0).length).toBe(0);
});
