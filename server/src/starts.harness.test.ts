import { execFileSync } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import sqlite3 from 'sqlite3';
import type { StagedStem } from './imports/stagedStems.js';
import type { Job } from './jobs/jobBoard.js';
import type { KeptAnswer, ListedSong, WholeSong } from './songs/songs.controller.js';
import { endedJob } from './test/endedJob.js';
import { seeded } from './test/seeded.js';
import { ServerProcess } from './test/serverProcess.js';
import { toneWav } from './test/toneWav.js';

/** How often starts are killed: once with every test, a hundred times by `npm run harness`. */
const KILLS = Number(process.env.SURE_HAND_KILLS ?? 1);
/** So long a test of them may take, in ms. */
const TIME = 300_000 + KILLS * 30_000;
const SEED = Number(process.env.SURE_HAND_SEED ?? 20261201);

/** Folders that earlier versions of this program left behind, each by the last version of its database. */
const OLDER = join(dirname(fileURLToPath(import.meta.url)), 'test/folders');
const versions = readdirSync(OLDER).map((file) => basename(file, '.sql'));

/** What takes long is gone through by `npm run harness` alone. */
const whole = process.env.SURE_HAND_ALL ? test : test.skip;

let data = '';
let server: ServerProcess;
beforeEach(() => {
  data = mkdtempSync(join(tmpdir(), 'sure-hand-starts-'));
  server = new ServerProcess(data);
});
afterEach(async () => {
  await server.kill();
  rmSync(data, { recursive: true, force: true });
});

async function ask<T>(path: string, body?: object): Promise<{ readonly status: number; readonly body: T }> {
  const isBytes = body instanceof Uint8Array;
  const sent = isBytes ? new Blob([new Uint8Array(body)]) : JSON.stringify(body);
  const headers = body && !isBytes ? { 'Content-Type': 'application/json' } : {};
  const method = isBytes ? 'PUT' : body ? 'POST' : 'GET';
  const answer = await fetch(`${server.address}/api${path}`, { method, headers, ...(body ? { body: sent } : {}) });
  const text = await answer.text();
  return { status: answer.status, body: (text ? JSON.parse(text) : null) as T };
}
const ended = (job: Job): Promise<Job> => endedJob((path) => ask<Job>(path), job);

/** Lays a folder out as an earlier version left it: with its database, its song's recording, and the demo made. */
async function layOut(version: string): Promise<void> {
  mkdirSync(join(data, 'songs', '1'), { recursive: true });
  writeFileSync(join(data, 'songs', '1', 'voice.wav'), toneWav({ sec: 1 }));
  writeFileSync(join(data, 'demo-made'), '');
  const db = new sqlite3.Database(join(data, 'sure-hand.sqlite'));
  const sql = readFileSync(join(OLDER, `${version}.sql`), 'utf8');
  await new Promise<void>((done, fail) => db.exec(sql, (error) => (error ? fail(error) : done())));
  await new Promise((done) => db.close(done));
}

/** Everything an earlier version kept is there, and its undo takes back what it took back then. */
async function expectWhole(): Promise<void> {
  const { body } = await ask<WholeSong>('/songs/1');
  expect(body).toMatchObject({ revision: 4, song: { name: 'Kept', inventor: 'unknown fields stay' }, lastPass: 1 });
  expect(body.files['voice.wav']).toHaveProperty('info');
  const points = body.song.lanes['voice/level']!.points as unknown as { t: number; v: number }[];
  expect(points.map(({ t }) => t)).toEqual([1, 2, 2, 3, 3, 4]);
  expect([points[2]!.v, body.song.lanes['voice/pan']!.rest]).toEqual([1.5, 0.25]);
  expect(body.history).toMatchObject({ undo: 'Pass 1: Voice level', redo: 'Rest of Voice pan' });
  const again = await ask<KeptAnswer>('/songs/1/redo', { revision: 4 });
  const back = await ask<KeptAnswer>('/songs/1/undo', { revision: 5 });
  const pass = await ask<KeptAnswer>('/songs/1/undo', { revision: 6 });
  expect([again, back, pass].map(({ status }) => status)).toEqual([200, 200, 200]);
  const { song } = (await ask<WholeSong>('/songs/1')).body;
  expect((song.lanes['voice/level']!.points as unknown as { t: number }[]).map(({ t }) => t)).toEqual([1, 4]);
  expect(existsSync(join(data, 'lost'))).toBe(false);
}

/** Kills a start at a moment of its first second; it may have come up before. */
async function killStart(afterMs: number): Promise<void> {
  const started = server.start().catch((error: Error) => error);
  await new Promise((tick) => setTimeout(tick, afterMs));
  await server.kill();
  await started;
}

test(
  `a start on the folder of any earlier version is killed ${KILLS} times: the next one has all of it, and a copy as it was`,
  async () => {
    const chance = seeded(SEED);
    for (let kill = 0; kill < KILLS;) {
      const version = versions[Math.floor(chance() * versions.length)]!;
      rmSync(data, { recursive: true, force: true });
      await layOut(version);
      for (let times = 1 + Math.floor(3 * chance()); times > 0; times--, kill++) await killStart(200 + 900 * chance());
      await server.start();
      await expectWhole();
      await server.kill();
      const copies = readdirSync(join(data, 'before-upgrade'));
      expect([version, copies.filter((name) => name.startsWith(version)).length > 0]).toEqual([version, true]);
      expect(copies.filter((name) => name.endsWith('.part'))).toEqual([]);
      // The copy is a folder as it was: a start brings that up to date as well.
      const copy = join(
        data,
        'before-upgrade',
        copies.find((name) => name.startsWith(version))!,
      );
      const again = mkdtempSync(join(tmpdir(), 'sure-hand-again-'));
      cpSync(copy, again, { recursive: true });
      rmSync(data, { recursive: true, force: true });
      data = again;
      server = new ServerProcess(data);
      await server.start();
      await expectWhole();
      await server.kill();
    }
  },
  TIME,
);

whole(
  `a first start is killed ${KILLS} times: the next makes one demo song, and leaves nothing about`,
  async () => {
    const chance = seeded(SEED + 1);
    process.env.SURE_HAND_DEMO = 'short';
    let wanted: object | null = null;
    for (let kill = 0; kill < KILLS;) {
      for (const name of readdirSync(data)) rmSync(join(data, name), { recursive: true, force: true });
      for (let times = 1 + Math.floor(3 * chance()); times > 0; times--, kill++) await killStart(200 + 4000 * chance());
      await server.start();
      const { body } = await ask<ListedSong[]>('/songs');
      const { id, changed: _at, ...song } = body[0]!;
      wanted ??= song;
      expect([body.length, song]).toEqual([1, wanted]);
      expect(existsSync(join(data, 'demo-made'))).toBe(true);
      const { files } = (await ask<WholeSong>(`/songs/${id}`)).body;
      for (const file of Object.values(files)) expect(file).toHaveProperty('info');
      expect(readdirSync(join(data, 'songs'))).toEqual([String(id)]);
      expect(existsSync(join(data, 'lost'))).toBe(false);
      await server.kill();
    }
  },
  TIME,
);

test(
  'of two starts at one moment one works on the folder; the other says who has it, and touches nothing',
  async () => {
    writeFileSync(join(data, 'demo-made'), '');
    for (let round = 0; round < Math.min(10, KILLS); round++) {
      const all = [new ServerProcess(data), new ServerProcess(data)];
      const ends = await Promise.allSettled(all.map((one) => one.start()));
      expect(ends.map(({ status }) => status).sort()).toEqual(['fulfilled', 'rejected']);
      const [refused] = ends.flatMap((end) => (end.status === 'rejected' ? [String(end.reason)] : []));
      expect(refused).toMatch(/is running on the data folder .* \(process \d+\)/);
      server = all[ends.findIndex(({ status }) => status === 'fulfilled')]!;
      expect((await ask<ListedSong[]>('/songs')).body).toEqual([]);
      // One that was killed holds nothing any more.
      await server.kill();
    }
  },
  TIME,
);

/** A disk of its own can be had by root alone. */
const smallDisk = (mb: number): string | null => {
  const at = mkdtempSync(join(tmpdir(), 'sure-hand-disk-'));
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${mb}m`, 'tmpfs', at], { stdio: 'ignore' });
    return at;
  } catch {
    rmSync(at, { recursive: true, force: true });
    return null;
  }
};
const disk = smallDisk(20);

(disk ? whole : test.skip)(
  'a disk of 20 MB fills: what is refused says so, all that was kept is there, and it goes on once there is room',
  async () => {
    server = new ServerProcess(disk!);
    try {
      writeFileSync(join(disk!, 'demo-made'), '');
      await server.start();
      const stage = async (
        sec: number,
      ): Promise<{ id: string; status: number; stem: StagedStem & { sentence: string } }> => {
        // Made before anything is asked: a connection that waits for it is given up.
        const bytes = toneWav({ sec });
        const { id } = (await ask<{ id: string }>('/imports', {})).body;
        const { status, body } = await ask<StagedStem & { sentence: string }>(
          `/imports/${id}/stems?name=voice.wav`,
          bytes,
        );
        return { id, status, stem: body };
      };
      const song = async (sec: number): Promise<Job> => {
        const { id, stem } = await stage(sec);
        const tracks = [{ stem: stem.id, name: 'Voice', family: 'Voices' }];
        const asked = { name: 'Kept', sampleRate: 48000, bpm: 100, beats: 4, unit: 4, tracks };
        return ended((await ask<Job>(`/imports/${id}/song`, asked)).body);
      };
      const { songId } = await song(10);
      // An upload of more than there is, and a song whose audio has no room beside its upload.
      expect(await stage(300)).toMatchObject({
        status: 507,
        stem: { sentence: expect.stringMatching(/disk .* is full/) },
      });
      const filler = join(disk!, 'filler');
      writeFileSync(filler, Buffer.alloc(12e6));
      const failed = await song(45);
      expect(failed).toMatchObject({ state: 'failed', sentence: expect.stringMatching(/disk .* is full/) });
      expect(readdirSync(join(disk!, 'songs'))).toEqual([String(songId)]);
      // Edits until there is no room at all.
      const before = (await ask<WholeSong>(`/songs/${songId}`)).body;
      let { revision } = before;
      const points = Array.from({ length: 20_000 }, (_, i) => ({ t: i / 2000, v: -6 - (i % 7) }));
      const big = { kind: 'points', control: 'voice/level', remove: [], add: points };
      const small = { kind: 'rest', values: { 'voice/pan': 0.5 } };
      execFileSync('sh', ['-c', `cat /dev/zero > "${filler}" 2>/dev/null || true`]);
      const full = await ask<{ sentence: string }>(`/songs/${songId}/edits`, { revision, edit: big, key: 'big' });
      expect(full).toMatchObject({
        status: 507,
        body: { sentence: expect.stringMatching(/disk .* is full.*Make room there/) },
      });
      expect((await ask<WholeSong>(`/songs/${songId}`)).body).toEqual(before);
      rmSync(filler);
      expect((await ask(`/songs/${songId}/edits`, { revision, edit: big, key: 'big' })).status).toBe(201);
      expect((await ask(`/songs/${songId}/edits`, { revision: ++revision, edit: small })).status).toBe(201);
      // And over a restart, killed on a full disk.
      execFileSync('sh', ['-c', `cat /dev/zero > "${filler}" 2>/dev/null || true`]);
      await ask(`/songs/${songId}/edits`, { revision: ++revision, edit: { ...small, values: { 'voice/pan': -0.5 } } });
      await server.kill();
      rmSync(filler);
      await server.start();
      const now = (await ask<WholeSong>(`/songs/${songId}`)).body;
      expect(now.song.lanes['voice/level']!.points).toHaveLength(20_000);
      expect(now.files).toEqual(before.files);
    } finally {
      await server.kill();
      execFileSync('umount', [disk!]);
      rmSync(disk!, { recursive: true, force: true });
    }
  },
);
