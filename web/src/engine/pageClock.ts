/** What calls somebody back as time goes on, about as often as a screen is drawn, whether or not anything is; and the page's clock. */
export type SessionClock = {
  readonly now: () => number;
  /** Calls back until it is ended. */
  readonly run: (act: (nowMs: number) => void) => () => void;
};

/** How often something that runs is called back. */
const EVERY_MS = 16;

/** The thread that ticks, as the clock needs it. */
export type TickingThread = Pick<Worker, 'postMessage' | 'terminate' | 'onmessage'>;

const startThread = (): TickingThread => new Worker(new URL('./ticker.ts', import.meta.url), { type: 'module' });

/**
 * The page's clock, and a call about as often as a screen is drawn, for as long as somebody wants it. A thread of its own
 * ticks; until that has ticked, as it may never do where the server went away while it was fetched, the page ticks itself.
 */
export class PageClock implements SessionClock {
  readonly #thread: TickingThread;
  readonly #acts = new Set<(nowMs: number) => void>();
  #isThreadThere = false;
  #own: ReturnType<typeof setInterval> | null = null;

  constructor(start: () => TickingThread = startThread) {
    this.#thread = start();
    this.#thread.onmessage = () => {
      this.#isThreadThere = true;
      this.#endOwn();
      this.#tick();
    };
  }

  now = (): number => performance.now();

  run = (act: (nowMs: number) => void): (() => void) => {
    if (!this.#acts.size) {
      this.#thread.postMessage(EVERY_MS);
      if (!this.#isThreadThere) this.#own ??= setInterval(() => this.#tick(), EVERY_MS);
    }
    this.#acts.add(act);
    return () => {
      this.#acts.delete(act);
      if (this.#acts.size) return;
      this.#thread.postMessage(null);
      this.#endOwn();
    };
  };

  close(): void {
    this.#acts.clear();
    this.#endOwn();
    this.#thread.terminate();
  }

  #tick(): void {
    const now = performance.now();
    for (const act of [...this.#acts]) act(now);
  }

  #endOwn(): void {
    if (this.#own !== null) clearInterval(this.#own);
    this.#own = null;
  }
}
