import type { Browser, BrowserContext, CDPSession, Page } from '@playwright/test';

export const SIZE = { width: 1280, height: 800 } as const;

/** In the page: forgets whatever the browser keeps for where it is. */
async function forgetAll(): Promise<void> {
  localStorage.clear();
  sessionStorage.clear();
  for (const { name } of await indexedDB.databases())
    await new Promise((gone, failed) => {
      const going = indexedDB.deleteDatabase(name!);
      going.onsuccess = gone;
      going.onerror = () => failed(new Error(`The browser keeps ${name}.`));
    });
}

/**
 * One tab of one browser, for one walk after the other: what the program of the page is made of is fetched and compiled once. Between two
 * walks it is emptied of all that the one before has left in it; after one that failed, or lost its tab, there is another.
 */
export class Tab {
  #context: BrowserContext | null = null;
  #page: Page | null = null;
  readonly #sessions: CDPSession[] = [];

  constructor(
    readonly browser: Browser,
    /** What is done in every page before its own program. */
    readonly prepare: (context: BrowserContext) => Promise<void>,
  ) {}

  async context(): Promise<BrowserContext> {
    if (this.#context) return this.#context;
    const context = await this.browser.newContext({ viewport: SIZE });
    // What a walk has set by way of such a session, as a slow machine, lasts as long as that.
    const begin = context.newCDPSession.bind(context);
    context.newCDPSession = async (page) => {
      const session = await begin(page);
      this.#sessions.push(session);
      return session;
    };
    await this.prepare(context);
    return (this.#context = context);
  }

  /** The tab as the next walk finds it. */
  async page(): Promise<Page> {
    this.#page ??= await (await this.context()).newPage();
    return this.#page;
  }

  /** A walk is over: the tab is emptied of it, or given up. `origin`: where it was. */
  async over(origin: string, isWell: boolean): Promise<void> {
    try {
      if (!isWell) return await this.close();
      const page = await this.page();
      for (const other of page.context().pages()) if (other !== page) await other.close();
      await page.unrouteAll({ behavior: 'ignoreErrors' });
      page.removeAllListeners();
      page.on('dialog', (dialog) => void dialog.accept().catch(() => undefined));
      // A page of the same place without a program: what the browser keeps for it is taken away from there.
      await page.goto(`${origin}/api/songs`, { timeout: 10_000 });
      await page.evaluate(forgetAll);
      // It stays there: the next walk is of the same place, so the process that has the program goes on with it.
      await page.context().clearPermissions();
      for (const session of this.#sessions.splice(0)) await session.detach().catch(() => undefined);
      page.removeAllListeners('dialog');
      await page.setViewportSize(SIZE);
      await page.mouse.move(0, 0);
    } catch {
      // A tab that is gone, or does not answer, is given up.
      await this.close();
    }
  }

  async close(): Promise<void> {
    const context = this.#context;
    this.#context = this.#page = null;
    await context?.close().catch(() => undefined);
  }
}
