import { insertWithDefaults } from '@sure-hand/core/song';
import type { Locator, Page } from '@playwright/test';
import { expect, test } from './app.js';
import { lookAt } from './lookAt.js';
import { LEAD, mended } from './mendedLane.js';
import { SHEETS } from './sheets.js';

/** What is no number, or no number that can be meant; and a page of text, as it is pasted by mistake. */
const PAGE = 'Notes of the week: 3 songs, 12 stems.\nThe lead at −6 dB, softer from 1:02.5.\n'.repeat(40);
const TYPED: readonly string[] = ['-', '.', '1e400', '٣', PAGE];
const IS_WHOLE = Boolean(process.env.SURE_HAND_ALL);
/** With every test each field is given one of them, in turn; all of them by `npm run harness`. */
const textsFor = (nth: number): readonly string[] => (IS_WHOLE ? TYPED : [TYPED[nth % TYPED.length]!]);

let nth = 0;

const FIELDS =
  'input:not([type=checkbox], [type=radio], [type=range], [type=file], [type=color], [type=hidden]), textarea, [contenteditable=true]';

/** Places where fields stand: the view, the keys that lead there, and where the fields are. */
const PLACES: readonly (readonly [string, readonly string[], string])[] = [
  ['the value in hand', ['='], 'footer, .hand-bar'],
  ...[...SHEETS, ['finding', '/'] as const]
    .filter(([name]) => !['keys', 'picked points'].includes(name))
    .map(([name, keys]) => [`the sheet of ${name}`, [keys], '[role=dialog]'] as const),
  ['picked points', ['Alt+r', 'Shift+Equal'], '[role=dialog]'],
];

/** Of the places that every test goes to, how many fields each has: they are waited for. */
const FIELDS_OF: { readonly [place: string]: number } = {
  'the value in hand': 1,
  'the sheet of a note': 3,
  'the sheet of lanes': 1,
  'the sheet of moving and lifting': 2,
  'the sheet of VCAs': 2,
  'the sheet of placing': 2,
};

/** What a field of numbers holds once it is left: nothing, or one number that can be, with its unit. */
const isNumber = (text: string): boolean => text === '' || /^[^\d∞]*\d[\d.,]{0,12}[^\d∞]*$/.test(text);

/** Pastes the page of text, as a person does. */
const pasteAll = (page: Page): Promise<void> => page.keyboard.press('Control+v');

/** Types each into each field within a place, as it stands there and is left again; gives back how many fields there were. */
async function typeIntoAll(page: Page, within: Locator, check: (where: string) => Promise<void>): Promise<number> {
  const fields = within.locator(FIELDS);
  const count = await fields.count();
  let typed = 0;
  for (let i = 0; i < count; i++) {
    const field = fields.nth(i);
    if (!(await field.isVisible()) || !(await field.isEditable())) continue;
    const name = (await field.getAttribute('aria-label')) ?? (await field.getAttribute('id')) ?? String(i);
    const isOfNumbers =
      (await field.getAttribute('inputmode')) === 'decimal' || (await field.getAttribute('inputmode')) === 'numeric';
    const was = await field.inputValue();
    for (const text of textsFor(nth++)) {
      await field.focus();
      await field.press('Control+a');
      if (text === PAGE) await pasteAll(page);
      else await page.keyboard.insertText(text);
      await check(`${name}, with ${text.slice(0, 8)} in it`);
      if (!(await field.isVisible())) break;
      await field.blur();
      await check(`${name}, left with ${text.slice(0, 8)}`);
      if (!(await field.isVisible())) break;
      if (isOfNumbers) expect(isNumber(await field.inputValue()), `${name}: ${await field.inputValue()}`).toBe(true);
    }
    typed++;
    if (!(await field.isVisible())) continue;
    await field.fill(was);
    await field.blur();
  }
  return typed;
}

test('what is no number gets into no field, and nothing of it is heard: every field of every view and sheet', async ({
  page,
  app,
  ride,
}) => {
  test.setTimeout(600_000);
  const threw: string[] = [];
  page.on('pageerror', (error) => threw.push(error.stack ?? error.message));
  page.on('console', (message) => void (message.type() === 'error' && threw.push(message.text())));
  page.on(
    'response',
    (response) => void (response.status() >= 400 && threw.push(`${response.status()} ${response.url()}`)),
  );
  const check = async (where: string): Promise<void> => {
    const { wrong } = await page.evaluate(lookAt);
    expect([...threw, ...wrong], where).toEqual([]);
  };
  for (const [channel, effect] of [
    ['lead', 'equaliser'],
    ['main', 'reverb'],
  ] as const)
    await app.edit({ kind: 'insert', channel, remove: null, add: insertWithDefaults({ slot: 'one', effect }) });
  await mended(page, app, ride, 2);
  await ride.setRange(1, 4);
  await page.keyboard.press('l');
  await page.keyboard.press('Alt+1');
  await page.keyboard.press('Alt+r');
  await ride.goTo(1);
  // What is typed may be heard at once.
  if (IS_WHOLE) await ride.play();
  const isHeard = (): Promise<void> =>
    page
      .waitForFunction(() => globalThis.sureHandProbe!.peak('main') > 0.001, null, { timeout: 20_000 })
      .then(() => undefined);

  await page.context().grantPermissions(['clipboard-read', 'clipboard-write']);
  await page.evaluate((text) => navigator.clipboard.writeText(text), PAGE);
  let all = 0;
  // In the table each cell is a field of its own, once it is opened.
  const points = await app.points(LEAD);
  await page.keyboard.press('Alt+n');
  const numbers = page.getByRole('complementary', { name: 'Points as numbers' });
  await expect(numbers).toBeVisible();
  all += await typeIntoAll(page, numbers, (field) => check(`the points as numbers: ${field}`));
  const row = page.getByRole('grid').getByRole('row').nth(2);
  await expect(row).toBeVisible();
  for (const column of ['bar', 'clock', 'code', 'value', 'bend'])
    for (const text of textsFor(nth++)) {
      await row.locator(`.cell-${column}`).dblclick();
      await page.keyboard.press('Control+a');
      if (text === PAGE) await pasteAll(page);
      else await page.keyboard.insertText(text);
      await page.keyboard.press('Enter');
      await check(`the table’s ${column}, with ${text.slice(0, 8)}`);
      await page.keyboard.press('Escape');
    }
  expect(await app.points(LEAD)).toEqual(points);
  await page.keyboard.press('Alt+n');
  // With every test some of the places; all by `npm run harness`.
  for (const [name, keys, within] of IS_WHOLE ? PLACES : PLACES.filter((_, n) => n % 3 === 0)) {
    for (const key of keys) await page.keyboard.press(key);
    const place = page.locator(within).first();
    await expect(place).toBeVisible();
    const there = FIELDS_OF[name] ?? 0;
    if (there) await expect(place.locator(FIELDS).nth(there - 1)).toBeEditable();
    const count = await typeIntoAll(page, place, (field) => check(`${name}: ${field}`));
    expect(count, name).toBeGreaterThanOrEqual(there);
    all += count;
    await page.keyboard.press('Escape');
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
    if (IS_WHOLE) await isHeard();
  }
  expect(all).toBeGreaterThan(IS_WHOLE ? 30 : 10);
  // A placing in the log, and a snapshot, so that their names can be typed.
  await app.edit({ kind: 'place', values: { 'lead/level': -9 }, range: [1, 2], edge: 0.1 });
  await page.waitForFunction(() => globalThis.sureHandProbe!.document().includes('"v":-9'));
  await page.keyboard.press('n');
  await expect(page.getByTestId('take-says')).toBeVisible();
  await page.keyboard.press('Enter');
  await expect(page.getByRole('dialog')).toHaveCount(0);
  for (const [view, first] of [
    ['Passes', page.locator('.pass-name-field')],
    ['Snapshots', page.getByRole('button', { name: 'What it recalls' })],
    ['Guards', page.getByRole('button', { name: 'Keep this one…' })],
    ['Files', page.getByText('A range', { exact: true })],
  ] as const) {
    await ride.show(view);
    await first.click();
    await expect(page.locator(FIELDS).first()).toBeVisible();
    const count = await typeIntoAll(page, page.locator('body'), (field) => check(`${view}: ${field}`));
    expect(count, view).toBeGreaterThan(0);
    await page.keyboard.press('Escape');
    if (IS_WHOLE) await isHeard();
  }
  if (!IS_WHOLE) await ride.play();
  await isHeard();
  await ride.stop();
});
