import type { Clip, Song } from '@sure-hand/core/song';
import type { Page } from '@playwright/test';
import { expect, test, type App } from './app.js';

const songOf = async (app: App): Promise<Song> => (await app.song()).song;
const sectionNames = async (app: App): Promise<string[]> => (await songOf(app)).sections.map(({ name }) => name);

/** Drags from one place of the page to another in small moves. */
async function drag(page: Page, from: { x: number; y: number }, by: { x: number; y: number }): Promise<void> {
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + by.x / 2, from.y + by.y / 2, { steps: 4 });
  await page.mouse.move(from.x + by.x, from.y + by.y, { steps: 4 });
  await page.mouse.up();
}

test('sections are made, named, moved and removed in place, each undone by itself', async ({ page, app, ride }) => {
  await expect(ride.says).toBeVisible();
  const were = await sectionNames(app);
  await page.keyboard.press('Shift+S');
  // The line stands at the first section, which is there already: it is that one's name that is asked for.
  await expect(page.getByLabel('Name of the section')).toHaveValue(were[0]!);
  await page.keyboard.press('Escape');

  await page.getByRole('button', { name: 'Position' }).click();
  await page.getByLabel('Go to').fill('3');
  await page.keyboard.press('Enter');
  await page.getByLabel('New section or note').click();
  await page.getByRole('menuitem', { name: /Section at the line/ }).click();
  await page.getByLabel('Name of the section').fill('Turn');
  await page.getByRole('button', { name: 'Add section' }).click();
  await expect.poll(() => sectionNames(app)).toContain('Turn');
  const turn = (await songOf(app)).sections.find(({ name }) => name === 'Turn')!;
  expect(turn.t).toBeCloseTo((8 * 60) / (await songOf(app)).tempo[0]!.bpm, 2);

  // Moved by its edge: a bar further on.
  const box = (await page.getByRole('button', { name: 'Turn', exact: true }).boundingBox())!;
  const strip = (await page.getByTestId('strip').boundingBox())!;
  const { length, tempo } = await songOf(app);
  const bar = (4 * 60) / tempo[0]!.bpm;
  await drag(page, { x: box.x + 2, y: box.y + 10 }, { x: (bar / length) * strip.width, y: 0 });
  await expect
    .poll(async () => (await songOf(app)).sections.find(({ name }) => name === 'Turn')!.t)
    .toBeCloseTo(turn.t + bar, 2);
  await expect(page.getByRole('button', { name: 'Undo Section Turn moved' })).toBeVisible();

  // Renamed and removed.
  await page.getByRole('button', { name: 'Turn', exact: true }).dblclick();
  await page.getByLabel('Name of the section').fill('Return');
  await page.keyboard.press('Enter');
  await expect.poll(() => sectionNames(app)).toContain('Return');
  await page.getByRole('button', { name: 'Return', exact: true }).click({ button: 'right' });
  await page.getByRole('button', { name: 'Remove section' }).click();
  await expect.poll(() => sectionNames(app)).toEqual(were);
  await page.keyboard.press('Control+z');
  await expect.poll(() => sectionNames(app)).toContain('Return');
  await page.reload();
  await expect(page.getByRole('button', { name: 'Return', exact: true })).toBeVisible();
});

test('notes are pinned, read, carried and removed', async ({ page, app, ride }) => {
  const before = (await songOf(app)).notes.length;
  await page.keyboard.press('Shift+N');
  await page.getByLabel('Text of the note').fill('Lift the lead here');
  await page.keyboard.press('Enter');
  const pin = page.getByLabel('Note: Lift the lead here');
  await expect(pin).toBeVisible();
  await expect.poll(async () => (await songOf(app)).notes.length).toBe(before + 1);
  expect((await songOf(app)).notes.find(({ text }) => text === 'Lift the lead here')).toMatchObject({
    channel: 'lead',
  });

  // Carried along the strip, and what it is about comes in hand when one goes there.
  const box = (await pin.boundingBox())!;
  await drag(page, { x: box.x + 3, y: box.y + 9 }, { x: 300, y: 0 });
  const moved = async (): Promise<number> =>
    (await songOf(app)).notes.find(({ text }) => text === 'Lift the lead here')!.t;
  await expect.poll(moved).toBeGreaterThan(3);
  await page.getByTestId('row-fiddle').getByRole('button', { name: 'Fiddle', exact: true }).click();
  await pin.click({ position: { x: 4, y: 9 } });
  await expect(page.getByTestId('in-hand')).toHaveText('Lead');
  await expect.poll(() => ride.heard()).toBeCloseTo(await moved(), 2);
  await page.keyboard.press('Shift+N');
  await page.getByRole('button', { name: 'Remove note' }).click();
  await expect(pin).toBeHidden();
  await page.keyboard.press('Control+z');
  await expect(pin).toBeVisible();
});

test('tempo, meter and name are set in the song’s settings @long', async ({ page, app, ride }) => {
  await expect(ride.says).toBeVisible();
  await page.keyboard.press('Shift+T');
  await page.getByLabel('Name', { exact: true }).fill('Weir, again');
  await page.keyboard.press('Enter');
  await page.getByLabel('Tempo', { exact: true }).first().fill('100');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await songOf(app)).tempo[0]!.bpm).toBe(100);
  await page.getByLabel('Beats a bar').first().fill('3');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await songOf(app)).meter[0]!.beats).toBe(3);
  expect((await songOf(app)).name).toBe('Weir, again');
  await page.getByLabel('Tempo', { exact: true }).first().fill('5');
  await page.keyboard.press('Enter');
  await expect(page.getByText('5 is outside 10 … 999.')).toBeVisible();
  expect((await songOf(app)).tempo[0]!.bpm).toBe(100);
});

test('a clip’s fade and gain are drawn with the mouse and typed; heard, undone, kept @long', async ({
  page,
  app,
  ride,
}) => {
  await page.getByTestId('row-lead').getByRole('button', { name: 'Lead', exact: true }).click();
  const clipOf = async (): Promise<Clip> => (await songOf(app)).channels.find(({ key }) => key === 'lead')!.clips[0]!;
  const was = await clipOf();
  const lanes = (await page.getByTestId('lanes').boundingBox())!;
  const head = (await page.getByTestId('row-lead').boundingBox())!;
  const pxPerSec = (lanes.width - 14) / ride.secPerScreen;
  const lineX = await page.evaluate(() => globalThis.sureHandProbe!.lineX);
  const xOf = async (t: number): Promise<number> => lanes.x + lineX + (t - (await ride.heard())) * pxPerSec;

  // Its fade in, dragged two seconds into it. The line is moved off first, as it takes what is near it.
  await page.getByRole('button', { name: 'Position' }).click();
  await page.getByLabel('Go to').fill('0:06');
  await page.keyboard.press('Enter');
  await drag(page, { x: (await xOf(was.t)) - 3, y: head.y + 7 }, { x: 2 * pxPerSec, y: 0 });
  await expect.poll(async () => (await clipOf()).fadeIn).toBeCloseTo(2, 1);

  // A click on the handle asks for the numbers: another shape, another gain.
  await page.mouse.click((await xOf(was.t + 2)) - 3, head.y + 7);
  const sheet = page.getByRole('dialog', { name: /^Clip of Lead/ });
  await sheet.getByLabel('Slow at both ends').first().click();
  await expect.poll(async () => (await clipOf()).fadeInShape).toBe('s');
  await sheet.getByLabel('Gain, dB').fill('-20');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await clipOf()).gain).toBe(-20);
  await page.keyboard.press('Escape');
  await expect(sheet).toBeHidden();
  // It is heard: the Lead's meter stands 20 dB lower than its file, less what the fader takes.
  const loudest = (): Promise<number> =>
    page.evaluate(
      () =>
        new Promise<number>((done) => {
          let most = 0;
          const end = performance.now() + 1500;
          const look = (): void => {
            most = Math.max(most, globalThis.sureHandProbe!.peak('lead'));
            if (performance.now() < end) requestAnimationFrame(look);
            else done(most);
          };
          look();
        }),
    );
  await ride.play();
  const quiet = await loudest();
  await ride.stop();
  expect(quiet).toBeGreaterThan(0);
  expect(quiet).toBeLessThan(0.06);
  await page.keyboard.press('c');
  await expect(sheet.getByLabel('Gain, dB')).toHaveValue('-20');
  await page.keyboard.press('Escape');

  // Undo takes back one after the other.
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await clipOf()).gain).toBe(was.gain);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(clipOf).toEqual(was);
});
