import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from '@playwright/test';
import { expect, test } from './app.js';
import { SHEETS } from './sheets.js';

/** What keeps somebody from using a page, or what it has opened within it, or makes it hard. */
async function findings(page: Page, where: string, within: string): Promise<string[]> {
  // All is in one frame, with its styles: there is nothing to be put together, or to be fetched first.
  const axe = new AxeBuilder({ page }).include(within).setLegacyMode();
  axe.options({ preload: false, resultTypes: ['violations'] });
  const { violations } = await axe.analyze();
  return violations
    .filter(({ impact }) => impact === 'serious' || impact === 'critical')
    .flatMap(({ id, nodes }) =>
      nodes.map(({ target, failureSummary }) => `${where}: ${id}: ${target.join(' ')}: ${failureSummary}`),
    );
}

const IS_WHOLE = Boolean(process.env.SURE_HAND_ALL);

for (const theme of ['lamp', 'paper'] as const)
  test(`every view and every sheet can be read and worked by everybody, in ${theme}${theme === 'paper' ? ' @long' : ''}`, async ({
    page,
    app,
    ride,
  }) => {
    const found: string[] = [];
    /** `onlyWhole`: a state of what is looked at anyhow, by `npm run harness`. */
    const look = async (where: string, within = 'html', onlyWhole = false): Promise<void> => {
      if (!onlyWhole || IS_WHOLE) found.push(...(await findings(page, where, within)));
    };
    if (theme === 'paper') {
      await page.getByRole('button', { name: 'More: song, light, keys' }).click();
      await page.getByRole('menuitem', { name: 'Light: paper' }).click();
    }
    await look('Ride', 'html', true);
    // However a name is shortened to be seen, it is heard whole.
    for (const { key, name } of (await app.song()).song.channels)
      await expect(page.getByTestId(`row-${key}`).getByRole('button', { name, exact: true })).toBeAttached();
    await page.keyboard.press('Alt+5');
    await ride.play();
    await ride.heardPast(0.5);
    await look('Ride, writing', 'html', true);
    await ride.stop();
    await expect.poll(async () => (await app.passes()).length).toBe(1);
    await look('Ride, after a pass');
    await ride.takeInHand('lead', 'Lead');
    await page.keyboard.press('0');
    await page.keyboard.press('Alt+Shift+K');
    await look('Ride, parked and trimming', 'html', true);
    await page.keyboard.press('Alt+Shift+K');
    // With every test some of them; all, in both themes, by `npm run harness`.
    for (const [name, keys] of IS_WHOLE ? SHEETS : SHEETS.filter((_, n) => n % 4 === 0)) {
      await page.keyboard.press(keys);
      await expect(page.getByRole('dialog')).toBeVisible();
      await look(`Sheet of ${name}`, '[role=dialog]');
      await page.keyboard.press('Escape');
      await expect(page.getByRole('dialog')).toHaveCount(0);
    }
    await page.keyboard.press('Alt+N');
    await expect(page.getByRole('complementary', { name: 'Points as numbers' })).toBeVisible();
    await look('Points as numbers');
    await page.keyboard.press('Alt+N');
    await page.getByLabel('Rows by kind and mode').click();
    await look('What is looked at', '[role=menu]', true);
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Mend the curve' }).click();
    await look('What mends', '[role=menu]');
    await page.keyboard.press('Escape');
    await page.keyboard.press('/');
    await page.getByLabel('Find a control').fill('hall');
    await look('Finding', '[role=dialog]');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'More: song, light, keys' }).click();
    await look('The menu', '[role=menu]');
    await page.keyboard.press('Escape');
    await ride.show('Desk');
    await expect(page.getByTestId('throws')).toBeVisible();
    await look('Desk', 'html', true);
    await page.keyboard.press('Alt+W');
    await look('Desk, wide');
    await page.keyboard.press('Alt+W');
    await look('Desk, narrow', 'html', true);
    // In a low window the list is longer than its place, and is scrolled.
    await page.setViewportSize({ width: 1280, height: 500 });
    await page.getByRole('button', { name: /^On the throws/ }).click();
    await look('What stands on the throws', '[role=menu]', true);
    await page.keyboard.press('Escape');
    await page.setViewportSize({ width: 1280, height: 800 });
    await ride.show('Passes');
    await expect(page.getByRole('button', { name: /^Pass 1/ })).toBeVisible();
    await expect(page.getByLabel('Old and new curve')).toBeVisible();
    await look('Passes');
    await page.keyboard.press('n');
    await expect(page.getByTestId('take-says')).toBeVisible();
    await page.keyboard.press('Enter');
    await expect(page.getByTestId('take-says')).toHaveCount(0);
    await ride.show('Snapshots');
    await expect(page.getByRole('button', { name: 'What it recalls' })).toBeVisible();
    await look('Snapshots');
    await ride.show('Guards');
    await expect(page.getByLabel('Guards', { exact: true })).toBeVisible();
    await look('Guards');
    await ride.show('Files');
    await expect(page.getByLabel('What to bounce')).toBeVisible();
    await look('Files');
    await page.goto(`${app.address}/new`);
    await expect(page.getByLabel('Stems', { exact: true })).toBeAttached();
    await look('New song', 'html', true);
    await page.goto(app.address);
    await expect(page.getByRole('link', { name: 'Short song' })).toBeVisible();
    await look('The songs');
    await page.goto(`${app.address}/songs/99/ride`);
    await expect(page.getByRole('button', { name: 'Try again' })).toBeVisible();
    await look('A song that can’t be opened', 'html', true);
    expect(found).toEqual([]);
  });
