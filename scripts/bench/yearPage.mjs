import { figure, median } from './figures.mjs';
import { launch, usable } from './page.mjs';
import { longestTasks } from './tasks.mjs';

/** What no act on a large song may hold the page up for, in ms. */
const MOST_TASK = 50;
const TIMES = 3;
/** As many passes as a page is told of by the song whole rather than one by one. */
const CAME_FIRST = 20;
const VIEW = { secPerScreen: 30 };
/** What is there once a view is. */
const SHOWN = {
  Desk: '[data-testid=strip-t0]',
  Snapshots: '.snapshot-board',
  Guards: '.guard-grid',
  Files: '.files-left',
};

/** Opens a song with a lane in hand, in a page of its own. */
async function opened(browser, address, { id, inHand, view = 'ride' }) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript(
    ([key, kept]) => localStorage.setItem(key, JSON.stringify(kept)),
    [`sure-hand/view/${id}`, { inHand, ...VIEW }],
  );
  await page.goto(`${address}/songs/${id}/${view}`);
  return page;
}
const isSent = (page) => page.waitForFunction(() => sureHandProbe.unsent() === 0);
const says = (page, words) => page.getByTestId('hand-says').filter({ hasText: words }).waitFor();
const revisionOf = async (address, id) => (await (await fetch(`${address}/api/songs/${id}/revision`)).json()).revision;
/** Presses keys that change a song, and waits until the server has what they did. */
async function keptBy(page, address, id, keys) {
  const before = await revisionOf(address, id);
  await page.keyboard.press(keys);
  while ((await revisionOf(address, id)) === before) await isSent(page);
}
/** Waits until the page has drawn what it was told, and lies still. */
const drawn = (page) =>
  page.evaluate(
    () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => requestIdleCallback(done)))),
  );

/** Does something some times in a page; how long it takes until it is there, and the longest task of the page meanwhile. */
async function measured(browser, page, name, act, { must, times = TIMES, back = null }) {
  const runs = [];
  for (let k = 0; k < times; k++) {
    const began = performance.now();
    let ms = 0;
    const task = await longestTasks(browser, page, async () => {
      await act();
      ms = performance.now() - began;
      await drawn(page);
    });
    runs.push({ ms, ...task });
    await back?.();
  }
  const of = (key) => runs.map((run) => run[key]);
  figure({
    ...{ name: `${name}: there after`, value: median(of('ms')), unit: 'ms', must, better: 'less' },
    note: 'as the browser is driven from outside, which takes some of it',
  });
  figure({
    ...{ name: `${name}: longest task of the page`, value: median(of('besidesPictures')), unit: 'ms', must: MOST_TASK },
    ...{ better: 'less', note: `pictures left out; with them ${median(of('withPictures')).toFixed(0)} ms` },
  });
}

/** What a page does with the song of a year (`year`) and with one whose lanes have very many points (`dense`). */
export async function yearPageFigures(address, { year, dense, passes, comeFirst }) {
  const browser = await launch();
  // What the first page of a browser starts is no matter of the song.
  const first = await opened(browser, address, { id: year, inHand: 't0/level' });
  await usable(first);
  await first.close();
  let page = await browser.newPage();
  await measured(
    browser,
    page,
    'a year’s song opened in Ride',
    async () => {
      await page.goto(`${address}/songs/${year}/ride`);
      await usable(page);
    },
    { must: 1500 },
  );
  const link = (name) => page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name, exact: true });
  const entry = (n) => page.getByRole('button', { name: new RegExp(`^Pass ${n}\\b`) });
  await measured(
    browser,
    page,
    'Passes of it',
    async () => {
      await link('Passes').click();
      await entry(passes).waitFor();
    },
    { must: 500, back: () => link('Ride').click() },
  );
  for (const [name, there] of Object.entries(SHOWN))
    await measured(
      browser,
      page,
      `${name} of it`,
      async () => {
        await link(name).click();
        await page.locator(there).first().waitFor();
      },
      { must: 500, back: () => link('Ride').click() },
    );
  await link('Passes').click();
  let n = passes;
  await measured(
    browser,
    page,
    'a pass of it shown',
    async () => {
      n--;
      await entry(n).click();
      await entry(n).and(page.locator('[aria-current=true]')).waitFor();
      await page.locator('.pass-chart').first().waitFor();
    },
    { must: 500 },
  );
  await link('Ride').click();
  await usable(page);
  const key = async (keys, words) => {
    await page.keyboard.press(keys);
    await says(page, words);
    await isSent(page);
  };
  await measured(browser, page, 'a pass of it undone', () => key('Control+z', /Taken back/), {
    must: 500,
    back: () => key('Control+Shift+z', /Done again/),
  });
  await page.context().setOffline(true);
  await comeFirst(CAME_FIRST);
  const toldWhole = page.waitForResponse(`${address}/api/songs/${year}`, { timeout: 120_000 });
  await measured(
    browser,
    page,
    `${CAME_FIRST} passes of elsewhere taken over at once`,
    async () => {
      await page.context().setOffline(false);
      await (await toldWhole).finished();
    },
    { must: 5000, times: 1 },
  );
  await page.close();
  page = await opened(browser, address, { id: dense, inHand: 'a/level' });
  await usable(page);
  await page.keyboard.press('Control+a');
  await measured(browser, page, '200,000 points lifted', () => keptBy(page, address, dense, 'Alt+ArrowUp'), {
    must: 1000,
    back: () => key('Control+z', /Taken back/),
  });
  await page.close();
  page = await opened(browser, address, { id: dense, inHand: 'b/level' });
  await usable(page);
  await measured(browser, page, '2,000 bumps folded into 80,000 points', () => keptBy(page, address, dense, 'f'), {
    must: 1000,
    back: () => key('Control+z', /Taken back/),
  });
  await browser.close();
}
