import { existsSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Curve, valueAt, type Point } from '@sure-hand/core/curve';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import type { Page } from '@playwright/test';
import { RidePage, expect, test, type App } from './app.js';

const LEAD = 'lead/level';
const REST_DB = -5;
/** At most the last second of a pass may be missing after a crash (bars, Safety). */
const MOST_LOST_SEC = 1;

/** Begins a ride and leaves the finger down, `sec` into it; gives back what was heard then. */
async function rideOn(ride: RidePage, sec: number): Promise<{ touchedAt: number; leftAt: number }> {
  await ride.play();
  await ride.heardPast(0.4);
  await ride.dragCap('lead', 120, sec, false);
  const { pointerdown: touchedAt } = await ride.handAt();
  return { touchedAt, leftAt: await ride.heard() };
}

/** The page's process dies, as by SIGKILL: nothing in it gets to run any more. */
async function killTab(page: Page): Promise<void> {
  const client = await page.context().newCDPSession(page);
  const crashed = page.waitForEvent('crash');
  void client.send('Page.crash').catch(() => undefined);
  await crashed;
  await page.close();
}

function expectRecovered(points: readonly Point[], { touchedAt, leftAt }: { touchedAt: number; leftAt: number }): void {
  expect(Math.abs(points[0]!.t - touchedAt)).toBeLessThan(0.03);
  expect(points.at(-1)!.t).toBeGreaterThan(leftAt - MOST_LOST_SEC);
  const at = leftAt - MOST_LOST_SEC;
  const begun = travelOf(LEVEL_LAW, REST_DB);
  const rose = travelOf(LEVEL_LAW, valueAt(Curve.of(points), LEVEL_LAW, REST_DB, at)) - begun;
  expect(rose).toBeGreaterThan(0.02);
}

test('the tab is killed mid-ride: on reopening the pass is offered, and kept', async ({ page, app, ride }) => {
  const was = await rideOn(ride, 2);
  const context = page.context();
  await killTab(page);
  expect(await app.points(LEAD)).toEqual([]);

  const again = new RidePage(await context.newPage(), app);
  await again.open();
  await again.page.getByRole('button', { name: '1 cut short' }).click({ timeout: 15_000 });
  const list = again.page.getByRole('dialog', { name: 'Passes that were cut short' });
  await expect(list.getByTestId('cut-short')).toHaveText(/^Lead level /);
  await list.getByRole('button', { name: 'Keep it' }).click();
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  expectRecovered(await app.points(LEAD), was);
  await expect(again.page.getByRole('button', { name: '1 cut short' })).toBeHidden();
  await expect(again.page.getByRole('button', { name: /^Undo Pass 1/ })).toBeVisible();
  // It is offered once.
  await again.page.reload();
  await again.isOpen();
  await expect.poll(async () => (await app.get<object[]>('/songs/1/journals')).length).toBe(0);
  await expect(again.page.getByText(/cut short$/)).toHaveCount(0);
});

test('server and tab are killed mid-ride: another browser is offered the pass, and drops it @long', async ({
  page,
  app,
  ride,
  browser,
}) => {
  const was = await rideOn(ride, 1.5);
  const port = Number(new URL(app.address).port);
  await app.crash();
  await killTab(page);
  await app.start(port);
  // That nobody writes to it any more is known after a moment.
  const journals = (): Promise<{ at: number }[]> => app.get('/songs/1/journals');
  await expect.poll(async () => (await journals()).length).toBe(1);
  const [journal] = await journals();
  expect(journal!.at).toBeGreaterThan(was.leftAt - MOST_LOST_SEC);

  const other = new RidePage(await (await browser.newContext()).newPage(), app);
  await other.open();
  await expect(other.page.getByRole('button', { name: '1 cut short' })).toBeVisible({ timeout: 15_000 });
  await other.page.keyboard.press('Alt+C');
  await expect(other.page.getByRole('dialog').getByTestId('cut-short')).toHaveText(/^Lead level /);
  await other.page.keyboard.press('Shift+D');
  await expect.poll(async () => (await app.get<object[]>('/songs/1/journals')).length).toBe(0);
  expect(await app.points(LEAD)).toEqual([]);
  await other.page.context().close();
});

test('the server away mid-ride, and the tab killed too: the ride is in the browser, and is sent when both are back', async ({
  page,
  app,
  ride,
}) => {
  await ride.play();
  await ride.heardPast(0.3);
  const port = Number(new URL(app.address).port);
  await app.crash();
  await ride.dragCap('lead', 60, 0.6);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(page.getByText('Server away: 1 edit waits')).toBeVisible();
  const context = page.context();
  await killTab(page);
  await app.start(port);
  expect(await app.points(LEAD)).toEqual([]);
  await new RidePage(await context.newPage(), app).open();
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  expect(await app.get<object[]>('/songs/1/passes')).toHaveLength(1);
});

/** What a page has of the song, as it would be seen: the sections on the strip. */
const sections = (page: Page): Promise<string[]> => page.locator('.section').allTextContents();

async function addSection(page: Page, app: App, name: string, at: string): Promise<void> {
  await page.keyboard.press('Shift+S');
  await page.getByLabel('Name of the section').fill(name);
  await page.getByLabel('Begins at').fill(at);
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await app.song()).song.sections.map((section) => section.name)).toContain(name);
}

test('two tabs on one song: each follows the other, and no edit is lost @long', async ({ page, app, ride }) => {
  const second = new RidePage(await page.context().newPage(), app);
  await second.open();
  await page.bringToFront();
  await addSection(page, app, 'From the first', '2');
  await expect.poll(() => sections(second.page)).toContain('From the first');

  // The first rides while the second makes an edit: both stand, and both tabs have both.
  await ride.play();
  await ride.heardPast(0.4);
  await ride.dragCap('lead', 60, 0.6, false);
  await app.edit({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'From elsewhere' } });
  await expect(page.getByLabel('Note: From elsewhere')).toBeVisible();
  await expect(ride.says).toHaveText(/^Writing Lead level/);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  expect((await app.song()).song.notes).toContainEqual({ t: 3, text: 'From elsewhere' });
  await expect(second.page.getByRole('button', { name: /^Undo Pass 1: Lead level/ })).toBeVisible();

  // An undo in the second is seen in the first.
  await second.page.bringToFront();
  await second.page.keyboard.press('Control+z');
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  await expect(page.getByRole('button', { name: /^Redo Pass 1: Lead level/ })).toBeEnabled();
});

test('an edit made on what another tab has changed is refused in a sentence, and the other’s stands', async ({
  page,
  app,
}) => {
  const first = new RidePage(page, app);
  await first.open();
  await page.locator('.section').first().dblclick();
  await expect(page.getByRole('dialog', { name: /^Section / })).toBeVisible();
  const { song } = await app.song();
  const section = song.sections[0]!;
  await app.edit({ kind: 'mark', list: 'sections', remove: section, add: { ...section, name: 'Changed elsewhere' } });
  await expect.poll(() => sections(page)).toContain('Changed elsewhere');
  await page.getByLabel('Name of the section').fill('Changed here');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert')).toContainText('has been changed meanwhile; nothing was done');
  expect((await app.song()).song.sections[0]!.name).toBe('Changed elsewhere');
  await expect.poll(() => sections(page)).toContain('Changed elsewhere');
});

test('a database that is gone takes no song with it: the list offers what was found, and it comes back', async ({
  page,
  app,
}) => {
  await app.edit({ kind: 'rest', values: { 'lead/level': -9.5 } });
  const before = (await app.song()).song;
  await app.stop();
  for (const end of ['', '-wal', '-shm']) rmSync(join(app.data, `sure-hand.sqlite${end}`), { force: true });
  mkdirSync(join(app.data, 'lost', 'Odds'), { recursive: true });
  await app.start();
  await page.goto(app.address);
  await expect(page.getByText('No song is in the list.')).toBeVisible();
  const odds = page.locator('.lost-row').filter({ hasText: 'lost/Odds' });
  const found = page.locator('.lost-row').filter({ hasText: before.name });
  await expect(odds).toHaveText(/Audio without a song document0 audio files/);
  // By keys: back it comes, and stays over a reload.
  await found.getByRole('button', { name: 'Bring back' }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status')).toHaveText(
    `${before.name} is back as it was last left; its undo and log of passes are not.`,
  );
  await expect(found).toHaveCount(0);
  await page.reload();
  await page.getByRole('link', { name: before.name }).click();
  await expect(page.getByTestId('row-lead')).toBeVisible();
  const [{ id }] = (await app.get<{ id: number }[]>('/songs')) as [{ id: number }];
  const { song, files } = await app.song(id);
  expect(song).toEqual(before);
  for (const file of Object.values(files)) expect(file).toHaveProperty('info');
  // What is nothing can go, once that was asked twice.
  await page.goto(app.address);
  await odds.getByRole('button', { name: 'Delete…' }).click();
  await expect(odds.getByRole('button', { name: 'Keep' })).toBeFocused();
  await page.keyboard.press('Enter');
  await odds.getByRole('button', { name: 'Delete…' }).click();
  await odds.getByRole('button', { name: 'Delete 0 files' }).click();
  await expect(page.getByText('Found without a song')).toHaveCount(0);
  expect(existsSync(join(app.data, 'lost', 'Odds'))).toBe(false);
});
