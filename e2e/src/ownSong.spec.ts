import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { writeWav, type WavTo } from '@sure-hand/audio-files';
import { readWavInfo } from '@sure-hand/core/formats';
import type { LoudnessReport } from '@sure-hand/core/loudness';
import type { Job, ListedBounce } from '@sure-hand/server';
import type { Page } from '@playwright/test';
import { RidePage, expect, root, test, type App } from './app.js';

const SECONDS = 8;

/** A stem of a steady tone, as somebody might have exported it. */
function tone(folder: string, name: string, to: Omit<WavTo, 'most'>, hz: number): string {
  const file = join(folder, name);
  const frames = SECONDS * to.sampleRate;
  writeWav(file, { ...to, most: frames }, (add) => {
    const column = Float32Array.from(
      { length: frames },
      (_, n) => 0.2 * Math.sin((2 * Math.PI * hz * n) / to.sampleRate),
    );
    add(
      Array.from({ length: to.channels }, () => column),
      frames,
    );
  });
  return file;
}

/** Four stems of different kinds, and two files that are no use. */
function stems(): string[] {
  const folder = mkdtempSync(join(tmpdir(), 'sure-hand-stems-'));
  const good = [
    tone(folder, '01 Lead Vox.wav', { format: 'int16', channels: 1, sampleRate: 48000 }, 440),
    tone(folder, '02_Upright_Bass.wav', { format: 'int24', channels: 1, sampleRate: 44100 }, 110),
    tone(folder, '03 Room.wav', { format: 'float32', channels: 2, sampleRate: 48000 }, 660),
    tone(folder, '04 Shaker.wav', { format: 'int32', channels: 1, sampleRate: 96000 }, 1500),
  ];
  const cut = join(folder, '05 Cut off.wav');
  writeFileSync(cut, readFileSync(good[0]!).subarray(0, 4000));
  const none = join(folder, '06 Lyrics.wav');
  writeFileSync(none, 'La la la, under the weir');
  return [...good, cut, none];
}

const dropStems = (page: Page, files: string[]): Promise<void> =>
  page.getByLabel('Stems', { exact: true }).first().setInputFiles(files);
const names = (page: Page): Promise<string[]> =>
  page.locator('.stem-name input').evaluateAll((inputs) => inputs.map((input) => (input as HTMLInputElement).value));

/** The song with the highest number: the one just made. */
async function newest(app: App): Promise<number> {
  const list = await app.get<{ id: number }[]>('/songs');
  return Math.max(...list.map((song) => song.id));
}

test('one’s own stems, from the drop to the ride to the bounce @long', async ({ page, app }) => {
  await page.goto(app.address);
  await page.getByRole('link', { name: 'New song from stems' }).click();
  await dropStems(page, stems());

  // Names and families are guessed; what is broken is named, with what is wrong, and the rest goes on.
  await expect.poll(() => names(page)).toEqual(['Lead Vox', 'Upright Bass', 'Room', 'Shaker']);
  await expect(page.getByRole('combobox', { name: 'Family of 02_Upright_Bass.wav' })).toHaveValue('Low');
  await expect(page.getByText('44.1 kHz → 48', { exact: false })).toBeVisible();
  await expect(page.getByText('05 Cut off.wav is left out. The WAV file is cut short')).toBeVisible();
  await expect(page.getByText('06 Lyrics.wav is left out. This is no WAV file')).toBeVisible();

  // Their order by dragging, with the mouse and with keys.
  const grip = (file: string): ReturnType<Page['getByLabel']> => page.getByLabel(`Move ${file}`, { exact: true });
  const from = (await grip('04 Shaker.wav').boundingBox())!;
  const to = (await grip('01 Lead Vox.wav').boundingBox())!;
  await page.mouse.move(from.x + 8, from.y + 8);
  await page.mouse.down();
  await page.mouse.move(from.x + 8, from.y - 10, { steps: 4 });
  await page.mouse.move(to.x + 8, to.y + 2, { steps: 8 });
  await page.mouse.up();
  await expect.poll(() => names(page)).toEqual(['Shaker', 'Lead Vox', 'Upright Bass', 'Room']);
  await grip('03 Room.wav').focus();
  await page.keyboard.press('Space');
  // It takes arrows once it knows where it is.
  await expect(page.getByText('Room would come to place 4 of 6.')).toBeAttached();
  await page.keyboard.press('ArrowUp');
  await expect(page.getByText('Room would come to place 3 of 6.')).toBeAttached();
  await page.keyboard.press('Space');
  await expect.poll(() => names(page)).toEqual(['Shaker', 'Lead Vox', 'Room', 'Upright Bass']);

  await page.getByLabel('Name of 01 Lead Vox.wav').fill('Lead');
  await page.getByLabel('Name', { exact: true }).fill('Our own');
  await page.getByLabel('Tempo').fill('90');
  await page.getByLabel('Beats a bar').fill('3');
  for (const name of ['Verse', 'Chorus']) {
    await page.getByRole('button', { name: 'Add a section' }).click();
    await page.getByLabel('Name of the section').last().fill(name);
  }
  await page.getByLabel('Begins at').last().fill('3');
  await page.getByRole('button', { name: 'Make the song of 4 stems' }).click();
  await page.waitForURL(/\/ride$/, { timeout: 30_000 });
  const ride = new RidePage(page, app);
  await ride.isOpen();
  const id = await newest(app);
  const { song } = await app.song(id);
  expect(song).toMatchObject({ name: 'Our own', sampleRate: 48000, meter: [{ t: 0, beats: 3, unit: 4 }] });
  expect(song.sections).toEqual([
    { t: 0, name: 'Verse' },
    { t: 4, name: 'Chorus' },
  ]);
  expect(song.length).toBeCloseTo(SECONDS, 3);
  expect(song.channels.map((channel) => channel.name)).toEqual(['Shaker', 'Lead', 'Room', 'Upright Bass', 'Main']);

  // It plays, and is ridden: by the mouse here.
  await page.getByTestId('row-lead').getByRole('button', { name: 'Lead', exact: true }).click();
  await page.keyboard.press('3');
  await ride.play();
  await ride.heardPast(0.5);
  await ride.dragCap('lead', -120, 1);
  expect(await page.evaluate(() => globalThis.sureHandProbe!.peak('upright-bass'))).toBeGreaterThan(0.1);
  await ride.heardPast((await ride.heard()) + 0.5);
  await ride.stop();
  await expect.poll(async () => (await app.song(id)).song.lanes['lead/level']?.points.length ?? 0).toBeGreaterThan(0);
  await expect(page.getByTestId('true-peak')).not.toHaveText('−∞');

  // And is bounced, in the last view.
  await page.keyboard.press('Shift+v');
  await page.getByText('16 bit, dithered').click();
  await page.getByRole('button', { name: 'Bounce the mix' }).click();
  const row = page.getByRole('row', { name: /Our own – mix 16\.wav/ });
  await expect(row).toBeVisible({ timeout: 30_000 });
  const [bounce] = await app.get<ListedBounce[]>(`/songs/${id}/bounces`);
  const file = join(app.data, 'songs', String(id), 'bounces', bounce!.file);
  const said = execFileSync(process.execPath, [join(root, 'cli/bin/sure-hand.mjs'), 'loudness', file]).toString();
  const measured = JSON.parse(said) as LoudnessReport;
  await expect(row).toContainText(measured.integrated.toFixed(1).replace('-', '−'));
  await expect(row).toContainText(measured.truePeak.toFixed(1).replace('-', '−'));
  const download = page.waitForEvent('download');
  await page.getByLabel('Download Our own – mix 16.wav').click();
  const bytes = readFileSync(await (await download).path());
  const info = readWavInfo(bytes, bytes.length);
  expect(info.ok && info.value).toMatchObject({ format: 'int16', channels: 2, frames: SECONDS * 48000 });

  // All of it is there after a reload.
  await page.reload();
  await expect(row).toBeVisible();
});

test('a stem is given up on its way, a song that is being made is given up, and nothing is left of them @long', async ({
  page,
  app,
}) => {
  await page.goto(`${app.address}/new`);
  // One file never gets through: the others go past it.
  let isHeld = true;
  await page.route(/stems\?name=03/, async (route) => {
    if (isHeld) return;
    await route.continue();
  });
  await dropStems(page, stems().slice(0, 4));
  await expect.poll(() => page.locator('.stem[data-state=ready]').count()).toBe(3);
  await expect(page.getByText('1 stem is still on the way.')).toBeVisible();
  await expect(page.getByRole('button', { name: /Make the song/ })).toBeDisabled();
  await page.getByLabel('Leave out 03 Room.wav').click();
  await expect(page.locator('.stem')).toHaveCount(3);
  isHeld = false;

  const before = await app.get<{ id: number }[]>('/songs');
  await page.getByRole('button', { name: 'Make the song of 3 stems' }).click();
  const cancel = page.getByRole('button', { name: 'Cancel' });
  await cancel.click();
  await expect(page.getByRole('button', { name: 'Make the song of 3 stems' })).toBeEnabled();
  expect(await app.get<{ id: number }[]>('/songs')).toHaveLength(before.length);
  expect(readdirSync(join(app.data, 'songs'))).toEqual(['1']);
  // What was dropped is still there to be made after all.
  await page.getByRole('button', { name: 'Make the song of 3 stems' }).click();
  await page.waitForURL(/\/ride$/, { timeout: 30_000 });
});

test('songs are renamed, duplicated, removed and put back; one is saved as a zip and opened again', async ({
  page,
  app,
}) => {
  await page.goto(app.address);
  const more = (name: string): Promise<void> =>
    page.getByLabel(`What can be done with ${name}`, { exact: true }).click();
  const link = (name: string): ReturnType<Page['getByRole']> => page.getByRole('link', { name, exact: true });
  await more('Short song');
  await page.getByRole('menuitem', { name: 'Rename' }).click();
  await page.getByLabel('Name of Short song').fill('Weir, short');
  await page.keyboard.press('Enter');
  await expect(link('Weir, short')).toBeVisible();
  await more('Weir, short');
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect(link('Weir, short (copy)')).toBeVisible();
  await more('Weir, short');
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(link('Weir, short')).toBeHidden();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(link('Weir, short')).toBeVisible();

  await more('Weir, short');
  const download = page.waitForEvent('download');
  await page.getByRole('menuitem', { name: 'Save with its audio (zip)' }).click();
  const zip = await (await download).path();
  const named = join(mkdtempSync(join(tmpdir(), 'sure-hand-zip-')), 'saved.zip');
  writeFileSync(named, readFileSync(zip));
  await page.locator('input[type=file]').setInputFiles(named);
  await page.waitForURL(/\/ride$/, { timeout: 30_000 });
  await new RidePage(page, app).isOpen();
  const opened = (await app.song(await newest(app))).song;
  expect(opened).toEqual((await app.song(1)).song);

  // One that is no song says so, and nothing is half opened.
  const count = (await app.get<object[]>('/songs')).length;
  writeFileSync(named, 'no zip at all');
  // What work there is comes to be known late: after this has been begun, and has failed.
  await page.route('**/api/jobs', async (route) => {
    await expect.poll(async () => (await app.get<Job[]>('/jobs')).some(({ state }) => state === 'failed')).toBe(true);
    await route.continue();
  });
  await page.goto(app.address);
  await page.locator('input[type=file]').setInputFiles(named);
  await expect(page.getByRole('status')).toContainText(/zip/i);
  expect(await app.get<object[]>('/songs')).toHaveLength(count);
});

test('a bounce of stems is given up: what was done stays, and no half file is left', async ({ page, app, ride }) => {
  await expect(ride.says).toBeVisible();
  await page.getByRole('link', { name: 'Files' }).click();
  await page.getByText('Chosen channels').click();
  await page.getByLabel(/^All \d+$/).check();
  await page.getByText('32 bit float').click();
  await page.getByRole('button', { name: /^Bounce \d+ stems$/ }).click();
  const job = page.getByRole('group', { name: /^Bouncing/ });
  await expect(job).toBeVisible();
  await job.getByRole('button', { name: 'Cancel' }).click();
  await expect(job).toBeHidden();
  const stemsThere = (await app.song()).song.channels.filter(({ kind }) => kind === 'track' || kind === 'bus').length;
  const made = await app.get<ListedBounce[]>('/songs/1/bounces');
  expect(made.length).toBeLessThan(stemsThere);
  let files: string[] = [];
  try {
    files = readdirSync(join(app.data, 'songs/1/bounces'));
  } catch {
    // Nothing was begun.
  }
  expect(files.sort()).toEqual(made.map((bounce) => bounce.file).sort());
  await expect(page.locator('.made tbody tr')).toHaveCount(made.length);
});
