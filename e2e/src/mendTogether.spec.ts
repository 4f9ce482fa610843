import { Curve, linePoint, valueAt } from '@sure-hand/core/curve';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { expect, test } from './app.js';
import { LANE, LEAD, mended, pairs } from './mendedLane.js';

const FIDDLE = 'fiddle/level';

test('lanes are mended together: a range is lifted on all of them by the pointer and by keys, in one step @long', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({ kind: 'points', control: FIDDLE, remove: [], add: Curve.of([linePoint(3, -9), linePoint(9, -9)]) });
  const { place, drag, throwPx } = await mended(page, app, ride, 1);
  await ride.setRange(6, 10);
  await ride.goTo(1);
  await page
    .getByTestId('row-fiddle')
    .getByRole('button', { name: 'Fiddle', exact: true })
    .click({ modifiers: ['Control'] });
  await expect(page.getByTestId('chosen')).toHaveText('2 lanes together');
  // Back to the Lead, which is one of them: they stay together.
  await ride.takeInHand('lead', 'Lead');
  await expect(page.getByTestId('chosen')).toHaveText('2 lanes together');
  await drag(await place(7, -34 / 3), 0, 24);
  await page.mouse.up();
  await expect(ride.says).toHaveText(/^2 lanes lifted over the range: \+\d+\.\d dB → −\d+\.\d dB\.$/);
  const travel = async (id: string, t: number, rest: number): Promise<number> =>
    travelOf(LEVEL_LAW, valueAt(Curve.of(await app.points(id)), LEVEL_LAW, rest, t));
  await expect.poll(() => travel(FIDDLE, 8, 0)).toBeCloseTo(travelOf(LEVEL_LAW, -9) + 24 / throwPx, 6);
  expect(await travel(LEAD, 8, 0)).toBeCloseTo(travelOf(LEVEL_LAW, -12) + 24 / throwPx, 6);
  expect(await travel(FIDDLE, 5.9, 0)).toBeCloseTo(travelOf(LEVEL_LAW, -9), 9);
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  expect(pairs(await app.points(FIDDLE))).toEqual([
    [3, -9],
    [9, -9],
  ]);
  // By keys alone, with edges typed before.
  await page.keyboard.press('Shift+G');
  await page.getByLabel('Edges, ms').fill('500');
  await page.getByLabel('Up, % of the throw').fill('5');
  await page.getByLabel('Up, % of the throw').press('Enter');
  await expect(ride.says).toHaveText('2 lanes lifted over the range; its ends stay.');
  await expect.poll(async () => (await app.points(FIDDLE)).map(({ t }) => t)).toEqual([3, 6, 6.5, 9, 9.5, 10]);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(page.getByTestId('chosen')).toBeHidden();

  // A lane without points follows what it rests at: there, too, a range is lifted, and a double click puts a point that changes nothing.
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  await app.edit({ kind: 'clear', controls: [LEAD] });
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  await drag(await place(8, -5), 0, 30);
  await page.mouse.up();
  await expect(ride.says).toHaveText(/^Lead level lifted over the range: \+9\.\d dB → 4\.\d dB\.$/);
  await expect.poll(async () => (await app.points(LEAD)).map(({ t }) => t)).toEqual([6, 6.5, 9.5, 10]);
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points(LEAD)).toEqual([]);
  const rest = await place(13, -5);
  await page.mouse.dblclick(rest.x, rest.y);
  await expect.poll(async () => (await app.points(LEAD)).map(({ v }) => v)).toEqual([-5]);
});

test('what the last pass wrote is put earlier, lifted and carried as one, and stays that after a reload and an undo', async ({
  page,
  app,
  ride,
}) => {
  await ride.takeInHand('lead', 'Lead');
  await page.keyboard.press('3');
  await ride.goTo(2);
  await ride.play();
  await ride.heardPast(2.3);
  await ride.dragCap('lead', 60, 0.8);
  await page.waitForFunction(() => sureHandProbe!.heard() > 4);
  await ride.stop();
  await expect(ride.says).toHaveText(/^Pass 1: Lead level/);
  const before = await app.points(LEAD);
  const [first] = before.filter(({ v }) => v > -4.9);
  await page.keyboard.press('Shift+R');
  await expect(page.getByTestId('picked')).toHaveText(/^The pass: \d+ picked$/);
  await page.keyboard.press('Alt+ArrowLeft');
  await page.keyboard.press('Alt+ArrowLeft');
  await expect(ride.says).toHaveText('What the pass wrote in Lead level put earlier: −50 ms.');
  const peak = async (): Promise<number> => Math.max(...(await app.points(LEAD)).map(({ v }) => v));
  await expect
    .poll(async () => (await app.points(LEAD)).some(({ t }) => Math.abs(t - (first!.t - 0.1)) < 1e-6))
    .toBe(true);
  const level = await peak();
  await page.keyboard.press('Alt+ArrowUp');
  await expect(ride.says).toHaveText(/lifted: 1 % of the throw\.$/);
  await expect.poll(peak).toBeGreaterThan(level + 0.3);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(before));

  // After a reload the pass is told again, and is carried on from where the hand let go, with its line back to the curve.
  await page.reload();
  await ride.isOpen();
  await ride.takeInHand('lead', 'Lead');
  const [release, landed] = (await app.passes())[0]!.receipt.lanes[0]!.returns![0]!;
  expect(landed - release).toBeCloseTo(0.25, 9);
  // On a busy machine the hand was down for longer.
  const end = Math.ceil(landed + 2);
  await ride.setRange(1, end);
  await ride.goTo(2);
  await page.keyboard.press('r');
  await page.keyboard.press('Shift+ArrowRight');
  const at = async (t: number): Promise<number> => valueAt(Curve.of(await app.points(LEAD)), LEVEL_LAW, -5, t);
  const section = (await app.song()).song.sections.map(({ t }) => t).filter((t) => t > landed)[0] ?? end;
  const to = Math.min(end, section);
  await expect.poll(() => at(to - 0.1)).toBeCloseTo(await at(release), 1);
  expect(await at(to + 0.3)).toBeCloseTo(-5, 6);
});

test('a curve is drawn by hand while a key is held, thinned as the hand comes up, over the trim too, and once from the menu @long', async ({
  page,
  app,
  ride,
}) => {
  const { place } = await mended(page, app, ride, 1);
  const draw = async (from: number, to: number): Promise<void> => {
    const [a, b] = [await place(from, -30), await place(to, -3)];
    await page.mouse.move(a.x, a.y);
    await page.mouse.down();
    for (let i = 1; i <= 40; i++) {
      const u = i / 40;
      await page.mouse.move(a.x + (b.x - a.x) * u, a.y + (b.y - a.y) * (u + 0.0005 * (i % 2)));
    }
    await page.mouse.up();
  };
  await page.keyboard.down('z');
  await draw(6, 9);
  await page.keyboard.up('z');
  await expect(ride.says).toHaveText(/^Lead level drawn over 3\.\d\d s, kept as \d+ points\.$/);
  await expect.poll(async () => (await app.points(LEAD)).length).toBeGreaterThan(LANE.length);
  const drawn = await app.points(LEAD);
  // Outside nothing has changed, and its ends are steps.
  for (const t of [2, 5, 11, 14]) expect(drawn.some((p) => p.t === t)).toBe(true);
  const was = (t: number): number => valueAt(Curve.of(LANE), LEVEL_LAW, 0, t);
  const is = (t: number): number => valueAt(Curve.of(drawn), LEVEL_LAW, 0, t);
  expect(is(5.9)).toBeCloseTo(was(5.9), 6);
  expect(is(9.1)).toBeCloseTo(was(9.1), 6);
  expect(is(8.9)).toBeGreaterThan(-5);
  expect(is(6.2)).toBeLessThan(-24);
  // Without the key a drag there sweeps a range; Esc gives a drawing up.
  await page.keyboard.down('z');
  const from = await place(6, -30);
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + 60, from.y - 60, { steps: 4 });
  await expect(ride.says).toHaveText('Heard as it would be. Nothing is kept yet.');
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await page.keyboard.up('z');
  expect(pairs(await app.points(LEAD))).toEqual(pairs(drawn));
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));

  await page.keyboard.press('0');
  await page.getByRole('button', { name: 'Mend the curve' }).click();
  await page.getByRole('menuitem', { name: 'Draw once with the pointer' }).click();
  await draw(6, 9);
  await expect(ride.says).toHaveText(/^Lead level’s trim drawn over/);
  await expect.poll(async () => (await app.points(LEAD, 'trim')).length).toBeGreaterThan(3);
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  const offsets = (await app.points(LEAD, 'trim')).map(({ v }) => v);
  expect(Math.max(...offsets)).toBeGreaterThan(5);
  expect(Math.min(...offsets)).toBeLessThan(-8);
});

test('points snap to the grid that is chosen, unless Alt is held; a lone one gets shoulders; picked ones are scaled by their grips @long', async ({
  page,
  app,
  ride,
}) => {
  const { place, drag, pxPerSec, throwPx } = await mended(page, app, ride, 1);
  const times = async (): Promise<number[]> => (await app.points(LEAD)).map(({ t }) => t);
  await page.getByLabel('Snap: Beat').click();
  await page.getByRole('menuitem', { name: '1/8 triplet' }).click();
  const { song } = await app.song();
  const bpm = song.tempo[0]?.bpm ?? 120;
  const step = (60 / bpm) * (1 / 3);
  const goal = Math.round(8.3 / step) * step;
  await drag(await place(8, -12), Math.round((goal - 8) * pxPerSec) + 2, 0);
  await page.mouse.up();
  await expect.poll(async () => (await times())[2]).toBeCloseTo(goal, 6);
  await page.keyboard.down('Alt');
  await drag(await place(goal, -12), 3, 0);
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await expect.poll(async () => (await times())[2]).toBeCloseTo(goal + 3 / pxPerSec, 6);

  await page.getByRole('button', { name: 'Shoulders' }).click();
  await expect(ride.says).toHaveText('Shoulders a beat from the point: only what lies between them goes with it.');
  await expect.poll(async () => (await times()).length).toBe(7);
  const [, early, point, late] = (await times()).slice(1, 5) as [number, number, number, number];
  expect(point - early).toBeCloseTo(60 / bpm, 6);
  expect(late - point).toBeCloseTo(60 / bpm, 6);
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await expect.poll(async () => pairs(await app.points(LEAD))).toEqual(pairs(LANE));

  await page.keyboard.press('Control+a');
  const [top, lowest] = [await place(11, -6), await place(2, -20)];
  const middle = (await place(8, -12)).x;
  await page.mouse.move(middle, top.y - 16);
  await expect(page.getByTestId('lanes')).toHaveAttribute('title', /further apart in height/);
  await drag({ x: middle, y: top.y - 16 }, 0, 20);
  await page.mouse.up();
  await expect(ride.says).toHaveText(/^5 points of Lead level scaled to 1\d\d\.\d % about the lowest/);
  const height = (v: number): number => travelOf(LEVEL_LAW, v);
  await expect.poll(async () => height((await app.points(LEAD))[3]!.v)).toBeCloseTo(height(-6) + 20 / throwPx, 6);
  expect((await app.points(LEAD))[0]!.v).toBeCloseTo(-20, 9);
  expect(lowest.y).toBeGreaterThan(top.y);
});

test('what was copied goes to several lanes and sections, and to another kind once it is shown how @long', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 1);
  await ride.setRange(2, 5);
  await page.keyboard.press('Control+c');
  await expect(ride.says).toHaveText('3.00 s of Lead level copied.');
  await ride.takeInHand('fiddle', 'Fiddle');
  await page.keyboard.press('ArrowRight');
  await expect(page.getByTestId('in-hand').locator('..')).toContainText('Pan');
  await ride.goTo(6);
  await page.keyboard.press('Control+v');
  await expect(page.getByTestId('paste-says')).toHaveText(
    /^3\.00 s of Lead level: Fiddle pan goes L \d+ … R \d+, by where it stands on the throw\.$/,
  );
  expect(await app.points('fiddle/pan')).toEqual([]);
  await page.getByText('In sections', { exact: true }).click();
  await page.getByRole('combobox', { name: 'Sections' }).click();
  const { sections } = (await app.song()).song;
  for (const { name } of sections.slice(0, 2)) await page.getByRole('option', { name, exact: true }).click();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Paste', exact: true }).click();
  await expect(ride.says).toHaveText('Lead level pasted to Fiddle pan, in 2 sections.');
  const [a, b] = sections as unknown as [{ t: number }, { t: number }];
  await expect
    .poll(async () => (await app.points('fiddle/pan')).map(({ t }) => t))
    .toEqual(expect.arrayContaining([a.t, a.t + 3, b.t, b.t + 3]));
  const high = (await app.points('fiddle/pan')).find(({ t }) => t === a.t + 3)!.v;
  expect((high + 1) / 2).toBeCloseTo(travelOf(LEVEL_LAW, -10), 6);
  await page.keyboard.press('Control+z');
  await expect.poll(() => app.points('fiddle/pan')).toEqual([]);
});

test('the song is scrubbed by its line and by keys: heard at the hand’s speed either way, and nothing is written @long', async ({
  page,
  app,
  ride,
}) => {
  await mended(page, app, ride, 3);
  await page.keyboard.press('5');
  const lanes = (await page.getByTestId('lanes').boundingBox())!;
  const pxPerSec = (lanes.width - 14) / ride.secPerScreen;
  const line = lanes.x + (await page.evaluate(() => sureHandProbe!.lineX));
  await page.mouse.move(line, lanes.y + 12);
  await expect(page.getByTestId('lanes')).toHaveAttribute('title', /drawn under the line/);
  await page.mouse.down();
  const wentOver: number[] = [];
  for (let i = 1; i <= 30; i++) {
    await page.mouse.move(line - 4 * i, lanes.y + 12);
    wentOver.push(await page.evaluate(() => sureHandProbe!.gain('lead').t));
  }
  await expect(ride.says).toHaveText('Scrubbing: the song is heard as it is drawn under the line.');
  const at = 3 + 120 / pxPerSec;
  await page.waitForFunction((t) => Math.abs(sureHandProbe!.gain('lead').t - t) < 0.01, at);
  // The audio thread went over it, forwards all the way.
  expect(wentOver.filter((t) => t > 3.05 && t < at - 0.05).length).toBeGreaterThan(3);
  for (let i = 1; i < wentOver.length; i++) expect(wentOver[i]!).toBeGreaterThanOrEqual(wentOver[i - 1]!);
  await page.mouse.move(line, lanes.y + 12, { steps: 10 });
  await page.waitForFunction(() => Math.abs(sureHandProbe!.gain('lead').t - 3) < 0.01);
  await page.mouse.up();
  await expect(ride.says).not.toHaveText(/Scrubbing/);
  // What is heard there is the curve: the audio thread reads it.
  await page.keyboard.down('.');
  await page.waitForFunction(() => sureHandProbe!.heard() > 3.6);
  await page.keyboard.up('.');
  const stood = await ride.heard();
  await page.keyboard.down(',');
  await page.waitForFunction((t) => sureHandProbe!.heard() < t - 0.4, stood);
  await page.keyboard.up(',');
  expect(await app.passes()).toEqual([]);
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  // Play takes the song out of the hand, from where it is.
  await page.keyboard.press('2');
  await ride.play();
  await ride.heardPast(stood);
  await ride.stop();
});

test('while the song rolls, points are dragged and a curve is drawn over the trim: the picture stands, and the audio thread has it at once @long', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({
    ...{ kind: 'points', control: LEAD, layer: 'trim', remove: [] },
    add: Curve.of([linePoint(4, 0), linePoint(20, 0), linePoint(24, 0)]),
  });
  const { place, drag } = await mended(page, app, ride, 5);
  await page.keyboard.press('1');
  await page.keyboard.press('2');
  await page.keyboard.press('0');
  /** The Lead's gain as the audio thread applies it, in dB over its base. */
  const over = (): Promise<number> =>
    page.evaluate(
      (base) => {
        const { t, gain } = sureHandProbe!.gain('lead');
        const i = base.findLastIndex(([at]) => at! <= t);
        const [[t0, v0], [t1, v1]] = [base[i]!, base[i + 1] ?? base[i]!] as [[number, number], [number, number]];
        return 20 * Math.log10(gain / Math.SQRT1_2) - (v0 + ((v1 - v0) * (t - t0)) / (t1 - t0 || 1));
      },
      LANE.map(({ t, v }) => [t, v]),
    );
  await ride.goTo(8.2);
  await ride.play();
  await ride.heardPast(8.6);
  // The whole trim from its first point on is one straight line at 0: its points are picked by a key and lifted.
  await page.keyboard.press('Control+a');
  await expect(page.getByTestId('picked')).toHaveText('3 picked');
  await page.keyboard.press('Alt+ArrowUp');
  await expect.poll(async () => Math.abs((await over()) - 0.24)).toBeLessThan(0.15);
  await page.keyboard.down('z');
  const [from, to] = [await place(13, 0), await place(19, 0)];
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(to.x, to.y, { steps: 12 });
  await expect(ride.says).toHaveText('Heard as it would be. Nothing is kept yet.');
  const [lineA, lineB] = [
    await page.evaluate(() => sureHandProbe!.lineX),
    await page.evaluate(() => new Promise<number>((next) => setTimeout(() => next(sureHandProbe!.lineX), 300))),
  ];
  // The picture stands; the line walks.
  expect(lineB).toBeGreaterThan(lineA);
  await page.mouse.up();
  await page.keyboard.up('z');
  await expect(ride.says).toHaveText(/^Lead level’s trim drawn over/);
  await ride.stop();
  const trim = await app.points(LEAD, 'trim');
  expect(Math.max(...trim.map(({ v }) => v))).toBeGreaterThan(3);
  expect(pairs(await app.points(LEAD))).toEqual(pairs(LANE));
  // Stopped, one of them is dragged on.
  await ride.goTo(15);
  const last = trim.at(-1)!;
  await drag(await place(last.t, -20 + last.v), 0, 30);
  await page.mouse.up();
  await expect.poll(async () => (await app.points(LEAD, 'trim')).at(-1)!.v).toBeGreaterThan(last.v + 1);
});

test('everything is done by keys alone, each one step, and taken back one by one to where it began', async ({
  page,
  app,
  ride,
}) => {
  await app.edit({ kind: 'points', control: LEAD, remove: [], add: Curve.of(LANE) });
  await page.keyboard.press('/');
  await page.getByLabel('Find a control').fill('lead level');
  await page.keyboard.press('Enter');
  await ride.setRange(4, 9);
  const lane = async (): Promise<number[][]> => pairs(await app.points(LEAD));
  const states: number[][][] = [await lane()];
  /** Does something by keys, and waits until it is kept: another curve than before. */
  const does = async (...keys: string[]): Promise<void> => {
    for (const key of keys) await page.keyboard.press(key);
    await expect.poll(lane).not.toEqual(states.at(-1));
    states.push(await lane());
  };
  await does('Alt+ArrowUp');
  await does('Alt+r', 'Alt+ArrowRight');
  await does('Alt+.');
  await does('Escape', 'Alt+o');
  await does('Control+d');
  await does('Enter', 'Insert');
  await does('Delete');
  await does('Control+c', 'Control+v');
  await page.keyboard.press('g');
  await expect(page.getByTestId('wave-says')).toContainText('points');
  await does('Enter');
  await page.keyboard.press('h');
  await expect(page.getByTestId('thin-says')).toContainText('become');
  await does('Enter');
  await page.keyboard.press('Shift+Delete');
  await expect(page.getByTestId('clear-says')).toContainText('will go');
  await does('Enter');
  for (const before of states.slice(0, -1).reverse()) {
    await page.keyboard.press('Control+z');
    await expect.poll(lane).toEqual(before);
  }
});
