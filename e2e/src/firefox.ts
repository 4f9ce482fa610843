import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { launch, type Browser, type Page } from 'puppeteer-core';
import { SIZE } from './tab.js';

const FIREFOX = '/usr/bin/firefox-esr';
const PULSEAUDIO = '/usr/bin/pulseaudio';

/** Whether what the walk needs is installed: `npm run harness` does it. */
export const hasFirefox = existsSync(FIREFOX) && existsSync(PULSEAUDIO);

/** Debian's Firefox, with a sound device that takes what it plays and lets it go, or with none. */
export class Firefox {
  #browser: Browser | null = null;
  #sound: ChildProcess | null = null;
  readonly #folder = mkdtempSync(join(tmpdir(), 'sure-hand-firefox-'));

  async start(hasSound: boolean): Promise<Page> {
    const socket = join(this.#folder, 'native');
    const env = { ...process.env, HOME: this.#folder, XDG_RUNTIME_DIR: this.#folder, PULSE_RUNTIME_PATH: this.#folder };
    if (hasSound) await this.#startSound(socket, env);
    this.#browser = await launch({
      browser: 'firefox',
      executablePath: FIREFOX,
      headless: true,
      env: { ...env, PULSE_SERVER: `unix:${socket}` },
      extraPrefsFirefox: { 'media.autoplay.default': 0 },
      defaultViewport: SIZE,
    });
    return this.#browser.newPage();
  }

  async #startSound(socket: string, env: NodeJS.ProcessEnv): Promise<void> {
    const modules = [`module-native-protocol-unix socket=${socket} auth-anonymous=1`, 'module-null-sink'];
    const options = ['-n', '--daemonize=no', '--exit-idle-time=-1', '--use-pid-file=no'];
    this.#sound = spawn(PULSEAUDIO, [...options, ...modules.map((one) => `--load=${one}`)], { env, stdio: 'ignore' });
    while (!existsSync(socket)) {
      if (this.#sound.exitCode !== null) throw new Error('pulseaudio ended before there was a device.');
      await new Promise((again) => setTimeout(again, 20));
    }
  }

  async end(): Promise<void> {
    await this.#browser?.close();
    this.#sound?.kill();
    rmSync(this.#folder, { recursive: true, force: true, maxRetries: 5 });
  }
}
