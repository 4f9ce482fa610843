import type { CDPSession, Page } from '@playwright/test';
import { effectiveValueAt } from '@sure-hand/core/groups';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { expect, test, type App, type RidePage } from './app.js';

test.use({ hasTouch: true });

type Place = { readonly x: number; readonly y: number };
const touch = (
  cdp: CDPSession,
  type: 'touchStart' | 'touchMove' | 'touchEnd',
  touchPoints: readonly (Place & { readonly id: number })[],
): Promise<unknown> => cdp.send('Input.dispatchTouchEvent', { type, touchPoints: [...touchPoints] });

const foot = (page: Page, strip: string) => page.getByTestId(`strip-${strip}`);

/** Opens the Desk by its key. */
async function openDesk(page: Page): Promise<void> {
  await page.keyboard.press('v');
  await expect(page.getByTestId('throws')).toBeVisible();
}

/** Where the throw of a strip is, in its middle. */
async function onThrow(page: Page, strip: string): Promise<Place> {
  await foot(page, strip).scrollIntoViewIfNeeded();
  const box = (await foot(page, strip).boundingBox())!;
  const throws = (await page.getByTestId('throws').boundingBox())!;
  return { x: box.x + 22, y: throws.y + 200 };
}

/** Rides a cap of the Desk with the mouse: so many pixels up, in small steps. */
async function rideThrow(page: Page, strip: string, upPx: number): Promise<void> {
  const { x, y } = await onThrow(page, strip);
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 10; i++) {
    await page.mouse.move(x, y - (upPx * i) / 10);
    const now = await page.evaluate(() => globalThis.sureHandProbe!.heard());
    await page.waitForFunction((t) => globalThis.sureHandProbe!.heard() > t + 0.03, now);
  }
  await page.mouse.up();
}

const travels = async (app: App, id: string): Promise<number[]> =>
  (await app.points(id)).map(({ v }) => travelOf(LEVEL_LAW, v));

/** All channels in touch, so that a hand on any of them writes. */
async function allInTouch(page: Page, ride: RidePage): Promise<void> {
  await page.keyboard.press('Alt+3');
  await expect(ride.says).toContainText('touch');
}

test('three fingers ride three caps of the Desk in one pass, which is looked at in Ride', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  await allInTouch(page, ride);
  const cdp = await page.context().newCDPSession(page);
  await foot(page, 'lead').scrollIntoViewIfNeeded();
  const strips = ['pump-organ', 'fiddle', 'lead'] as const;
  const places = [];
  for (const [i, strip] of strips.entries()) places.push({ id: i + 1, ...(await onThrow(page, strip)) });
  await ride.play();
  await ride.heardPast(0.5);
  for (let n = 1; n <= 3; n++) await touch(cdp, 'touchStart', places.slice(0, n));
  expect(await page.evaluate(() => globalThis.sureHandProbe!.touched())).toEqual(strips.map((one) => `${one}/level`));
  const up = [60, -90, 30];
  for (let i = 1; i <= 12; i++) {
    const moved = places.map((place, k) => ({ ...place, y: place.y - (up[k]! * i) / 12 }));
    await touch(cdp, 'touchMove', moved);
    await ride.heardPast((await ride.heard()) + 0.04);
  }
  await touch(cdp, 'touchEnd', []);
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control).sort()).toEqual(strips.map((one) => `${one}/level`).sort());
  for (const [k, strip] of strips.entries()) {
    const x = await travels(app, `${strip}/level`);
    const furthest = up[k]! > 0 ? Math.max(...x) : Math.min(...x);
    expect(furthest - x[0]!).toBeCloseTo(up[k]! / 600, 2);
  }
  // Back in Ride its receipt is told, and its lanes stand open.
  await page.keyboard.press('Shift+V');
  await expect(page.getByTestId('lanes')).toBeVisible();
  await expect(ride.says).toContainText('Pass 1:');
  for (const strip of strips) await expect(page.getByTestId(`row-${strip}`)).toHaveClass(/is-tall/);
});

test('a VCA is made of chosen strips, ridden against its members, asked after, folded, and all of it taken back', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  const name = (strip: string, words: string) => foot(page, strip).getByRole('button', { name: words, exact: true });
  await name('fiddle', 'Fiddle').click();
  await name('pump-organ', 'Pump organ').click({ modifiers: ['Control'] });
  await page.keyboard.press('Alt+V');
  const sheet = page.getByRole('dialog', { name: 'VCA groups' });
  await sheet.getByLabel('Name').fill('Duo');
  await sheet.getByRole('button', { name: 'Make it' }).click();
  await expect(ride.says).toHaveText('VCA Duo made, at 0 dB over 2 channels.');
  await page.keyboard.press('Escape');
  await page.keyboard.press('3');
  await ride.play();
  await ride.heardPast(0.4);
  await rideThrow(page, 'duo', -60);
  await ride.heardPast((await ride.heard()) + 0.4);
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control)).toEqual(['duo/level']);
  const before = (await app.song()).song;
  expect(before.lanes['fiddle/level']?.points.length ?? 0).toBe(0);
  const low = Math.min(...[...before.lanes['duo/level']!.points].map(({ v }) => v));
  expect(travelOf(LEVEL_LAW, low)).toBeCloseTo(0.75 - 0.1, 2);

  // A member says what it is heard at there, and why.
  const t = [...before.lanes['duo/level']!.points].find(({ v }) => v === low)!.t;
  await ride.goTo(t);
  await name('fiddle', 'Fiddle').click();
  const heard = effectiveValueAt(before, 'fiddle/level', t).toFixed(1).replace('-', '−');
  await expect(page.getByTestId('sum')).toHaveText(`sum ${heard} dB`);
  await page.getByTestId('sum').click();
  await expect(ride.says).toContainText(`Fiddle level is at ${heard} dB: its own lane is at`);
  await expect(ride.says).toContainText('Duo takes');

  // Folded: what is heard stays, and it is one step.
  await page.keyboard.press('Alt+V');
  await expect(sheet.getByTestId('fold-says')).toContainText('Fiddle level and Pump organ level');
  await expect(sheet.getByTestId('fold-says')).toContainText('Nothing is heard to change.');
  await sheet.getByRole('button', { name: 'Fold into members' }).click();
  await expect.poll(async () => (await app.song()).song.lanes['duo/level']!.points.length).toBe(0);
  const after = (await app.song()).song;
  for (const id of ['fiddle/level', 'pump-organ/level'])
    for (let at = 0; at < after.length; at += 0.11)
      expect(Math.abs(effectiveValueAt(after, id, at) - effectiveValueAt(before, id, at))).toBeLessThan(0.05);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.song()).song.lanes).toEqual(before.lanes);
});

test('a gang is made of chosen strips, ridden with one hand, left out by a held key, and its modes go together @long', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  await foot(page, 'fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  await foot(page, 'pump-organ')
    .getByRole('button', { name: 'Pump organ', exact: true })
    .click({ modifiers: ['Control'] });
  await page.keyboard.press('Alt+M');
  const sheet = page.getByRole('dialog', { name: /^Gangs/ });
  await sheet.getByLabel(/^A gang of/).fill('Duo');
  await page.keyboard.press('Enter');
  const one = sheet.getByLabel('Gang Duo', { exact: true });
  await one.getByText('Pans', { exact: true }).click();
  await one.getByText('Pans mirrored').click();
  await one.getByRole('switch', { name: 'Modes and trim too' }).check();
  await expect
    .poll(async () => (await app.song()).song.gangs.find(({ name }) => name === 'Duo'))
    .toMatchObject({ channels: ['fiddle', 'pump-organ'], kinds: ['level', 'pan'], pan: 'mirror', modes: true });
  await page.keyboard.press('Escape');
  await foot(page, 'fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  await expect(ride.more).toContainText('Moves Pump organ along (gang Duo');
  await page.keyboard.press('4');
  for (const strip of ['fiddle', 'pump-organ']) await expect(foot(page, strip).getByText('Latch')).toBeVisible();
  await ride.play();
  await ride.heardPast(0.4);
  await rideThrow(page, 'fiddle', 48);
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control).sort()).toEqual(['fiddle/level', 'pump-organ/level']);
  for (const id of ['pump-organ/level', 'fiddle/level']) {
    const x = await travels(app, id);
    expect(Math.max(...x) - x[0]!).toBeCloseTo(48 / 600, 2);
  }
  // Typed values lead too; pans go apart.
  const pan = async (key: string): Promise<number> => {
    const { song } = await app.song();
    return song.lanes[`${key}/pan`]?.rest ?? 0;
  };
  await page.keyboard.press('2');
  const was = [await pan('fiddle'), await pan('pump-organ')] as const;
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('=');
  const to = Math.round(100 * was[0]) + 10;
  await page.getByLabel('Value').fill(`${to < 0 ? 'L' : 'R'} ${Math.abs(to)}`);
  await page.keyboard.press('Enter');
  await expect.poll(async () => Math.abs((await pan('pump-organ')) - (was[1] - 0.1)) < 0.006).toBe(true);
  // With the key held the other stays where it is.
  await page.keyboard.down('9');
  await page.keyboard.press('ArrowUp');
  await page.keyboard.up('9');
  await expect.poll(async () => Math.abs((await pan('fiddle')) - (was[0] + 0.12)) < 0.006).toBe(true);
  expect(Math.abs((await pan('pump-organ')) - (was[1] - 0.1))).toBeLessThan(0.006);
});

test('a bus comes while the song rolls, without a gap; its sends are seen and ridden from it, on the Desk and in Ride @long', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  await allInTouch(page, ride);
  await foot(page, 'lead').getByRole('button', { name: 'Lead', exact: true }).click();
  await ride.play();
  await ride.heardPast(0.4);
  const counts = () => page.evaluate(() => globalThis.sureHandProbe!.counts());
  const before = await counts();
  await page.keyboard.press('Alt+B');
  const sheet = page.getByRole('dialog', { name: 'Channels, buses, sends' });
  const fresh = sheet.getByLabel('New channels');
  await fresh.getByLabel('A new one').fill('Attic');
  await fresh.getByRole('button', { name: 'Add bus' }).click();
  await expect(ride.says).toHaveText('Attic added. It goes out to the main.');
  await sheet.getByLabel('Which channel').click();
  await page.getByRole('option', { name: 'Lead', exact: true }).click();
  await sheet.getByLabel('Send to').click();
  await page.getByRole('option', { name: 'Attic' }).click();
  await sheet.getByRole('radiogroup', { name: 'Attic send is taken' }).getByText('Before it').click();
  await expect
    .poll(async () => (await app.song()).song.channels.find(({ key }) => key === 'lead')!.sends.at(-1))
    .toMatchObject({ bus: 'attic', tap: 'pre', pan: 'follow' });
  await page.keyboard.press('Escape');
  // From the bus: its sends stand beside it, and one is ridden there.
  await foot(page, 'attic').scrollIntoViewIfNeeded();
  await foot(page, 'attic')
    .getByRole('button', { name: /sends of Attic/ })
    .click();
  await rideThrow(page, 'attic-lead', 200);
  // Its own strip keeps its level on the throw.
  await expect(page.locator('.in-hand-control')).toHaveText('Attic send');
  await expect(foot(page, 'attic-lead')).toContainText('Attic send');
  await expect(foot(page, 'lead')).not.toContainText('Attic send');
  await ride.heardPast((await ride.heard()) + 0.5);
  const after = await counts();
  expect(after.blocks).toBeGreaterThan(before.blocks);
  expect(after.underruns).toBe(before.underruns);
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control)).toEqual(['lead/send/attic/level']);
  const x = await travels(app, 'lead/send/attic/level');
  expect(Math.max(...x) - x[0]!).toBeCloseTo(200 / 600, 2);

  // What it would close a loop with is refused by name, and nothing is changed.
  await page.keyboard.press('Alt+B');
  await sheet.getByLabel('Which channel').click();
  await page.getByRole('option', { name: 'Hall', exact: true }).click();
  await sheet.getByLabel('Goes out to').click();
  await page.getByRole('option', { name: 'Attic' }).click();
  await sheet.getByLabel('Which channel').click();
  await page.getByRole('option', { name: 'Attic', exact: true }).click();
  await sheet.getByLabel('Send to').click();
  await page.getByRole('option', { name: 'Hall', exact: true }).click();
  await expect(sheet.getByRole('alert')).toContainText('feed back in a loop: ');
  await expect(sheet.getByRole('alert')).toContainText('Attic → Hall');
  // Taking it out says what goes with it, and undo brings it back.
  await expect(sheet.getByText(/^1 curve and the sends of Lead go with it/)).toBeVisible();
  await expect(sheet.getByText(/What feeds it \(Hall\) goes to Main/)).toBeVisible();
  const whole = (await app.song()).song;
  await sheet.getByRole('button', { name: 'Take Attic out' }).click();
  await expect.poll(async () => (await app.song()).song.channels.some(({ key }) => key === 'attic')).toBe(false);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.song()).song.channels).toEqual(whole.channels);
  expect((await app.song()).song.lanes).toEqual(whole.lanes);

  // In Ride they stand under the bus, too.
  await page.keyboard.press('Shift+V');
  await expect(page.getByTestId('lanes')).toBeVisible();
  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('Attic level');
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('in-hand')).toHaveText('Attic');
  await page.keyboard.press('Alt+E');
  const member = page.getByTestId('member-attic-lead');
  await expect(member).toBeVisible();
  await member.getByRole('button', { name: 'Lead attic send' }).click();
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  await expect(page.locator('.in-hand-control')).toHaveText('Attic send');
});

test('stems dropped into the open song become tracks of it while it rolls, and are heard', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  const audio = await (await fetch(`${app.address}/api/songs/1/audio/lead.wav`)).arrayBuffer();
  const file = { name: 'Second lead.wav', mimeType: 'audio/wav', buffer: Buffer.from(audio) };
  await ride.play();
  await ride.heardPast(0.3);
  const before = await page.evaluate(() => globalThis.sureHandProbe!.counts());
  await page.keyboard.press('Alt+B');
  await page
    .getByLabel('More stems')
    .setInputFiles([file, { ...file, name: 'notes.wav', buffer: Buffer.from('none') }]);
  await expect(page.getByRole('alert').getByText(/Left out: notes\.wav/)).toBeVisible({ timeout: 15_000 });
  await expect.poll(async () => (await app.song()).song.channels.map(({ name }) => name)).toContain('Second lead');
  await page.keyboard.press('Escape');
  const { key } = (await app.song()).song.channels.find(({ name }) => name === 'Second lead')!;
  await foot(page, key).scrollIntoViewIfNeeded();
  // Where its original sounds, it sounds.
  await page.waitForFunction((at) => globalThis.sureHandProbe!.peak(at) > 0.01, key, { timeout: 15_000 });
  const after = await page.evaluate(() => globalThis.sureHandProbe!.counts());
  expect(after.underruns).toBe(before.underruns);
  await ride.stop();
  // It is there, and heard, after a reload as well; undo takes the track away.
  await page.reload();
  await expect(foot(page, key)).toBeAttached();
  await page.keyboard.press('Control+z');
  await expect(foot(page, key)).toHaveCount(0);
});

test('solo of a VCA, of one channel alone, and of none; a VCA’s mute is shown apart from the channel’s own @long', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  const isSoloed = async (): Promise<string[]> =>
    (await app.song()).song.channels.flatMap(({ key, solo }) => (solo ? [key] : []));
  await foot(page, 'vca-voices').scrollIntoViewIfNeeded();
  await foot(page, 'vca-voices')
    .getByRole('button', { name: /^Solo Voices/ })
    .click();
  expect(await isSoloed()).toEqual(['vca-voices']);
  await foot(page, 'fiddle').scrollIntoViewIfNeeded();
  await expect(
    foot(page, 'fiddle').getByRole('button', { name: 'Solo Fiddle (silent: others are soloed)' }),
  ).toBeVisible();
  await expect(foot(page, 'lead').getByRole('button', { name: 'Solo Lead', exact: true })).toBeAttached();
  await foot(page, 'fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  await page.keyboard.press('Alt+Q');
  await expect(ride.says).toHaveText('Fiddle is silent: Voices is soloed.');
  await page.keyboard.press('Alt+X');
  await expect.poll(isSoloed).toEqual(['fiddle']);
  await page.keyboard.press('Alt+Shift+X');
  await expect.poll(isSoloed).toEqual([]);
  await foot(page, 'vca-voices').scrollIntoViewIfNeeded();
  await foot(page, 'vca-voices').getByRole('button', { name: 'Mute Voices', exact: true }).click();
  await foot(page, 'lead').scrollIntoViewIfNeeded();
  await expect(foot(page, 'lead').getByRole('button', { name: 'Mute Lead (muted by Voices)' })).toHaveAttribute(
    'aria-pressed',
    'false',
  );
});

test('by keys alone: strips are gone through, widened, given another control, moved; and it stays so over a reload @long', async ({
  page,
  app,
  ride,
}) => {
  await openDesk(page);
  await foot(page, 'fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  await page.keyboard.press('Tab');
  await expect(page.getByTestId('in-hand')).not.toHaveText('Fiddle');
  await page.keyboard.press('Shift+Tab');
  await expect(page.getByTestId('in-hand')).toHaveText('Fiddle');
  await page.keyboard.press('ArrowUp');
  const { song } = await app.song();
  expect(song.lanes['fiddle/level']!.rest).not.toBe(-6);
  // The whole family's modes in two keys; Esc, and they are each by itself again.
  await page.keyboard.press('Alt+U');
  await expect(ride.says).toContainText('Chosen: the family Strings & reeds.');
  await page.keyboard.press('5');
  const modes = async (): Promise<string[]> =>
    (await app.song()).song.channels.flatMap(({ family, mode }) => (family === 'Strings & reeds' ? [mode] : []));
  await expect.poll(async () => new Set(await modes())).toEqual(new Set(['write']));
  await page.keyboard.press('2');
  await expect.poll(async () => new Set(await modes())).toEqual(new Set(['read']));
  await page.keyboard.press('Escape');
  // The wheel scrolls the strips; with Alt held it moves the cap that it is over.
  const rest = async (): Promise<number> => (await app.song()).song.lanes['fiddle/level']!.rest;
  const was = await rest();
  const cap = await onThrow(page, 'fiddle');
  await page.mouse.move(cap.x, cap.y);
  await page.keyboard.down('Alt');
  await page.mouse.wheel(0, -120);
  await page.keyboard.up('Alt');
  await expect.poll(rest).toBeGreaterThan(was);
  const width = async (): Promise<number> => Math.round((await foot(page, 'fiddle').boundingBox())!.width) + 1;
  expect(await width()).toBe(88);
  await page.keyboard.press('Alt+Shift+W');
  expect(await width()).toBe(160);
  await page.keyboard.press('Alt+W');
  expect(await width()).toBe(160);
  await page.keyboard.press('Alt+W');
  expect(await width()).toBe(44);
  await page.keyboard.press('Alt+T');
  await page.keyboard.press('Alt+T');
  await expect(page.getByText('Pan on every strip that has one.')).toBeVisible();
  await page.getByLabel('Strips by name').fill('fid');
  await expect(page.getByText(/^Pan on every strip.*1 of \d+ strips\.$/)).toBeVisible();
  await page.reload();
  await expect(page.getByText(/^Pan on every strip.*1 of \d+ strips\.$/)).toBeVisible();
  expect(await width()).toBe(44);
  await page.getByRole('button', { name: 'All strips' }).click();
  await expect(page.getByText(/1 of \d+ strips/)).toHaveCount(0);
  await expect(ride.says).not.toBeEmpty();
});

test('what another page takes away goes from under the hand: a strip, a gang; and with the server away a bus is added all the same', async ({
  page,
  app,
  ride,
}) => {
  const broken: string[] = [];
  page.on('pageerror', (error) => broken.push(error.message));
  const gang = {
    key: 'duo',
    name: 'Duo',
    channels: ['fiddle', 'pump-organ'],
    kinds: ['level'],
    pan: 'same',
    modes: false,
  };
  await app.edit({ kind: 'gang', remove: null, add: gang } as never);
  await openDesk(page);
  await allInTouch(page, ride);
  const { x, y } = await onThrow(page, 'fiddle');
  await ride.play();
  await ride.heardPast(0.4);
  await page.mouse.move(x, y);
  await page.mouse.down();
  for (let i = 1; i <= 5; i++) await page.mouse.move(x, y - 6 * i);
  const touched = () => page.evaluate(() => globalThis.sureHandProbe!.touched());
  expect(await touched()).toEqual(['fiddle/level', 'pump-organ/level']);
  await app.edit({ kind: 'gang', remove: gang, add: null } as never);
  await expect.poll(touched).toEqual(['fiddle/level']);
  await app.edit({ kind: 'removeChannel', channel: 'fiddle' });
  await expect(foot(page, 'fiddle')).toHaveCount(0);
  expect(await touched()).toEqual([]);
  await page.mouse.move(x, y + 30);
  await page.mouse.up();
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control)).toEqual(['pump-organ/level']);

  await app.stop();
  await page.keyboard.press('Alt+B');
  const fresh = page.getByLabel('New channels');
  await fresh.getByLabel('A new one').fill('Attic');
  await fresh.getByRole('button', { name: 'Add bus' }).click();
  await expect(foot(page, 'attic')).toBeAttached();
  await expect(ride.more).toContainText('Server away: 1 edit waits here.');
  await page
    .getByLabel('More stems')
    .setInputFiles([{ name: 'a.wav', mimeType: 'audio/wav', buffer: Buffer.from('a') }]);
  await expect(page.getByRole('alert').getByText(/server can’t be reached/)).toBeVisible();
  await app.start(Number(new URL(app.address).port));
  await expect.poll(async () => (await app.song()).song.channels.some(({ key }) => key === 'attic')).toBe(true);
  expect(broken).toEqual([]);
});
