import 'reflect-metadata';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { firstValueFrom } from 'rxjs';
import { PassRecorder, type HandEvent } from '@sure-hand/core/pass';
import { linePoint } from '@sure-hand/core/curve';
import { applyEdit, versionsOf, type Edit } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import type { Job } from './jobs/jobBoard.js';
import type { LoggedPass, WholePass } from './passes/passLog.js';
import type { PassLoudness } from './passes/passes.controller.js';
import type { KeptAnswer, WholeSong } from './songs/songs.controller.js';
import { SongStore } from './songs/songStore.js';
import { TestServer } from './test/testServer.js';
import { toneWav } from './test/toneWav.js';

const VOICE = {
  format: 'sure-hand-song',
  version: 1,
  name: 'Logged',
  length: 12,
  settings: { thin: 0, foldTrim: 'stop' },
  channels: [
    { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch', clips: [{ file: 'voice.wav', length: 12 }] },
    { key: 'main', kind: 'main', name: 'Main' },
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
  id = await server.create(VOICE);
});
const ask = <T>(path: string, body?: object, method?: string): Promise<{ status: number; body: T }> =>
  server.ask<T>(`/songs/${id}${path}`, body, method);
const song = async (): Promise<WholeSong> => (await ask<WholeSong>('')).body;
const send = async (edit: Edit): Promise<KeptAnswer> =>
  (await ask<KeptAnswer>('/edits', { revision: (await song()).revision, edit })).body;
const step = async (which: 'undo' | 'redo'): Promise<{ status: number; body: { sentence?: string } }> =>
  ask(`/${which}`, { revision: (await song()).revision });

/** Rides the level (or its trim) from 4 s to 8 s at a value, and sends what the recorder makes of it. */
async function ride(value: number, more: readonly HandEvent[] = []): Promise<void> {
  const recorder = new PassRecorder((await song()).song);
  const moves: HandEvent[] = [
    ...more,
    { do: 'play', from: 3 },
    { t: 4, do: 'touch', control: LEVEL },
    { t: 4, do: 'move', control: LEVEL, value },
    { t: 8, do: 'stop' },
  ];
  for (const edit of moves.flatMap((event) => recorder.handle(event).edits)) await send(edit);
}

describe('the log of passes', () => {
  test('a pass can be named and noted; undoing marks it, and it never goes', async () => {
    await ride(0);
    expect((await ask('/passes/1', { name: ' Louder ', note: 'Second half' }, 'PUT')).status).toBe(204);
    await step('undo');
    const { body } = await ask<LoggedPass[]>('/passes');
    expect(body).toMatchObject([{ number: 1, name: 'Louder', note: 'Second half', undone: true }]);
    await ask('/passes/1', { name: '' }, 'PUT');
    await ride(3);
    expect((await ask<LoggedPass[]>('/passes')).body.map(({ number, name, undone }) => [number, name, undone])).toEqual(
      [
        [2, null, false],
        [1, null, true],
      ],
    );
    expect((await ask('/passes/9', { name: 'None' }, 'PUT')).status).toBe(404);
    expect((await ask('/passes/1', { name: 7 }, 'PUT')).status).toBe(400);
  });

  test('a lane of it, or a range, is brought back as the pass found it, and that is a step of its own', async () => {
    await ride(0);
    await ride(3);
    const before = await song();
    const { lanes } = (await ask<WholePass>('/passes/2')).body;
    expect(lanes).toMatchObject([{ control: LEVEL, layer: 'base', rest: -6 }]);
    await send({ kind: 'bringBack', pass: 2, side: 'before', versions: versionsOf(lanes, 'before', [5, 6]) });
    const ranged = await song();
    expect(ranged.history.undo).toBe('Voice level as before pass 2');
    const at = (t: number): number[] => [...ranged.song.lanes[LEVEL]!.points].filter((p) => p.t === t).map((p) => p.v);
    expect([at(5), at(6)]).toEqual([
      [3, 0],
      [0, 3],
    ]);
    await step('undo');
    expect((await song()).song.lanes).toEqual(before.song.lanes);
    const first = (await ask<WholePass>('/passes/1')).body.lanes;
    await send({ kind: 'bringBack', pass: 1, side: 'before', versions: versionsOf(first, 'before', null) });
    expect([...(await song()).song.lanes[LEVEL]!.points]).toEqual([linePoint(0, -6)]);
    expect((await ask<LoggedPass[]>('/passes')).body.map((pass) => pass.number)).toEqual([2, 1]);
  });

  test('a pass whose trim was folded has both layers, so that all of it can be brought back', async () => {
    await ride(4, [{ do: 'trim', channel: 'voice', on: true }]);
    const { lanes, receipt } = (await ask<WholePass>('/passes/1')).body;
    expect(receipt.lanes).toMatchObject([{ layer: 'trim', spans: [[4, 8]] }]);
    expect(lanes.map(({ layer, before, after }) => [layer, before.length, after.length > 0])).toEqual([
      ['base', 1, true],
    ]);
    expect((await song()).song.lanes[LEVEL]!.trim).toHaveLength(0);
  });

  test('every version of one lane comes newest first', async () => {
    await ride(0);
    await ride(3);
    const { body } = await ask<WholePass[]>(`/lane-passes?control=${LEVEL}`);
    expect(body.map((pass) => [pass.number, pass.lanes.length])).toEqual([
      [2, 1],
      [1, 1],
    ]);
    expect((await ask<WholePass[]>('/lane-passes?control=voice/pan')).body).toEqual([]);
  });
});

test('doing a pass again that would write a lane since made safe is refused whole, naming it', async () => {
  await ride(0);
  await step('undo');
  await send({ kind: 'guard', control: LEVEL, changes: { safe: true } });
  const refused = await step('redo');
  expect(refused).toMatchObject({ status: 422, body: { sentence: expect.stringContaining('Voice level is safe') } });
  expect([...(await song()).song.lanes[LEVEL]!.points]).toEqual([linePoint(0, -6)]);
});

describe('loudness before and after a pass', () => {
  /** A steady tone of 1 kHz at −20 dBFS. */
  function writeTone(): void {
    const folder = join(server.data, 'songs', String(id));
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, 'voice.wav'), toneWav({ sec: 12, format: 'float32', hz: 1000, peak: 0.1 }));
  }
  const loudness = async (range: readonly number[]): Promise<Job> =>
    server.ended((await ask<Job>('/passes/1/loudness', { range })).body);

  test('differs by what the pass did, once the window of three seconds is in it', async () => {
    writeTone();
    await ride(0);
    const { state, result } = await loudness([4, 8]);
    expect(state).toBe('done');
    const { from, stepSec, before, after } = result as PassLoudness;
    expect([from, stepSec, before.length, after.length]).toEqual([4, 0.1, 40, 40]);
    // The tone, 6 dB down, on both sides at −3 dB: what one channel of −23 dBFS RMS measures, less nine, plus three.
    expect(before[20]!).toBeCloseTo(-29, 0);
    expect(after[0]! - before[0]!).toBeLessThan(0.5);
    expect(after[35]! - before[35]!).toBeCloseTo(6, 1);
    for (let i = 1; i < 40; i++) expect(after[i]!).toBeGreaterThanOrEqual(after[i - 1]! - 0.01);
  });

  test('a range that is none is refused; a missing file is named', async () => {
    await ride(0);
    expect((await ask('/passes/1/loudness', { range: [8, 4] })).status).toBe(422);
    expect(await loudness([4, 8])).toMatchObject({ state: 'failed', sentence: expect.stringContaining('voice.wav') });
  });
});

test('a copy of a song has its whole log', async () => {
  await ride(0);
  await ask('/passes/1', { name: 'Louder' }, 'PUT');
  const { body } = await ask<{ id: number }>('/duplicate', {});
  const copied = (await server.ask<WholePass>(`/songs/${body.id}/passes/1`)).body;
  expect(copied).toMatchObject({ name: 'Louder', lanes: [{ control: LEVEL, rest: -6 }] });
  const kept: Song = applyEdit((await song()).song, {
    kind: 'bringBack',
    pass: 1,
    side: 'before',
    versions: versionsOf(copied.lanes, 'before', null),
  }).song;
  expect([...kept.lanes[LEVEL]!.points]).toEqual([linePoint(0, -6)]);
});

describe('pruning', () => {
  type Said = { entries: number; named: number; undo: number; redo: number; bytes: number };
  const prune = async (keep: number): Promise<Said> => (await server.ask<Said>(`/songs/${id}/prune`, { keep })).body;

  test('takes the old versions without a name, says before what goes, and leaves the song and the rest of its undo', async () => {
    for (let n = 0; n < 6; n++) await ride(n);
    await server.ask(`/songs/${id}/passes/2`, { name: 'The one' }, 'PUT');
    const before = (await song()).song;
    const forecast = (await ask<Said>('/prune?keep=2')).body;
    expect(forecast).toMatchObject({ entries: 3, named: 1, undo: 4, redo: 0 });
    expect(await prune(2)).toEqual(forecast);
    expect((await ask<LoggedPass[]>('/passes')).body.map(({ number }) => number)).toEqual([6, 5, 2]);
    expect((await ask<WholePass>('/passes/2')).body.lanes).toHaveLength(1);
    expect((await song()).song).toEqual(before);
    // A page that was open since before is told by the song whole; a key that was kept is known to have been.
    const { keys, changes } = (await ask<{ keys?: string[]; changes: object[] }>('/changes?since=1')).body;
    expect([Array.isArray(keys), changes]).toEqual([true, []]);
    // Two passes can be taken back and done again; before them there is nothing.
    let { revision } = await song();
    for (const which of ['undo', 'undo', 'redo', 'undo'] as const) {
      const { status, body } = await ask<KeptAnswer>(`/${which}`, { revision });
      expect([which, status]).toEqual([which, 200]);
      ({ revision } = body);
    }
    expect((await ask('/undo', { revision })).status).toBe(422);
    expect(await prune(2)).toMatchObject({ entries: 0, undo: 0 });
    expect((await server.ask(`/songs/${id}/prune`, { keep: 0 })).status).toBe(400);
  });

  test('where old passes are undone takes what could be done again as well, and says so', async () => {
    for (let n = 0; n < 4; n++) await ride(n);
    let { revision } = await song();
    for (let n = 0; n < 4; n++) ({ revision } = (await ask<KeptAnswer>('/undo', { revision })).body);
    const after = (await song()).song;
    const told = firstValueFrom(server.app.get(SongStore).changed);
    expect(await prune(2)).toMatchObject({ entries: 2, undo: 0, redo: 4 });
    // Pages that have the song open hear of it, though it has no new revision: there is nothing to be done again.
    expect(await told).toEqual({ songId: id, revision, isLogShorter: true });
    expect((await ask<{ history: object }>(`/changes?since=${revision}`)).body.history).toMatchObject({ redo: null });
    expect((await ask('/redo', { revision })).status).toBe(422);
    expect((await song()).song).toEqual(after);
  });

  test('in a song of long curves gives their room back, and a copy keeps what it names', async () => {
    const points = (n: number): object[] =>
      Array.from({ length: 3000 }, (_, i) => ({ t: i / 60, v: -20 + ((i * (n + 2)) % 17) }));
    const lane = {
      control: LEVEL,
      layer: 'base',
      spans: [[0, 60]],
      moves: 1,
      points: 3000,
      maxDeviation: 0,
      clamped: [],
    };
    const receipt = { lap: 0, from: 0, to: 60, lanes: [lane], refused: [], rested: [] };
    for (let n = 0; n < 5; n++)
      await ask('/edits', {
        revision: n,
        edit: { kind: 'pass', receipt, pieces: [{ control: LEVEL, layer: 'base', span: [0, 60], points: points(n) }] },
      });
    const third = (await ask<WholePass>('/passes/1')).body.lanes;
    const copy = (await server.ask<{ id: number }>(`/songs/${id}/duplicate`, {})).body.id;
    const said = await prune(1);
    expect(said.entries).toBe(4);
    // The last one's own, and what it found, stay.
    expect(said.bytes).toBeGreaterThan(3 * 3000 * 17);
    expect(said.bytes).toBeLessThan(4 * 3000 * 17);
    expect((await server.ask<WholePass>(`/songs/${copy}/passes/1`)).body.lanes).toEqual(third);
    const { revision } = await song();
    expect((await ask('/undo', { revision })).status).toBe(200);
    expect((await ask<WholePass>('/passes/5')).body.lanes[0]!.before).toHaveLength(3002);
  });
});
