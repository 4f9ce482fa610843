import 'reflect-metadata';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { linePoint } from '@sure-hand/core/curve';
import { PassRecorder, type HandEvent } from '@sure-hand/core/pass';
import { versionsOf, type Edit } from '@sure-hand/core/edits';
import { QueryTypes } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import { LaneRow } from './database/models.js';
import type { LoggedPass, WholePass } from './passes/passLog.js';
import { startServer } from './server.js';
import type { KeptAnswer, WholeSong } from './songs/songs.controller.js';
import { SongStore } from './songs/songStore.js';
import { TestServer } from './test/testServer.js';

const SONG = {
  format: 'sure-hand-song',
  version: 1,
  name: 'Guarded',
  length: 12,
  settings: { thin: 0 },
  channels: [
    { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' },
    { key: 'fiddle', kind: 'track', name: 'Fiddle', mode: 'latch' },
  ],
  lanes: { 'voice/level': { rest: -6, points: [{ t: 0, v: -6 }] } },
};
const LEVEL = 'voice/level';

let server: TestServer;
let id: number;
beforeEach(async () => {
  server = new TestServer();
  await server.start();
  id = await server.create(SONG);
});
afterEach(() => server.end());
const ask = <T>(path: string, body?: object, method?: string): Promise<{ status: number; body: T }> =>
  server.ask<T>(`/songs/${id}${path}`, body, method);
const song = async (): Promise<WholeSong> => (await ask<WholeSong>('')).body;
const send = async (edit: unknown, key?: string): Promise<{ status: number; body: KeptAnswer }> =>
  ask<KeptAnswer>('/edits', { revision: (await song()).revision, edit, ...(key ? { key } : {}) });
const safe = (control: string, on: boolean): Edit => ({ kind: 'guard', control, changes: { safe: on } });

/** A ride of both levels, from 4 s to 8 s, as a page makes it that does not know what others do meanwhile. */
async function ridden(more: readonly HandEvent[] = []): Promise<Edit & { kind: 'pass' }> {
  const recorder = new PassRecorder((await song()).song);
  const events: HandEvent[] = [
    { do: 'play', from: 3 },
    ...[LEVEL, 'fiddle/level'].flatMap((control): HandEvent[] => [
      { t: 4, do: 'touch', control },
      { t: 4, do: 'move', control, value: 2 },
    ]),
    ...more,
    { t: 8, do: 'stop' },
  ];
  return events.flatMap((event) => recorder.handle(event).edits).find((edit) => edit.kind === 'pass') as never;
}

describe('a pass that did not know of a guard', () => {
  test('leaves that lane alone and names it; what was ridden is in the log, and is brought back once the guard is off', async () => {
    const pass = await ridden();
    await send(safe(LEVEL, true));
    const { status, body } = await send(pass, 'page-1');
    expect([status, body.refused, body.passNumber]).toEqual([201, [{ control: LEVEL, reason: 'safe' }], 1]);
    const after = await song();
    expect([...after.song.lanes[LEVEL]!.points]).toEqual([linePoint(0, -6)]);
    expect(after.song.lanes['fiddle/level']!.points.length).toBeGreaterThan(1);
    const { lanes, left } = (await ask<WholePass>('/passes/1')).body;
    expect(left).toEqual([{ control: LEVEL, reason: 'safe' }]);
    const alone = lanes.filter(({ control }) => control === LEVEL);
    expect([...alone[0]!.after].some((p) => p.v === 2)).toBe(true);
    await send(safe(LEVEL, false));
    await send({ kind: 'bringBack', pass: 1, side: 'after', versions: versionsOf(alone, 'after', null) });
    expect((await song()).song.lanes[LEVEL]!.points).toEqual(alone[0]!.after);
  });

  test('on any of its lanes is in the log all the same, once, however often its answer is lost', async () => {
    const pass = await ridden();
    for (const control of [LEVEL, 'fiddle/level']) await send(safe(control, true));
    const before = await song();
    expect((await send(pass, 'page-1')).body).toMatchObject({ revision: before.revision, passNumber: 1 });
    expect((await send(pass, 'page-1')).body).toMatchObject({ isKnown: true, passNumber: 1 });
    expect((await song()).song).toEqual(before.song);
    const { body } = await ask<LoggedPass[]>('/passes');
    expect(body.map(({ number, left }) => [number, left.length])).toEqual([[1, 2]]);
    expect((await song()).history).toMatchObject({ undo: null, redo: null });
  });

  test('which it heeded is kept as it is, though the guard is on by then', async () => {
    const pass = await ridden([{ t: 6, do: 'safe', control: LEVEL, on: true }]);
    await send(safe(LEVEL, true));
    expect((await send(pass)).body.refused).toEqual([]);
    const { points } = (await song()).song.lanes[LEVEL]!;
    expect(points.at(-1)).toMatchObject({ t: 6, v: -6 });
    // Taken back it is refused whole, and doing it again likewise: the lane is guarded now.
    expect((await ask('/undo', { revision: (await song()).revision })).status).toBe(422);
  });
});

test('a slow reading that began before a change was kept puts no older song after it', async () => {
  await server.restart();
  const findAll = LaneRow.findAll.bind(LaneRow) as (options?: object) => Promise<LaneRow[]>;
  let release = (): void => undefined;
  const slow = jest.spyOn(LaneRow, 'findAll').mockImplementationOnce((async (options: object) => {
    const rows = await findAll(options);
    await new Promise<void>((go) => (release = go));
    return rows;
  }) as never);
  const store = server.app.get(SongStore);
  const early = store.get(id);
  const title = store.edit(id, 0, { kind: 'title', name: 'Changed' });
  await new Promise((tick) => setTimeout(tick, 50));
  release();
  await Promise.all([early, title]);
  slow.mockRestore();
  expect(await song()).toMatchObject({ revision: 1, song: { name: 'Changed' } });
  expect((await send({ kind: 'title', name: 'Again' })).status).toBe(201);
});

test('every connection waits for a busy database, those of transactions too', async () => {
  const sequelize = server.app.get(Sequelize);
  const ask = async (pragma: string): Promise<unknown> =>
    sequelize.transaction(async (transaction) => {
      const rows = await sequelize.query(`PRAGMA ${pragma}`, { transaction, type: QueryTypes.SELECT });
      return Object.values(rows[0]!)[0];
    });
  expect(await ask('busy_timeout')).toBe(4000);
  expect(await ask('synchronous')).toBe(2);
  expect(await ask('foreign_keys')).toBe(1);
});

test('a start throws away what an earlier one left half made, and nothing that belongs to a song', async () => {
  const folder = (name: string | number): string => join(server.data, 'songs', String(name));
  for (const name of [id, 99, 'making-x']) {
    mkdirSync(folder(name), { recursive: true });
    writeFileSync(join(folder(name), 'voice.wav'), '');
  }
  writeFileSync(join(server.data, 'demo-made'), '');
  await server.app.close();
  const settings = { host: '127.0.0.1', port: 0, dataFolder: server.data, webFolder: null };
  const running = await startServer(settings, { demo: 'short', say: () => undefined });
  expect([id, 99, 'making-x'].map((name) => existsSync(folder(name)))).toEqual([true, false, false]);
  await running.close();
  await server.start();
});
