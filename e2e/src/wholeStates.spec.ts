import type { Locator, Page } from '@playwright/test';
import { cutOut, valueAt } from '@sure-hand/core/curve';
import { controlOf, laneOf, type Song } from '@sure-hand/core/song';
import { expect, test, type App, type RidePage } from './app.js';

const at = (song: Song, id: string, t: number): number => {
  const { points, rest } = laneOf(song, id);
  return valueAt(points, controlOf(song, id).law, rest, t);
};
/** A stretch of a lane's curve, to compare by to the last bit. */
const stretch = (song: Song, id: string, from: number, to: number): number[][] => {
  const { points, rest } = laneOf(song, id);
  return [...cutOut(points, controlOf(song, id).law, rest, [from, to])].map(({ t, v }) => [t, v]);
};
const chorusOf = (song: Song): number => song.sections.find(({ name }) => name === 'Chorus')!.t;
const aside = (page: Page) => page.getByTestId('aside');

/** Opens a view by its name, and waits for something of it. */
async function open(ride: RidePage, view: string, label: string): Promise<void> {
  await ride.show(view);
  await expect(ride.page.getByLabel(label, { exact: true })).toBeVisible();
}

test('in a loop a value is tried out, heard against its curve, kept over leaving and a reload, and then placed', async ({
  page,
  app,
  ride,
}) => {
  const before = (await app.song()).song;
  await ride.takeInHand('lead', 'Lead');
  await ride.setRange(2, 4);
  await page.keyboard.press('l');
  await page.keyboard.press('y');
  await expect(ride.says).toContainText('Tryout: what you touch is held aside');
  await ride.goTo(2);
  await ride.play();
  await ride.dragCap('lead', 60, 0.4);
  await expect(ride.says).toContainText('Lead level is held aside at');
  // Over a wrap it stays where the hand left it.
  const wraps = await page.evaluate(() => performance.now() + 2200);
  await page.waitForFunction((to) => performance.now() >= to, wraps);
  const held = await ride.gains('lead', 0.3);
  const heldGain = held.at(-1)!.gain;
  for (const { gain } of held) expect(gain).toBeCloseTo(heldGain, 6);
  await page.keyboard.press('b');
  await expect(ride.says).toContainText('Hearing the curves');
  await expect.poll(async () => (await ride.gains('lead', 0.05)).at(-1)!.gain).toBeLessThan(heldGain * 0.9);
  await page.keyboard.press('b');
  await expect.poll(async () => (await ride.gains('lead', 0.05)).at(-1)!.gain).toBeCloseTo(heldGain, 6);
  await ride.stop();
  expect(await app.passes()).toEqual([]);
  expect((await app.song()).song.lanes).toEqual(before.lanes);

  // Left for the list of songs, which says so; and reloaded.
  await page.goto(app.address);
  await expect(page.getByTestId('aside-of-1')).toContainText('1 control held aside');
  await page.goto(`${app.address}/songs/1/ride`);
  await ride.isOpen();
  await expect(aside(page)).toHaveText('1 aside');
  await page.reload();
  await expect(ride.says).toContainText('1 control held aside, as you left it');
  await page.keyboard.press('Alt+Y');
  await expect(page.getByTestId('aside-lead/level')).toContainText('dB');
  await page.keyboard.press('Escape');

  await page.keyboard.press('p');
  const says = page.getByTestId('place-says');
  await expect(says).toContainText('Places Lead level on 1·4.06–2·3.13.');
  // What another page does meanwhile is what it stands on.
  await app.edit({ kind: 'guard', control: 'lead/level', changes: { safe: true } });
  await expect(says).toContainText('Nothing would change. ');
  await expect(says).toContainText('Lead level');
  await app.edit({ kind: 'guard', control: 'lead/level', changes: { safe: false } });
  await expect(says).toContainText('Places Lead level on 1·4.06–2·3.13.');
  await page.keyboard.press('Enter');
  await expect(ride.says).toContainText('Placed: Lead level');
  await expect(aside(page)).toHaveText('Tryout');
  const placed = (await app.song()).song;
  const value = at(placed, 'lead/level', 3);
  expect(value).toBeGreaterThan(at(before, 'lead/level', 3) + 1);
  expect([2.2, 3, 3.8].map((t) => at(placed, 'lead/level', t))).toEqual([value, value, value]);
  for (const t of [0, 1.9, 4, 10]) expect(at(placed, 'lead/level', t)).toBeCloseTo(at(before, 'lead/level', t), 9);
  const [entry] = await app.passes();
  expect(entry).toMatchObject({ number: 1, entry: { kind: 'place', ranges: [[2, 4]] } });
  // By ear, what it found; and back by one step.
  await page.keyboard.press('b');
  await expect(ride.says).toContainText('before');
  await page.keyboard.press('b');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.song()).song.lanes).toEqual(before.lanes);
  expect((await app.passes())[0]!.undone).toBe(true);
});

/** Gives the verse values of its own, as a mix would have by then. */
async function mixedVerse(app: App): Promise<Song> {
  const chorus = chorusOf((await app.song()).song);
  const values = { 'lead/level': -11, 'fiddle/pan': 0.6, 'choir/mute': 1, 'pump-organ/level': -3 };
  await app.edit({ kind: 'place', values, range: [0, chorus], edge: 0.05 });
  return (await app.song()).song;
}

test('the verse goes into the chorus in three acts, and nothing else changes; a change there breaks the line @long', async ({
  page,
  app,
  ride,
}) => {
  const mixed = await mixedVerse(app);
  const chorus = chorusOf(mixed);
  await ride.goTo(4);
  // Taken, looked at, dragged.
  await page.keyboard.press('n');
  await expect(page.getByTestId('take-says')).toContainText('controls');
  await page.keyboard.press('Enter');
  await expect(ride.says).toContainText('Snapshot Verse taken');
  await open(ride, 'Snapshots', 'Snapshots by section');
  await expect(page.getByTestId('value-lead/level')).toHaveCount(0);
  const card = (await page.getByRole('button', { name: /^Verse / }).boundingBox())!;
  const column = (await page.getByTestId('column-1').boundingBox())!;
  await page.mouse.move(card.x + 40, card.y + 20);
  await page.mouse.down();
  await page.mouse.move(card.x + 70, card.y + 60, { steps: 5 });
  await page.mouse.move(column.x + column.width / 2, card.y + 90, { steps: 5 });
  await expect(page.getByText('4 change', { exact: true })).toBeVisible();
  await page.mouse.up();
  await expect(ride.says).toContainText('Placed: Verse, 4 controls of 4 channels on Chorus.');
  const placed = (await app.song()).song;
  for (const id of ['lead/level', 'fiddle/pan', 'choir/mute', 'pump-organ/level']) {
    expect(at(placed, id, chorus + 3)).toBe(at(mixed, id, 3));
    expect(stretch(placed, id, 0, chorus)).toEqual(stretch(mixed, id, 0, chorus));
  }
  // What was so already has got no curve.
  expect(
    Object.keys(placed.lanes).filter((id) => placed.lanes[id] !== mixed.lanes[id] && placed.lanes[id]!.points.length),
  ).toHaveLength(Object.keys(mixed.lanes).filter((id) => mixed.lanes[id]!.points.length).length);
  const join = page.getByTestId('joined-1');
  await expect(join).toHaveText('as placed');
  await app.edit({ kind: 'lift', controls: ['lead/level'], range: [chorus + 2, chorus + 3], travel: 0.1 });
  await expect(join).toHaveText('changed since');
  await page.keyboard.press('Control+z');
  await expect(join).toHaveText('as placed');
  await page.reload();
  await expect(join).toHaveText('as placed');
});

test('a snapshot is narrowed by its filter, compared, changed, and used by keys: placed, ramped to, poised, punched in @long', async ({
  page,
  app,
  ride,
}) => {
  const mixed = await mixedVerse(app);
  const chorus = chorusOf(mixed);
  await ride.goTo(4);
  await page.keyboard.press('n');
  await page.getByLabel('Name', { exact: true }).fill('Verse mix');
  await page.keyboard.press('Enter');
  await open(ride, 'Snapshots', 'Snapshots by section');
  await ride.goTo(chorus + 3);
  await expect(page.getByTestId('value-lead/level')).toContainText('−11.0 dB');
  await page.getByRole('checkbox', { name: 'Fiddle pan' }).click();
  await page.getByRole('checkbox', { name: 'Choir mute' }).click();
  await expect
    .poll(async () => (await app.song()).song.snapshots[0]!.filter!['fiddle'])
    .toEqual(['level', 'mute', 'sends']);
  await expect(ride.says).toContainText('Placing Verse mix on Chorus changes Pump organ level and Lead level.');
  // One value by itself waits for the next play.
  await page.getByRole('button', { name: 'Use Lead level' }).click();
  await expect(page.getByTestId('poised')).toHaveText('1 poised');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('poised')).toHaveCount(0);

  await page.keyboard.press('Alt+P');
  await expect(page.getByTestId('place-says')).toContainText(
    'Places Verse mix, Pump organ level and Lead level on Chorus.',
  );
  await page.keyboard.press('Escape');
  await page.keyboard.press('Alt+Shift+P');
  await page.getByRole('combobox', { name: 'After it' }).click();
  await page.getByRole('option', { name: 'Held to the song’s end' }).click();
  await page.getByRole('button', { name: 'Ramp (Enter)' }).click();
  await expect(ride.says).toContainText('Ramped: Verse mix');
  const { song: ramped } = await app.song();
  expect(at(ramped, 'lead/level', chorus)).toBeCloseTo(at(mixed, 'lead/level', chorus), 6);
  expect(at(ramped, 'lead/level', ramped.length - 0.1)).toBeCloseTo(-11, 1);
  await page.keyboard.press('Control+z');

  // In any mode: poised here, and written from where play begins.
  await ride.goTo(chorus + 1);
  await page.keyboard.press('Alt+D');
  await expect(ride.says).toContainText('Verse mix: ');
  await ride.play();
  await ride.heardPast(chorus + 1.6);
  await ride.stop();
  const [poised] = await app.passes();
  expect(poised!.entry).toBeNull();
  expect(poised!.receipt.lanes.find(({ control }) => control === 'lead/level')!.spans[0]![0]).toBeCloseTo(
    chorus + 1,
    2,
  );
  expect(at((await app.song()).song, 'lead/level', chorus + 1.3)).toBe(-11);
  await page.keyboard.press('Control+z');
  await ride.goTo(chorus + 1);
  await ride.play();
  await ride.heardPast(chorus + 1.3);
  await page.keyboard.press('Alt+D');
  await ride.heardPast(chorus + 1.8);
  await ride.stop();
  const [punched] = await app.passes();
  const from = punched!.receipt.lanes.find(({ control }) => control === 'lead/level')!.spans[0]![0];
  expect(from).toBeGreaterThan(chorus + 1.25);
  expect(at((await app.song()).song, 'lead/level', from - 0.1)).toBeCloseTo(at(mixed, 'lead/level', chorus + 1), 6);

  // Updated from here, duplicated, removed; undo brings it back.
  await ride.goTo(chorus + 1);
  await page.keyboard.press('Alt+Shift+N');
  await expect.poll(async () => (await app.song()).song.snapshots[0]!.values['lead/level']).not.toBe(-11);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await app.song()).song.snapshots[0]!.values['lead/level']).toBe(-11);
  await page.getByRole('button', { name: 'What can be done with Verse mix' }).click();
  await page.getByRole('menuitem', { name: 'Duplicate' }).click();
  await expect
    .poll(async () => (await app.song()).song.snapshots.map(({ name }) => name))
    .toEqual(['Verse mix', 'Verse mix (copy)']);
  await page.getByRole('button', { name: 'What can be done with Verse mix (copy)' }).click();
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect.poll(async () => (await app.song()).song.snapshots).toHaveLength(1);
});

/** A hand goes down in one place and comes up in another. */
async function dragOver(page: Page, first: Locator, last: Locator): Promise<void> {
  const [from, to] = [(await first.boundingBox())!, (await last.boundingBox())!];
  await page.mouse.move(from.x + 10, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(to.x + 10, to.y + 10, { steps: 6 });
  await page.mouse.up();
}

test('the drums are protected by a drag and kept as a set; what is guarded is not written, and a guard set rolling ends it there @long', async ({
  page,
  app,
  ride,
}) => {
  await open(ride, 'Guards', 'Guards');
  const cell = (name: string) => page.getByRole('button', { name, exact: true });
  const [first, last] = [cell('Frame drum: level safe'), cell('Mill wheel: pan safe')];
  await dragOver(page, first, last);
  await expect(first).toHaveAttribute('aria-pressed', 'true');
  await expect(last).toHaveAttribute('aria-pressed', 'true');
  await expect(cell('Mill wheel: mute safe')).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'Keep this one…' }).click();
  await page.getByLabel('Name', { exact: true }).fill('Protect the drums');
  await page.getByRole('button', { name: 'Keep', exact: true }).click();
  await expect(ride.says).toContainText('kept as Protect the drums');
  // Undone in one act, and brought back by the set.
  await page.keyboard.press('Alt+Shift+J');
  await expect(first).toHaveAttribute('aria-pressed', 'false');
  await page.getByRole('button', { name: 'Protect the drums', exact: true }).click();
  await expect(last).toHaveAttribute('aria-pressed', 'true');
  await page.reload();
  await expect(first).toHaveAttribute('aria-pressed', 'true');

  // By keys: from cell to cell, reached with Shift, set with Enter.
  await cell('Lead: level safe').focus();
  await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('Enter');
  await expect(cell('Lead: pan safe')).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('Alt+Shift+J');
  await expect(cell('Lead: pan safe')).toHaveAttribute('aria-pressed', 'false');

  // A mode is dragged from one channel over others, by a finger and by keys, and given to a family at its heading.
  const modes = async (...keys: string[]): Promise<(string | undefined)[]> => {
    const { channels } = (await app.song()).song;
    return keys.map((key) => channels.find((one) => one.key === key)?.mode);
  };
  const mode = (name: string) => page.getByRole('button', { name: new RegExp(`^Mode of ${name}:`) });
  await mode('Frame drum').click();
  await page.getByRole('menuitem', { name: /^Latch/ }).click();
  await expect(mode('Frame drum')).toHaveText('Latch');
  await dragOver(page, mode('Frame drum'), mode('Mill wheel'));
  await expect.poll(() => modes('frame-drum', 'mill-wheel', 'lead')).toEqual(['latch', 'latch', 'touch']);
  await expect(ride.says).toContainText('Mode latch');
  await page.keyboard.press('Alt+Shift+J');
  await expect.poll(() => modes('frame-drum', 'mill-wheel')).toEqual(['latch', 'read']);
  await mode('Mill wheel').focus();
  await page.keyboard.press('Shift+ArrowUp');
  await page.keyboard.press('3');
  await expect.poll(() => modes('frame-drum', 'mill-wheel')).toEqual(['touch', 'touch']);
  await page.getByRole('button', { name: /^Mode of all Voices/ }).click();
  await page.getByRole('menuitem', { name: 'Write', exact: true }).click();
  await expect.poll(() => modes('lead', 'frame-drum')).toEqual(['write', 'touch']);
  for (const _ of 'back') await page.keyboard.press('Alt+Shift+J');

  await page.keyboard.press('Alt+5');
  await expect(page.getByTestId('guards-frame-drum')).toContainText('1 by itself; 2 safe');
  await page.getByText('It would not', { exact: true }).click();
  await expect(page.getByTestId('guards-lead')).toHaveCount(0);
  await page.getByText('All channels', { exact: true }).click();
  await ride.goTo(1);
  await ride.play();
  await ride.heardPast(2);
  await cell('Lead: level safe').click();
  await ride.heardPast(3);
  await ride.stop();
  const [pass] = await app.passes();
  const spans = Object.fromEntries(pass!.receipt.lanes.map((lane) => [lane.control, lane.spans]));
  expect(Object.keys(spans)).not.toContain('frame-drum/level');
  expect(Object.keys(spans)).toContain('frame-drum/mute');
  expect(spans['fiddle/level']![0]![1]).toBeGreaterThan(2.9);
  expect(spans['lead/level']![0]![1]).toBeLessThan(2.9);
  expect(pass!.left).toEqual([]);
});

test('where a value comes from is said by one key: what wrote it, when, what is over it; and what stood before comes back', async ({
  page,
  app,
  ride,
}) => {
  const mixed = await mixedVerse(app);
  const chorus = chorusOf(mixed);
  await app.edit({
    kind: 'vca',
    remove: null,
    add: { key: 'voices', name: 'Voices', members: ['lead', 'choir'] } as never,
  });
  await app.edit({ kind: 'rest', values: { 'voices/level': -2 } });
  await ride.takeInHand('lead', 'Lead');
  await ride.goTo(4);
  await page.keyboard.press('Shift+B');
  const own = page.getByTestId('origin-base-lead/level');
  await expect(page.getByRole('dialog')).toContainText('It is at −13.0 dB there');
  await expect(own).toContainText('Lead level and 3 more placed');
  await expect(page.getByTestId('origin-base-voices/level')).toContainText('Rest of Voices level');
  await own.getByRole('button', { name: 'Go to it' }).click();
  await expect(page.getByRole('region', { name: 'Placing 1' })).toBeVisible();
  await ride.show('Ride');
  await page.keyboard.press('Shift+B');
  await own.getByRole('button', { name: 'What was before, in Verse' }).click();
  await expect(ride.says).toContainText('Lead level in Verse is as it was before Lead level and 3 more placed.');
  await expect(own).toContainText('Lead level as before');
  const { song } = await app.song();
  expect(at(song, 'lead/level', 4)).not.toBe(-11);
  expect(at(song, 'fiddle/pan', 4)).toBe(0.6);
  expect(stretch(song, 'lead/level', chorus + 0.5, song.length)).toEqual(
    stretch(mixed, 'lead/level', chorus + 0.5, song.length),
  );
});
