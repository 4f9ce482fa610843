import { passState } from '@sure-hand/core/pass';
import { Curve, valueAt, type Point } from '@sure-hand/core/curve';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import type { Stale } from '@sure-hand/server';
import type { Page } from '@playwright/test';
import { RidePage, expect, test, type App } from './app.js';

const LEAD = 'lead/level';
const REST_DB = -5;
const level = (points: readonly Point[], t: number): number => valueAt(Curve.of(points), LEVEL_LAW, REST_DB, t);
const portOf = (app: App): number => Number(new URL(app.address).port);

test('a pass made with the server away is sent from the list, in one piece, and is nowhere called cut short', async ({
  page,
  app,
  ride,
}) => {
  const port = portOf(app);
  await ride.play();
  await ride.heardPast(0.3);
  await app.crash();
  await ride.dragCap('lead', 60, 0.6);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level /);
  await page.keyboard.press('m');
  await expect(page.getByText('Server away: 2 edits wait')).toBeVisible();

  // The page is left in the same tab: the list, with the server away, says what waits, and tries again by itself.
  await page.getByRole('link', { name: 'Short song' }).click();
  await expect(page.getByTestId('waiting-1')).toContainText('Short song: 2 edits wait for the server');
  await page.getByRole('button', { name: 'Give them up…' }).click();
  await expect(page.getByRole('button', { name: 'Give them up for good' })).toBeVisible();
  await page.getByRole('button', { name: 'Keep them' }).click();
  await expect(page.getByRole('button', { name: 'Try again' })).toBeVisible();
  // Closing it now warns.
  const warned = page.waitForEvent('dialog');
  void page.close({ runBeforeUnload: true });
  const warning = await warned;
  expect(warning.type()).toBe('beforeunload');
  await warning.dismiss();

  await app.start(port);
  await expect(page.getByTestId('waiting-1')).toBeHidden();
  await expect(page.getByRole('link', { name: 'Short song' })).toBeVisible();
  const [pass, ...others] = await app.passes();
  expect(others).toEqual([]);
  const points = await app.points(LEAD);
  expect(pass!.receipt.lanes).toMatchObject([{ control: LEAD, points: points.length }]);

  await page.getByRole('link', { name: 'Short song' }).click();
  await ride.isOpen();
  await expect(page.getByRole('button', { name: /^Undo / })).toBeEnabled();
  expect(await app.get<object[]>('/songs/1/journals')).toEqual([]);
  await expect(page.getByText(/cut short$/)).toHaveCount(0);
  expect(await app.passes()).toHaveLength(1);
});

test('leaving in mid-roll is a stop: the pass is kept, write falls back, and closing the page warns @long', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('5');
  await expect(page.getByRole('button', { name: 'Mode of Lead: Write' })).toBeVisible();
  await ride.play();
  await ride.heardPast(1);
  await page.getByRole('link', { name: 'Short song' }).click();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  const modeOfLead = async (): Promise<string> =>
    (await app.song()).song.channels.find(({ key }) => key === 'lead')!.mode;
  await expect.poll(modeOfLead).toBe('touch');
  expect((await app.points(LEAD)).at(-1)!.t).toBeGreaterThan(0.9);
  expect(await app.get<object[]>('/songs/1/journals')).toEqual([]);

  // So is closing the page, though it be so busy that it is gone before it could do anything as it is hidden.
  await page.getByRole('link', { name: 'Short song' }).click();
  await ride.isOpen();
  await page.keyboard.press('5');
  await expect(page.getByRole('button', { name: 'Mode of Lead: Write' })).toBeVisible();
  await ride.play();
  await ride.heardPast(0.5);
  // What it has just written is not with the server yet, and that is said. Who stays finds it made.
  const warned = page.waitForEvent('dialog');
  void page.close({ runBeforeUnload: true });
  const warning = await warned;
  expect(warning.type()).toBe('beforeunload');
  await warning.dismiss();
  await expect(ride.says).toHaveText(/^Pass 2: 7 controls of Lead/);
  await page.keyboard.press('5');
  await expect(page.getByRole('button', { name: 'Mode of Lead: Write' })).toBeVisible();
  await ride.play();
  await ride.heardPast(0.5);
  const slow = await page.context().newCDPSession(page);
  await slow.send('Emulation.setCPUThrottlingRate', { rate: 12 });
  await page.goto('about:blank');
  const back = new RidePage(await page.context().newPage(), app);
  await back.open();
  await expect.poll(async () => (await app.passes()).length).toBe(3);
  await expect(back.page.getByRole('button', { name: 'Mode of Lead: Touch' })).toBeVisible();
});

test('a guard set elsewhere ends what is being written there and then; one that the page did not know of leaves the lane alone', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('4');
  await expect(page.getByRole('button', { name: 'Mode of Lead: Latch' })).toBeVisible();
  await ride.play();
  await ride.heardPast(0.3);
  await ride.dragCap('lead', 60, 0.5, false);
  await expect(ride.says).toHaveText(/^Writing Lead level/);
  const before = await ride.heard();
  await app.edit({ kind: 'guard', control: LEAD, changes: { safe: true } });
  await expect(ride.says).toHaveText('Safe: Lead level is heard, not written. J takes it out.');
  const after = await ride.heard();
  await ride.heardPast(after + 0.5);
  const { x, y } = await ride.cap('lead');
  await page.mouse.move(x, y);
  await page.mouse.up();
  await ride.heardPast(after + 1);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  const [pass] = await app.passes();
  const [[, to]] = pass!.receipt.lanes[0]!.spans as [[number, number]];
  expect(to).toBeGreaterThan(before - 0.05);
  expect(to).toBeLessThan(after + 0.05);
  const points = await app.points(LEAD);
  expect(points.at(-1)!.t).toBeCloseTo(to, 6);
  expect(level(points, to + 0.01)).toBeCloseTo(REST_DB, 6);
  const { changes } = await app.get<Stale>('/songs/1/changes?since=0');
  const heeded = changes.flatMap(({ edit }) => (edit.kind === 'pass' ? [edit.heeded] : []));
  expect(heeded).toEqual([[{ control: LEAD, reason: 'safe', t: to }]]);

  // Taken off again; while edits from here do not come through, it is set anew: this page cannot know.
  await app.edit({ kind: 'guard', control: LEAD, changes: { safe: false } });
  await expect(ride.says).toHaveText('Play writes what you touch of Lead.');
  await page.route('**/api/songs/1/*', (route) => route.abort());
  await page.route('**/socket.io/**', (route) => route.abort());
  await ride.goTo(6);
  await ride.play();
  await ride.dragCap('lead', 90, 0.5);
  await ride.stop();
  await expect(page.getByText('Server away: 1 edit waits')).toBeVisible();
  await app.edit({ kind: 'guard', control: LEAD, changes: { safe: true } });
  await page.unroute('**/api/songs/1/*');
  await expect(page.getByRole('alert')).toContainText('Guarded meanwhile, and left as it was: Lead level (safe).');
  // The sentence is whole, over the bar: what play would do stands there as ever, until what is done next takes the sentence away.
  const [bar, sentence] = await Promise.all(
    [page.locator('footer'), page.locator('.trouble')].map((at) => at.boundingBox()),
  );
  expect(sentence!.y + sentence!.height).toBeLessThanOrEqual(bar!.y);
  expect(await page.locator('.trouble').evaluate((at) => at.scrollHeight <= at.clientHeight)).toBe(true);
  await expect(ride.says).toHaveText('Safe: Lead level is heard, not written. J takes it out.');
  expect(await app.points(LEAD)).toEqual(points);
  expect((await app.passes())[0]).toMatchObject({ number: 2, left: [{ control: LEAD, reason: 'safe' }] });

  // What was ridden is in the log, and stands from there once the guard is off.
  await app.edit({ kind: 'guard', control: LEAD, changes: { safe: false } });
  await page.goto(`${app.address}/songs/1/passes`);
  await expect(page.getByRole('button', { name: /^Pass 2/ })).toContainText('one lane left alone');
  await page.getByRole('button', { name: 'Let what was ridden stand' }).click();
  await expect.poll(() => app.points(LEAD)).not.toEqual(points);
  const [from] = (await app.passes())[0]!.receipt.lanes[0]!.spans[0]!;
  const ridden = (await app.points(LEAD)).filter((point) => point.t >= from);
  const highest = Math.max(...ridden.map((point) => travelOf(LEVEL_LAW, point.v)));
  expect(highest - travelOf(LEVEL_LAW, ridden[0]!.v)).toBeCloseTo(90 / 600, 2);
});

test('several that were cut short are a list, each kept or dropped by itself, and not in the way of a receipt @long', async ({
  page,
  app,
}) => {
  const began = passState((await app.song()).song);
  for (const [key, from] of [
    ['first', 2],
    ['second', 6],
  ] as const) {
    const events = [
      { do: 'play', from },
      { do: 'touch', control: LEAD, t: from + 0.2 },
      { do: 'move', control: LEAD, value: -1, t: from + 0.4 },
    ];
    const piece = { seq: 0, began, events, at: from + 1 };
    const init = { method: 'PUT', headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(piece) };
    expect((await fetch(`${app.address}/api/songs/1/journals/${key}`, init)).status).toBe(204);
  }
  await expect.poll(async () => (await app.get<object[]>('/songs/1/journals')).length).toBe(2);
  const ride = new RidePage(page, app);
  await ride.open();
  const offer = page.getByRole('button', { name: '2 cut short' });
  await expect(offer).toBeVisible();
  // A pass has its receipt all the same.
  await ride.goTo(12);
  await ride.play();
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level /);
  await expect(page.getByRole('button', { name: 'Undo this pass' })).toBeVisible();
  await expect(offer).toBeVisible();

  await offer.click();
  const list = page.getByRole('dialog', { name: 'Passes that were cut short' });
  await expect(list.getByTestId('cut-short')).toHaveText([/^Lead level 1·4/, /^Lead level 3·2/]);
  await list.getByTestId('cut-short').nth(1).getByRole('button', { name: 'Drop it' }).click();
  await expect(list.getByTestId('cut-short')).toHaveText([/^Lead level 1·4/]);
  await list.getByTestId('cut-short').getByRole('button', { name: 'Keep it' }).click();
  await expect(list).toContainText('None is left');
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  expect(await app.get<object[]>('/songs/1/journals')).toEqual([]);
  expect(level(await app.points(LEAD), 2.8)).toBeCloseTo(-1, 3);
  expect(level(await app.points(LEAD), 6.8)).toBeCloseTo(REST_DB, 6);
});

test('the song ends by itself with a loop behind the line, and listening in Passes ends by itself @long', async ({
  page,
  app,
  ride,
}) => {
  const { length } = (await app.song()).song;
  await app.edit({ kind: 'settings', changes: { loop: [1, 2] } });
  await expect(page.getByRole('button', { name: /^Loop \d/ })).toHaveAttribute('aria-pressed', 'true');
  // Far enough from the end for the slowest hand, which writes before the song is over.
  await ride.goTo(length - 6);
  await ride.play();
  await ride.dragCap('lead', 60, 0.4);
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 20_000 });
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  expect((await app.passes())[0]!.receipt.to).toBeLessThanOrEqual(length);
  expect(await ride.heard()).toBeLessThan(length + 0.01);

  await ride.show('Passes');
  await page.getByRole('button', { name: 'Listen' }).click();
  await expect(page.getByRole('button', { name: 'Stop', exact: true }).first()).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 20_000 });
  await expect(page.getByRole('button', { name: 'Listen' })).toBeVisible();
  expect(await app.passes()).toHaveLength(1);
});

test('a slow drag is kept as a slope, not as a staircase', async ({ page, app, ride }) => {
  await ride.play();
  await ride.heardPast(0.5);
  const { x, y } = await ride.grabCap('lead');
  const begun = await ride.heard();
  await page.evaluate(() => {
    addEventListener(
      'pointermove',
      (event) => (globalThis.movedAt ??= []).push(...event.getCoalescedEvents().map(({ timeStamp }) => timeStamp)),
      true,
    );
  });
  const moved = Array.from({ length: 40 }, (_, i) => ({ x, y: y - 3 * (i + 1) }));
  await ride.movePaced(moved, 25);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  const points = await app.points(LEAD);
  const { moves } = (await app.passes())[0]!.receipt.lanes[0]!;
  expect(moves).toBeGreaterThan(25);
  // A staircase has two points for every move; a plateau stays only where the hand rested, as on a busy machine it may.
  const movedAt = await page.evaluate(() => globalThis.movedAt!);
  const rests = movedAt.slice(1).filter((ms, i) => ms - movedAt[i]! > 45).length;
  expect(points.length).toBeLessThan(moves / 2 + 2 * rests);
  // Between the beginning and the top it only rises.
  const top = points.reduce((a, b) => (b.v > a.v ? b : a)).t;
  const rise = Array.from({ length: 20 }, (_, k) => begun + 0.1 + ((top - begun - 0.15) * k) / 19);
  const travels = rise.map((t) => travelOf(LEVEL_LAW, level(points, t)));
  for (let k = 1; k < travels.length; k++) expect(travels[k]! - travels[k - 1]!).toBeGreaterThan(-0.004);
});

/** From the next load on, one of the page's threads can't be fetched, as where the server goes away just then; null: all can. */
async function without(page: Page, thread: 'pageWorker' | 'mixWorklet' | 'ticker' | null): Promise<void> {
  await page.evaluate((name) => sessionStorage.setItem('without', name ?? ''), thread);
}

test('the server goes away while the page fetches its threads: opening says so and is tried again, and a ride is kept all the same', async ({
  page,
  app,
  ride,
}) => {
  await page.addInitScript(() => {
    const reached = (url: string | URL): string | URL => {
      const missing = sessionStorage.getItem('without');
      return missing && String(url).includes(missing) ? '/api/nowhere.js' : url;
    };
    globalThis.Worker = class extends Worker {
      constructor(url: string | URL, options?: WorkerOptions) {
        super(reached(url), options);
      }
    };
    const { addModule } = AudioWorklet.prototype;
    AudioWorklet.prototype.addModule = function (url, options) {
      return addModule.call(this, String(reached(url)), options);
    };
  });
  for (const thread of ['pageWorker', 'mixWorklet'] as const) {
    await without(page, thread);
    await page.reload();
    await expect(page.getByText('The server went away before all came that plays the song.')).toBeVisible();
    await without(page, null);
    await page.getByRole('button', { name: 'Try again' }).click();
    await ride.isOpen();
  }
  // Without the thread that ticks the page keeps time itself: what hands did is handed over.
  await without(page, 'ticker');
  await page.reload();
  await ride.isOpen();
  await ride.play();
  await ride.heardPast(0.3);
  await ride.dragCap('lead', 60, 0.4);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level /);
  await expect.poll(async () => (await app.passes()).length).toBe(1);
});
