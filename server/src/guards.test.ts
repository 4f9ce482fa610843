import 'reflect-metadata';
import { afterAll, beforeAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { linePoint } from '@sure-hand/core/curve';
import { PassRecorder, passState, type HandEvent } from '@sure-hand/core/pass';
import { versionsOf, type Edit } from '@sure-hand/core/edits';
import { QueryTypes } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import { LaneRow } from './database/models.js';
import type { LoggedPass, WholePass } from './passes/passLog.js';
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
beforeAll(async () => {
  server = new TestServer();
  await server.start();
});
afterAll(() => server.end());
beforeEach(async () => {
  id = await server.create(SONG);
});
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
  let rowsRead = (): void => undefined;
  let release = (): void => undefined;
  const areRead = new Promise<void>((read) => (rowsRead = read));
  const released = new Promise<void>((go) => (release = go));
  const slow = jest.spyOn(LaneRow, 'findAll').mockImplementationOnce((async (options: object) => {
    const rows = await findAll(options);
    rowsRead();
    await released;
    return rows;
  }) as never);
  const store = server.app.get(SongStore);
  const early = store.get(id);
  const title = store.edit(id, 0, { kind: 'title', name: 'Changed' });
  await areRead;
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

/** Songs, and an edit of each of them at once. */
async function manyEdits(): Promise<{ ids: number[]; before: number[]; answers: Promise<number | null>[] }> {
  const ids = [id];
  while (ids.length < 12) ids.push(await server.create(SONG));
  const before = await Promise.all(ids.map(revisionOf));
  const edit: Edit = { kind: 'rest', values: { 'voice/level': -20 } };
  const sent = (of: number, revision: number): Promise<number | null> =>
    server.ask(`/songs/${of}/edits`, { revision, edit }).then(
      ({ status }) => status,
      () => null,
    );
  return { ids, before, answers: ids.map((of, i) => sent(of, before[i]!)) };
}
const revisionOf = async (of: number): Promise<number> => (await server.ask<WholeSong>(`/songs/${of}`)).body.revision;

test('edits of a dozen songs at once are all kept, and so is what is written of their passes meanwhile', async () => {
  const { ids, before, answers } = await manyEdits();
  const piece = { seq: 0, began: passState((await song()).song), events: [{ do: 'play', from: 0 }], at: 0 };
  const journals = ids.map((of) => server.ask(`/songs/${of}/journals/pass-of-${of}`, piece, 'PUT'));
  expect(new Set(await Promise.all(answers))).toEqual(new Set([201]));
  expect(new Set((await Promise.all(journals)).map(({ status }) => status))).toEqual(new Set([204]));
  expect(await Promise.all(ids.map(revisionOf))).toEqual(before.map((revision) => revision + 1));
});

test('a server that is ended in the middle of edits answers those it has, and every one it answered is kept', async () => {
  const { ids, before, answers } = await manyEdits();
  while ((await Promise.race([...answers, turn()])) === undefined);
  await server.app.close();
  const statuses = await Promise.all(answers);
  await server.start();
  const kept = await Promise.all(ids.map(revisionOf));
  // Those that came too late were told so, or never got through.
  for (const status of statuses) expect([201, 503, null]).toContain(status);
  expect(statuses).toContain(201);
  for (const [i, status] of statuses.entries()) if (status === 201) expect(kept[i]).toBe(before[i]! + 1);
});

const turn = (): Promise<undefined> => new Promise((next) => setImmediate(() => next(undefined)));
