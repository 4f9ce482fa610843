import { execFileSync, spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { setPriority } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');
export const CHROMIUM = '/usr/bin/chromium';
export const FFMPEG = '/usr/bin/ffmpeg';
const STAMP = join(root, '.build-stamp');

/** Runs a program of the project with its output shown; rejects where it fails. */
export function run(command, args, env = {}) {
  return new Promise((done, fail) => {
    const child = spawn(command, args, { cwd: root, stdio: 'inherit', env: { ...process.env, ...env } });
    child.on('error', fail);
    child.on('exit', (code) => (code === 0 ? done() : fail(new Error(`${command} ${args.join(' ')} failed`))));
  });
}

const bin = (name) => join(root, 'node_modules/.bin', name);
export const tool = (name, args, env) => run(bin(name), args, env);

/** Runs a program of the project in what others leave of the machine; what it says is shown in one piece, once it has ended. */
export async function toolBeside(name, args, env = {}) {
  const child = spawn(bin(name), args, {
    cwd: root,
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, ...env },
  });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (bytes) => said.push(bytes));
  const code = await new Promise((done, fail) => {
    child.on('error', fail);
    child.on('close', done);
    // What it starts itself is as modest as it is. Any more so, and a core that is kept busy by others leaves it next to nothing.
    if (child.pid) setPriority(child.pid, 5);
  });
  process.stdout.write(Buffer.concat(said));
  if (code !== 0) throw new Error(`${name} ${args.join(' ')} failed`);
}

/** What the lock file says, in short. */
const lockPrint = (lock) => createHash('sha256').update(readFileSync(lock)).digest('hex');

/** Installs the packages where they are missing or the lock file says something else than when they were. */
export async function ensureInstalled() {
  const installed = existsSync(join(root, 'node_modules/.package-lock.json'));
  const lock = join(root, 'package-lock.json');
  const stamp = join(root, 'node_modules/.installed-of');
  if (installed && (!existsSync(lock) || (existsSync(stamp) && readFileSync(stamp, 'utf8') === lockPrint(lock))))
    return;
  // Installed by hand before this script ever ran: nothing is newer than it.
  const isByHand =
    installed &&
    !existsSync(stamp) &&
    statSync(join(root, 'node_modules/.package-lock.json')).mtimeMs >= statSync(lock).mtimeMs;
  if (!isByHand) {
    console.log('Installing packages. The database driver is compiled on the way: this takes about 4 minutes, once.');
    await run('npm', [existsSync(lock) ? 'ci' : 'install', '--no-audit', '--no-fund']);
  }
  if (existsSync(lock)) writeFileSync(stamp, lockPrint(lock));
}

function newest(folder) {
  let latest = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'dist-types'].includes(entry.name)) continue;
    const path = join(folder, entry.name);
    latest = Math.max(latest, entry.isDirectory() ? newest(path) : statSync(path).mtimeMs);
  }
  return latest;
}

/** When anything that is built was last changed, as text. */
function sourceStamp() {
  const folders = ['core/src', 'audio-files/src', 'demo-song/src', 'server/src', 'cli/src', 'web/src', 'web/public'];
  const files = [
    ...['package-lock.json', 'tsconfig.base.json', 'server/threads.config.mjs'],
    ...['web/vite.config.ts', 'web/index.html'],
  ];
  const times = [
    ...folders.map((f) => newest(join(root, f))),
    ...files.map((f) => (existsSync(join(root, f)) ? statSync(join(root, f)).mtimeMs : 0)),
  ];
  return String(Math.max(...times));
}

/** Builds everything where a source is newer than the last build. */
export async function ensureBuilt({ web = true } = {}) {
  const stamp = `${sourceStamp()} ${web}`;
  const made = ['server/dist/main.js', 'server/dist-threads', ...(web ? ['web/dist/index.html'] : [])].every((path) =>
    existsSync(join(root, path)),
  );
  const kept = existsSync(STAMP) ? readFileSync(STAMP, 'utf8') : '';
  if (made && (kept === stamp || kept === `${sourceStamp()} true`)) return;
  console.log('Building core, demo song, server and command line …');
  await tool('tsc', ['-b']);
  await tool('vite', ['build', '-c', 'server/threads.config.mjs', '--logLevel', 'warn']);
  if (web) {
    console.log('Building the interface …');
    await tool('vite', ['build', 'web', '--logLevel', 'warn']);
  }
  writeFileSync(STAMP, stamp);
}

async function ensureDebian(path, name, why) {
  if (existsSync(path)) return;
  console.log(`Installing Debian’s ${name} ${why} …`);
  await run('apt-get', ['update', '-q']);
  await run('apt-get', ['install', '-y', '-q', name], { DEBIAN_FRONTEND: 'noninteractive' });
}
/** Installs Debian's Chromium where it is missing: the browser tests and the bench drive it. */
export const ensureChromium = () => ensureDebian(CHROMIUM, 'chromium', 'for the browser tests');
/** Installs Debian's Firefox, and a sound device that is none, where they are missing: the harness alone drives it. */
export async function ensureFirefox() {
  await ensureDebian('/usr/bin/firefox-esr', 'firefox-esr', 'for the walk in another browser');
  await ensureDebian('/usr/bin/pulseaudio', 'pulseaudio', 'for a sound device of that browser');
}
/** Installs Debian's ffmpeg where it is missing: the bench alone compares with it. */
export const ensureFfmpeg = () => ensureDebian(FFMPEG, 'ffmpeg', 'for the bench');

export const nodeVersion = () => execFileSync(process.execPath, ['--version']).toString().trim();
