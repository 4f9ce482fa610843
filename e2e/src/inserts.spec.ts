import { controlOf, laneOf, ownValueAt, type Insert, type Song } from '@sure-hand/core/song';
import { expect, test } from './app.js';

const insertsOf = (song: Song, key: string): readonly Insert[] => song.channels.find((one) => one.key === key)!.inserts;
const CUTOFF = 'lead/insert/filter/cutoff';

test('a filter is inserted by keys, ridden like any lane, copied with its curve, switched off and taken out again @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('Shift+E');
  const sheet = page.getByRole('dialog', { name: 'Inserts of Lead' });
  await expect(sheet).toContainText('Nothing is inserted yet.');
  const effect = sheet.getByRole('combobox', { name: 'Insert at the end' });
  await effect.focus();
  await page.keyboard.press('ArrowDown');
  for (const name of ['Equaliser', 'Filter'])
    await expect(page.getByRole('option', { name, exact: true })).toBeVisible();
  await page.getByRole('option', { name: 'Filter', exact: true }).click();
  await expect(ride.says).toContainText('Filter of Lead added.');
  await effect.click();
  await page.getByRole('option', { name: 'Equaliser', exact: true }).click();
  await expect
    .poll(async () => insertsOf((await app.song()).song, 'lead').map(({ slot }) => slot))
    .toEqual(['filter', 'equaliser']);

  // Its order and its settings, by mouse.
  await sheet.getByRole('button', { name: 'Equaliser earlier' }).click();
  await expect
    .poll(async () => insertsOf((await app.song()).song, 'lead').map(({ slot }) => slot))
    .toEqual(['equaliser', 'filter']);
  await sheet.getByRole('combobox', { name: 'Filter: slope' }).click();
  await page.getByRole('option', { name: '24 dB', exact: true }).click();
  await expect
    .poll(async () => insertsOf((await app.song()).song, 'lead')[1]!.settings)
    .toEqual({ shape: 'low', slope: 24 });

  // Its first parameter comes to hand by its name, and is ridden while the song rolls.
  await sheet.getByRole('button', { name: 'Filter', exact: true }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('in-hand').locator('..')).toContainText('Filter cutoff');
  await expect(ride.value).toHaveText('20.0 kHz');
  await ride.play();
  await ride.heardPast(0.5);
  for (let k = 0; k < 12; k++) await page.keyboard.press('ArrowDown');
  await ride.heardPast(1.6);
  await ride.stop();
  const { song } = await app.song();
  const written = song.lanes[CUTOFF]!.points;
  expect(written.length).toBeGreaterThan(2);
  expect(Math.min(...[...written].map(({ v }) => v))).toBeLessThan(19_000);
  expect(controlOf(song, CUTOFF).name).toBe('Filter cutoff');

  // All of it stands after a reload; a copy has the curve too.
  await page.reload();
  await ride.isOpen();
  await page.keyboard.press('Shift+E');
  await expect(sheet.getByTestId('insert-filter')).toBeVisible();
  await sheet.getByRole('combobox', { name: 'Copy Filter with its curves to' }).click();
  await page.getByRole('option', { name: 'Fiddle', exact: true }).click();
  await expect
    .poll(async () => insertsOf((await app.song()).song, 'fiddle').map(({ slot }) => slot))
    .toEqual(['filter']);
  expect((await app.song()).song.lanes['fiddle/insert/filter/cutoff']!.points.length).toBe(written.length);
  // Once more, without: it rests as it stands at the line.
  const at = await ride.heard();
  const stands = ownValueAt((await app.song()).song, CUTOFF, at).base;
  await sheet.getByText('Copies as at the line').click();
  await sheet.getByRole('combobox', { name: 'Copy Filter as at the line to' }).click();
  await page.getByRole('option', { name: 'Frame drum', exact: true }).click();
  await expect
    .poll(async () => insertsOf((await app.song()).song, 'frame-drum').map(({ slot }) => slot))
    .toEqual(['filter']);
  const copied = laneOf((await app.song()).song, 'frame-drum/insert/filter/cutoff');
  expect(copied.points).toHaveLength(0);
  expect(Math.abs(copied.rest / stands - 1)).toBeLessThan(1e-3);
  await sheet.getByRole('button', { name: 'Equaliser on' }).click();
  await expect.poll(async () => (await app.song()).song.lanes['lead/insert/equaliser/on']?.rest).toBe(0);
  await sheet.getByRole('button', { name: 'Take Filter out' }).click();
  await expect.poll(async () => CUTOFF in (await app.song()).song.lanes).toBe(false);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.song()).song.lanes[CUTOFF]?.points.length).toBe(written.length);
});
