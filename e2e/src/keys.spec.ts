import type { Locator, Page } from '@playwright/test';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { expect, test, type RidePage } from './app.js';

const stops = (page: Page): Locator => page.getByLabel('Stop', { exact: true });
const plays = (page: Page): Locator => page.getByLabel('Play', { exact: true });

/** A press of a key as a keyboard of another layout makes it: what it types, and at which place. */
async function pressAt(
  page: Page,
  [typed, code]: readonly [string, string],
  mods: readonly ('ctrl' | 'shift')[] = [],
): Promise<void> {
  const client = await page.context().newCDPSession(page);
  const modifiers = (mods.includes('ctrl') ? 2 : 0) + (mods.includes('shift') ? 8 : 0);
  const key = { key: typed, code, modifiers };
  await client.send('Input.dispatchKeyEvent', { type: 'rawKeyDown', ...key });
  await client.send('Input.dispatchKeyEvent', { type: 'keyUp', ...key });
  await client.detach();
}

/** The song is heard to go on, and Space stops it: whatever has the focus. */
async function spacePlaysAndStops(ride: RidePage): Promise<void> {
  const { page } = ride;
  await page.keyboard.press('Space');
  await expect(stops(page)).toBeVisible();
  await page.keyboard.press('Space');
  await expect(plays(page)).toBeVisible();
}

test('a key that is held down acts once', async ({ page, app, ride }) => {
  await app.edit({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'Softer here' } });
  // As long as Space is down it plays, once.
  for (let k = 0; k < 25; k++) await page.keyboard.down('Space');
  await page.keyboard.up('Space');
  await expect(stops(page)).toBeVisible();
  await ride.heardPast(0.3);
  await page.keyboard.press('Space');
  await expect(plays(page)).toBeVisible();
  const before = (await app.song()).song.channels.find(({ key }) => key === 'lead')!.solo;
  await ride.takeInHand('lead', 'Lead');
  for (let k = 0; k < 4; k++) await page.keyboard.down('s');
  await page.keyboard.up('s');
  await expect.poll(async () => (await app.song()).song.channels.find(({ key }) => key === 'lead')!.solo).toBe(!before);
  for (let k = 0; k < 3; k++) await page.keyboard.down('v');
  await page.keyboard.up('v');
  await expect(page).toHaveURL(/\/desk$/);
  // What is meant to go on as long as it is held goes on: a value by arrows.
  const dB = async (): Promise<number> =>
    Number((await ride.value.textContent())!.replace('−', '-').replace(/[^-\d.]/g, ''));
  const was = await dB();
  await page.keyboard.press('ArrowUp');
  await expect.poll(dB).toBeGreaterThan(was);
  const step = (await dB()) - was;
  for (let k = 0; k < 4; k++) await page.keyboard.down('ArrowUp');
  await page.keyboard.up('ArrowUp');
  await expect.poll(async () => (await dB()) - was).toBeCloseTo(5 * step, 5);
});

test('whatever has the focus, by a pointer or by Tab, Space plays and stops, and keys are the song’s', async ({
  page,
  app,
  ride,
}) => {
  await ride.show('Guards');
  const scope = async (): Promise<readonly string[] | null> => (await app.song()).song.settings.writeScope;
  const chip = page.locator('.guards-top input[type=checkbox]').first();
  // A click on a chip while it rolls: it is set, Space stops, and it stays so.
  await ride.play();
  await page.locator('.guards-top label').first().click();
  const set = await chip.isChecked();
  await page.keyboard.press('Space');
  await expect(plays(page)).toBeVisible();
  expect(await chip.isChecked()).toBe(set);
  const written = await scope();
  await spacePlaysAndStops(ride);
  expect(await scope()).toEqual(written);
  // By Tab it is Enter that sets it; Space is the song's there, too.
  await chip.focus();
  await page.keyboard.press('Tab');
  await page.keyboard.press('Shift+Tab');
  await expect(chip).toBeFocused();
  await spacePlaysAndStops(ride);
  expect(await chip.isChecked()).toBe(set);
  await page.keyboard.press('Enter');
  await expect(chip).toBeChecked({ checked: !set });
  expect(await scope()).not.toEqual(written);

  // A radio, a guard's cell, a mode's button, a strip's cap as it is spoken, a choice in Files, a slider.
  const radio = page.getByRole('radio', { name: 'It would not' });
  await page.getByText('It would not', { exact: true }).click();
  await spacePlaysAndStops(ride);
  await expect(radio).toBeChecked();
  await page.keyboard.press('Shift+v');
  await expect(page).toHaveURL(/\/snapshots$/);
  await page.keyboard.press('v');
  await expect(page).toHaveURL(/\/guards$/);
  for (const where of ['button', '[role=gridcell] button', 'td button', 'a'])
    for (const one of (await page.locator(`main ${where}`).all()).slice(0, 2)) {
      await one.focus();
      await spacePlaysAndStops(ride);
    }
  await ride.show('Files');
  await expect(page.getByLabel('What to bounce')).toBeVisible();
  for (const one of await page.locator('main').locator('input:not([type=text]), select, button, a').all()) {
    if (!(await one.isVisible())) continue;
    await one.focus();
    await spacePlaysAndStops(ride);
  }
  await ride.show('Ride');
  await ride.setRange(1, 3);
  for (const role of ['slider', 'separator'] as const) {
    await page.getByRole(role).first().focus();
    await spacePlaysAndStops(ride);
    await page.keyboard.press('l');
    await expect.poll(async () => (await app.song()).song.settings.loop === null).toBe(role === 'separator');
  }
});

test('Esc in the sheet of keys, and any key after it is closed, becomes no binding; a new key is taken, and changed back', async ({
  page,
  ride,
}) => {
  await ride.isOpen();
  const sheet = page.getByRole('dialog', { name: 'Keys' });
  const loop = sheet.getByLabel('Change the key of Loop', { exact: false }).first();
  await page.keyboard.press('?');
  await expect(loop).toHaveText('L');
  await loop.click();
  await expect(loop).toHaveText('press a key…');
  await page.keyboard.press('Escape');
  await expect(loop).toHaveText('L');
  await expect(sheet).toBeVisible();
  await loop.click();
  // Closed meanwhile: the next key is the song's again.
  await sheet.getByRole('button', { name: 'Close' }).click();
  await expect(sheet).toHaveCount(0);
  await spacePlaysAndStops(ride);
  await page.keyboard.press('?');
  await expect(loop).toHaveText('L');
  await expect(sheet.getByLabel('Change the key of Play or stop', { exact: false })).toHaveText('Space');
  // While the song rolls: nothing stands between it and its keys.
  await page.keyboard.press('Space');
  await expect(stops(page)).toBeVisible();
  await loop.click();
  await page.keyboard.press('Alt+z');
  await expect(loop).toHaveText('Alt+Z');
  await page.keyboard.press('Space');
  await expect(plays(page)).toBeVisible();
  await sheet.getByRole('button', { name: 'All as they were' }).click();
  await expect(loop).toHaveText('L');
  await page.keyboard.press('Escape');
  await expect(sheet).toHaveCount(0);
});

test('finding a control while the song rolls is typed into a sheet, and the rest is the song’s', async ({
  page,
  ride,
}) => {
  await ride.play();
  await page.keyboard.press('/');
  const field = page.getByLabel('Find a control');
  await expect(field).toBeFocused();
  await page.keyboard.type('fiddle pan');
  await expect(stops(page)).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await expect(page.getByTestId('in-hand')).toContainText('Fiddle');
  await page.keyboard.press('/');
  await expect(field).toBeFocused();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.keyboard.press('Space');
  await expect(plays(page)).toBeVisible();
});

/** Keyboards: what types z, what stands on the third digit's key, and what a question mark takes. */
const KEYBOARDS = [
  ['of the United States', { z: ['z', 'KeyZ'], 3: ['3', 'Digit3'], '?': ['?', 'Slash'] }],
  ['of Germany', { z: ['z', 'KeyY'], 3: ['3', 'Digit3'], '?': ['?', 'Minus'] }],
  ['of France', { z: ['z', 'KeyW'], 3: ['"', 'Digit3'], '?': ['?', 'KeyM'] }],
  ['that is Cyrillic', { z: ['я', 'KeyZ'], 3: ['3', 'Digit3'], '?': ['?', 'Digit7'] }],
] as const;

test('on keyboards of four kinds keys are where they are typed, and where they stand if nothing like it is', async ({
  page,
  app,
  ride,
}) => {
  const mode = async (): Promise<string> => (await app.song()).song.channels.find(({ key }) => key === 'lead')!.mode;
  const muted = async (): Promise<number> => (await app.song()).song.lanes['lead/mute']?.rest ?? 0;
  await ride.takeInHand('lead', 'Lead');
  for (const [, keys] of KEYBOARDS) {
    await page.keyboard.press('2');
    await expect.poll(mode).toBe('read');
    await pressAt(page, keys[3]);
    await expect.poll(mode).toBe('touch');
    const was = await muted();
    await page.keyboard.press('m');
    await expect.poll(muted).toBe(1 - was);
    await pressAt(page, keys.z, ['ctrl']);
    await expect.poll(muted).toBe(was);
    await pressAt(page, [keys.z[0].toUpperCase(), keys.z[1]], ['ctrl', 'shift']);
    await expect.poll(muted).toBe(1 - was);
    await pressAt(page, keys['?'], ['shift']);
    await expect(page.getByRole('dialog', { name: 'Keys' })).toBeVisible();
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
  }
});

test('a keyboard whose signs are elsewhere shows its own, and a Mac’s key that takes away clears @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.isOpen();
  await page.evaluate(() => {
    const map = new Map(
      [...'abcdefghijklmnopqrstuvwxyz'].map((one) => [
        `Key${one.toUpperCase()}`,
        'фисвуапршолдьтщзйкыегмцчня'['abcdefghijklmnopqrstuvwxyz'.indexOf(one)]!,
      ]),
    );
    Object.defineProperty(navigator, 'keyboard', { value: { getLayoutMap: async () => map }, configurable: true });
    window.dispatchEvent(new Event('focus'));
  });
  await page.keyboard.press('?');
  const sheet = page.getByRole('dialog', { name: 'Keys' });
  await expect(sheet.getByLabel('Change the key of Undo', { exact: true })).toHaveText('Ctrl+Я');
  await page.keyboard.press('Escape');
  // Backspace is where a Mac has Delete: it clears, and locates nowhere.
  await ride.takeInHand('lead', 'Lead');
  await ride.setRange(1, 6);
  await ride.goTo(3);
  await app.edit({
    kind: 'points',
    control: 'lead/level',
    remove: [],
    add: Curve.of([linePoint(3, -5), linePoint(4, -7)]),
  });
  const before = await app.points('lead/level');
  expect(before).toHaveLength(2);
  await page.waitForFunction((t) => sureHandProbe!.document().includes(`"t":${t}`), 4);
  await page.keyboard.press('Backspace');
  await expect.poll(async () => JSON.stringify(await app.points('lead/level'))).not.toBe(JSON.stringify(before));
  expect(await ride.heard()).toBeCloseTo(3, 2);
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points('lead/level')).toEqual(before);
});

test('what is pressed by somebody who hears the page is pressed: a mute, a guard’s cell, a snapshot’s card', async ({
  page,
  app,
  ride,
}) => {
  // A screen reader presses with a click that no pointer made.
  const press = (one: Locator): Promise<void> => one.evaluate((at: HTMLElement) => at.click());
  const lead = async () => (await app.song()).song.channels.find(({ key }) => key === 'lead')!;
  const muted = async (): Promise<number> => (await app.song()).song.lanes['lead/mute']?.rest ?? 0;
  const before = await muted();
  await press(page.getByTestId('row-lead').getByRole('button', { name: 'Mute Lead' }));
  await expect.poll(muted).toBe(1 - before);
  await ride.show('Guards');
  const { safe } = await lead();
  await press(page.getByTestId('guards-lead').getByRole('button', { name: /levels? safe/ }));
  await expect.poll(async () => JSON.stringify((await lead()).safe)).not.toBe(JSON.stringify(safe));
});

test('what is heard of the page stands still while the song rolls, and is no part of a button', async ({
  page,
  ride,
}) => {
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('5');
  await ride.play();
  const spoken = page.getByTestId('hand-spoken');
  await expect(spoken).toContainText(/^Writing 7 controls of Lead\. /);
  const said = await spoken.textContent();
  expect(said).not.toMatch(/\d+\.\d s/);
  expect(await spoken.evaluate((at) => at.closest('button'))).toBeNull();
  const shown = await ride.says.textContent();
  await expect(ride.says).not.toHaveText(shown!);
  await ride.heardPast(2);
  expect(await spoken.textContent()).toBe(said);
  await ride.stop();
  await expect(spoken).toContainText(/^Pass 1: /);
});

test('a quick Esc closes a list that has not the focus yet', async ({ page, ride }) => {
  await ride.isOpen();
  for (const name of ['More: song, light, keys', 'Mend the curve']) {
    await page.getByRole('button', { name }).evaluate((at: HTMLElement) => at.click());
    await page.keyboard.press('Escape');
    await expect(page.getByRole('menu')).toHaveCount(0);
  }
});

test('Esc in a field that is in no sheet gives up what was typed and leaves it: Space is the song’s then', async ({
  page,
  app,
  ride,
}) => {
  await page.keyboard.press('n');
  await expect(page.getByTestId('take-says')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByTestId('take-says')).toHaveCount(0);
  await ride.show('Snapshots');
  const { name } = (await app.song()).song.snapshots[0]!;
  const field = page.getByLabel('Name of the snapshot');
  await field.fill('Not that');
  await page.keyboard.press('Escape');
  await expect(field).not.toBeFocused();
  await expect(field).toHaveValue(name);
  await ride.play();
  await ride.stop();
  expect((await app.song()).song.snapshots.map((one) => one.name)).toEqual([name]);
  // One that keeps it as it is left by Enter still does.
  await field.fill('That');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await app.song()).song.snapshots.map((one) => one.name)).toEqual(['That']);
  // A time that is none does not stay behind either.
  await ride.show('Files');
  await page.getByText('A range', { exact: true }).click();
  const from = page.getByLabel('From', { exact: true });
  const was = await from.inputValue();
  await from.fill('no time');
  await expect(page.getByText('A bar such as 17.3')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(from).not.toBeFocused();
  await expect(from).toHaveValue(was);
});
