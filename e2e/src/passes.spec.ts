import { Curve, linePoint, sameCurve, valueAt, type Point } from '@sure-hand/core/curve';
import { applyEdit, type Edit, type Receipt } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { LEVEL_LAW, TRIM_LAW, dbOfGain, leftGain } from '@sure-hand/core/units';
import type { WholePass } from '@sure-hand/server';
import type { Page } from '@playwright/test';
import { expect, test, type App, type RidePage } from './app.js';

const LEAD = 'lead/level';
const REST_DB = -5;
/** Where ten presses of an arrow take it: a tenth of the travel. */
const UP_DB = 0.8;
const level = (points: Iterable<Point>, t: number): number => valueAt(Curve.of(points), LEVEL_LAW, REST_DB, t);

const modeOf = (page: Page, name: string, mode: string) =>
  page.getByRole('button', { name: `Mode of ${name}: ${mode}` });
const songOf = async (app: App): Promise<Song> => (await app.song()).song;
const trimOf = (app: App, id: string): Promise<readonly Point[]> => app.points(id, 'trim');

/** The level that the audio thread applies to the Lead, in dB, at what is rendered next. */
const soundingDb = (page: Page): Promise<number> =>
  page.evaluate(() => globalThis.sureHandProbe!.gain('lead').gain).then((gain) => dbOfGain(gain / leftGain(3, 0)));

test('every mode does what it says, by keys: latch holds on, write takes the channel and falls back, off rests, the desk stands in for all', async ({
  page,
  app,
  ride,
}) => {
  // Latch: a press of an arrow is a hand without a sensor; it is held on until let go of.
  await page.keyboard.press('4');
  await expect(modeOf(page, 'Lead', 'Latch')).toBeVisible();
  await ride.play();
  await ride.heardPast(0.5);
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowUp');
  await ride.heardPast(1.6);
  await expect(ride.more).toHaveText('Held on until you stop, or let go with Esc.');
  // Mid-pass: to touch, what no finger holds goes back to its curve.
  await page.keyboard.press('3');
  await expect(ride.says).not.toHaveText(/^Writing/);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level/);
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  const [lane] = (await app.passes())[0]!.receipt.lanes;
  expect(lane!.spans).toHaveLength(1);
  const [from, to] = lane!.spans[0]!;
  const points = await app.points(LEAD);
  expect(level(points, to - 0.3)).toBeCloseTo(UP_DB, 1);
  expect(level(points, to + 0.01)).toBeCloseTo(REST_DB, 6);
  expect(level(points, from - 0.01)).toBeCloseTo(REST_DB, 6);

  // Write: everything of the channel that may be written, touched or not, and after it the safer mode.
  await ride.goTo(6);
  await page.keyboard.press('5');
  await expect(ride.says).toHaveText(/^Play writes \d+ controls of Lead from \S+ until you stop\.$/);
  await ride.play();
  await ride.heardPast(7);
  await ride.stop();
  await expect(modeOf(page, 'Lead', 'Touch')).toBeVisible();
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  const written = (await app.passes())[0]!.receipt;
  expect(written.lanes.map((one) => one.control)).toEqual(expect.arrayContaining([LEAD, 'lead/pan', 'lead/mute']));
  expect(written.lanes.every((one) => one.spans[0]![0] === written.from && one.spans[0]![1] === written.to)).toBe(true);

  // Off: a hand sets what it rests at, and no pass is made of it.
  await page.keyboard.press('1');
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await songOf(app)).lanes[LEAD]!.rest).not.toBe(REST_DB);

  // The desk mode stands in for all, and the channel's own comes back.
  await page.keyboard.press('Alt+4');
  await expect(page.getByRole('button', { name: 'Every channel: latch' })).toBeVisible();
  await expect(modeOf(page, 'Fiddle', 'Latch')).toBeVisible();
  await page.keyboard.press('Alt+0');
  await expect(modeOf(page, 'Fiddle', 'Read')).toBeVisible();
  await expect(modeOf(page, 'Lead', 'Off')).toBeVisible();
});

test('trim rides an offset over the curve, waits with its mark, is folded when asked, and undo brings it back to waiting', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('0');
  await expect(modeOf(page, 'Lead', 'Touch with trim')).toBeVisible();
  await expect(page.getByTestId('result')).toHaveText('→ −5.0 dB');
  await ride.play();
  await ride.heardPast(0.6);
  await ride.dragCap('lead', 100, 1.2, false);
  await expect(ride.says).toHaveText(/^Writing Lead level trim, /);
  // 100 of 600 pixels are a sixth of 24 dB: the offset, and under it the result, are both shown, and heard.
  await expect(ride.value).toHaveText(/^\+4\.0 dB→ −1\.0 dB$/);
  expect(await soundingDb(page)).toBeCloseTo(-1, 0);
  await page.mouse.up();
  await ride.heardPast((await ride.handAt()).pointerup + 0.5);
  await ride.stop();
  await expect.poll(() => trimOf(app, LEAD)).not.toHaveLength(0);
  expect(await app.points(LEAD)).toEqual([]);
  await expect(page.getByTestId('row-lead').getByRole('img', { name: /^Trim waits: Level/ })).toBeVisible();
  const trim = await trimOf(app, LEAD);
  const [from, to] = (await app.passes())[0]!.receipt.lanes[0]!.spans[0]!;
  const middle = (from + to) / 2;
  const offset = valueAt(Curve.of(trim), TRIM_LAW, 0, middle);

  await page.reload();
  await ride.isOpen();
  await page.keyboard.press('f');
  await expect.poll(() => trimOf(app, LEAD)).toEqual([]);
  expect(level(await app.points(LEAD), middle)).toBeCloseTo(REST_DB + offset, 1);
  await expect(page.getByTestId('row-lead').getByRole('img', { name: /^Trim waits/ })).toHaveCount(0);
  await page.keyboard.press('Control+z');
  await expect.poll(() => trimOf(app, LEAD)).toEqual(trim);
  expect(await app.points(LEAD)).toEqual([]);
  await expect(page.getByTestId('row-lead').getByRole('img', { name: /^Trim waits/ })).toBeVisible();

  // It can be folded with each pass: a switch of the song. What waits already is folded by hand.
  await page.keyboard.press('f');
  await expect.poll(() => trimOf(app, LEAD)).toEqual([]);
  await page.keyboard.press('w');
  await page.getByLabel('fold with each pass').check();
  await expect.poll(async () => (await songOf(app)).settings.foldTrim).toBe('pass');
  await page.getByRole('dialog').getByRole('button', { name: 'Close' }).click();
  await ride.goTo(4);
  await ride.play();
  await ride.heardPast(4.3);
  await ride.dragCap('lead', 50, 0.5);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  expect(await trimOf(app, LEAD)).toEqual([]);
  expect((await app.passes())[0]!.receipt.lanes).toMatchObject([{ control: LEAD, layer: 'trim' }]);
});

test('poised values wait, are counted, and write from the punch range’s start; laps of a loop are passes of their own', async ({
  page,
  app,
  ride,
}) => {
  await ride.setRange(2, 3);
  await page.keyboard.press('u');
  await expect(page.getByRole('button', { name: /^Punch \d/ })).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('4');
  await ride.goTo(1.5);
  await page.keyboard.press('ArrowUp');
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowUp');
  await expect(page.getByTestId('poised')).toHaveText('2 poised');
  await expect(ride.says).toHaveText(
    /^Play writes Lead level \(poised −4\.4 dB\) and Lead pan \(poised R 2\) from \S+ to \S+\.$/,
  );
  await ride.play();
  await ride.heardPast(3.2);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  const { lanes } = (await app.passes())[0]!.receipt;
  expect(lanes.map(({ control, spans }) => [control, spans])).toEqual([
    [LEAD, [[2, 3]]],
    ['lead/pan', [[2, 3]]],
  ]);
  const points = await app.points(LEAD);
  expect(level(points, 1.99)).toBeCloseTo(REST_DB, 6);
  expect(level(points, 2.5)).toBeCloseTo(-4.4, 1);
  await expect(page.getByTestId('poised')).toHaveCount(0);

  // Round a loop of a second, with a value held: it writes its lap, and does not carry over the wrap.
  await page.keyboard.press('u');
  await page.keyboard.press('l');
  await ride.goTo(2);
  await page.keyboard.press('ArrowUp');
  await ride.play();
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  await page.keyboard.press('ArrowDown');
  await expect.poll(async () => (await app.passes()).length).toBe(3);
  await ride.stop();
  // A hand that was still down at a wrap may have begun a further lap's pass: the two that are meant go by their numbers.
  const log = await app.passes();
  const laps = [3, 2].map((number) => log.find((pass) => pass.number === number)!.receipt);
  expect(laps[1]).toMatchObject({ from: 2, to: 3, lanes: [{ control: 'lead/pan', spans: [[2, 3]] }] });
  expect(laps[0]!.lap).toBeGreaterThan(laps[1]!.lap);
  expect(laps[0]!.lanes[0]!.spans[0]![0]).toBeGreaterThan(2);
});

test('what a pass ended with is carried on, by the pointer and by keys; each is a step of its own @long', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('4');
  await ride.goTo(1);
  for (let i = 0; i < 10; i++) await page.keyboard.press('ArrowUp');
  await ride.play();
  await ride.heardPast(2);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  const [from, to] = (await app.passes())[0]!.receipt.lanes[0]!.spans[0]!;
  const held = level(await app.points(LEAD), to - 0.01);
  expect(held).toBeCloseTo(UP_DB, 6);

  // The end's handle stands beside the cap; it is dragged on, freely with Alt.
  const { x, y } = await ride.cap('lead');
  const head = (await page.getByTestId('row-lead').boundingBox())!;
  const handleY = head.y + 12 + (1 - 0.7667) * (head.height - 24);
  const pxPerSec = ((await page.getByTestId('lanes').boundingBox())!.width - 14) / ride.secPerScreen;
  await page.keyboard.down('Alt');
  await page.mouse.move(x + 34, handleY);
  await page.mouse.down();
  await page.mouse.move(x + 60, y);
  await page.mouse.move(x + 4 * pxPerSec, y);
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await expect.poll(async () => level(await app.points(LEAD), to + 2)).toBeCloseTo(held, 6);
  const dragged = await app.points(LEAD);
  expect(level(dragged, to + 4.3)).toBeCloseTo(REST_DB, 6);
  await expect(page.getByRole('button', { name: 'Undo Carry on Lead level' })).toBeVisible();

  // By keys to the next stop, which here is the next section or the song's end; the beginning back to the one before.
  await page.keyboard.press('Shift+ArrowRight');
  await expect.poll(async () => level(await app.points(LEAD), to + 4.3)).toBeCloseTo(held, 6);
  await page.keyboard.press('Shift+ArrowLeft');
  await expect.poll(async () => level(await app.points(LEAD), from - 0.5)).toBeCloseTo(held, 6);
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z');
  await expect.poll(() => app.points(LEAD)).toEqual(dragged);
  await page.reload();
  await ride.isOpen();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => level(await app.points(LEAD), to + 2)).toBeCloseTo(REST_DB, 6);
});

/** A latched ride of the Lead, up by so many arrows, from 1 s to past 3 s. */
async function latchUp(page: Page, ride: RidePage, arrows: number): Promise<void> {
  await page.keyboard.press('4');
  await ride.goTo(1);
  for (let i = 0; i < arrows; i++) await page.keyboard.press('ArrowUp');
  await ride.play();
  await ride.heardPast(3.2);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass \d/);
}

test('before and after are switched by ear while it rolls, the edges are played, and nothing is written by listening @long', async ({
  page,
  app,
  ride,
}) => {
  await latchUp(page, ride, 10);
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  await page.keyboard.press('3');
  await ride.goTo(1.2);
  await ride.play();
  await ride.heardPast(1.5);
  await expect.poll(() => soundingDb(page)).toBeCloseTo(UP_DB, 1);
  const { blocks, underruns } = await page.evaluate(() => globalThis.sureHandProbe!.counts());
  await page.keyboard.press('b');
  await expect(ride.says).toHaveText('Hearing the song as before pass 1.');
  await expect.poll(() => soundingDb(page)).toBeCloseTo(REST_DB, 1);
  await page.keyboard.press('b');
  await expect.poll(() => soundingDb(page)).toBeCloseTo(UP_DB, 1);
  // Without a gap: the song rolled on, and no block lacked its audio.
  const after = await page.evaluate(() => globalThis.sureHandProbe!.counts());
  expect(after.blocks).toBeGreaterThan(blocks);
  expect(after.underruns).toBe(underruns);
  // A hand on the cap goes back to the song as it stands.
  await page.keyboard.press('b');
  await expect(ride.says).toHaveText('Hearing the song as before pass 1.');
  await ride.stop();
  await page.keyboard.press('b');

  // The edges, in a mode that would write on play: listening writes nothing.
  await page.keyboard.press('5');
  await ride.setRange(5, 9);
  await page.keyboard.press('e');
  await expect(ride.says).toHaveText('Hearing the edges.');
  await ride.heardPast(3.2);
  await page.waitForFunction(() => globalThis.sureHandProbe!.heard() > 7.1 && globalThis.sureHandProbe!.heard() < 8);
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await page.waitForFunction(() => Math.abs(globalThis.sureHandProbe!.heard() - 9) < 0.01);
  await expect(modeOf(page, 'Lead', 'Write')).toBeVisible();
  expect(await app.passes()).toHaveLength(1);
});

test('the list says what play would write and why not, and its acts change it; after the pass one lane is undone alone @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.takeInHand('fiddle', 'Fiddle');
  await page.keyboard.press('j');
  await page.keyboard.press('Shift+W');
  const list = page.getByRole('dialog', { name: 'What play would write' });
  await list.getByText(/^Won’t \(/).click();
  const fiddle = list.getByTestId('stands-fiddle/level');
  await expect(fiddle).toContainText('in read');
  await fiddle.getByRole('button', { name: 'Put Fiddle in touch' }).click();
  await expect(fiddle).toContainText('safe');
  await fiddle.getByRole('button', { name: 'Take it out of safe' }).click();
  await list.getByText('Fiddle', { exact: true }).last().click();
  await expect(fiddle).toContainText('When touched');
  await list.getByRole('button', { name: 'Close' }).click();

  // Both are put in latch and poised: one pass, two lanes.
  await page.keyboard.press('4');
  await page.keyboard.press('ArrowUp');
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('4');
  await page.keyboard.press('ArrowUp');
  await ride.play();
  await ride.heardPast(1);
  await ride.stop();
  await expect.poll(async () => (await app.passes()).length).toBe(1);
  await page.getByRole('button', { name: 'What passes write: the list' }).click();
  await page.getByTestId('did-fiddle/level').getByRole('button', { name: 'Undo this lane' }).click();
  await expect.poll(() => app.points('fiddle/level')).toEqual([]);
  expect(await app.points(LEAD)).not.toEqual([]);
  expect((await app.passes())[0]!.undone).toBe(false);
  await page.reload();
  await expect(page.getByRole('button', { name: 'Undo Fiddle level as before pass 1' })).toBeVisible();
});

test('guards by their keys: a hand on them is heard, nothing is written, and the refusal is said where the hand is', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('j');
  await expect(
    page.getByTestId('row-lead').getByRole('img', { name: /^Safe, written by nothing: level/ }),
  ).toBeVisible();
  await ride.play();
  await ride.heardPast(0.4);
  await ride.dragCap('lead', 90, 0.6, false);
  await expect(ride.says).toHaveText('Safe: Lead level is heard, not written. J takes it out.');
  expect(await soundingDb(page)).toBeGreaterThan(REST_DB + 2);
  await page.mouse.up();
  await ride.stop();
  await expect(ride.says).toHaveText('That pass wrote nothing.');
  await expect(ride.more).toContainText('Heard, not written: Lead level (safe).');
  expect(await app.points(LEAD)).toEqual([]);
  expect(await app.passes()).toEqual([]);
  await page.keyboard.press('j');

  // Parked: the curve is kept and not read; the whole song's parking can't be overlooked.
  await latchUp(page, ride, 10);
  const points = await app.points(LEAD);
  await ride.goTo(2);
  await expect(ride.value).toHaveText('0.8 dB');
  await page.keyboard.press('k');
  await expect(ride.value).toHaveText('−5.0 dB');
  await page.keyboard.press('k');
  await expect(ride.value).toHaveText('0.8 dB');
  // The same on the head: one control alone, a kind, the channel.
  await modeOf(page, 'Lead', 'Latch').click();
  await page.getByRole('menuitem', { name: 'Park level' }).click();
  await expect(ride.value).toHaveText('−5.0 dB');
  await modeOf(page, 'Lead', 'Latch').click();
  await page.getByRole('menuitem', { name: 'Read level again' }).click();
  await expect(ride.value).toHaveText('0.8 dB');
  await modeOf(page, 'Lead', 'Latch').click();
  await page.getByRole('menuitem', { name: 'Kind sends: make safe' }).click();
  await expect(
    page.getByTestId('row-lead').getByRole('img', { name: /^Safe, written by nothing: hall send/ }),
  ).toBeVisible();
  await page.keyboard.press('Alt+Shift+K');
  await expect(page.getByRole('button', { name: 'Song parked' })).toBeVisible();
  await expect(ride.value).toHaveText('−5.0 dB');
  await page.reload();
  await page.getByRole('button', { name: 'Song parked' }).click();
  await ride.goTo(2);
  await expect(ride.value).toHaveText('0.8 dB');
  expect(await app.points(LEAD)).toEqual(points);
});

test('switches in a pass: mute is on while it is held, a send is toggled in latch, and a send that is off says so @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.play();
  await ride.heardPast(0.8);
  await page.keyboard.down('m');
  await expect.poll(() => page.evaluate(() => globalThis.sureHandProbe!.gain('lead').gain)).toBe(0);
  await ride.heardPast((await ride.heard()) + 0.8);
  await page.keyboard.up('m');
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  await expect.poll(() => app.points('lead/mute')).not.toHaveLength(0);
  const mute = await app.points('lead/mute');
  expect(mute.every((p) => p.shape === 'hold')).toBe(true);
  const [from, to] = (await app.passes())[0]!.receipt.lanes[0]!.spans[0]!;
  expect(to - from).toBeGreaterThan(0.6);
  expect([
    valueAt(Curve.of(mute), { kind: 'switch' }, 0, (from + to) / 2),
    valueAt(Curve.of(mute), { kind: 'switch' }, 0, to + 0.01),
  ]).toEqual([1, 0]);

  // In latch a press of the pointer on its cap turns the switch over, and it stays so until the stop.
  await page.keyboard.press('4');
  await page.getByRole('button', { name: /^Hall send on/ }).click();
  await ride.goTo(3);
  await ride.play();
  await ride.heardPast(3.5);
  const cap = await ride.cap('lead');
  await page.mouse.click(cap.x, cap.y);
  await expect(ride.value).toHaveText('off');
  const { pointerup: turnedAt } = await ride.handAt();
  await ride.heardPast(turnedAt + 1);
  await ride.stop();
  await expect.poll(() => app.points('lead/send/hall/on')).not.toHaveLength(0);
  const on = await app.points('lead/send/hall/on');
  expect(valueAt(Curve.of(on), { kind: 'switch' }, 1, turnedAt + 0.8)).toBe(0);
  await page.getByRole('button', { name: /^Hall send −/ }).click();
  await ride.goTo(turnedAt + 0.5);
  await expect(ride.more).toHaveText(/^Lead Hall send is off here: its level is not heard\./);
  await ride.goTo(2);
  await expect(ride.more).not.toContainText('is off here');
});

test('the Passes view keeps every pass: names, both curves, loudness, and whose version stands in which section', async ({
  page,
  app,
  ride,
}) => {
  await latchUp(page, ride, 10);
  await latchUp(page, ride, 5);
  await expect.poll(async () => (await app.passes()).length).toBe(2);
  await ride.show('Passes');
  await expect(page.getByRole('button', { name: 'Pass 2: Lead level', exact: true })).toHaveAttribute(
    'aria-current',
    'true',
  );
  await page.getByLabel('Name of the pass').fill('Too much');
  await page.getByLabel('Name of the pass').press('Enter');
  await expect(page.getByRole('button', { name: 'Pass 2: Too much' })).toBeVisible();

  // By ear: what either pass found and left.
  await page.getByRole('button', { name: 'Listen' }).click();
  await page.waitForFunction(() => globalThis.sureHandProbe!.heard() > 1.2);
  const first = await app.points(LEAD);
  await expect.poll(() => soundingDb(page)).toBeCloseTo(level(first, 2), 1);
  await page.getByRole('radiogroup', { name: 'What is heard' }).getByText('Before', { exact: true }).click();
  const { lanes } = await app.get<WholePass>('/songs/1/passes/2');
  await expect.poll(() => soundingDb(page)).toBeCloseTo(level(lanes[0]!.before, 2), 1);
  await page.getByRole('button', { name: 'Stop', exact: true }).first().click();

  await page.getByRole('button', { name: 'Measure the loudness of both' }).click();
  await expect(page.getByTestId('loudness')).toBeVisible({ timeout: 30_000 });

  // The lane whole, as it was before them all; then one section as the first pass left it.
  await page.getByRole('button', { name: 'Pass 1: Lead level', exact: true }).click();
  await page.getByRole('button', { name: 'This lane' }).click();
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  const section = (await songOf(app)).sections[0]!;
  await page.getByRole('button', { name: `Let pass 1 stand in ${section.name}` }).click();
  await expect(page.getByRole('button', { name: `Pass 1 stands in ${section.name}` })).toBeVisible();
  await expect.poll(async () => level(await app.points(LEAD), 2)).toBeCloseTo(level(lanes[0]!.before, 2), 6);

  // The log never shrinks: undone passes stay, marked, over a reload.
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect(page.getByRole('button', { name: 'Pass 2, undone: Too much' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Pass 2, undone: Too much' })).toBeVisible();
  expect((await app.passes()).map(({ number, undone }) => [number, undone])).toEqual([
    [2, true],
    [1, false],
  ]);
});

test('a log of many passes shows those in sight, and is pruned by act: said before, the named one and the last stay', async ({
  page,
  app,
}) => {
  const lane = {
    control: 'lead/level',
    layer: 'base',
    spans: [[1, 2]],
    moves: 1,
    points: 2,
    maxDeviation: 0,
    clamped: [],
  };
  const receipt = { lap: 0, from: 0, to: 3, lanes: [lane], refused: [], rested: [] } as unknown as Receipt;
  const there = (await app.passes()).length;
  for (let n = 0; n < 70; n++)
    await app.edit({
      kind: 'pass',
      receipt,
      pieces: [
        {
          control: 'lead/level',
          layer: 'base',
          span: [1, 2],
          points: Curve.of([linePoint(1, -n / 4), linePoint(2, -n / 4)]),
        },
      ],
    });
  const all = there + 70;
  await fetch(`${app.address}/api/songs/1/passes/${there + 3}`, {
    method: 'PUT',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ name: 'Kept by name' }),
  });
  const before = (await app.song()).song;
  await page.goto(`${app.address}/songs/1/passes`);
  const lines = page.locator('.pass-line');
  await expect(lines.first()).toBeVisible();
  expect(await lines.count()).toBeLessThan(60);
  await expect(page.locator('.pass-number').first()).toHaveText(String(all));
  // The lane's versions come some at a time.
  await page.getByRole('button', { name: '30 older versions' }).click();
  await expect(page.locator('.version-grid tbody tr')).toHaveCount(61);
  await page.getByRole('button', { name: 'Prune the log…' }).click();
  await expect(page.getByRole('button', { name: 'Keep all' })).toBeFocused();
  const forecast = page.getByTestId('prune-forecast');
  await expect(forecast).toHaveText(
    new RegExp(`^${all - 51} entries go for good, .* 1 older one has a name and stays\\.`),
  );
  await page.getByLabel('Keep the last, and all that have a name').fill('20');
  await expect(forecast).toHaveText(new RegExp(`^${all - 21} entries go for good`));
  const act = page.getByRole('button', { name: `Prune ${all - 21} entries` });
  await act.focus();
  // White words that can be read on it, in either light.
  for (let k = 0; k < 2; k++) {
    await page.getByRole('button', { name: 'More: song, light, keys' }).click();
    await page.getByRole('menuitem', { name: /^(Light: paper|Dark: lamp)$/ }).click();
    await expect(page.getByRole('menu')).toHaveCount(0);
    const [r, g, b] = (await act.evaluate((one) => getComputedStyle(one).backgroundColor)).match(/\d+/g)!.map(Number);
    const light = [r!, g!, b!].map((part) => (part / 255) ** 2.2);
    expect(1.05 / (0.05 + 0.2126 * light[0]! + 0.7152 * light[1]! + 0.0722 * light[2]!)).toBeGreaterThan(4.5);
  }
  await act.focus();
  await page.keyboard.press('Enter');
  await expect(page.getByText(`${all - 21} entries are gone.`)).toBeVisible();
  await expect(lines).toHaveCount(21);
  await page.reload();
  await expect(lines).toHaveCount(21);
  await expect(lines.last()).toContainText('Kept by name');
  expect((await app.song()).song).toEqual(before);
});

test('a long lane is folded and moved beside the page, as it would be in it; an undo right after it takes that back, and no other step', async ({
  page,
  app,
  ride,
}) => {
  const long = Array.from({ length: 20_000 }, (_, i) => linePoint(i / 1000, -20 + 6 * Math.sin(i / 50)));
  const trim = [linePoint(2, 0), linePoint(6, 3), linePoint(12, 0)];
  await app.edit({ kind: 'points', control: LEAD, remove: [], add: Curve.of(long) });
  await app.edit({ kind: 'points', control: LEAD, layer: 'trim', remove: [], add: Curve.of(trim) });
  const waiting = await songOf(app);
  const folded = applyEdit(waiting, { kind: 'foldTrim', controls: [LEAD] }).song;
  await page.waitForFunction(() => sureHandProbe!.document().includes('"trim":[{"t":2'), null, { polling: 250 });
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('f');
  await page.keyboard.press('Control+z');
  await expect(ride.says).toHaveText(/^Taken back: Fold trim: Lead level/);
  const same = (song: Song, other: Song): boolean => sameCurve(song.lanes[LEAD]!.points, other.lanes[LEAD]!.points);
  expect(await trimOf(app, LEAD)).toHaveLength(3);
  expect(same(await songOf(app), waiting)).toBe(true);
  // By the mouse it goes the same way.
  await page.getByRole('button', { name: /^Mode of Lead:/ }).click();
  await page.getByRole('menuitem', { name: /^Fold the trim that waits/ }).click();
  await expect.poll(() => trimOf(app, LEAD)).toEqual([]);
  expect(page.workers().some((worker) => worker.url().includes('editWorker'))).toBe(true);
  await page.reload();
  await ride.isOpen();
  expect(same(await songOf(app), folded)).toBe(true);
  // So do all its points, moved and drawn apart: each press comes after the one before.
  await page.keyboard.press('Control+a');
  for (const keys of ['Alt+ArrowUp', 'Alt+ArrowUp', 'Alt+Comma', 'Alt+ArrowRight']) await page.keyboard.press(keys);
  const of = { controls: [LEAD], layer: 'base' } as const;
  const steps: readonly Edit[] = [
    { kind: 'move', ...of, by: { t: 0, travel: 0.01 } },
    { kind: 'move', ...of, by: { t: 0, travel: 0.01 } },
    { kind: 'scale', ...of, factor: 1 / 1.1 },
    { kind: 'move', ...of, by: { t: 0.05, travel: 0 } },
  ];
  const all = steps.reduce((song, edit) => applyEdit(song, edit).song, folded);
  await expect.poll(async () => same(await songOf(app), all)).toBe(true);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  const left = steps.slice(0, 2).reduce((song, edit) => applyEdit(song, edit).song, folded);
  await expect.poll(async () => same(await songOf(app), left)).toBe(true);
  // What thinning it would leave is told once it is worked out; a hand that is quicker has it thinned all the same.
  const { t } = left.lanes[LEAD]!.points;
  const range = [t[0]!, t.at(-1)!] as const;
  const thinned = applyEdit(left, { kind: 'thin', ...of, tolerance: 0.005, range });
  for (const keys of ['Control+a', 'h', 'Enter']) await page.keyboard.press(keys);
  await expect.poll(async () => same(await songOf(app), thinned.song)).toBe(true);
  await expect(ride.says).toContainText(`become ${thinned.song.lanes[LEAD]!.points.length}.`);
});
