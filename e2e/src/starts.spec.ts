import type { BrowserContext, Page } from '@playwright/test';
import { expect, test, type App } from './app.js';

/** A page of the application in a browser of its own, as it is served at another address, with other headers or to another browser. */
async function startedAt(
  app: App,
  fresh: () => Promise<BrowserContext>,
  { at = app.address, lacks = '', headers = {} }: { at?: string; lacks?: string; headers?: Record<string, string> },
): Promise<Page> {
  const context = await fresh();
  if (lacks) await context.addInitScript(`delete globalThis.${lacks}; delete globalThis.Window?.prototype.${lacks};`);
  await context.route(`${at}/**`, async (route) => {
    const url = route.request().url().replace(at, app.address);
    const { origin: _own, ...sent } = route.request().headers();
    const answer = await route.fetch({ url, headers: { ...sent, host: new URL(app.address).host } });
    await route.fulfill({ response: answer, headers: { ...answer.headers(), ...headers } });
  });
  const page = await context.newPage();
  await page.goto(`${at}/songs/1/ride`);
  return page;
}

test('a start that can’t work says why and what to do, in the page; one that lacks what it can do without works', async ({
  app,
  browser,
}) => {
  const contexts: BrowserContext[] = [];
  const fresh = async (): Promise<BrowserContext> => {
    const context = await browser.newContext();
    contexts.push(context);
    return context;
  };
  const thrown: string[] = [];
  for (const [how, says] of [
    [{ at: 'http://mix.house' }, /does not take http:\/\/mix\.house for a safe address.*at http:\/\/localhost:80/],
    [{ headers: { 'cross-origin-opener-policy': 'unsafe-none' } }, /sharing memory with its audio thread/],
    [{ lacks: 'AudioWorkletNode' }, /has no audio worklet/],
  ] as const) {
    const page = await startedAt(app, fresh, how);
    page.on('pageerror', ({ message }) => thrown.push(message));
    await expect(page.getByRole('heading', { name: 'Sure Hand can’t start here' })).toBeVisible();
    await expect(page.getByRole('alert')).toContainText(says);
  }
  expect(thrown).toEqual([]);
  // A browser that never says it is idle opens songs all the same, and hears what others do.
  const page = await startedAt(app, fresh, { lacks: 'requestIdleCallback' });
  await expect(page.getByTestId('hand-says')).not.toBeEmpty();
  expect(await page.evaluate(() => 'requestIdleCallback' in globalThis)).toBe(false);
  await app.edit({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'Softer here' } });
  await expect(page.getByLabel('Note: Softer here')).toBeVisible();
  await page.keyboard.press('Space');
  await page.waitForFunction(() => globalThis.sureHandProbe!.heard() > 0.3);
  await page.keyboard.press('Space');
  // Of a server that goes while the program is fetched the rest never comes.
  const cut = await (await fresh()).newPage();
  await cut.route('**/assets/app-*.js', (route) => route.abort());
  await cut.goto(`${app.address}/songs/1/ride`);
  await expect(cut.getByRole('alert')).toContainText('could not be fetched whole. See that its server runs');
  for (const context of contexts) {
    await context.unrouteAll({ behavior: 'ignoreErrors' });
    await context.close();
  }
});

test('stems that the server was taking in as it went away are said to be lost, and can be dropped again @long', async ({
  page,
  app,
  ride,
}) => {
  await ride.isOpen();
  const audio = await (await fetch(`${app.address}/api/songs/1/audio/lead.wav`)).arrayBuffer();
  const file = { name: 'Second lead.wav', mimeType: 'audio/wav', buffer: Buffer.from(audio) };
  const port = Number(new URL(app.address).port);
  await page.route('**/api/imports/*/into/1', async (route) => {
    const answer = await route.fetch();
    const job = await answer.body();
    await app.crash();
    await app.start(port);
    await route.fulfill({ status: answer.status(), headers: answer.headers(), body: job });
  });
  await page.keyboard.press('Alt+b');
  const stems = page.getByLabel('More stems');
  await stems.setInputFiles([file]);
  await expect(page.getByRole('alert').getByText('The server was started anew while it was at this.')).toBeVisible();
  await expect(page.getByRole('group', { name: 'Stems on their way' })).toHaveCount(0);
  await page.unroute('**/api/imports/*/into/1');
  await stems.setInputFiles([file]);
  await expect.poll(async () => (await app.song()).song.channels.map(({ name }) => name)).toContain('Second lead');
});
