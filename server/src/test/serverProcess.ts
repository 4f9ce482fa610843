import { spawn, type ChildProcess } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

const MAIN = join(dirname(fileURLToPath(import.meta.url)), '../../dist/main.js');

/** The built server as a process of its own, over a data folder: it can be killed at any moment, and started again. */
export class ServerProcess {
  #process: ChildProcess | null = null;
  /** Where it listens; nobody does while it is away. */
  address = '';

  constructor(readonly data: string) {}

  get isUp(): boolean {
    return this.#process !== null;
  }

  /** Starts it, and waits until it listens. Throws what it said where it ended instead. */
  async start(): Promise<void> {
    const env = { ...process.env, PORT: '0', HOST: '127.0.0.1', SURE_HAND_DATA: this.data };
    const started = spawn(process.execPath, [MAIN], { env });
    this.#process = started;
    let said = '';
    this.address = await new Promise((found, fail) => {
      started.stdout.on('data', (chunk: Buffer) => {
        said += chunk.toString();
        const at = /Sure Hand is at (\S+)/.exec(said);
        if (at) found(at[1]!);
      });
      started.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
      started.on('exit', () => fail(new Error(said)));
    });
  }

  /** Ends it as a power cut would. */
  async kill(): Promise<void> {
    const killed = this.#process;
    this.#process = null;
    if (killed)
      await new Promise((ended) => {
        killed.on('exit', ended);
        killed.kill('SIGKILL');
      });
  }
}
