import { spawn, type ChildProcess } from 'node:child_process';
import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { PassRecorder, passState, recoverPass, type HandEvent } from '@sure-hand/core/pass';
import { applyEdit, type Edit, type Song } from '@sure-hand/core/song';
import sqlite3 from 'sqlite3';
import type { OpenJournal } from './journals/journalLog.js';
import type { KeptAnswer, WholeSong } from './songs/songs.controller.js';
import { TestServer } from './test/testServer.js';

/** How often the server is killed: a few times with every test, a hundred times by `npm run harness`. */
const KILLS = Number(process.env.SURE_HAND_KILLS ?? 3);
const SEED = Number(process.env.SURE_HAND_SEED ?? 20261126);
const MAIN = join(dirname(fileURLToPath(import.meta.url)), '../dist/main.js');
const ID = 1;
/** Pieces of a ride come so often here: the kill falls among many of them. */
const PIECE_SEC = 0.25;

/** The same numbers every time (mulberry32). */
function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state + 0x6d2b79f5) | 0;
    let x = Math.imul(state ^ (state >>> 15), 1 | state);
    x = (x + Math.imul(x ^ (x >>> 7), 61 | x)) ^ x;
    return ((x ^ (x >>> 14)) >>> 0) / 4294967296;
  };
}

let data = '';
let server: ChildProcess | null = null;
let address = '';

/** Starts the built server as a process of its own, and waits until it listens. */
async function startServer(): Promise<void> {
  const env = { ...process.env, PORT: '0', HOST: '127.0.0.1', SURE_HAND_DATA: data };
  const started = spawn(process.execPath, [MAIN], { env });
  server = started;
  let said = '';
  address = await new Promise((found, fail) => {
    started.stdout.on('data', (chunk: Buffer) => {
      said += chunk.toString();
      const at = /Sure Hand is at (\S+)/.exec(said);
      if (at) found(at[1]!);
    });
    started.stderr.on('data', (chunk: Buffer) => (said += chunk.toString()));
    started.on('exit', () => fail(new Error(said)));
  });
}

async function killServer(): Promise<void> {
  const killed = server!;
  server = null;
  await new Promise((ended) => {
    killed.on('exit', ended);
    killed.kill('SIGKILL');
  });
}

async function ask<T>(
  path: string,
  body?: object,
  method = body ? 'POST' : 'GET',
): Promise<{ status: number; body: T }> {
  const init = body ? { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) } : {};
  const answer = await fetch(`${address}/api/songs/${ID}${path}`, { method, ...init });
  const text = await answer.text();
  return { status: answer.status, body: (text ? JSON.parse(text) : null) as T };
}

/** What the database says of itself. */
function soundness(): Promise<string> {
  return new Promise((done, fail) => {
    const db = new sqlite3.Database(
      join(data, 'sure-hand.sqlite'),
      sqlite3.OPEN_READWRITE,
      (error) => error && fail(error),
    );
    db.get('PRAGMA integrity_check', (error, row: { integrity_check: string }) => {
      if (error) fail(error);
      db.close(() => done(row?.integrity_check));
    });
  });
}

beforeAll(async () => {
  const maker = new TestServer();
  await maker.start();
  await maker.create();
  await maker.app.close();
  data = maker.data;
  writeFileSync(join(data, 'demo-made'), '');
});
afterAll(async () => {
  if (server) await killServer();
  rmSync(data, { recursive: true, force: true });
});

/** A page at work: what it has been told is kept, and what it does not know of. */
class Page {
  song!: Song;
  revision = 0;
  /** Sent, and not answered. */
  pending: { readonly edit: Edit; readonly key: string } | null = null;
  /** The open pass: what was sent of it, and how far it is known to be written down. */
  ride: { readonly key: string; sent: HandEvent[]; at: number; keptAt: number; keptEvents: number } | null = null;

  constructor(readonly chance: () => number) {}

  async open(): Promise<void> {
    const { body } = await ask<WholeSong>('');
    this.song = body.song;
    this.revision = body.revision;
  }

  async keep(edit: Edit, key: string): Promise<void> {
    this.pending = { edit, key };
    const { status, body } = await ask<{ revision: number; edit: Edit }>('/edits', {
      revision: this.revision,
      edit,
      key,
    });
    expect([status, body]).toEqual([201, expect.anything()]);
    this.revision = body.revision;
    this.song = applyEdit(this.song, body.edit).song;
    this.pending = null;
  }

  edit(): Edit {
    const pick = Math.floor(this.chance() * 4);
    const t = Math.round(this.chance() * 59e3) / 1e3;
    if (pick === 0) return { kind: 'mark', list: 'notes', remove: null, add: { t, text: `note ${this.revision}` } };
    if (pick === 1) return { kind: 'rest', values: { 'voice/pan': Math.round(200 * this.chance() - 100) / 100 } };
    if (pick === 2) return { kind: 'title', name: `Kept ${this.revision}` };
    return { kind: 'channel', channel: 'voice', changes: { solo: this.chance() < 0.5 } };
  }

  /** Rides for a while, writing down as it goes, and keeps the pass at its end. */
  async rideOnce(): Promise<void> {
    const key = crypto.randomUUID();
    const recorder = new PassRecorder(this.song);
    const from = 5 + this.chance() * 20;
    const ride = { key, sent: [] as HandEvent[], at: from, keptAt: -1, keptEvents: 0 };
    this.ride = ride;
    const began = passState(this.song);
    let fresh: HandEvent[] = [];
    const hand = (event: HandEvent): void => {
      recorder.handle(event);
      fresh.push(event);
    };
    hand({ do: 'play', from });
    hand({ do: 'touch', control: 'voice/level', t: from + 0.05 });
    const pieces = 3 + Math.floor(this.chance() * 8);
    for (let seq = 0; seq < pieces; seq++) {
      const to = ride.at + PIECE_SEC;
      for (let t = Math.max(ride.at, from + 0.06); t < to; t += 0.05)
        hand({ do: 'move', control: 'voice/level', value: -20 + 20 * this.chance(), t });
      ride.at = to;
      ride.sent.push(...fresh);
      const piece = { seq, events: fresh, at: to, ...(seq === 0 ? { began } : {}) };
      fresh = [];
      const { status } = await ask(`/journals/${key}`, piece, 'PUT');
      expect(status).toBe(204);
      ride.keptAt = to;
      ride.keptEvents = ride.sent.length;
    }
    const { edits } = recorder.handle({ do: 'stop', t: ride.at });
    await this.keep(edits[0]!, key);
    this.ride = null;
  }

  async work(): Promise<never> {
    for (;;) {
      if (this.chance() < 0.5) await this.rideOnce();
      else await this.keep(this.edit(), crypto.randomUUID());
    }
  }
}

/** After a kill: everything that was said to be kept is there; what was not answered is there whole, or not at all. */
async function expectNothingLost(page: Page): Promise<void> {
  const { body: now } = await ask<WholeSong>('');
  const { pending, ride } = page;
  const withPending = pending ? applyEdit(page.song, pending.edit).song : page.song;
  const isThere = now.revision > page.revision;
  expect(now.revision - page.revision).toBeLessThanOrEqual(pending ? 1 : 0);
  expect(now.song).toEqual(isThere ? withPending : page.song);
  // Sent again under its key, as the page does, it is kept exactly once.
  if (pending) {
    const before = { ...page };
    page.revision = now.revision;
    page.song = now.song;
    const { status, body } = await ask<KeptAnswer>('/edits', { revision: now.revision, ...pending });
    expect([status, body.isKnown ?? false, body.revision]).toEqual([201, isThere, before.revision + 1]);
    page.song = applyEdit(before.song, pending.edit).song;
    page.revision = body.revision;
    expect((await ask<WholeSong>('')).body.song).toEqual(page.song);
    page.pending = null;
    if (ride?.key === pending.key) page.ride = null;
  }
  await expectRideRecovered(page);
  await page.open();
}

/** An open pass is offered again, with all that was answered of it. */
async function expectRideRecovered(page: Page): Promise<void> {
  const { ride } = page;
  page.ride = null;
  if (!ride || ride.keptAt < 0) return;
  const journal = await leftJournal(ride.key);
  expect(journal.at).toBeGreaterThanOrEqual(ride.keptAt - 1e-9);
  expect(journal.events.length).toBeGreaterThanOrEqual(ride.keptEvents);
  expect(journal.events).toEqual(ride.sent.slice(0, journal.events.length));
  const recovered = recoverPass(page.song, journal)!;
  expect(recovered.receipt.to).toBeCloseTo(journal.at, 9);
  await page.open();
  await page.keep(recovered.pass, ride.key);
  // One whose first piece was never answered may still be there: nobody was told of it.
  expect((await ask<OpenJournal[]>('/journals')).body.filter((one) => one.key === ride.key)).toEqual([]);
}

/** The journal with a key, once it is known that nobody writes to it any more. */
async function leftJournal(key: string): Promise<OpenJournal> {
  for (;;) {
    const found = (await ask<OpenJournal[]>('/journals')).body.find((one) => one.key === key);
    if (found) return found;
    await new Promise((tick) => setTimeout(tick, 100));
  }
}

test(
  `the server is killed ${KILLS} times at random moments of rides and edits: it starts again, and nothing is lost`,
  async () => {
    expect(existsSync(MAIN)).toBe(true);
    const chance = random(SEED);
    const page = new Page(chance);
    await startServer();
    await page.open();
    let rides = 0;
    for (let kill = 0; kill < KILLS; kill++) {
      const cutOff = page.work().catch((error: Error) => {
        // Only a connection that was cut off ends the work: anything else is a finding.
        if (!/fetch failed|terminated|JSON/.test(error.message)) throw error;
      });
      await new Promise((tick) => setTimeout(tick, 20 + chance() * 300));
      await killServer();
      await cutOff;
      if (page.ride) rides++;
      expect(await soundness()).toBe('ok');
      await startServer();
      await expectNothingLost(page);
    }
    expect((await ask<WholeSong>('')).body.revision).toBeGreaterThan(KILLS);
    if (KILLS >= 100) expect(rides).toBeGreaterThan(KILLS / 10);
  },
  60_000 + KILLS * 10_000,
);
