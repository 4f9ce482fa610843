import { readSong } from '@sure-hand/core/formats';
import type { CDPSession, Page } from '@playwright/test';
import type { WholeSong } from '@sure-hand/server';
import { expect, RidePage, test, type App } from './app.js';
import { lookAt } from './lookAt.js';
import { actsOf, type MonkeyAct } from './monkeyActs.js';
import { MonkeyHand } from './monkeyHand.js';

/** Seeds that once found a fault. */
const PINNED: readonly number[] = [];
const asked = (name: string, usual: number): number => Number(process.env[name] ?? usual);
const SEEDS = asked('SURE_HAND_MONKEYS', 1);
const ACTS = asked('SURE_HAND_ACTS', 20);
const FIRST = asked('SURE_HAND_SEED', 1);
const seeds = [...new Set([...PINNED, ...Array.from({ length: SEEDS }, (_, i) => FIRST + i)])];

/** How often what was done is held against what the server has, in acts; and how often Space is tried. */
const SETTLE_EVERY = 20;
const SPACE_EVERY = 10;
/** Where the song is nearly over. */
const END_SEC = 20;
/** What a page may have more at the end than at the start, in the same state. */
const MORE_HEAP_MB = 40;
const MORE_NODES = 3000;
const MORE_LISTENERS = 1500;

/** The same text for the same thing, in whatever order its fields are. */
const canonical = (thing: unknown): string =>
  JSON.stringify(thing, (_key, value: unknown) =>
    value && typeof value === 'object' && !Array.isArray(value)
      ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)))
      : value,
  );

type Told = {
  readonly key: string;
  readonly receipt: { readonly lap: number; readonly lanes: readonly unknown[] };
};
type Kept = { readonly heap: number; readonly nodes: number; readonly listeners: number };

/** One world: a page with a hand that knows nothing at it, perhaps another page at the same song, and what has become of both. */
class MonkeyWorld {
  readonly #hand: MonkeyHand;
  readonly #threw: string[] = [];
  readonly trace: string[] = [];
  /** Receipts that were told, as the log must have them, by what they were told by. */
  readonly #told = new Map<string, string>();
  #seen = 0;
  #lap = -1;
  #lapKey = '';
  #keysChanged = false;
  readonly #ride: RidePage;

  constructor(
    readonly page: Page,
    readonly app: App,
    readonly other: Page | null,
  ) {
    this.#hand = new MonkeyHand(page);
    this.#ride = new RidePage(page, app);
    for (const one of [page, other]) if (one) this.#listen(one);
  }

  #listen(page: Page): void {
    page.on('pageerror', (error) => this.#threw.push(error.stack ?? error.message));
    page.on('console', (message) => {
      // What the server answers is looked at below: browsers call each refusal an error, and that they ask nobody who has touched nothing.
      const isTheirs = /^Failed to load resource|^Blocked attempt to show a 'beforeunload'/.test(message.text());
      if (message.type() === 'error' && !isTheirs) this.#threw.push(message.text());
    });
    page.on('response', (response) => {
      const url = response.url();
      // Another page was there first; there is nothing to take back, or it stands behind a guard.
      if (response.status() < 400 || response.status() === 409 || /\/(undo|redo)$/.test(url)) return;
      const { method, body } = { method: response.request().method(), body: response.request().postData() };
      this.#threw.push(`${response.status()} to ${method} ${url} ${body?.slice(0, 300) ?? ''}`);
    });
    page.on('dialog', (dialog) => void dialog.accept().catch(() => undefined));
    page.on('crash', () => this.#threw.push('The page died.'));
  }

  /** Does one act, and looks. */
  async do(act: MonkeyAct): Promise<void> {
    const at = this.trace.push(JSON.stringify(act)) - 1;
    if (act.do === 'elsewhere') await this.#elsewhere(act.act);
    else if (act.do === 'reload') await this.#again(() => this.page.reload());
    else if (act.do === 'leave') await this.#again(() => this.page.goto(this.app.address));
    else this.trace[at] += ` ${await this.#hand.do(act)}`;
    await this.#inSong(() => this.#look());
  }

  /** What was told is read before a page goes. */
  async #again(go: () => Promise<unknown>): Promise<void> {
    await this.#look();
    await go();
    await this.open();
  }

  #isInSong(): Promise<boolean> {
    return this.page.evaluate(() => globalThis.sureHandProbe !== undefined);
  }

  /** What leads out of the song has led out of it a moment later, be it amid what is done next: then it is opened again, and that done anew. */
  async #inSong(act: () => Promise<void>): Promise<void> {
    if (!(await this.#isInSong())) await this.open();
    try {
      await act();
    } catch (error) {
      if (await this.#isInSong()) throw error;
      await this.open();
      await act();
    }
  }

  async open(): Promise<void> {
    if (!/\/songs\/1\//.test(this.page.url())) await this.page.goto(`${this.app.address}/songs/1/ride`);
    await this.#ride.isOpen();
    this.#seen = 0;
    this.#lap = -1;
  }

  async #elsewhere(act: 'undo' | 'redo' | 'solo' | 'value'): Promise<void> {
    if (act === 'undo') return void (await this.other?.keyboard.press('Control+z'));
    if (act === 'redo') return void (await this.other?.keyboard.press('Control+Shift+z'));
    const { song } = await this.app.get<WholeSong>('/songs/1');
    const channel = song.channels[this.trace.length % song.channels.length]!;
    if (act === 'solo')
      await this.app.edit({ kind: 'channel', channel: channel.key, changes: { solo: !channel.solo } });
    else await this.app.edit({ kind: 'rest', values: { [`${channel.key}/level`]: -(this.trace.length % 30) } });
  }

  async #look(): Promise<void> {
    const { wrong, told, keysChanged } = await this.page.evaluate(lookAt);
    this.#keysChanged = keysChanged;
    expect([...this.#threw, ...wrong]).toEqual([]);
    if (!told) return;
    for (const one of told.slice(this.#seen)) {
      const { key, receipt } = JSON.parse(one) as Told;
      // With a hand that came late the same lap is told again.
      const isAgain = key !== '' && key === this.#lapKey;
      if (!isAgain)
        expect([0, this.#lap + 1], `after lap ${this.#lap}:\n${told.slice(-3).join('\n')}`).toContain(receipt.lap);
      this.#lap = receipt.lap;
      this.#lapKey = key;
      if (receipt.lanes.length) this.#told.set(key || one, canonical(receipt));
      else this.#told.delete(key);
    }
    this.#seen = told.length;
  }

  /** Space plays or stops, wherever the focus is, but where it is typed. */
  space(): Promise<void> {
    return this.#inSong(() => this.#space());
  }

  async #space(): Promise<void> {
    if (await this.#hand.isTypedInto()) return;
    const moving = (): Promise<boolean> => this.page.evaluate(() => globalThis.sureHandProbe!.isMoving());
    const was = await moving();
    // Near the song's end it plays for less than a look takes, and may have stopped by itself before the key comes.
    if (await this.page.evaluate((sec) => sureHandProbe!.heard() > sec, END_SEC)) return;
    await this.page.keyboard.press('Space');
    this.trace.push(`Space, ${was ? 'stops' : 'plays'}`);
    await expect.poll(moving, `Space ${was ? 'stops' : 'plays'}`).toBe(!was);
    await this.#look();
  }

  /** All that was done is on the server: what is shown is what it has, and what was told is in the log, once. */
  settle(): Promise<void> {
    return this.#inSong(() => this.#settle());
  }

  async #settle(): Promise<void> {
    await expect
      .poll(() => this.page.evaluate(() => globalThis.sureHandProbe!.unsent()), 'what waits to be sent')
      .toBe(0);
    await this.#look();
    const shown = async (): Promise<string> =>
      canonical(JSON.parse(await this.page.evaluate(() => globalThis.sureHandProbe!.document())));
    const onServer = async (): Promise<string> => canonical((await this.app.get<WholeSong>('/songs/1')).song);
    await expect
      .poll(async () => (await shown()) === (await onServer()), 'the song as shown is the server’s')
      .toBe(true);
    const { song } = await this.app.get<WholeSong>('/songs/1');
    const read = readSong(JSON.parse(JSON.stringify(song)));
    expect(read).toMatchObject({ ok: true });
    const logged = async (): Promise<string[]> =>
      (await this.app.get<{ receipt: unknown }[]>('/songs/1/passes')).map(({ receipt }) => canonical(receipt));
    // What was told just now may be on its way.
    await expect
      .poll(async () => {
        const log = await logged();
        return [...this.#told.values()].filter((one) => !log.includes(one));
      }, 'told, and not in the log')
      .toEqual([]);
    const log = await logged();
    for (const one of this.#told.values())
      expect(
        log.filter((other) => other === one),
        one,
      ).toHaveLength(1);
  }

  /** Changed keys would make of Space something else. */
  async keysAsTheyCome(): Promise<void> {
    if (!this.#keysChanged) return;
    await this.page.evaluate(() => localStorage.removeItem('sure-hand/keys'));
    await this.#again(() => this.page.reload());
  }

  /** What the page keeps, stopped and with nothing open in Ride. */
  async kept(client: CDPSession): Promise<Kept> {
    await this.#inSong(async () => {
      for (let i = 0; i < 5; i++) await this.page.keyboard.press('Escape');
      if (await this.page.evaluate(() => globalThis.sureHandProbe!.isMoving())) await this.space();
    });
    await this.page.locator('nav[aria-label="Views"] a').first().click();
    for (let i = 0; i < 3; i++) await client.send('HeapProfiler.collectGarbage');
    const { metrics } = await client.send('Performance.getMetrics');
    const of = (name: string): number => metrics.find((metric) => metric.name === name)!.value;
    return { heap: of('JSHeapUsedSize') / 1e6, nodes: of('Nodes'), listeners: of('JSEventListeners') };
  }
}

for (const seed of seeds)
  test(`a hand that knows nothing, seed ${seed}`, async ({ page, app, ride }) => {
    test.setTimeout(60_000 + ACTS * 5000);
    const client = await page.context().newCDPSession(page);
    await client.send('Performance.enable');
    let other: Page | null = null;
    if (seed % 2) {
      const beside = new RidePage(await page.context().newPage(), app);
      await beside.open();
      other = beside.page;
      await page.bringToFront();
    }
    // What was opened beside is closed: only these two are pages of this world.
    const close = (one: Page): void => void one.close().catch(() => undefined);
    page.context().on('page', close);
    const world = new MonkeyWorld(page, app, other);
    try {
      await ride.setRange(1, 3);
      if (seed % 3) await page.keyboard.press('l');
      await page.keyboard.press(`Alt+${3 + (seed % 3)}`);
      const before = await world.kept(client);
      await client.send('Emulation.setCPUThrottlingRate', { rate: [1, 2, 1, 4][seed % 4]! });
      for (const [i, act] of actsOf(seed, ACTS).entries()) {
        await world.do(act);
        await world.keysAsTheyCome();
        if (i % SPACE_EVERY === SPACE_EVERY - 1) await world.space();
        if (i % SETTLE_EVERY === SETTLE_EVERY - 1) await world.settle();
      }
      await client.send('Emulation.setCPUThrottlingRate', { rate: 1 });
      const after = await world.kept(client);
      await world.settle();
      expect(after.heap).toBeLessThan(before.heap + MORE_HEAP_MB);
      expect(after.nodes).toBeLessThan(before.nodes + MORE_NODES);
      expect(after.listeners).toBeLessThan(before.listeners + MORE_LISTENERS);
    } catch (error) {
      throw new Error(`Seed ${seed}, after:\n${world.trace.slice(-40).join('\n')}\n${String(error)}`, { cause: error });
    } finally {
      page.context().off('page', close);
    }
  });
