import { existsSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { PACKED_TYPE } from '@sure-hand/core/formats';
import { PassRecorder, passState, recoverPass, type HandEvent } from '@sure-hand/core/pass';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import sqlite3 from 'sqlite3';
import type { StagedStem } from './imports/stagedStems.js';
import type { Job } from './jobs/jobBoard.js';
import type { OpenJournal } from './journals/journalLog.js';
import type { KeptAnswer, ListedSong, WholeSong } from './songs/songs.controller.js';
import { seeded } from './test/seeded.js';
import { ServerProcess } from './test/serverProcess.js';
import { TestServer, answered } from './test/testServer.js';
import { toneWav } from './test/toneWav.js';

/** How often the server is killed: once with every test, a hundred times by `npm run harness`. */
const KILLS = Number(process.env.SURE_HAND_KILLS ?? 1);
const SEED = Number(process.env.SURE_HAND_SEED ?? 20261126);
const ID = 1;
/** Pieces of a ride come so often here: the kill falls among many of them. */
const PIECE_SEC = 0.25;

let data = '';
let server: ServerProcess;

type Answer<T> = { readonly status: number; readonly body: T };
async function api<T>(path: string, body?: object, method = body ? 'POST' : 'GET'): Promise<Answer<T>> {
  const isBytes = body instanceof Uint8Array;
  const sent = isBytes ? new Blob([new Uint8Array(body)]) : JSON.stringify(body);
  const headers = { Accept: PACKED_TYPE, ...(body && !isBytes ? { 'Content-Type': 'application/json' } : {}) };
  const answer = await fetch(`${server.address}/api${path}`, { method, headers, ...(body ? { body: sent } : {}) });
  return { status: answer.status, body: (await answered(answer)) as T };
}
const ask = <T>(path: string, body?: object, method?: string): Promise<Answer<T>> =>
  api<T>(`/songs/${ID}${path}`, body, method);

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
  server = new ServerProcess(data);
  writeFileSync(join(data, 'demo-made'), '');
});
afterAll(async () => {
  await server.kill();
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

/** A stem of half a second, at another rate than the song it goes into: it has to be converted. */
const stem = (): Uint8Array => toneWav({ sec: 0.5, rate: 44100, format: 'int24' });

/** Somebody who makes songs of stems, opens zips, copies, removes and brings back, without end. */
class Maker {
  /** Songs as it was told they are: in the list, or removed. */
  readonly listed = new Map<number, boolean>();
  /** The one whose removal or return is not answered. */
  unsure: number | null = null;
  zip = new Uint8Array();

  constructor(readonly chance: () => number) {}

  async ofStems(): Promise<number> {
    const { id } = (await api<{ id: string }>('/imports', {})).body;
    const path = `/imports/${id}/stems?name=voice.wav`;
    const stems = [await api<StagedStem>(path, stem(), 'PUT'), await api<StagedStem>(path, stem(), 'PUT')];
    const tracks = stems.map(({ body }) => ({ stem: body.id, name: 'Voice', family: 'Voices' }));
    const asked = { name: 'Made', sampleRate: 48000, bpm: 100, beats: 4, unit: 4, tracks };
    return this.#made((await api<Job>(`/imports/${id}/song`, asked)).body);
  }

  async #made(begun: Job): Promise<number> {
    for (;;) {
      const { body } = await api<Job>(`/jobs/${begun.id}`);
      if (body.state === 'working') await new Promise((tick) => setTimeout(tick, 10));
      else {
        expect([body.state, body.sentence]).toEqual(['done', null]);
        return body.songId!;
      }
    }
  }

  async removeOrBringBack(): Promise<void> {
    const all = [...this.listed];
    const [id, isListed] = all[Math.floor(this.chance() * all.length)]!;
    this.unsure = id;
    if (isListed) await api(`/songs/${id}`, undefined, 'DELETE');
    else await api(`/songs/${id}/restore`, {});
    this.listed.set(id, !isListed);
    this.unsure = null;
  }

  async work(): Promise<never> {
    for (;;) {
      const pick = this.chance();
      if (pick < 0.3) this.listed.set(await this.ofStems(), true);
      else if (pick < 0.55)
        this.listed.set(await this.#made((await api<Job>('/songs/zip?name=made.zip', this.zip)).body), true);
      else if (pick < 0.8) {
        const [from] = this.listed.keys();
        this.listed.set((await api<{ id: number }>(`/songs/${from}/duplicate`, {})).body.id, true);
      } else await this.removeOrBringBack();
    }
  }

  /** After a kill: each song is there with all its audio, or not at all; nothing lies about that belongs to none. */
  async expectWhole(): Promise<void> {
    const inList = new Set((await api<ListedSong[]>('/songs')).body.map(({ id }) => id));
    for (const [id, isListed] of this.listed)
      if (id !== this.unsure) expect([id, inList.has(id)]).toEqual([id, isListed]);
    if (this.unsure !== null) this.listed.set(this.unsure, inList.has(this.unsure));
    this.unsure = null;
    for (const id of inList) {
      if (id === ID) continue;
      const { song, files } = (await api<WholeSong>(`/songs/${id}`)).body;
      expect(song.channels.flatMap(({ clips }) => clips)).toHaveLength(2);
      expect(Object.values(files)).toEqual([{ info: expect.anything() }, { info: expect.anything() }]);
      this.listed.set(id, true);
    }
    const folders = readdirSync(join(data, 'songs'));
    for (const name of folders) expect([name, (await api(`/songs/${name}`)).status]).toEqual([name, 200]);
    expect(existsSync(join(data, 'staging')) ? readdirSync(join(data, 'staging')) : []).toEqual([]);
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
  `the server is killed ${KILLS} times at random moments of rides, edits and songs in the making: it starts again, and nothing is lost or half made`,
  async () => {
    const chance = seeded(SEED);
    const page = new Page(chance);
    await server.start();
    await page.open();
    const maker = new Maker(seeded(SEED + 1));
    const first = await maker.ofStems();
    maker.listed.set(first, true);
    maker.zip = new Uint8Array(await (await fetch(`${server.address}/api/songs/${first}/zip`)).arrayBuffer());
    let rides = 0;
    // On a slow machine a kill may come before anything is done: a few more are made until enough was.
    const isEnough = (): boolean => page.revision > KILLS / 4 && maker.listed.size > 1 + KILLS / 4;
    for (let kill = 0; kill < KILLS || (kill < 4 * KILLS && !isEnough()); kill++) {
      // Only a connection that was cut off ends the work: anything else is a finding.
      const cutOff = Promise.all(
        [page.work(), maker.work()].map((work) =>
          work.catch((error: Error) => {
            if (!/fetch failed|terminated|JSON/.test(error.message)) throw error;
          }),
        ),
      );
      await new Promise((tick) => setTimeout(tick, 20 + chance() * 600));
      await server.kill();
      await cutOff;
      if (page.ride) rides++;
      expect(await soundness()).toBe('ok');
      await server.start();
      await expectNothingLost(page);
      await maker.expectWhole();
    }
    expect((await ask<WholeSong>('')).body.revision).toBeGreaterThan(KILLS / 4);
    // Of a few kills on a busy machine each may come before anything is made.
    if (KILLS < 100) return;
    expect(maker.listed.size).toBeGreaterThan(1 + KILLS / 4);
    expect(rides).toBeGreaterThan(KILLS / 10);
  },
  300_000 + 4 * KILLS * 10_000,
);
