import 'reflect-metadata';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { request } from 'node:http';
import { join } from 'node:path';
import { FrameEncoder, packed, wavHeader } from '@sure-hand/core/formats';
import { peaksOf } from '@sure-hand/core/mix';
import { runMoves } from '@sure-hand/core/pass';
import { Curve, linePoint } from '@sure-hand/core/curve';
import type { Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { ChangeRow } from './database/models.js';
import { startServer } from './server.js';
import { settingsFrom } from './settings.js';
import { Sequelize } from 'sequelize-typescript';
import type { KeptAnswer, WholeSong } from './songs/songs.controller.js';
import { SONG, TestServer, songOf } from './test/testServer.js';

let server: TestServer;
beforeAll(async () => {
  server = new TestServer();
  await server.start();
});
afterAll(() => server.end());
const create = (): Promise<number> => server.create();

type Answer = {
  status: number;
  body: KeptAnswer & WholeSong & { sentence: string; changes: { edit: Edit; key: string | null }[] };
};
const ask = (path: string, body?: object): Promise<Answer> => server.ask(`/songs${path}`, body);
const rest = (value: number): Edit => ({ kind: 'rest', values: { 'voice/level': value } });

/** The edit of a ride of the voice from 2 s to 3 s. */
function ridePass(song: Song): Edit {
  const ridden = runMoves(song, [
    { do: 'play', from: 1 },
    { t: 2, do: 'touch', control: 'voice/level' },
    { t: 2.5, do: 'move', control: 'voice/level', value: 1.5 },
    { t: 3, do: 'stop' },
  ]);
  if (!ridden.ok) throw new Error(ridden.sentence);
  const span: [number, number] = [2, 3];
  const receipt = ridden.receipts[0]!;
  return {
    kind: 'pass',
    receipt,
    pieces: [{ control: 'voice/level', layer: 'base', span, points: Curve.of([linePoint(2, 1.5), linePoint(3, 1.5)]) }],
  };
}

describe('a song', () => {
  test('comes back whole, unknown fields and bent points included, also after a restart', async () => {
    const id = await create();
    const { body } = await ask(`/${id}`);
    expect(body.song).toEqual(songOf(SONG));
    expect(body.song).toMatchObject({ inventor: 'unknown fields stay' });
    await server.restart();
    expect((await ask(`/${id}`)).body.song).toEqual(songOf(SONG));
    expect((await ask('')).body).toMatchObject([{ id, name: 'Kept', tracks: 1, passes: 0 }]);
  });

  test('that is not there is answered with a sentence', async () => {
    expect(await ask('/7')).toMatchObject({ status: 404, body: { sentence: expect.stringContaining('no song 7') } });
    expect((await ask('/seven')).status).toBe(400);
  });
});

describe('edits', () => {
  test('are kept in order, each made on a revision; a stale one is told what came first', async () => {
    const id = await create();
    expect((await ask(`/${id}/edits`, { revision: 0, edit: rest(-3) })).body).toMatchObject({
      revision: 1,
      refused: [],
    });
    const stale = await ask(`/${id}/edits`, { revision: 0, edit: rest(-9) });
    expect(stale).toMatchObject({ status: 409, body: { revision: 1, changes: [{ edit: rest(-3), key: null }] } });
    expect((await ask(`/${id}`)).body.song.lanes['voice/level']!.rest).toBe(-3);
  });

  test('that come twice, since the answer was lost, are kept once', async () => {
    const id = await create();
    const sent = { revision: 0, edit: rest(-3), key: 'edit-1' };
    expect((await ask(`/${id}/edits`, sent)).status).toBe(201);
    const again = await ask(`/${id}/edits`, sent);
    expect(again).toMatchObject({ status: 409, body: { revision: 1, changes: [{ key: 'edit-1' }], lastPass: 0 } });
    expect((await ask(`/${id}/changes?since=0`)).body).toMatchObject({ revision: 1, changes: [{ edit: rest(-3) }] });
    // A page opened anew has it in the song already, and sends it once more all the same.
    await ask(`/${id}/edits`, { revision: 1, edit: rest(-9) });
    const known = await ask(`/${id}/edits`, { ...sent, revision: 2 });
    expect(known).toMatchObject({ status: 201, body: { revision: 2, isKnown: true, edit: rest(-3) } });
    expect((await ask(`/${id}`)).body.song.lanes['voice/level']!.rest).toBe(-9);
  });

  test('that come while what came before is being told belong to the next answer: the revision is that of the last change', async () => {
    const id = await create();
    const add = (t: number): Edit => ({
      ...{ kind: 'points', control: 'voice/pan', remove: [] },
      add: Curve.of([linePoint(t, 0.5)]),
    });
    await ask(`/${id}/edits`, { revision: 0, edit: add(1) });
    const find = ChangeRow.findAll.bind(ChangeRow) as (options: object) => Promise<ChangeRow[]>;
    const reading = jest.spyOn(ChangeRow, 'findAll').mockImplementationOnce((async (options: object) => {
      await ask(`/${id}/edits`, { revision: 1, edit: add(2) });
      return find(options);
    }) as never);
    const { body } = await ask(`/${id}/changes?since=0`);
    reading.mockRestore();
    expect([body.revision, body.changes.length]).toEqual([1, 1]);
    const next = (await ask(`/${id}/changes?since=${body.revision}`)).body;
    expect([next.revision, next.changes.length]).toEqual([2, 1]);
  });

  test('are given back whole, but to a sender that has them; one that was made whole here is given back to all', async () => {
    const id = await create();
    expect((await ask(`/${id}/edits`, { revision: 0, edit: rest(-3) })).body).toMatchObject({ edit: rest(-3) });
    const brief = await ask(`/${id}/edits`, { revision: 1, edit: rest(-4), brief: true });
    expect(brief.body).toMatchObject({ revision: 2, isAsSent: true, refused: [] });
    expect(brief.body).not.toHaveProperty('edit');
    // Its points leave out their shape: how they are kept is said by the answer alone.
    const pass = ridePass((await ask(`/${id}`)).body.song) as Edit & { kind: 'pass' };
    const sparse = {
      ...pass,
      pieces: pass.pieces.map((one) => ({ ...one, points: [...one.points].map(({ t, v }) => ({ t, v })) })),
    };
    const made = await ask(`/${id}/edits`, { revision: 2, edit: sparse, brief: true });
    expect(made.body).toMatchObject({ edit: pass, passNumber: 1 });
    const whole = await ask(`/${id}/edits`, packed({ revision: 3, edit: pass, brief: true }));
    expect(whole.body).toMatchObject({ revision: 4, isAsSent: true, passNumber: 2 });
    expect((await ask(`/${id}/edits`, { revision: 4, edit: rest(-5), brief: 'yes' })).status).toBe(400);
  });

  test('of which too many came first are not told one by one: the keys of those that are kept are, and the song is asked for', async () => {
    const id = await create();
    const points = (seed: number): object[] =>
      Array.from({ length: 9000 }, (_, i) => ({ t: (i + 1) / 200, v: -30 + ((i * seed) % 17) }));
    const control = 'voice/pan';
    const pan = (seed: number): object[] => points(seed).map((p) => ({ ...p, v: ((p as { v: number }).v + 30) / 20 }));
    let before: object[] = [];
    for (let n = 0; n < 4; n++) {
      const edit = { kind: 'points', control, remove: before, add: pan(n + 2) };
      before = pan(n + 2);
      expect((await ask(`/${id}/edits`, { revision: n, edit, key: `edit-${n}` })).status).toBe(201);
    }
    const stale = await ask(`/${id}/edits`, { revision: 1, edit: rest(-3), key: 'mine' });
    expect(stale).toMatchObject({
      status: 409,
      body: { revision: 4, changes: [], keys: ['edit-1', 'edit-2', 'edit-3'] },
    });
    expect(JSON.stringify(stale.body).length).toBeLessThan(10_000);
    expect((await ask(`/${id}/changes?since=3`)).body).toMatchObject({ revision: 4, changes: [{ key: 'edit-3' }] });
  });

  test('packed are looked at though they are far larger than JSON may be; what is more than is taken at one time says so', async () => {
    const id = await create();
    const large = { revision: 0, edit: { kind: 'rest', values: {}, more: 'x'.repeat(33 * 2 ** 20) } };
    expect(await ask(`/${id}/edits`, packed(large))).toMatchObject({
      ...{ status: 422, body: { sentence: expect.stringMatching(/must NOT have additional properties/) } },
    });
    expect(await ask(`/${id}/edits`, large)).toMatchObject({
      ...{ status: 413, body: { sentence: 'This is more than is taken at one time. Do it in parts.' } },
    });
  });

  test('sent at once from two tabs lose nothing: one is kept, the other told', async () => {
    const id = await create();
    const answers = await Promise.all([-1, -2, -3].map((v) => ask(`/${id}/edits`, { revision: 0, edit: rest(v) })));
    expect(answers.map((a) => a.status).sort()).toEqual([201, 409, 409]);
    expect((await ask(`/${id}`)).body.revision).toBe(1);
  });

  test.each([
    [{ revision: 0, edit: { kind: 'explode' } }, 422, /no edit of kind "explode"/],
    [{ revision: 0, edit: rest(99) }, 422, /takes -144 to 12, not 99/],
    [{ revision: 0, edit: { kind: 'rest', values: { 'drum/level': 0 } } }, 422, /no channel “drum”/],
    [{ revision: 0, edit: { kind: 'channel', channel: 'voice', changes: { mode: 'fly' } } }, 422, /changes\/mode/],
    [{ revision: 'x', edit: rest(0) }, 400, /revision must be/],
    [{ revision: 0, edit: rest(0), more: 1 }, 400, /more should not exist/],
  ])('%j is refused with %d and a sentence', async (body, status, sentence) => {
    const id = await create();
    expect(await ask(`/${id}/edits`, body)).toMatchObject({
      status,
      body: { sentence: expect.stringMatching(sentence) },
    });
    expect((await ask(`/${id}`)).body).toMatchObject({ revision: 0, song: songOf(SONG) });
  });
});

describe('undo and redo', () => {
  test('go step by step, by name, over a restart, and restore the lane exactly', async () => {
    const id = await create();
    const { song } = (await ask(`/${id}`)).body;
    const pass = ridePass(song);
    expect((await ask(`/${id}/edits`, { revision: 0, edit: pass })).body).toMatchObject({ passNumber: 1 });
    const ridden = (await ask(`/${id}`)).body.song;
    await ask(`/${id}/edits`, { revision: 1, edit: rest(-2) });
    await server.restart();
    expect((await ask(`/${id}`)).body.history).toEqual({
      undo: 'Rest of Voice level',
      redo: null,
      undoOf: { step: expect.any(Number), kind: 'rest', pass: null },
      redoOf: null,
    });
    expect((await ask(`/${id}/undo`, { revision: 2 })).body.history.undo).toBe('Pass 1: Voice level');
    expect((await ask(`/${id}/undo`, { revision: 3 })).body).toMatchObject({
      history: { undo: null, redo: 'Pass 1: Voice level' },
    });
    expect((await ask(`/${id}`)).body.song.lanes).toEqual(song.lanes);
    expect(await ask(`/${id}/undo`, { revision: 4 })).toMatchObject({
      status: 422,
      body: { sentence: 'There is nothing to undo.' },
    });
    await ask(`/${id}/redo`, { revision: 4 });
    expect((await ask(`/${id}`)).body.song.lanes).toEqual(ridden.lanes);
  });

  test('of steps from before what they did stood with the changes go as ever', async () => {
    const id = await create();
    await ask(`/${id}/edits`, { revision: 0, edit: rest(-2) });
    const after = (await ask(`/${id}`)).body.song;
    const replacements = { edit: JSON.stringify(rest(-2)), id };
    await server.app
      .get(Sequelize)
      .query('UPDATE steps SET edit = :edit, revision = NULL WHERE songId = :id', { replacements });
    await ask(`/${id}/undo`, { revision: 1 });
    expect((await ask(`/${id}`)).body.song.lanes).not.toEqual(after.lanes);
    expect((await ask(`/${id}/redo`, { revision: 2 })).body.edit).toEqual(rest(-2));
    expect((await ask(`/${id}`)).body.song).toEqual(after);
  });

  test('a new step ends what could be redone; a mode is no step', async () => {
    const id = await create();
    await ask(`/${id}/edits`, { revision: 0, edit: rest(-3) });
    await ask(`/${id}/undo`, { revision: 1 });
    const mode: Edit = { kind: 'channel', channel: 'voice', changes: { mode: 'latch' } };
    expect((await ask(`/${id}/edits`, { revision: 2, edit: mode })).body.history.redo).toBe('Rest of Voice level');
    expect((await ask(`/${id}/edits`, { revision: 3, edit: rest(-4) })).body.history).toEqual({
      undo: 'Rest of Voice level',
      redo: null,
      undoOf: { step: expect.any(Number), kind: 'rest', pass: null },
      redoOf: null,
    });
  });

  test('of a lane made safe since is refused whole, naming it', async () => {
    const id = await create();
    await ask(`/${id}/edits`, { revision: 0, edit: rest(-3) });
    await ask(`/${id}/edits`, {
      revision: 1,
      edit: { kind: 'guard', control: 'voice/level', changes: { safe: true } },
    });
    expect(await ask(`/${id}/undo`, { revision: 2 })).toMatchObject({
      status: 422,
      body: { sentence: expect.stringContaining('Voice level is safe') },
    });
    expect((await ask(`/${id}`)).body.song.lanes['voice/level']!.rest).toBe(-3);
  });
});

test('a pass is logged with both its curves; undone it stays, marked', async () => {
  const id = await create();
  const { song } = (await ask(`/${id}`)).body;
  await ask(`/${id}/edits`, { revision: 0, edit: ridePass(song) });
  const { lanes, undone } = (await (await fetch(`${server.address}/api/songs/${id}/passes/1`)).json()) as {
    lanes: { before: object[]; after: object[] }[];
    undone: boolean;
  };
  expect(undone).toBe(false);
  expect(lanes[0]!.before).toEqual([...song.lanes['voice/level']!.points]);
  expect(lanes[0]!.after).toEqual([...(await ask(`/${id}`)).body.song.lanes['voice/level']!.points]);
  await ask(`/${id}/undo`, { revision: 1 });
  expect((await ask(`/${id}/passes`)).body).toMatchObject([{ number: 1, undone: true }]);
});

describe('audio', () => {
  const frames = 48000;
  const put = (id: number): void => {
    const folder = join(server.data, 'songs', String(id));
    mkdirSync(folder, { recursive: true });
    const column = Float32Array.from({ length: frames }, (_, i) => (i < 24000 ? 0.5 : -0.25));
    const bytes = new FrameEncoder('int16', false).encode([column], frames);
    writeFileSync(join(folder, 'voice.wav'), Buffer.concat([wavHeader('int16', 1, 48000, frames), bytes]));
  };

  test('is served by byte range, and its peaks are made once', async () => {
    const id = await create();
    put(id);
    const piece = await fetch(`${server.address}/api/songs/${id}/audio/voice.wav`, {
      headers: { Range: 'bytes=44-47' },
    });
    expect(piece.status).toBe(206);
    expect([...new Int16Array(await piece.arrayBuffer())]).toEqual([16384, 16384]);
    const { info } = (await ask(`/${id}`)).body.files['voice.wav'] as { info: object };
    expect(info).toEqual({ format: 'int16', channels: 1, sampleRate: 48000, frames, dataOffset: 44, bytesPerFrame: 2 });
  });

  test('has its peaks made once, however many ask for them at one time', async () => {
    const id = await create();
    put(id);
    const asked = Array.from({ length: 8 }, () => fetch(`${server.address}/api/songs/${id}/peaks/voice.wav`));
    const answers = await Promise.all(asked);
    expect(answers.map(({ status }) => status)).toEqual(asked.map(() => 200));
    const all = await Promise.all(answers.map((answer) => answer.arrayBuffer()));
    for (const bytes of all) expect(peaksOf(bytes).levels).toEqual(peaksOf(all[0]!).levels);
    const kept = join(server.data, 'songs', String(id), 'peaks');
    expect(readdirSync(kept)).toEqual(['voice.wav.peaks']);
    expect(readFileSync(join(kept, 'voice.wav.peaks'))).toEqual(Buffer.from(all[0]!));
  });

  test('that is missing or broken is named', async () => {
    const id = await create();
    expect((await ask(`/${id}`)).body.files['voice.wav']).toMatchObject({
      missing: expect.stringContaining('voice.wav is missing'),
    });
    put(id);
    writeFileSync(join(server.data, 'songs', String(id), 'voice.wav'), 'RIFFxxxxWAVEjunk');
    expect((await ask(`/${id}`)).body.files['voice.wav']).toMatchObject({
      missing: expect.stringContaining('voice.wav'),
    });
  });

  test.each(['..%2f..%2fsure-hand.sqlite', '.hidden', '%2e%2e%2fsure-hand.sqlite'])(
    'nothing outside is read by the name %s',
    async (name) => {
      const id = await create();
      expect((await fetch(`${server.address}/api/songs/${id}/audio/${name}`)).status).toBe(404);
    },
  );
});

describe('the door', () => {
  /** fetch does not let one say a host of one's own. */
  const statusWith = (headers: Record<string, string>): Promise<number> =>
    new Promise((done, fail) => {
      const asked = request(`${server.address}/api/songs`, { headers }, (answer) => {
        answer.resume();
        done(answer.statusCode!);
      });
      asked.on('error', fail);
      asked.end();
    });

  test('is open to this machine’s own names and pages only', async () => {
    const { host } = new URL(server.address);
    expect(await statusWith({ host })).toBe(200);
    expect(await statusWith({ host, origin: `http://${host}` })).toBe(200);
    expect(await statusWith({ host: 'elsewhere.example' })).toBe(403);
    expect(await statusWith({ host, origin: 'http://elsewhere.example' })).toBe(403);
    expect(await statusWith({ host, origin: 'null' })).toBe(403);
  });

  test('ends no connection for being idle: what is sent on it just then would be lost', async () => {
    const answer = await fetch(`${server.address}/api/songs`, { headers: { Connection: 'keep-alive' } });
    expect([answer.headers.get('connection'), answer.headers.get('keep-alive')]).toEqual(['keep-alive', null]);
  });

  test('isolates its pages, and describes its API', async () => {
    const answer = await fetch(`${server.address}/api/songs`);
    expect(answer.headers.get('cross-origin-opener-policy')).toBe('same-origin');
    expect(answer.headers.get('cross-origin-embedder-policy')).toBe('require-corp');
    expect(await (await fetch(`${server.address}/api/docs`)).text()).toContain('swagger');
  });
});

test('a port in use is told in a sentence, and how to take another', async () => {
  const other = join(server.data, 'other');
  mkdirSync(other);
  writeFileSync(join(other, 'demo-made'), '');
  const port = Number(new URL(server.address).port);
  const settings = { host: '127.0.0.1', port, dataFolder: other, webFolder: null };
  await expect(startServer(settings, { demo: 'short', say: () => undefined })).rejects.toThrow(
    `Port ${port} is in use by another program. Stop that one, or start with another: PORT=${port + 1} npm start`,
  );
});

test.each([['70000'], ['loud']])('PORT=%s is no port, in a sentence', (PORT) => {
  expect(() => settingsFrom({ PORT }, '/', null)).toThrow(`PORT is “${PORT}”, which is no port.`);
});

test('peaks as bytes come back as they went', () => {
  expect(() => peaksOf(new Uint32Array([2, 0, 0, 0, 0]).buffer)).toThrow('version 2');
});
