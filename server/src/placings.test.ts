import 'reflect-metadata';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { PassRecorder, type HandEvent } from '@sure-hand/core/pass';
import { Sequelize } from 'sequelize-typescript';
import type { LoggedPass, WholePass } from './passes/passLog.js';
import type { Origin } from './passes/origins.js';
import type { KeptAnswer, ListedSong, WholeSong } from './songs/songs.controller.js';
import { TestServer } from './test/testServer.js';

const LEVEL = 'voice/level';
const PAN = 'voice/pan';
const SONG = {
  format: 'sure-hand-song',
  version: 1,
  name: 'Placed',
  length: 60,
  channels: [
    { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' },
    { key: 'main', kind: 'main', name: 'Main' },
  ],
  snapshots: [{ key: 'verse', name: 'Verse', values: { [LEVEL]: -9, [PAN]: 0.5, 'gone/level': 0 } }],
  lanes: { [LEVEL]: { points: [{ t: 0, v: -6 }] }, [PAN]: { safe: true } },
};

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
const ask = <T>(path: string, body?: object): Promise<{ status: number; body: T }> =>
  server.ask<T>(`/songs/${id}${path}`, body);
const song = async (): Promise<WholeSong> => (await ask<WholeSong>('')).body;
const send = async (edit: Edit): Promise<KeptAnswer> =>
  (await ask<KeptAnswer>('/edits', { revision: (await song()).revision, edit })).body;
const step = async (which: 'undo' | 'redo'): Promise<number> =>
  (await ask(`/${which}`, { revision: (await song()).revision })).status;
const log = async (): Promise<LoggedPass[]> => (await ask<LoggedPass[]>('/passes')).body;
const origin = async (t: number, layer = 'base', control = LEVEL): Promise<Origin | null> =>
  (await ask<{ origin: Origin | null }>(`/origin?control=${control}&layer=${layer}&t=${t}`)).body.origin;

const place: Edit = { kind: 'place', snapshot: 'verse', range: [20, 30], edge: 1 };
async function ride(from: number, to: number, value: number): Promise<void> {
  const recorder = new PassRecorder((await song()).song);
  const moves: HandEvent[] = [
    { do: 'play', from },
    { t: from, do: 'touch', control: LEVEL },
    { t: from, do: 'move', control: LEVEL, value },
    { t: to, do: 'stop' },
  ];
  for (const edit of moves.flatMap((event) => recorder.handle(event).edits)) await send(edit);
}

describe('placings in the log', () => {
  test('stand beside the passes, numbered with them, with what was placed where and what was left alone', async () => {
    await ride(4, 8, -3);
    expect((await send(place)).passNumber).toBe(2);
    await send({ kind: 'together', edits: [place, { ...place, range: [40, 50] }] });
    await ride(4, 8, -2);
    const [pass, both, placing] = await log();
    expect(pass).toMatchObject({ number: 4, entry: null });
    expect(placing).toMatchObject({
      number: 2,
      entry: {
        kind: 'place',
        snapshot: { key: 'verse', name: 'Verse' },
        ranges: [[20, 30]],
        edge: 1,
        values: { [LEVEL]: -9 },
      },
      receipt: { from: 20, to: 30, refused: [{ control: PAN, reason: 'safe' }] },
    });
    expect(Object.keys(placing!.entry!.values)).toEqual([LEVEL]);
    expect(both!.entry!.ranges).toHaveLength(2);
    const { body } = await server.ask<ListedSong[]>('/songs');
    expect(body.find((one) => one.id === id)!.passes).toBe(2);
  });

  test('have old and new whole, to be compared and brought back by part; undoing marks them', async () => {
    await send(place);
    const { body: whole } = await ask<WholePass>('/passes/1');
    expect(whole.lanes.map(({ control }) => control)).toEqual([LEVEL]);
    expect([whole.lanes[0]!.before.length, whole.lanes[0]!.after.length]).toEqual([1, 5]);
    expect(await step('undo')).toBe(200);
    expect((await log())[0]).toMatchObject({ undone: true });
    expect(await step('redo')).toBe(200);
    expect((await log())[0]).toMatchObject({ undone: false });
    expect((await song()).history.undoOf).toEqual({ step: expect.any(Number), kind: 'place', pass: 1 });
  });

  test('one that changed nothing is none', async () => {
    await send({ kind: 'guard', control: LEVEL, changes: { safe: true } });
    const { passNumber, refused } = await send(place);
    expect([passNumber, refused.length, (await log()).length]).toEqual([null, 2, 0]);
  });

  test('come along with a copy of the song', async () => {
    await send(place);
    const { body } = await ask<{ id: number }>('/duplicate', {});
    id = body.id;
    expect((await log())[0]).toMatchObject({ number: 1, entry: { kind: 'place' }, stepId: null });
    expect(await origin(25)).toMatchObject({ kind: 'place', number: 1 });
  });
});

describe('where a value comes from', () => {
  test('the last step that stands and wrote it there, by its name, with what stood before', async () => {
    expect(await origin(25)).toBeNull();
    await send(place);
    await ride(26, 28, -3);
    await send({ kind: 'lift', controls: [LEVEL], range: [22, 23], travel: 0.1 });
    expect(await origin(21.5)).toMatchObject({ name: 'Verse placed', kind: 'place', number: 1 });
    expect(await origin(27)).toMatchObject({ kind: 'pass', number: 2, name: 'Pass 2: Voice level' });
    expect(await origin(22.5)).toMatchObject({ kind: 'lift', number: null });
    expect(await origin(10)).toBeNull();
    const { before } = (await origin(27))!;
    expect([...before.points].map(({ t, v }) => [t, v])).toContainEqual([29, -9]);
  });

  test('a pass that wrote what was there before has written it; one that was taken back has not', async () => {
    await ride(4, 8, -6);
    expect(await origin(5)).toMatchObject({ number: 1 });
    await step('undo');
    expect(await origin(5)).toBeNull();
  });

  test('what was brought back is the step that brought it; a resting value, the hand that set it', async () => {
    await send(place);
    const { before } = (await origin(25))!;
    await send({
      kind: 'bringBack',
      pass: 1,
      what: 'Verse placed',
      side: 'before',
      versions: [{ control: LEVEL, layer: 'base', range: [20, 60], points: before.points, rest: before.rest }],
    });
    expect(await origin(25)).toMatchObject({ name: 'Voice level as before Verse placed', kind: 'bringBack' });
    await send({ kind: 'guard', control: PAN, changes: { safe: false } });
    await send({ kind: 'rest', values: { [PAN]: 0.3 } });
    expect(await origin(3, 'base', PAN)).toMatchObject({ kind: 'rest', name: 'Rest of Voice pan' });
  });

  test('steps from before it was noted what they changed are opened to see', async () => {
    await send(place);
    await server.app.get(Sequelize).query('UPDATE steps SET controls = NULL');
    expect(await origin(25)).toMatchObject({ kind: 'place', number: 1 });
  });

  test('of what is not there, or at no time: a sentence', async () => {
    const refused = async (query: string): Promise<[number, string]> => {
      const { status, body } = await ask<{ sentence: string }>(`/origin?${query}`);
      return [status, body.sentence];
    };
    expect(await refused('control=gone/level&layer=base&t=1')).toEqual([
      422,
      expect.stringMatching(/^There is no control/),
    ]);
    expect((await refused(`control=${LEVEL}&layer=both&t=1`))[0]).toBe(400);
    expect((await refused(`control=${LEVEL}&layer=base&t=soon`))[0]).toBe(400);
    expect((await refused('layer=base'))[0]).toBe(400);
  });
});

test('a snapshot and a set of guards are kept with the song, and what they say is as it was', async () => {
  const add = {
    key: 'drums',
    name: 'Drums',
    scope: null,
    channels: { voice: { safe: ['level' as const], parked: false } },
    controls: {},
  };
  await send({ kind: 'guardSet', remove: null, add });
  await send({
    kind: 'states',
    channels: { voice: { safe: ['pan'], mode: 'touch' } },
    controls: { [LEVEL]: { parked: true } },
  });
  const { song: now, history } = await song();
  expect(now.guardSets).toEqual([add]);
  expect(now.snapshots[0]).toMatchObject({ key: 'verse', filter: null });
  expect(now.channels[0]).toMatchObject({ safe: ['pan'], mode: 'touch' });
  expect(now.lanes[LEVEL]!.parked).toBe(true);
  // Guards are no step: the set is what undo takes back.
  expect(history.undo).toBe('Set of guards Drums kept');
  expect(applyEdit(now, { kind: 'guardSet', remove: add, add: null }).song.guardSets).toEqual([]);
});
