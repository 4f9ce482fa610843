import { MessageChannel } from 'node:worker_threads';
import { Injectable, type OnApplicationShutdown } from '@nestjs/common';
import { Piscina } from 'piscina';
import { JobTrouble, type Work } from './jobBoard.js';

/** Work for a worker thread: the program of this package that does it. */
export type Worker =
  | 'bounceWorker'
  | 'measureWorker'
  | 'loudnessWorker'
  | 'stemWorker'
  | 'documentWorker'
  | 'copyWorker'
  | 'peakWorker';

const THREADS = 2;

/** What every worker gives back: its result, or the sentence why there is none. */
export type Worked<T> = { readonly ok: true; readonly value: T } | { readonly ok: false; readonly sentence: string };

/** Worker threads for whatever takes long. Cancelled work is ended at once, with its thread. */
@Injectable()
export class WorkPool implements OnApplicationShutdown {
  readonly #pools = new Map<Worker, Piscina>();

  async onApplicationShutdown(): Promise<void> {
    await Promise.all([...this.#pools.values()].map((pool) => pool.destroy()));
  }

  /** Runs one task; throws {@link JobTrouble} with the worker's sentence. */
  async run<T>(worker: Worker, task: object, { report, signal }: Work): Promise<T> {
    const { port1, port2 } = new MessageChannel();
    port1.on('message', (share: number) => report(share));
    try {
      const options = { signal, transferList: [port2] };
      const worked = (await this.#pool(worker).run({ ...task, tell: port2 }, options)) as Worked<T>;
      if (!worked.ok) throw new JobTrouble(worked.sentence);
      return worked.value;
    } finally {
      port1.close();
    }
  }

  #pool(worker: Worker): Piscina {
    let pool = this.#pools.get(worker);
    // What is built of it with all its modules in one, also where tests run the sources.
    const filename = new URL(`../../dist-threads/${worker}.js`, import.meta.url).href;
    // A thread that is ended while it loads its modules at one go takes the whole process with it; loaded one by one, it does not.
    const execArgv = ['--no-experimental-require-module'];
    pool ??= new Piscina({ filename, minThreads: 0, maxThreads: THREADS, idleTimeout: 1000, execArgv });
    this.#pools.set(worker, pool);
    return pool;
  }
}
