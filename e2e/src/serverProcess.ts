import { fork, type ChildProcess } from 'node:child_process';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '../..');
const program = join(root, 'e2e/src/serverProgram.mjs');

type Answer = { readonly id: number; readonly result?: string; readonly error?: string };

/** A process that servers run in, one after the other: to load what one is made of takes longer than many a test. */
export class ServerProcess {
  static readonly #idle: ServerProcess[] = [];
  readonly #child: ChildProcess;
  #asked = 0;
  #said = '';

  private constructor() {
    this.#child = fork(program, { stdio: ['ignore', 'pipe', 'pipe', 'ipc'] });
    for (const stream of [this.#child.stdout!, this.#child.stderr!])
      stream.on('data', (chunk: Buffer) => (this.#said += chunk.toString()));
  }

  /** One in which no server runs. */
  static take(): ServerProcess {
    return ServerProcess.#idle.pop() ?? new ServerProcess();
  }

  /** Ends those in which no server runs. */
  static async endIdle(): Promise<void> {
    for (const one of ServerProcess.#idle.splice(0)) await one.kill();
  }

  /** Starts a server on its data; gives back its address. Port 0 is a free one. */
  async start(data: string, port: number, demo: string): Promise<string> {
    const env = { PORT: String(port), HOST: '127.0.0.1', SURE_HAND_DATA: data };
    return (await this.#ask({ act: 'start', root, web: join(root, 'web/dist'), env, demo }))!;
  }

  /** Ends its server as a signal to end would; another can run here then. */
  async stop(): Promise<void> {
    await this.#ask({ act: 'stop' });
    ServerProcess.#idle.push(this);
  }

  /** Ends it with whatever runs in it, as a crash would. */
  async kill(): Promise<void> {
    if (this.#child.exitCode !== null || this.#child.signalCode !== null) return;
    await new Promise((ended) => {
      this.#child.on('exit', ended);
      this.#child.kill('SIGKILL');
    });
  }

  #ask(what: { readonly act: string; readonly [field: string]: unknown }): Promise<string | undefined> {
    const id = this.#asked++;
    return new Promise((done, fail) => {
      const exited = (): void => fail(new Error(`The server’s process ended. ${this.#said}`));
      const answered = ({ id: of, result, error }: Answer): void => {
        if (of !== id) return;
        this.#child.off('message', answered).off('exit', exited);
        if (error === undefined) done(result);
        else fail(new Error(`${error} ${this.#said}`));
      };
      this.#child.on('message', answered).on('exit', exited);
      this.#child.send({ id, ...what });
    });
  }
}
