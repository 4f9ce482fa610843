/**
 * What is to be done in a task of its own right after this one, so that neither holds up the page for as long as both: in the
 * order in which it came, all of it before the page is drawn again twice.
 */
export class NextTask {
  #waiting: (() => void)[] = [];
  readonly #channel = new MessageChannel();

  constructor() {
    this.#channel.port1.onmessage = () => this.flush();
  }

  /** Whether something is still to be done. */
  get waits(): boolean {
    return this.#waiting.length > 0;
  }

  do(act: () => void): void {
    this.#waiting.push(act);
    if (this.#waiting.length === 1) this.#channel.port2.postMessage(null);
  }

  /** Does now what still waits. Where something throws, what comes after it is done in the task after. */
  flush(): void {
    const waiting = this.#waiting;
    this.#waiting = [];
    try {
      for (let act = waiting.shift(); act; act = waiting.shift()) act();
    } finally {
      if (waiting.length) {
        this.#waiting = [...waiting, ...this.#waiting];
        this.#channel.port2.postMessage(null);
      }
    }
  }

  /** Does all that still waits, whatever of it throws, and nothing from then on. */
  close(): void {
    try {
      this.flush();
    } finally {
      if (this.waits) this.close();
      else this.#channel.port1.close();
    }
  }
}
