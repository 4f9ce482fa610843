import type { Page } from '@playwright/test';
import { insertWithDefaults, laneOf, ownValueAt, type Song } from '@sure-hand/core/song';
import { dbOfGain } from '@sure-hand/core/units';
import { expect, test, type App, type RidePage } from './app.js';

const EQ = (param: string, channel = 'lead'): string => `${channel}/insert/eq/${param}`;
const at = (song: Song, id: string, t: number): number => ownValueAt(song, id, t).base;

/** The drawn part of an effect's picture: where a frequency and a gain of the equaliser stand on the screen. */
async function inPicture(page: Page): Promise<(hz: number, db: number) => [number, number]> {
  const box = (await page.getByTestId('effect-picture').boundingBox())!;
  const [left, top, width, height] = [box.x + 44, box.y + 12, box.width - 64, box.height - 34];
  return (hz, db) => [left + (width * Math.log(hz / 20)) / Math.log(1000), top + height * (1 - (db + 24) / 48)];
}

/** How loud the Lead is at its loudest in each of so many moments, in dB, while the song rolls. */
const peaks = (page: Page, sec: number): Promise<number[]> =>
  page
    .evaluate(
      (forSec) =>
        new Promise<number[]>((done) => {
          const seen: number[] = [];
          const end = globalThis.sureHandProbe!.heard() + forSec;
          const look = (): void => {
            seen.push(globalThis.sureHandProbe!.peak('lead'));
            if (globalThis.sureHandProbe!.heard() >= end) done(seen);
            else requestAnimationFrame(look);
          };
          look();
        }),
      sec,
    )
    .then((seen) => seen.map((peak) => dbOfGain(peak)));
const loudest = async (ride: RidePage, page: Page, from: number): Promise<number> => {
  await ride.goTo(from);
  await ride.play();
  await ride.heardPast(from + 0.3);
  const seen = await peaks(page, 1);
  await ride.stop();
  return Math.max(...seen);
};

/** Takes a control in hand by its name. */
async function find(page: Page, name: string): Promise<void> {
  await page.keyboard.press('/');
  const field = page.getByRole('textbox', { name: 'Find a control' });
  await field.fill(name);
  await expect(page.getByRole('dialog').getByText(name, { exact: true })).toBeVisible();
  await field.press('Enter');
  await expect(field).toBeHidden();
}

async function withEqualiser(app: App): Promise<void> {
  const add = insertWithDefaults({ slot: 'eq', effect: 'equaliser' });
  await app.edit({ kind: 'insert', channel: 'lead', remove: null, add });
}

test('two bands are ridden in one pass in the equaliser’s picture, heard, copied with their curves, made safe, placed from a snapshot @long', async ({
  page,
  app,
  ride,
}) => {
  await withEqualiser(app);
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('Alt+Shift+E');
  const sheet = page.getByRole('dialog', { name: 'Equaliser of Lead' });
  await expect(sheet.getByTestId('effect-picture')).toBeVisible();
  const where = await inPicture(page);
  const ride1 = async (from: [number, number], to: [number, number], alt = false): Promise<void> => {
    const [a, b] = [where(...from), where(...to)];
    await page.mouse.move(...a);
    await page.mouse.down();
    for (let k = 1; k <= 12; k++)
      await page.mouse.move(a[0] + ((b[0] - a[0]) * k) / 12, a[1] + ((b[1] - a[1]) * k) / 12);
    if (alt) {
      await expect(sheet.getByRole('button', { name: /band 3 gain: \+9\.0 dB/ })).toBeVisible();
      await page.keyboard.down('Alt');
      await page.mouse.move(b[0], b[1] - 60, { steps: 6 });
      await page.keyboard.up('Alt');
    }
  };
  await page.keyboard.press('2');
  await ride.goTo(4);
  await page.keyboard.press('3');
  await ride.goTo(4);
  await ride.play();
  await ride.heardPast(4.2);
  await ride1([400, 0], [900, 12]);
  // The hand bar names both lanes that the drag writes.
  await expect(ride.says).toContainText('Writing');
  await expect(ride.says).toContainText('band 2 frequency');
  await expect(ride.says).toContainText('band 2 gain');
  await page.mouse.up();
  // Where a voice is loudest, so that it is heard.
  await ride1([2500, 0], [800, 9], true);
  // However long the hand took on a busy machine.
  const t = (await ride.heard()) + 0.2;
  await ride.heardPast(t + 0.2);
  await page.mouse.up();
  await ride.stop();
  const [pass] = await app.passes();
  expect(pass!.receipt.lanes.map(({ control }) => control).sort()).toEqual(
    [EQ('freq2'), EQ('freq3'), EQ('gain2'), EQ('gain3'), EQ('q3')].sort(),
  );
  const written = (await app.song()).song;
  expect(at(written, EQ('gain3'), t)).toBeCloseTo(9, 0);
  expect(Math.abs(at(written, EQ('freq3'), t) / 800 - 1)).toBeLessThan(0.1);
  expect(at(written, EQ('q3'), t)).toBeGreaterThan(0.8);

  // Copied with its curves, by name.
  await page.keyboard.press('Escape');
  await page.keyboard.press('Shift+E');
  const inserts = page.getByRole('dialog', { name: 'Inserts of Lead' });
  await inserts.getByRole('combobox', { name: 'Copy Equaliser with its curves to' }).click();
  await page.getByRole('option', { name: 'Fiddle', exact: true }).click();
  await expect.poll(async () => EQ('gain3', 'fiddle') in (await app.song()).song.lanes).toBe(true);
  const copied = (await app.song()).song;
  for (const param of ['freq2', 'gain2', 'freq3', 'gain3', 'q3'])
    expect([...laneOf(copied, EQ(param, 'fiddle')).points]).toEqual([...laneOf(copied, EQ(param)).points]);
  await page.keyboard.press('Escape');

  // A snapshot of where it stood, placed over what comes after.
  await ride.goTo(t);
  await page.keyboard.press('n');
  await expect(page.getByTestId('take-says')).toContainText('controls');
  await page.keyboard.press('Enter');
  await expect(ride.says).toContainText('taken');
  const { name, values, t: taken } = (await app.song()).song.snapshots[0]!;
  expect(taken).toBeCloseTo(t, 2);
  expect(values[EQ('gain3')]).toBeCloseTo(at(copied, EQ('gain3'), taken), 6);
  const plain = await loudest(ride, page, 9);
  await ride.setRange(8, 12);
  await ride.show('Snapshots');
  await expect(page.getByTestId(`value-${EQ('gain3')}`)).toBeVisible();
  await page.keyboard.press('Alt+P');
  await expect(page.getByTestId('place-says')).toContainText(`Places ${name}`);
  await page.keyboard.press('Enter');
  await expect(ride.says).toContainText(`Placed: ${name}`);
  const placed = (await app.song()).song;
  for (const t of [8.5, 10, 11.5]) expect(at(placed, EQ('gain3'), t)).toBeCloseTo(values[EQ('gain3')]!, 6);
  expect(at(placed, EQ('gain3'), 13)).toBeCloseTo(at(copied, EQ('gain3'), 13), 6);
  await ride.show('Ride');
  expect(await loudest(ride, page, 9)).toBeGreaterThan(plain + 2);

  // Safe, it is heard and not written.
  await find(page, 'Lead Equaliser band 3 gain');
  await page.keyboard.press('j');
  await page.keyboard.press('Alt+Shift+E');
  await expect(sheet.getByTestId('effect-picture')).toBeVisible();
  const safe = (await app.song()).song;
  expect(laneOf(safe, EQ('gain3')).safe).toBe(true);
  await ride.goTo(13);
  await ride.play();
  await ride.heardPast(13.2);
  const now = (await app.song()).song;
  await ride1([at(now, EQ('freq3'), 13.3), at(now, EQ('gain3'), 13.3)], [1500, -6]);
  await expect(ride.says).toContainText('Writing Lead Equaliser band 3 frequency');
  await expect(ride.says).not.toContainText('band 3 gain');
  await page.mouse.up();
  await ride.stop();
  const after = (await app.song()).song;
  expect([...laneOf(after, EQ('gain3')).points]).toEqual([...laneOf(safe, EQ('gain3')).points]);
});

test('a filter is swayed from its picture’s lane and printed, and what is heard of the Lead goes up and down with it @long', async ({
  page,
  app,
  ride,
}) => {
  const add = insertWithDefaults({ slot: 'low', effect: 'filter', settings: { slope: 24 } });
  await app.edit({ kind: 'insert', channel: 'lead', remove: null, add });
  const CUTOFF = 'lead/insert/low/cutoff';
  await app.edit({ kind: 'rest', values: { [CUTOFF]: 250 } });
  await find(page, 'Lead Filter cutoff');
  await expect(ride.value).toHaveText('250 Hz');
  await page.keyboard.press('Alt+Shift+G');
  const sheet = page.getByRole('dialog', { name: 'Sway of Lead Filter cutoff' });
  await sheet.getByRole('combobox', { name: 'Wave' }).click();
  await page.getByRole('option', { name: 'Square', exact: true }).click();
  await sheet.getByRole('textbox', { name: 'Depth, % either side' }).fill('25');
  await sheet.getByRole('combobox', { name: 'One cycle' }).click();
  await page.getByRole('option', { name: '1/4', exact: true }).click();
  await sheet.getByRole('button', { name: 'Let it sway' }).click();
  await expect.poll(async () => (await app.song()).song.lanes[CUTOFF]?.sway).toMatchObject({ depth: 0.25, perBeat: 1 });
  const swing = async (): Promise<number> => {
    await ride.goTo(4);
    await ride.play();
    await ride.heardPast(4.3);
    const seen = (await peaks(page, 2)).filter((db) => db > -100);
    await ride.stop();
    return Math.max(...seen) - Math.min(...seen);
  };
  const swaying = await swing();
  await page.keyboard.press('Alt+Shift+G');
  await sheet.getByRole('button', { name: 'Print it into points…' }).click();
  await sheet.getByRole('button', { name: /^all of it: \d+ points$/ }).click();
  await expect.poll(async () => (await app.song()).song.lanes[CUTOFF]?.sway).toBeUndefined();
  const printed = await swing();
  await app.edit({ kind: 'clear', controls: [CUTOFF] });
  const steady = await swing();
  // Open it lets through what it holds back, closed: far more than the voice alone swings.
  expect(swaying).toBeGreaterThan(steady + 6);
  expect(Math.abs(printed - swaying)).toBeLessThan(6);

  // Taken out by somebody else while its picture is open, that says so, and the hand is on the channel's level.
  await page.keyboard.press('Alt+Shift+E');
  await expect(page.getByTestId('effect-picture')).toBeVisible();
  await app.edit({ kind: 'insert', channel: 'lead', remove: add, add: null });
  await expect(page.getByRole('dialog', { name: 'Inserts of Lead' })).toContainText('Lead has no insert');
  await expect(page.getByTestId('in-hand').locator('..')).toContainText('Level');
});
