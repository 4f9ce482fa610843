import { chromium } from '@playwright/test';
import { LEVEL_LAW, travelOf } from '../../core/dist/units/index.js';
import { CHROMIUM } from '../lib.mjs';
import { ridePoints } from './core.mjs';
import { figure, percentile } from './figures.mjs';

/** The song whose first lane is mended: so long, with so many points in each lane. */
export const MENDED = { length: 200, points: 20_000 };

const USUAL = { width: 1280, height: 800 };
const RIDE = { meterPx: 14, lineAt: 1 / 3, endPx: 12 };
const DRAG_MOVES = 180;

/** The page of a song with a lane of many points in hand, so many seconds wide. */
async function pageOf(browser, { address, id, control, secPerScreen, range }) {
  const page = await browser.newPage({ viewport: USUAL });
  await page.addInitScript(
    ([key, view]) => localStorage.setItem(key, JSON.stringify(view)),
    [`sure-hand/view/${id}`, { inHand: control, secPerScreen, range, grid: null }],
  );
  await page.goto(`${address}/songs/${id}/ride`);
  await page.waitForFunction(
    () =>
      document.querySelector('[data-testid=hand-says]')?.textContent &&
      document.querySelector('[data-testid=lanes] canvas') &&
      globalThis.sureHandProbe,
  );
  return page;
}

/** Where a time and a travel of the lane in hand stand on the screen, while the song stands at its start. */
async function placeOn(page, key, secPerScreen) {
  const lanes = await page.getByTestId('lanes').boundingBox();
  const row = await page.getByTestId(`row-${key}`).boundingBox();
  const lineX = await page.evaluate(() => sureHandProbe.lineX);
  const heard = await page.evaluate(() => sureHandProbe.heard());
  return (t, travel) => ({
    x: lanes.x + lineX + ((t - heard) * (lanes.width - RIDE.meterPx)) / secPerScreen,
    y: row.y + RIDE.endPx + (1 - travel) * (row.height - 2 * RIDE.endPx),
  });
}

/** Moves the mouse with every frame for a while; how much the page's main thread works for each, drawing included. */
async function workWhileDragging(page, from) {
  const cdp = await page.context().newCDPSession(page);
  await cdp.send('Performance.enable');
  const taskSec = async () =>
    (await cdp.send('Performance.getMetrics')).metrics.find((m) => m.name === 'TaskDuration').value;
  await page.mouse.move(from.x, from.y);
  await page.mouse.down();
  await page.mouse.move(from.x + 2, from.y - 8, { steps: 4 });
  const edits = await page.getByTestId('hand-says').textContent();
  if (!/Heard as it would be/.test(edits)) throw new Error(`The hand has hold of nothing: ${edits}`);
  await page.evaluate(() => {
    globalThis.frames = 0;
    const frame = () => {
      globalThis.frames++;
      requestAnimationFrame(frame);
    };
    requestAnimationFrame(frame);
    sureHandProbe.pictures.length = 0;
  });
  const [task0, frames0] = [await taskSec(), await page.evaluate(() => globalThis.frames)];
  for (let i = 0; i < DRAG_MOVES; i++) {
    const event = { type: 'mouseMoved', button: 'left', buttons: 1 };
    const moved = cdp.send('Input.dispatchMouseEvent', {
      ...event,
      x: from.x + 2,
      y: from.y - 8 - 24 * Math.sin(i / 9),
    });
    await Promise.all([moved, new Promise((next) => setTimeout(next, 1000 / 60))]);
  }
  const work = 1000 * ((await taskSec()) - task0);
  const { count, pictures } = await page.evaluate(() => ({
    count: globalThis.frames,
    pictures: [...sureHandProbe.pictures],
  }));
  await page.keyboard.press('Escape');
  await page.mouse.up();
  return { perFrame: work / (count - frames0), drawing: percentile(pictures, 0.95) };
}

/** A lane of many points mended: one dragged, a thousand dragged, a range lifted. */
export async function mendFigures(address, id) {
  const { length, points } = MENDED;
  const key = 't0';
  // As the song was made.
  const lane = ridePoints(length, length / points, 1, -40, -10);
  const travelAt = (i) => travelOf(LEVEL_LAW, lane[i].v);
  const browser = await chromium.launch({
    executablePath: CHROMIUM,
    args: ['--no-sandbox', '--disable-gpu', '--autoplay-policy=no-user-gesture-required'],
  });
  const control = `${key}/level`;
  const apart = length / points;
  const asked = async (what, secPerScreen, range, act) => {
    const page = await pageOf(browser, { address, id, control, secPerScreen, range });
    const place = await placeOn(page, key, secPerScreen);
    const at = await act(page, place);
    const { perFrame, drawing } = await workWhileDragging(page, at);
    figure({
      name: `main thread a frame, ${what} of a lane of ${points.toLocaleString('en')} points`,
      value: perFrame,
      unit: 'ms',
      must: 12,
      better: 'less',
      note: `all of it, the edit heard and drawn; of it drawing (95 %) ${drawing.toFixed(1)} ms`,
    });
    await page.close();
  };
  const pointAt = (i) => [i * apart, travelAt(i)];
  await asked('one point dragged', 1, null, async (_page, place) => place(...pointAt(Math.ceil(0.2 / apart))));
  await asked('a thousand points dragged', 30, null, async (page, place) => {
    const [from, to] = [place(2, 1), place(2 + 1000 * apart, 0)];
    await page.keyboard.down('Control');
    await page.mouse.move(from.x, from.y);
    await page.mouse.down();
    await page.mouse.move(to.x, to.y, { steps: 4 });
    await page.mouse.up();
    await page.keyboard.up('Control');
    return place(...pointAt(Math.ceil(4 / apart)));
  });
  await asked('a range of 10 s lifted', 30, [2, 12], async (_page, place) => {
    const t = 6.3;
    const i = Math.floor(t / apart);
    return place(t, travelAt(i) + (travelAt(i + 1) - travelAt(i)) * (t / apart - i));
  });
  await browser.close();
}
