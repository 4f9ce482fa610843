import 'reflect-metadata';
import { afterEach, beforeEach, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, SHAPES, linePoint } from '@sure-hand/core/curve';
import { QueryTypes } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import type { KeptAnswer, WholeSong } from '../songs/songs.controller.js';
import type { WholePass } from '../passes/passLog.js';
import { SongStore } from '../songs/songStore.js';
import { TestServer } from '../test/testServer.js';
import { runs } from '../../../core/src/test/runs.js';
import { CurveStore, blobNaming } from './curveStore.js';

let server: TestServer;
let id = 0;
beforeEach(async () => {
  server = new TestServer();
  await server.start();
  id = await server.create();
});
afterEach(() => server.end());

const sizes = async (): Promise<{ curves: number; bytes: number }> => {
  const db = server.app.get(Sequelize);
  const [row] = await db.query<{ curves: number; bytes: number | null }>(
    'SELECT COUNT(*) AS curves, SUM(LENGTH(bytes)) AS bytes FROM curves',
    { type: QueryTypes.SELECT },
  );
  return { curves: row!.curves, bytes: row!.bytes ?? 0 };
};

const curves = fc.array(
  fc.record({
    v: fc.constantFrom(-6, -3.5, 0, -0),
    shape: fc.constantFrom(...SHAPES),
    bend: fc.constantFrom(0, 0.5),
    step: fc.boolean(),
  }),
  { minLength: 1, maxLength: 90, size: 'max' },
);
const curveOf = (drawn: readonly { v: number; shape: (typeof SHAPES)[number]; bend: number; step: boolean }[]): Curve =>
  Curve.of(
    drawn.map(({ step: _step, ...p }, i) => ({ ...p, t: i - (drawn[i - 1]?.step && !drawn[i - 2]?.step ? 1 : 0) })),
  );

test('a document comes back as it went: curves that are kept, stretches of them with other ends, and curves of its own', async () => {
  const store = server.app.get(CurveStore);
  const db = server.app.get(Sequelize);
  let named = 0;
  await fc.assert(
    fc.asyncProperty(curves, curves, fc.nat(20), fc.nat(20), fc.boolean(), async (a, b, from, less, isCut) => {
      const [one, other] = [curveOf(a), curveOf(b)];
      const stretch = Curve.of(
        [...one.slice(from, one.length - less)].map((p, i) => (isCut && i === 0 ? { ...p, v: -1 } : p)),
      );
      const kept = await db.transaction((transaction) => store.put(id, [one, other], transaction));
      const document = { kind: 'x', curve: one, list: [{ curve: stretch }, { curve: other, more: [Curve.EMPTY] }] };
      const blob = blobNaming(document, kept);
      const [back] = await store.open([blob]);
      expect(JSON.parse(JSON.stringify(back))).toEqual(JSON.parse(JSON.stringify(document)));
      if (stretch.length > 40 && blobNaming(stretch, kept).length < 6 * stretch.length) named++;
    }),
    { numRuns: runs(60) },
  );
  expect(named).toBeGreaterThan(1);
});

/** A pass over the whole of the voice, of so many points; another each time. */
const pass = (n: number, points: number): object => {
  const span: [number, number] = [0, 60];
  const list = Array.from({ length: points }, (_, i) => linePoint((60 * i) / points, -20 + ((i * (n + 2)) % 19)));
  const lane = {
    control: 'voice/level',
    layer: 'base',
    spans: [span],
    moves: points,
    points,
    maxDeviation: 0,
    clamped: [],
  };
  const receipt = { lap: 0, from: 0, to: 60, lanes: [lane], refused: [], rested: [] };
  return { kind: 'pass', receipt, pieces: [{ control: 'voice/level', layer: 'base', span, points: list }] };
};

test('what passes wrote is in the database once: in the log, in the edits, in what takes them back, and in copies of the song', async () => {
  const POINTS = 2000;
  const send = (revision: number, edit: object): Promise<{ status: number }> =>
    server.ask(`/songs/${id}/edits`, { revision, edit });
  for (let n = 0; n < 6; n++) expect((await send(n, pass(n, POINTS))).status).toBe(201);
  const { curves: count, bytes } = await sizes();
  expect(count).toBe(6);
  expect(bytes).toBeLessThan(1.02 * 6 * POINTS * 17);
  const db = server.app.get(Sequelize);
  const [rest] = await db.query<{ bytes: number }>(
    'SELECT (SELECT SUM(LENGTH(packed)) FROM changes) + (SELECT SUM(LENGTH(packed)) FROM steps) + (SELECT SUM(LENGTH(before) + LENGTH(after)) FROM passLanes) AS bytes',
    { type: QueryTypes.SELECT },
  );
  expect(rest!.bytes).toBeLessThan(15_000);
  const after = (await server.ask<WholeSong>(`/songs/${id}`)).body.song;
  const logged = (await server.ask<WholePass>(`/songs/${id}/passes/4`)).body;
  // Taken back one after the other, over a restart, and done again, it is what it was.
  await server.restart();
  let revision = 6;
  for (let n = 6; n > 0; n--) {
    const { body } = await server.ask<KeptAnswer>(`/songs/${id}/undo`, { revision });
    revision = body.revision;
    const { points } = (await server.ask<WholeSong>(`/songs/${id}`)).body.song.lanes['voice/level']!;
    expect(points.length).toBe(n > 1 ? POINTS + 2 : 2);
  }
  for (let n = 0; n < 6; n++)
    revision = (await server.ask<KeptAnswer>(`/songs/${id}/redo`, { revision })).body.revision;
  expect((await server.ask<WholeSong>(`/songs/${id}`)).body.song).toEqual(after);
  expect(await sizes()).toEqual({ curves: 6, bytes });
  const copy = (await server.ask<{ id: number }>(`/songs/${id}/duplicate`, {})).body.id;
  expect((await server.ask<WholePass>(`/songs/${copy}/passes/4`)).body.lanes).toEqual(logged.lanes);
  expect(await sizes()).toEqual({ curves: 6, bytes });
  // What only a song that is gone has named is gone with it.
  await server.app.get(SongStore).forget(id);
  expect((await server.ask<WholePass>(`/songs/${copy}/passes/4`)).body.lanes).toEqual(logged.lanes);
  expect((await sizes()).curves).toBe(6);
  await server.app.get(SongStore).forget(copy);
  expect((await sizes()).curves).toBe(0);
});

test('a stale page is told of much by the song whole, though what is kept of it is little', async () => {
  for (let n = 0; n < 3; n++)
    await server.ask(`/songs/${id}/edits`, { revision: n, edit: pass(n, 20_000), key: `pass-${n}` });
  const { body } = await server.ask<{ keys?: string[]; changes: object[] }>(`/songs/${id}/changes?since=0`);
  expect([body.keys, body.changes]).toEqual([['pass-0', 'pass-1', 'pass-2'], []]);
  const { body: few } = await server.ask<{ keys?: string[]; changes: object[] }>(`/songs/${id}/changes?since=2`);
  expect([few.keys, few.changes.length]).toEqual([undefined, 1]);
});
