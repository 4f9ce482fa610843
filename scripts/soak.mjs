import { existsSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureChromium, ensureInstalled, root } from './lib.mjs';

// Half an hour of a song of 64 tracks that rolls round a loop, is ridden and undone in a real browser: what its memory comes
// to. Every ten seconds, after a forced collection, the size of each process; at the end what the least size in each
// minute grew by after the fifth. `npm run soak -- 10` rolls for ten minutes. `SURE_HAND_SOAK=roll` only rolls.
const minutes = Number(process.argv[2] ?? 30);
const isRidden = process.env.SURE_HAND_SOAK !== 'roll';
const SETTLED_MIN = 5;
const MOST_MB_A_MINUTE = 1;
const EVERY_MS = 10_000;

await ensureInstalled();
await ensureChromium();
await ensureBuilt();
const { bigSong, start } = await import('./bench/bigSong.mjs');
const { barePage } = await import('./bench/barePage.mjs');
const { FLAGS } = await import('./bench/page.mjs');
const { pssByProcess } = await import('./bench/processes.mjs');
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

const data = join(root, '.tmp/soak');
if (!existsSync(join(data, 'demo-made'))) {
  rmSync(data, { recursive: true, force: true });
  console.log('Making the demo song, whose audio is borrowed …');
  (await start(data)).server.kill();
}
const id = await bigSong(data, { tracks: 64, length: 360, points: 200_000 });
const { server, address } = await start(data);
const page = await barePage(FLAGS);

/** Presses a key, with Ctrl where it is asked for. */
async function press(key, code, keyCode, ctrl = false) {
  for (const type of ['rawKeyDown', 'keyUp'])
    await page.send('Input.dispatchKeyEvent', {
      type,
      key,
      code,
      windowsVirtualKeyCode: keyCode,
      modifiers: ctrl ? 2 : 0,
    });
}

/** Rides the cap of the channel in hand: down, some seconds of moves, up. */
async function ride() {
  const { x, y } = await page.evaluate(`(() => {
    const row = document.querySelector('[data-testid=row-t0]').getBoundingClientRect();
    const lanes = document.querySelector('[data-testid=lanes]').getBoundingClientRect();
    return { x: lanes.left + (lanes.width - 14) / 3, y: row.top + row.height / 2 };
  })()`);
  const mouse = (type, dy) =>
    page.send('Input.dispatchMouseEvent', { type, x, y: y + dy, button: 'left', buttons: 1, clickCount: 1 });
  await mouse('mousePressed', 0);
  for (let i = 1; i <= 120; i++) {
    await mouse('mouseMoved', 12 * Math.sin(i / 9));
    await pause(16);
  }
  await mouse('mouseReleased', 0);
}

/** The sizes of all processes, in MB, once what is garbage is gone. */
async function sizes() {
  const heaps = await page.collect();
  const by = pssByProcess(page.pid);
  return { by, heaps, all: Object.values(by).reduce((a, b) => a + b, 0) };
}

try {
  await pause(1500);
  const blank = await sizes();
  await fetch(`${address}/api/songs/${id}/edits`, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ revision: 0, edit: { kind: 'settings', changes: { loop: [0, 355] } } }),
  });
  await page.goto(`${address}/songs/${id}/ride`);
  await page.until(`!!document.querySelector('[data-testid=lanes] canvas')`);
  await page.pressSpace();
  await page.until('sureHandProbe.heard() > 2');
  const began = performance.now();
  const least = [];
  let first = null;
  for (let k = 1; performance.now() - began < minutes * 60_000; k++) {
    await pause(Math.max(0, began + k * EVERY_MS - performance.now()));
    const { by, heaps, all } = await sizes();
    first ??= by;
    const kept = heaps.map(({ type, used, buffers }) => `${type} ${used.toFixed(1)} + ${buffers.toFixed(1)}`);
    const minute = Math.floor((performance.now() - began) / 60_000);
    least[minute] = Math.min(least[minute] ?? Infinity, all - blank.all);
    const parts = Object.entries(by).map(
      ([name, mb]) => `${name} ${mb.toFixed(1)} (${(mb - (first[name] ?? 0)).toFixed(1)})`,
    );
    console.log(
      `${((performance.now() - began) / 1000).toFixed(0)} s: ${(all - blank.all).toFixed(1)} MB; ${parts.join(', ')}; heaps and buffers: ${kept.join(', ')}`,
    );
    if (!isRidden || k % 3) continue;
    await ride();
    // Every other ride is stopped and taken back.
    if (k % 6) continue;
    await page.pressSpace();
    await pause(500);
    await press('z', 'KeyZ', 90, true);
    await pause(500);
    await page.pressSpace();
  }
  const whole = least.slice(0, Math.floor(minutes));
  console.log(`least in each minute: ${whole.map((mb) => mb.toFixed(1)).join(' ')} MB over a blank page`);
  const from = Math.min(SETTLED_MIN, whole.length - 2);
  const grew = (whole.at(-1) - whole[from]) / (whole.length - 1 - from);
  console.log(`from minute ${from + 1} on it grew by ${grew.toFixed(2)} MB a minute (at most ${MOST_MB_A_MINUTE})`);
  if (minutes >= 30 && grew >= MOST_MB_A_MINUTE) process.exitCode = 1;
} finally {
  await page.close();
  server.kill();
}
