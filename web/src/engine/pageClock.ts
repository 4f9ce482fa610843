/** What calls somebody back as time goes on, about as often as a screen is drawn, whether or not anything is; and the page's clock. */
export type SessionClock = {
  readonly now: () => number;
  /** Calls back until it is ended. */
  readonly run: (act: (nowMs: number) => void) => () => void;
};

/** How often something that runs is called back. */
const EVERY_MS = 16;

/** The page's clock, and a call about as often as a screen is drawn, for as long as somebody wants it. */
export class PageClock implements SessionClock {
  readonly #worker = new Worker(new URL('./ticker.ts', import.meta.url), { type: 'module' });
  readonly #acts = new Set<(nowMs: number) => void>();

  constructor() {
    this.#worker.onmessage = () => {
      const now = performance.now();
      for (const act of [...this.#acts]) act(now);
    };
  }

  now = (): number => performance.now();

  run = (act: (nowMs: number) => void): (() => void) => {
    if (!this.#acts.size) this.#worker.postMessage(EVERY_MS);
    this.#acts.add(act);
    return () => {
      this.#acts.delete(act);
      if (!this.#acts.size) this.#worker.postMessage(null);
    };
  };

  close(): void {
    this.#acts.clear();
    this.#worker.terminate();
  }
}
