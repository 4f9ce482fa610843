import { execFileSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Curve, valueAt, type Point } from '@sure-hand/core/curve';
import { decodeFrames, readWavInfo } from '@sure-hand/core/formats';
import type { Lane, Song } from '@sure-hand/core/song';
import { LEVEL_LAW, SILENCE_DB, dbOfGain, gainOfDb, leftGain, travelOf } from '@sure-hand/core/units';
import { expect, root, test, type App, type RidePage } from './app.js';

const LEAD = 'lead/level';
const REST_DB = -5;
const level = (points: readonly Point[], t: number): number => valueAt(Curve.of(points), LEVEL_LAW, REST_DB, t);

/** Where a ride begins to move. */
const movesAt = (points: readonly Point[]): number =>
  points[Math.max(0, points.findIndex((p) => Math.abs(p.v - REST_DB) > 0.05) - 1)]!.t;

const SLEW_SEC = 0.003;

/** That the audio thread applies the curve while the song plays, to 0.2 dB, and that something of it was really moving. */
async function expectHeard(ride: RidePage, points: readonly Point[], sec: number): Promise<void> {
  // As long as the ride was: on a busy machine a hand is slow.
  const top = points.reduce((a, b) => (b.v > a.v ? b : a)).t;
  // A step is spread over 2 ms from its time on: what is read in them is neither the one value nor the other.
  const steps = points.flatMap((p, i) => (points[i - 1]?.t === p.t ? [p.t] : []));
  const readings = (await ride.gains('lead', Math.max(sec, top - movesAt(points) + 0.5))).filter(
    ({ t, gain }) => gain > 0 && !steps.some((step) => t > step - SLEW_SEC && t < step + SLEW_SEC),
  );
  const centre = leftGain(3, 0);
  const off = readings.map(({ t, gain }) => Math.abs(dbOfGain(gain / centre) - level(points, t)));
  const levels = readings.map(({ t }) => level(points, t));
  expect(readings.length).toBeGreaterThan(20);
  expect(Math.max(...off)).toBeLessThan(0.2);
  expect(Math.max(...levels) - Math.min(...levels)).toBeGreaterThan(1);
}

test('a ride, whole: from the song list to the bounced file, taken back, and found again', async ({
  page,
  app,
  ride,
}) => {
  await page.goto(app.address);
  await page.getByRole('link', { name: 'Short song' }).click();
  await expect(ride.says).toHaveText('Play writes what you touch of Lead.');
  await expect(ride.value).toHaveText('−5.0 dB');

  await ride.play();
  await ride.heardPast(1);
  await ride.dragCap('lead', 120, 2, false);
  await expect(ride.says).toHaveText(/^Writing Lead level, \d+\.\d s\.$/);
  const live = await page.evaluate(() => globalThis.sureHandProbe!.gain('lead').gain);
  const handDb = dbOfGain(live / leftGain(3, 0));
  await page.mouse.up();
  const { pointerdown: touchedAt, pointerup: releasedAt } = await ride.handAt();
  await ride.heardPast(releasedAt + 0.6);
  await ride.stop();

  // The receipt, the stored lane and the sound of the hand agree.
  await expect(ride.says).toHaveText(/^Pass 1: Lead level \d+·\d(\.\d\d)?–\d+·\d(\.\d\d)?\.$/);
  await expect(ride.more).toHaveText(/moves kept as \d+ points, (within 0\.\d\d dB|exactly)/);
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  const points = await app.points(LEAD);
  const highest = points.reduce((a, b) => (b.v > a.v ? b : a));
  expect(travelOf(LEVEL_LAW, highest.v) - travelOf(LEVEL_LAW, REST_DB)).toBeCloseTo(120 / 600, 2);
  expect(highest.v).toBeCloseTo(handDb, 0);
  expect(Math.abs(points[0]!.t - touchedAt)).toBeLessThan(0.03);
  expect(points.at(-1)!.v).toBeCloseTo(REST_DB, 6);
  expect(Math.abs(points.at(-1)!.t - releasedAt - 0.25)).toBeLessThan(0.03);
  const passes = (await (await fetch(`${app.address}/api/songs/1/passes`)).json()) as {
    receipt: { lanes: object[] };
  }[];
  expect(passes[0]!.receipt.lanes[0]).toMatchObject({ control: LEAD, layer: 'base', points: points.length });

  // So does what is drawn.
  await ride.goTo(touchedAt + 3);
  const at = await ride.heard();
  const pxPerSec = ((await page.getByTestId('lanes').boundingBox())!.width - 14) / ride.secPerScreen;
  const head = (await page.getByTestId('row-lead').boundingBox())!;
  const yOf = (db: number): number => head.y + 12 + (1 - travelOf(LEVEL_LAW, db)) * (head.height - 24);
  for (const t of [touchedAt - 0.5, touchedAt + 1, touchedAt + 1.6]) {
    const drawn = await ride.curveY('lead', (t - at) * pxPerSec);
    expect(Math.abs(drawn! - yOf(level(points, t)))).toBeLessThan(3);
  }

  // Playing it back moves the cap and the sound along the curve.
  await page
    .getByRole('button', { name: 'Intro' })
    .or(page.getByRole('button', { name: 'Verse' }))
    .first()
    .click();
  await ride.play();
  await ride.heardPast(movesAt(points) - 0.3);
  // The value moves while the line is in the ride; on a busy machine it may be past it when the gains have been read.
  await Promise.all([expectHeard(ride, points, 1.5), expect(ride.value).not.toHaveText('−5.0 dB')]);
  await ride.stop();

  await expectBounced(app, points);

  // Undo restores the old lane exactly, by name; redo brings the ride back; both survive a restart and a reload.
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  await expect(page.getByRole('button', { name: 'Redo Pass 1: Lead level' })).toBeEnabled();
  await app.stop();
  await app.start();
  await ride.open();
  await page.keyboard.press('Shift+Control+z');
  await expect.poll(() => app.points(LEAD)).toEqual(points);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Undo Pass 1: Lead level' })).toBeVisible();
});

/** Bounces the Lead alone, before and after its ride, with the command line: the difference in level is the ride. */
async function expectBounced(app: App, points: readonly Point[]): Promise<void> {
  const { song } = await app.song();
  const folder = mkdtempSync(join(tmpdir(), 'sure-hand-bounce-'));
  cpSync(join(app.data, 'songs/1'), folder, { recursive: true });
  // Without its sends: what the returns ring on with is no gain of the moment.
  const silent = (id: string, lane: Lane): Lane =>
    /\/send\/.*\/level$/.test(id) ? { ...lane, rest: SILENCE_DB, points: Curve.EMPTY } : lane;
  const alone: Song = {
    ...song,
    channels: song.channels.map((c) => (c.key === 'lead' ? c : { ...c, clips: [] })),
    lanes: Object.fromEntries(Object.entries(song.lanes).map(([id, lane]) => [id, silent(id, lane)])),
  };
  const bounce = (name: string, document: Song): Float32Array => {
    writeFileSync(join(folder, `${name}.json`), JSON.stringify(document));
    const args = [
      'bounce',
      '--song',
      join(folder, `${name}.json`),
      '--out',
      join(folder, `${name}-mix.wav`),
      '--bits',
      '32f',
    ];
    execFileSync(process.execPath, [join(root, 'cli/bin/sure-hand.mjs'), ...args]);
    const bytes = readFileSync(join(folder, `${name}-mix.wav`));
    const read = readWavInfo(bytes, bytes.length);
    if (!read.ok) throw new Error(read.sentence);
    const columns = [0, 1].map(() => new Float32Array(read.value.frames));
    decodeFrames(bytes.subarray(read.value.dataOffset), read.value, columns, { frames: read.value.frames });
    return columns[0]!;
  };
  const ridden = bounce('ridden', alone);
  const flat = bounce('flat', {
    ...alone,
    lanes: { ...alone.lanes, [LEAD]: { ...alone.lanes[LEAD]!, points: Curve.EMPTY } },
  });
  let compared = 0;
  for (let n = 24000; n < flat.length - 24000; n += 997) {
    if (Math.abs(flat[n]!) < 0.01) continue;
    const gain = ridden[n]! / flat[n]!;
    expect(Math.abs(dbOfGain(gain) - (level(points, n / 48000) - REST_DB))).toBeLessThan(0.05);
    compared++;
  }
  expect(compared).toBeGreaterThan(50);
  expect(gainOfDb(level(points, points[0]!.t + 1.5))).toBeGreaterThan(gainOfDb(REST_DB));
}

for (const { key, mode, name } of [
  { key: '4', mode: 'latch', name: 'Latch' },
  { key: '5', mode: 'write', name: 'Write' },
] as const)
  test(`${mode}: the last value is held to the stop, heard again, and taken back @long`, async ({
    page,
    app,
    ride,
  }) => {
    await page.keyboard.press(key);
    await expect(page.getByRole('button', { name: `Mode of Lead: ${name}` })).toBeVisible();
    await ride.play();
    await ride.heardPast(0.5);
    await ride.dragCap('lead', 60, 1);
    await ride.heardPast((await ride.heard()) + 1.2);
    const heights = await ride.curveYAfterKey('lead', -28, 600);
    const stoppedAt = await ride.heard();
    await ride.stop();
    await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
    // What was ridden stands where it was from the first picture after the stop on, kept or not yet.
    const drawn = (await heights()).map((y) => y ?? NaN);
    expect(drawn.length).toBeGreaterThan(4);
    expect(Math.max(...drawn) - Math.min(...drawn)).toBeLessThan(3);
    const points = await app.points(LEAD);
    const [held, after] = points.slice(-2) as [Point, Point];
    expect(held.t).toBe(after.t);
    expect(after.v).toBe(REST_DB);
    expect(travelOf(LEVEL_LAW, held.v) - travelOf(LEVEL_LAW, REST_DB)).toBeCloseTo(60 / 600, 2);
    expect(Math.abs(held.t - stoppedAt)).toBeLessThan(0.25);
    if (mode === 'write') {
      expect(points[0]!.t).toBe(0);
      expect(await app.points('lead/pan')).not.toHaveLength(0);
      await expect(page.getByRole('button', { name: 'Mode of Lead: Touch' })).toBeVisible();
      await expect(ride.says).toHaveText(/^Pass 1: \d+ controls of Lead, 1·1–\S+\.$/);
    } else await expect(page.getByRole('button', { name: 'Mode of Lead: Latch' })).toBeVisible();
    await page.keyboard.press('2');
    await page.keyboard.press('Enter');
    await ride.play();
    await ride.heardPast(movesAt(points) - 0.3);
    await expectHeard(ride, points, 2);
    await ride.stop();
    await page.keyboard.press('Control+z');
    await expect.poll(() => app.points(LEAD)).toEqual([]);
  });

test('a key that holds a control lets go of that one, whatever is in hand or down by then, and when the window is left', async ({
  page,
  ride,
}) => {
  const touched = (): Promise<readonly string[]> => page.evaluate(() => globalThis.sureHandProbe!.touched());
  await page.keyboard.down('t');
  await expect.poll(touched).toEqual([LEAD]);
  await page.keyboard.press('Tab');
  await expect(page.getByTestId('in-hand')).not.toHaveText('Lead');
  await page.keyboard.up('t');
  await expect.poll(touched).toEqual([]);
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.down('t');
  await page.keyboard.down('Shift');
  await page.keyboard.up('t');
  await page.keyboard.up('Shift');
  await expect.poll(touched).toEqual([]);
  await page.keyboard.down('t');
  await expect.poll(touched).toEqual([LEAD]);
  await page.evaluate(() => window.dispatchEvent(new Event('blur')));
  await expect.poll(touched).toEqual([]);
});

test('by keys alone: find, mode, touch, nudge, type, let go, undo', async ({ page, app, ride }) => {
  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('fiddle pan');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('in-hand')).toHaveText('Fiddle');
  await expect(ride.value).toHaveText('L 40');
  await page.keyboard.press('3');
  await ride.play();
  await ride.heardPast(0.5);
  await page.keyboard.down('t');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowUp');
  await expect(ride.says).toHaveText(/^Writing Fiddle pan/);
  await page.keyboard.up('t');
  await ride.heardPast((await ride.heard()) + 0.4);
  await page.keyboard.press('=');
  await page.getByLabel('Value').fill('R 25');
  await page.keyboard.press('Enter');
  await ride.heardPast((await ride.heard()) + 0.2);
  await page.keyboard.press('Escape');
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Fiddle pan .*–.*, .*–.*\.$/);
  await expect.poll(() => app.points('fiddle/pan')).not.toHaveLength(0);
  const values = (await app.points('fiddle/pan')).map((p) => p.v);
  expect(values.some((v) => Math.abs(v - 0.25) < 0.01)).toBe(true);
  expect(values.some((v) => Math.abs(v + 0.36) < 0.005)).toBe(true);
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points('fiddle/pan')).toEqual([]);
  await page.keyboard.press('Shift+Slash');
  await expect(page.getByRole('dialog')).toContainText('Touch the control in hand while held');

  // The menu of a mode, by keys too; its button has the focus again after it, and the song what was chosen.
  const mode = page.getByRole('button', { name: /^Mode of Fiddle/ });
  await mode.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('menuitem', { name: /^Latch/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(mode).toBeFocused();
  await page.keyboard.press('Enter');
  await page.getByRole('menuitem', { name: /^Latch/ }).focus();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('button', { name: 'Mode of Fiddle: Latch' })).toBeVisible();
});

test('in read a hand is heard and nothing is written; a control without a curve rests where it was left @long', async ({
  page,
  app,
  ride,
}) => {
  await page.getByTestId('row-fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  const restOf = async (): Promise<number> => (await app.song()).song.lanes['fiddle/level']!.rest;
  const rested = travelOf(LEVEL_LAW, await restOf());
  await ride.dragCap('fiddle', 30, 0);
  await expect.poll(async () => travelOf(LEVEL_LAW, await restOf()) - rested).toBeCloseTo(30 / 600, 3);
  await expect(page.getByRole('button', { name: 'Undo Rest of Fiddle level' })).toBeVisible();

  await page.getByTestId('row-lead').getByRole('button', { name: 'Lead', exact: true }).click();
  await ride.play();
  await ride.dragCap('lead', 60, 0.6);
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  const points = await app.points(LEAD);
  await page.keyboard.press('2');
  await ride.play();
  await ride.dragCap('lead', -60, 0.4, false);
  await expect(ride.says).toHaveText(
    'Lead reads: Lead level is heard while you hold it, not written. 3 puts it in touch.',
  );
  await page.mouse.up();
  await ride.stop();
  await expect(ride.says).toHaveText('That pass wrote nothing.');
  expect(await app.points(LEAD)).toEqual(points);
});

test('a wrap of the loop ends the pass as a stop does, and the song goes on @long', async ({ page, app, ride }) => {
  const strip = (await page.getByTestId('strip').boundingBox())!;
  const { length } = (await app.song()).song;
  const xOf = (t: number): number => strip.x + (t / length) * strip.width;
  await page.mouse.move(xOf(0.1), strip.y + 12);
  await page.mouse.down();
  await page.mouse.move(xOf(1.5), strip.y + 12);
  await page.mouse.move(xOf(2.6), strip.y + 12);
  await page.mouse.up();
  await page.keyboard.press('l');
  await expect(page.getByRole('button', { name: 'Loop 1·1–2·1' })).toHaveAttribute('aria-pressed', 'true');
  await expect.poll(async () => (await app.song()).song.settings.loop).not.toBeNull();
  const [, end] = (await app.song()).song.settings.loop!;
  await ride.play();
  await ride.heardPast(1);
  await ride.dragCap('lead', 60, 0.5);
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  expect((await app.points(LEAD)).at(-1)!.t).toBeLessThanOrEqual(end);
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  expect(await ride.heard()).toBeLessThan(end + 0.05);
  expect((await page.evaluate(() => globalThis.sureHandProbe!.counts())).underruns).toBe(0);
  await ride.stop();
});

test('locating while rolling ends the pass where it was and goes on from there, again and again, with no page missing @long', async ({
  page,
  app,
  ride,
}) => {
  const { sections, length } = (await app.song()).song;
  const [first, second] = sections as [{ t: number; name: string }, { t: number; name: string }];
  await ride.play();
  await ride.heardPast(first.t + 0.4);
  await ride.dragCap('lead', 60, 0.5);
  const left = await ride.heard();
  await page.getByRole('button', { name: second.name, exact: true }).click();
  await ride.heardPast(second.t + 0.2);
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  await expect.poll(() => app.points(LEAD)).not.toHaveLength(0);
  expect((await app.points(LEAD)).at(-1)!.t).toBeLessThan(left + 0.5);
  for (let k = 0; k < 6; k++) {
    const to = k % 2 ? second : first;
    await page.getByRole('button', { name: to.name, exact: true }).click();
    await expect.poll(() => ride.heard()).toBeGreaterThan(to.t + 0.1);
    expect(await ride.heard()).toBeLessThan(Math.min(length, to.t + 3));
  }
  expect((await page.evaluate(() => globalThis.sureHandProbe!.counts())).underruns).toBe(0);
  await ride.stop();
});

test('sends and buses ride like any other lane: a word thrown into the Hall, and the Hall itself @long', async ({
  page,
  app,
  ride,
}) => {
  const THROW = 'lead/send/hall/level';
  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('lead hall send');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  const rested = travelOf(LEVEL_LAW, (await app.song()).song.lanes[THROW]!.rest);
  await ride.play();
  await ride.heardPast(0.5);
  await ride.dragCap('lead', 150, 1, false);
  await expect(ride.says).toHaveText(/^Writing Lead hall send/i);
  // The Hall rings with what is sent to it.
  expect(await page.evaluate(() => globalThis.sureHandProbe!.peak('hall'))).toBeGreaterThan(0);
  await page.mouse.up();
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  await expect.poll(() => app.points(THROW)).not.toHaveLength(0);
  const highest = Math.max(...(await app.points(THROW)).map((point) => travelOf(LEVEL_LAW, point.v)));
  expect(highest - rested).toBeCloseTo(150 / 600, 2);

  await page.getByTestId('row-hall').getByRole('button', { name: 'Hall', exact: true }).click();
  await page.keyboard.press('3');
  await page.keyboard.press('Enter');
  // From the start again: the song is short, and the machine may be slow.
  await ride.goTo(0);
  await ride.play();
  await ride.heardPast(0.5);
  await ride.dragCap('hall', -60, 0.6);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(() => app.points('hall/level')).not.toHaveLength(0);
});
