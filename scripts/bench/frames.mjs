import { figure, percentile } from './figures.mjs';
import { launch, pageOn } from './page.mjs';

const FRAMES_SEC = 15;

/** How long after the one before each frame came, in milliseconds, and how long it took to draw Ride where that is open. */
const framesOf = (page) =>
  page.evaluate(
    (ms) =>
      new Promise((done) => {
        const pictures = globalThis.sureHandProbe?.pictures ?? [];
        pictures.length = 0;
        const gaps = [];
        const begun = performance.now();
        let last = begun;
        const frame = (now) => {
          gaps.push(now - last);
          last = now;
          globalThis.eachFrame?.();
          if (now - begun < ms) requestAnimationFrame(frame);
          else done({ gaps: gaps.slice(1), pictures, sec: (now - begun) / 1000 });
        };
        requestAnimationFrame(frame);
      }),
    1000 * FRAMES_SEC,
  );

const droppedShare = ({ gaps }) => (100 * gaps.filter((gap) => gap > 25).length) / gaps.length;

/** What share of frames this machine drops with a canvas of a size that is only cleared. */
async function clearedDrops(browser, { width, height }) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.setContent(`<canvas id="only" width="${Math.round(width)}" height="${Math.round(height)}"></canvas>`);
  await page.evaluate(() => {
    const canvas = document.querySelector('#only');
    globalThis.eachFrame = () => canvas.getContext('2d').clearRect(0, 0, canvas.width, canvas.height);
  });
  const dropped = droppedShare(await framesOf(page));
  await page.close();
  return dropped;
}

/**
 * How a song is drawn while it rolls. `what`: what is to be seen; `before`: what is done with the page first; `canvas`: where it
 * is drawn then.
 */
export async function frameFigures(address, id, what, { before = () => undefined, canvas = 'lanes' } = {}) {
  const browser = await launch();
  const { page } = await pageOn(address, id, browser);
  await before(page);
  const box = await page.getByTestId(canvas).boundingBox();
  await page.keyboard.press('Space');
  await page.waitForFunction(() => sureHandProbe.heard() > 1);
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  const task = async () =>
    (await session.send('Performance.getMetrics')).metrics.find((m) => m.name === 'TaskDuration').value;
  const from = await task();
  const frames = await framesOf(page);
  const work = (1000 * ((await task()) - from)) / (frames.sec * 60);
  await page.close();
  const cleared = await clearedDrops(browser, box);
  await browser.close();
  figure({
    name: `frame while rolling, ${what}: drawing, 95 %`,
    value: percentile(frames.pictures, 0.95),
    unit: 'ms',
    must: 12,
    aim: 6,
    better: 'less',
    note: `all main-thread work a frame: ${work.toFixed(1)} ms on average`,
  });
  figure({
    name: `dropped frames, ${what}`,
    value: droppedShare(frames),
    unit: '%',
    must: Math.max(5, cleared + 2),
    aim: 1,
    better: 'less',
    note: `${cleared.toFixed(1)} % with a canvas of the same size that is only cleared; no GPU: painted in software on the same two cores`,
  });
}

/** 64 channels with their curves in both views; on the Desk as many strips as there is room for, then those with a bar to come. */
export async function sixtyFourFigures(address, id64) {
  const points = '200,000 points';
  await frameFigures(address, id64, `64 rows, ${points}, the row in hand tall`, {
    before: (page) => page.getByRole('button', { name: 'Track 3', exact: true }).click(),
  });
  for (const [width, words] of [
    ['Throws', 'throws alone'],
    ['One bar', 'one bar coming'],
  ])
    await frameFigures(address, id64, `Desk, 64 strips, ${points}, ${words}`, {
      canvas: 'throws',
      before: async (page) => {
        await page.keyboard.press('v');
        await page.getByTestId('throws').waitFor();
        await page.getByRole('button', { name: width, exact: true }).click();
      },
    });
}
