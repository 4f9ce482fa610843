import { cpSync, existsSync, mkdtempSync, readdirSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { test as base, type BrowserContext, type Locator, type Page } from '@playwright/test';
import type { Point } from '@sure-hand/core/curve';
import type { Edit } from '@sure-hand/core/edits';
import { PACKED_TYPE, unpacked } from '@sure-hand/core/formats';
import type { LoggedPass, WholeSong } from '@sure-hand/server';
import { ServerProcess, root } from './serverProcess.js';
import { expect } from './soon.js';
import { Tab } from './tab.js';

export { root };
const ready = join(root, '.tmp/e2e-short');

/** A running application with data of its own. */
export class App {
  #server: ServerProcess | null = null;
  address = '';

  /** Waits until what was done in the page that was opened last has reached the server. */
  settled: () => Promise<unknown> = () => Promise.resolve();

  /** `demo`: the song that a first start on its data makes. */
  constructor(
    readonly data: string,
    readonly demo: 'short' | 'weir-lights' = 'short',
  ) {}

  /** Starts the server, on a free port if none is asked for. */
  async start(port = 0): Promise<void> {
    this.#server = ServerProcess.take();
    this.address = await this.#server.start(this.data, port, this.demo);
  }

  /** Ends the server, as one ends it by hand. */
  async stop(): Promise<void> {
    const server = this.#server;
    this.#server = null;
    await server?.stop();
  }

  /** Ends the server as a crash would. */
  async crash(): Promise<void> {
    const server = this.#server;
    this.#server = null;
    await server?.kill();
  }

  /** A song as the server has it. */
  async song(id = 1): Promise<WholeSong> {
    await this.settled();
    return this.get(`/songs/${id}`);
  }

  /** What the server answers to a question about its API, as a page asks it. */
  async get<T>(path: string): Promise<T> {
    const answer = await fetch(`${this.address}/api${path}`, { headers: { Accept: PACKED_TYPE } });
    return unpacked(new Uint8Array(await answer.arrayBuffer())) as T;
  }

  /** Has an edit made from elsewhere, as another page or the command line would: asked once more where somebody was there first. */
  async edit(edit: Edit): Promise<void> {
    let answer: Response;
    do {
      const { revision } = await this.get<{ revision: number }>('/songs/1/revision');
      answer = await fetch(`${this.address}/api/songs/1/edits`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json' },
        body: JSON.stringify({ revision, edit }),
      });
    } while (answer.status === 409);
    expect(answer.status).toBe(201);
  }

  /** Every pass in the log, newest first. */
  async passes(): Promise<LoggedPass[]> {
    await this.settled();
    return this.get('/songs/1/passes');
  }

  /** The points of one layer of a lane. */
  async points(control: string, layer: 'points' | 'trim' = 'points'): Promise<readonly Point[]> {
    return [...((await this.song()).song.lanes[control]?.[layer] ?? [])];
  }
}

/** When any part of what makes the songs of a first start was built last: what builds it writes only what is other. */
const makerBuiltAt = (): number =>
  Math.max(
    ...['demo-song/dist', 'server/dist'].flatMap((built) =>
      readdirSync(join(root, built), { recursive: true, withFileTypes: true })
        .filter((one) => one.isFile() && one.name.endsWith('.js'))
        .map((one) => statSync(join(one.parentPath, one.name)).mtimeMs),
    ),
  );

/**
 * A copy, of the caller's own, of data that the application makes on a first start. It is made once into `folder`, and
 * anew where what makes it was built since: made by an earlier program it is another song.
 */
export async function freshData(
  folder: string,
  demo: 'short' | 'weir-lights',
  finish: (maker: App) => Promise<void> = () => Promise.resolve(),
): Promise<string> {
  const whole = join(folder, 'demo-made');
  if (!existsSync(whole) || statSync(whole).mtimeMs < makerBuiltAt()) {
    rmSync(folder, { recursive: true, force: true });
    const maker = new App(folder, demo);
    await maker.start();
    await finish(maker);
    await maker.stop();
  }
  const data = mkdtempSync(join(tmpdir(), 'sure-hand-'));
  cpSync(folder, data, { recursive: true });
  return data;
}

/** The short song's data with its waveforms. */
const shortData = (): Promise<string> =>
  freshData(ready, 'short', async (maker) => {
    const { files } = await maker.get<WholeSong>('/songs/1');
    for (const name of Object.keys(files))
      expect((await fetch(`${maker.address}/api/songs/1/peaks/${name}`)).ok).toBe(true);
  });

/** Ride, as a person sees and works it. */
export class RidePage {
  constructor(
    readonly page: Page,
    readonly app: App,
  ) {}

  readonly secPerScreen = 30;

  async open(): Promise<void> {
    // A page that is gone, or is cut off from the server, sends nothing any more; what is there is read then.
    const isSent = (): boolean => !globalThis.sureHandProbe?.unsent();
    this.app.settled = () => this.page.waitForFunction(isSent, null, { timeout: 5000 }).catch(() => undefined);
    await this.page.goto(`${this.app.address}/songs/1/ride`);
    await this.isOpen();
  }

  /** Waits until Ride is there and says what play would do. */
  async isOpen(): Promise<void> {
    // The first page of a browser also starts its audio service.
    await expect(this.says).not.toBeEmpty({ timeout: 30_000 });
  }

  get says(): Locator {
    return this.page.getByTestId('hand-says');
  }
  get more(): Locator {
    return this.page.getByTestId('hand-more');
  }
  get value(): Locator {
    return this.page.getByTestId('value');
  }

  /** Where the cap of a channel's front lane is on the screen, its row's middle for height. */
  async cap(channel: string): Promise<{ x: number; y: number }> {
    const lanes = (await this.page.getByTestId('lanes').boundingBox())!;
    const head = (await this.page.getByTestId(`row-${channel}`).boundingBox())!;
    const lineX = await this.page.evaluate(() => globalThis.sureHandProbe!.lineX);
    return { x: lanes.x + lineX, y: head.y + head.height / 2 };
  }

  async play(): Promise<void> {
    await this.page.keyboard.press('Space');
    await expect(this.page.getByLabel('Stop', { exact: true })).toBeVisible();
  }

  async stop(): Promise<void> {
    await this.page.keyboard.press('Space');
    await expect(this.page.getByLabel('Play', { exact: true })).toBeVisible();
  }

  heard(): Promise<number> {
    return this.page.evaluate(() => globalThis.sureHandProbe!.heard());
  }

  /** What was heard as the pointer last went down and came up. */
  handAt(): Promise<{ pointerdown: number; pointerup: number }> {
    return this.page.evaluate(() => globalThis.handAt as { pointerdown: number; pointerup: number });
  }

  /** Goes to a time by typing it into the position. */
  async goTo(sec: number): Promise<void> {
    await this.page.getByLabel('Position').click();
    await this.page.getByLabel('Go to').fill(`0:${sec.toFixed(3)}`);
    await this.page.keyboard.press('Enter');
    await this.page.waitForFunction((t) => Math.abs(globalThis.sureHandProbe!.heard() - t) < 0.01, sec);
  }

  /** Sets the range by keys. */
  async setRange(from: number, to: number): Promise<void> {
    await this.goTo(from);
    await this.page.keyboard.press('i');
    await this.goTo(to);
    await this.page.keyboard.press('o');
  }

  /** Goes to another view by its name in the top bar. */
  show(view: string): Promise<void> {
    return this.page.getByRole('navigation', { name: 'Views' }).getByRole('link', { name: view, exact: true }).click();
  }

  takeInHand(channel: string, name: string): Promise<void> {
    return this.page.getByTestId(`row-${channel}`).getByRole('button', { name, exact: true }).click();
  }

  async heardPast(t: number): Promise<void> {
    await this.page.waitForFunction((to) => globalThis.sureHandProbe!.heard() >= to, t);
  }

  /**
   * Takes hold of a cap with the mouse. A line that walks has gone on by the time the mouse is there, on a busy machine too far, or
   * back to where the loop begins: a hand that has missed it tries again.
   */
  async grabCap(channel: string): Promise<{ x: number; y: number }> {
    for (;;) {
      const at = await this.cap(channel);
      await this.page.mouse.move(at.x, at.y);
      await this.page.mouse.down();
      if (await this.page.evaluate(() => globalThis.sureHandProbe!.touched().length > 0)) return at;
      await this.page.mouse.up();
    }
  }

  /** Rides a channel's cap with the mouse: so many pixels up over so many seconds, in small moves; lets go if asked. */
  async dragCap(channel: string, upPx: number, sec: number, letGo = true): Promise<void> {
    const { x, y } = await this.grabCap(channel);
    // By the page's clock: the song's goes back where it wraps.
    const begun = await this.page.evaluate(() => performance.now());
    const steps = Math.max(4, Math.ceil(sec * 20));
    for (let i = 1; i <= steps; i++) {
      await this.page.mouse.move(x + (i % 3), y - (upPx * i) / steps);
      await this.page.waitForFunction((to) => performance.now() >= to, begun + (1000 * sec * i) / steps);
    }
    if (letGo) await this.page.mouse.up();
  }

  /** Moves a mouse whose button is down from place to place, each so many milliseconds after the one before, as a hand would. */
  async movePaced(places: readonly { readonly x: number; readonly y: number }[], everyMs: number): Promise<void> {
    const client = await this.page.context().newCDPSession(this.page);
    const sent: Promise<unknown>[] = [];
    for (const place of places) {
      const event = { type: 'mouseMoved', button: 'left', buttons: 1, ...place } as const;
      sent.push(client.send('Input.dispatchMouseEvent', event));
      await new Promise((next) => setTimeout(next, everyMs));
    }
    await Promise.all(sent);
    await client.detach();
  }

  /** What the audio thread applies to a channel, with the song time of each reading, over a while. */
  gains(channel: string, sec: number): Promise<{ t: number; gain: number }[]> {
    return this.page.evaluate(
      ([key, ms]) =>
        new Promise<{ t: number; gain: number }[]>((done) => {
          const readings: { t: number; gain: number }[] = [];
          const end = performance.now() + ms;
          const read = (): void => {
            readings.push({ ...globalThis.sureHandProbe!.gain(key) });
            if (performance.now() < end) requestAnimationFrame(read);
            else done(readings);
          };
          read();
        }),
      [channel, sec * 1000] as const,
    );
  }

  /**
   * Height of the drawn curve of a channel's row at a distance from the line, in pixels of the page: the middle of the
   * brightest run of pixels in that column; null where none is bright.
   */
  async curveY(channel: string, fromLinePx: number): Promise<number | null> {
    const column = await this.#columnOf(channel, fromLinePx);
    return this.page.evaluate((at) => globalThis.curveAt!(at), column);
  }

  /** The same in every picture for a while, from the one on that the next press of a key leads to. */
  async curveYAfterKey(channel: string, fromLinePx: number, ms: number): Promise<() => Promise<(number | null)[]>> {
    const column = await this.#columnOf(channel, fromLinePx);
    const readings = await this.page.evaluateHandle(
      ([at, during]) => {
        const heights = new Promise<(number | null)[]>((done) =>
          addEventListener(
            'keydown',
            () => {
              const end = performance.now() + during;
              const found: (number | null)[] = [];
              // After the picture that a frame is drawn with.
              const read = (): number =>
                requestAnimationFrame(() =>
                  setTimeout(() => {
                    found.push(globalThis.curveAt!(at));
                    if (performance.now() < end) read();
                    else done(found);
                  }),
                );
              read();
            },
            // Keys of the song go no further than to it.
            { once: true, capture: true },
          ),
        );
        return { heights };
      },
      [column, ms] as const,
    );
    return () => readings.evaluate(({ heights }) => heights);
  }

  async #columnOf(channel: string, fromLinePx: number): Promise<Column> {
    const { x } = await this.cap(channel);
    const head = (await this.page.getByTestId(`row-${channel}`).boundingBox())!;
    return { column: x + fromLinePx, top: head.y, height: head.height };
  }
}

/** A column of pixels in a row of the lanes, in pixels of the page. */
type Column = { readonly column: number; readonly top: number; readonly height: number };

/** Puts what reads the drawn curves into the page. */
function readsCurves(): void {
  globalThis.curveAt = ({ column, top, height }) => {
    const canvas = document.querySelector<HTMLCanvasElement>('[data-testid=lanes] canvas')!;
    const box = canvas.getBoundingClientRect();
    const scale = canvas.width / box.width;
    const pixels = canvas
      .getContext('2d')!
      .getImageData(
        Math.round((column - box.x) * scale),
        Math.round((top - box.y) * scale),
        1,
        Math.round(height * scale),
      );
    let sum = 0;
    let weight = 0;
    for (let i = 0; i < pixels.height; i++) {
      const [r, g, b] = pixels.data.slice(4 * i, 4 * i + 3) as unknown as [number, number, number];
      const light = Math.min(r, g, b);
      if (light < 170) continue;
      sum += (i + 0.5) * light;
      weight += light;
    }
    return weight ? top + sum / weight / scale : null;
  };
}

/**
 * In the page: twelve pictures a second in the place of sixty. Without a graphics card they are drawn by the cores that the song is rendered
 * by, and that walks share with whatever else the machine does; how quick a picture is the bench measures.
 */
function drawsTwelveASecond(): void {
  const next = requestAnimationFrame.bind(globalThis);
  const asked = new Map<number, FrameRequestCallback>();
  let last = 0;
  let comes = false;
  const draw = (now: number): void => {
    comes = false;
    const due = [...asked.values()];
    asked.clear();
    for (const one of due)
      try {
        one(now);
      } catch (error) {
        reportError(error);
      }
  };
  globalThis.requestAnimationFrame = (act) => {
    asked.set(++last, act);
    if (!comes) setTimeout(() => next(draw), 67);
    comes = true;
    return last;
  };
  globalThis.cancelAnimationFrame = (id) => void asked.delete(id);
}

/** Puts what walks read of a page into all pages of a browser. */
async function withProbes(context: BrowserContext): Promise<void> {
  await context.addInitScript(drawsTwelveASecond);
  // What is heard as the pointer goes down and comes up is noted in the page itself, not over the wire.
  await context.addInitScript(() => {
    for (const kind of ['pointerdown', 'pointerup'] as const)
      addEventListener(
        kind,
        ({ timeStamp }) =>
          (globalThis.handAt = { ...globalThis.handAt, [kind]: globalThis.sureHandProbe?.heard(timeStamp) }),
        true,
      );
  });
  await context.addInitScript(readsCurves);
}

/** Where the application of one walk after the other is found: at the same address, so that its program is known there already. */
type Door = { port: number };

/** Tests get an application with data of their own, and Ride opened on the short song, in a tab that is as good as new. */
export const test = base.extend<{ app: App; ride: RidePage }, { servers: void; door: Door; tab: Tab }>({
  servers: [
    // oxlint-disable-next-line no-empty-pattern
    async ({}, use) => {
      await use();
      await ServerProcess.endIdle();
    },
    { scope: 'worker', auto: true },
  ],
  door: [
    // oxlint-disable-next-line no-empty-pattern
    async ({}, use) => use({ port: 0 }),
    { scope: 'worker' },
  ],
  tab: [
    async ({ browser }, use) => {
      const tab = new Tab(browser, withProbes);
      await use(tab);
      await tab.close();
    },
    { scope: 'worker' },
  ],
  context: async ({ tab }, use) => use(await tab.context()),
  page: async ({ app, tab, context: _context }, use, testInfo) => {
    await use(await tab.page());
    await tab.over(new URL(app.address).origin, testInfo.status === testInfo.expectedStatus);
  },
  app: async ({ door }, use) => {
    const app = new App(await shortData());
    await app.start(door.port);
    door.port = Number(new URL(app.address).port);
    await use(app);
    await app.stop();
    rmSync(app.data, { recursive: true, force: true });
  },
  ride: async ({ page, app }, use) => {
    const ride = new RidePage(page, app);
    await ride.open();
    await use(ride);
  },
});

export { expect };
