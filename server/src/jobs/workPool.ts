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

/** A thread may need so much, and no more: a small file can be made to unpack to anything. */
const MOST_MEMORY = { maxOldGenerationSizeMb: 2500 } as const;

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
    } catch (error) {
      if ((error as { code?: string }).code !== 'ERR_WORKER_OUT_OF_MEMORY') throw error;
      throw new JobTrouble(
        'It is too large: it takes more memory than there is for one thing. Make it smaller, or split it.',
      );
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
    const options = { minThreads: 0, maxThreads: THREADS, idleTimeout: 1000, execArgv, resourceLimits: MOST_MEMORY };
    pool ??= new Piscina({ filename, ...options });
    this.#pools.set(worker, pool);
    return pool;
  }
}
