import type { Edit } from '@sure-hand/core/edits';
import { expect, test } from './app.js';
import { lookAt } from './lookAt.js';
import { SHEETS } from './sheets.js';

/** As long as a name may be, and without a place to break it. */
const long = (what: string): string => what.padEnd(200, 'W');

/** So many menus of a view are looked at. */
const MENUS = 8;

test('names as long as they may be push nothing out of the window, in any view, sheet or menu @long', async ({
  page,
  app,
  ride,
}) => {
  const { song } = await app.song();
  const edits: Edit[] = [
    { kind: 'title', name: long('Song') },
    ...song.channels.map(({ key }): Edit => ({
      kind: 'describe',
      channel: key,
      changes: { name: long(key), family: long(`Of ${key}`) },
    })),
    { kind: 'mark', list: 'sections', remove: null, add: { t: 7, name: long('Section') } },
    { kind: 'mark', list: 'notes', remove: null, add: { t: 8, text: long('Note') } },
  ];
  for (const edit of edits) await app.edit(edit);
  await page.reload();
  await ride.isOpen();
  const found: string[] = [];
  const look = async (where: string): Promise<void> => {
    const { wrong } = await page.evaluate(lookAt);
    found.push(...wrong.map((one) => `${where}: ${one}`));
  };
  for (const view of ['Ride', 'Desk', 'Passes', 'Snapshots', 'Guards', 'Files'] as const) {
    await ride.show(view);
    await expect(page.locator('main')).toBeVisible();
    await look(view);
    // The bars come before rows and strips, whose menus are alike.
    for (const button of (await page.locator('button[aria-haspopup=menu]:visible').all()).slice(0, MENUS)) {
      await button.click();
      await expect(page.getByRole('menu').first()).toBeVisible();
      await look(`${view}, menu of ${(await button.getAttribute('aria-label')) ?? (await button.textContent())}`);
      await page.keyboard.press('Escape');
      await expect(page.getByRole('menu')).toHaveCount(0);
    }
  }
  // What is looked at and what stands on the throws is named above the strips.
  await ride.show('Desk');
  for (const [button, item] of [
    [/^Strips of/, /^Of /],
    [/^Strips of/, /^vca/],
    [/^On the throws/, /WWW/],
  ] as const) {
    await page.getByRole('button', { name: button }).click();
    await page.getByRole('menuitem', { name: item }).first().click();
    await expect(page.getByRole('menu')).toHaveCount(0);
    await look(`Desk, ${String(button)}: ${String(item)}`);
  }
  await ride.show('Ride');
  for (const [name, keys] of SHEETS) {
    await page.keyboard.press(keys);
    await expect(page.getByRole('dialog')).toBeVisible();
    await look(`Sheet of ${name}`);
    await page.keyboard.press('Escape');
    await expect(page.getByRole('dialog')).toHaveCount(0);
  }
  expect(found).toEqual([]);
});
