import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import WebSocket from 'ws';
import { CHROMIUM } from '../lib.mjs';

const NEAR = 100;
const pause = (ms) => new Promise((done) => setTimeout(done, ms));

/** Removes a browser’s profile: processes that it has left behind may still be writing there. */
async function removed(profile) {
  for (let tries = 0; ; tries++)
    try {
      return rmSync(profile, { recursive: true, force: true });
    } catch (error) {
      if (tries > 50) throw error;
      await pause(NEAR);
    }
}

/**
 * A page in a browser that is looked at as little as can be. The test runner's own way of watching keeps what a page
 * fetches, up to 200 MB of it: memory measured under it is not the page's.
 */
export async function barePage(flags) {
  const profile = mkdtempSync(join(tmpdir(), 'sure-hand-bare-'));
  const own = ['--headless', '--remote-debugging-port=0', '--window-size=1280,800', `--user-data-dir=${profile}`];
  const browser = spawn(CHROMIUM, [...own, ...flags, 'about:blank']);
  const port = await new Promise((found, fail) => {
    browser.stderr.on('data', (chunk) => {
      const at = /ws:\/\/127\.0\.0\.1:(\d+)/.exec(chunk.toString());
      if (at) found(at[1]);
    });
    browser.on('exit', () => fail(new Error('the browser did not start')));
  });
  const targets = await (await fetch(`http://127.0.0.1:${port}/json`)).json();
  const socket = new WebSocket(targets.find((target) => target.type === 'page').webSocketDebuggerUrl);
  await new Promise((opened) => socket.on('open', opened));
  const waiting = new Map();
  /** Threads of the page besides its main one, by the session in which each is spoken to. */
  const threads = new Map();
  socket.on('message', (text) => {
    const { id, method, params, result } = JSON.parse(text);
    if (method === 'Target.attachedToTarget') threads.set(params.sessionId, params.targetInfo.type);
    if (method === 'Target.detachedFromTarget') threads.delete(params.sessionId);
    waiting.get(id)?.(result);
    waiting.delete(id);
  });
  let last = 0;
  const send = (method, params = {}, sessionId) =>
    new Promise((answered) => {
      waiting.set(++last, answered);
      socket.send(JSON.stringify({ id: last, method, params, sessionId }));
    });
  const evaluate = async (expression) =>
    (await send('Runtime.evaluate', { expression, returnByValue: true })).result.value;
  /** A key goes down and up. `modifiers`: 1 for Alt, 8 for Shift, added up. */
  const press = async (key, code, windowsVirtualKeyCode, modifiers = 0) => {
    for (const type of ['keyDown', 'keyUp'])
      await send('Input.dispatchKeyEvent', { type, key, code, windowsVirtualKeyCode, modifiers });
  };
  return {
    pid: browser.pid,
    evaluate,
    send,
    goto: (url) => send('Page.navigate', { url }),
    /** Collects what is garbage in every thread of the page; gives back what each then keeps, in MB, buffers by themselves. */
    collect: async () => {
      await send('Target.setAutoAttach', { autoAttach: true, waitForDebuggerOnStart: false, flatten: true });
      const heaps = [];
      for (const [session, type] of [[undefined, 'page'], ...threads]) {
        await send('HeapProfiler.collectGarbage', {}, session);
        const heap = await send('Runtime.getHeapUsage', {}, session);
        if (heap)
          heaps.push({ type, used: heap.usedSize / 2 ** 20, buffers: (heap.backingStorageSize ?? 0) / 2 ** 20 });
      }
      return heaps;
    },
    until: async (expression) => {
      while (!(await evaluate(expression))) await pause(NEAR);
    },
    pressSpace: () => press(' ', 'Space', 32),
    press,
    close: async () => {
      socket.close();
      const gone = new Promise((ended) => browser.on('exit', ended));
      browser.kill();
      await gone;
      await removed(profile);
    },
  };
}
