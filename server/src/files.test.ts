import 'reflect-metadata';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ZipArchive } from 'archiver';
import { Sequelize } from 'sequelize-typescript';
import { io } from 'socket.io-client';
import { decodeFrames, readWavInfo, type SampleFormat } from '@sure-hand/core/formats';
import { peaksOf } from '@sure-hand/core/mix';
import { passState } from '@sure-hand/core/pass';
import type { Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import type { ListedBounce } from './bounces/bounceShelf.js';
import type { StagedStem } from './imports/stagedStems.js';
import type { Job } from './jobs/jobBoard.js';
import type { OpenJournal } from './journals/journalLog.js';
import type { ListedSong, WholeSong } from './songs/songs.controller.js';
import { SONG, TestServer, songOf } from './test/testServer.js';
import { toneWav } from './test/toneWav.js';

let server: TestServer;
beforeAll(async () => {
  server = new TestServer();
  await server.start();
});
afterAll(() => server.end());

/** A WAV file of a tone of 0.5 on every channel. */
function tone(format: SampleFormat, channels: 1 | 2, rate: number, sec = 1): Uint8Array {
  return toneWav({ format, channels, rate, sec });
}
const files = (...path: string[]): string[] => {
  const folder = join(server.data, ...path);
  return existsSync(folder) ? readdirSync(folder).sort() : [];
};

async function stage(...stems: readonly [string, Uint8Array][]): Promise<{ id: string; stems: StagedStem[] }> {
  const { id } = (await server.ask<{ id: string }>('/imports', {})).body;
  const staged: StagedStem[] = [];
  for (const [name, bytes] of stems) {
    const { body } = await server.send<StagedStem>(`/imports/${id}/stems?name=${encodeURIComponent(name)}`, bytes);
    staged.push(body);
  }
  return { id, stems: staged };
}
const asked = (stems: readonly StagedStem[], more: object = {}): object => ({
  name: 'My own',
  sampleRate: 48000,
  bpm: 100,
  beats: 3,
  unit: 4,
  tracks: stems.map(({ id, guess }) => ({ stem: id, ...guess })),
  ...more,
});
/** Makes a song of stems; gives back the ended job. */
async function make(...stems: readonly [string, Uint8Array][]): Promise<Job> {
  const staged = await stage(...stems);
  const { body } = await server.ask<Job>(`/imports/${staged.id}/song`, asked(staged.stems));
  return server.ended(body);
}
/** All that songs and what is taken in have left in the folder, and the songs that are listed. */
const kept = async (): Promise<object> => ({
  songs: files('songs'),
  staging: files('staging'),
  listed: (await server.ask<ListedSong[]>('/songs')).body.map(({ id }) => id),
});
const whole = async (id: number): Promise<WholeSong> => (await server.ask<WholeSong>(`/songs/${id}`)).body;

describe('stems for a song that is there', () => {
  test('become files of it under names that nothing there has, at its rate, and no track by themselves', async () => {
    const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.2)]);
    const before = await whole(songId!);
    const staged = await stage(['bass.wav', tone('int24', 2, 44100, 0.2)], ['Hat.wav', tone('int16', 1, 48000, 0.1)]);
    const tracks = staged.stems.map(({ id, guess }) => ({ stem: id, ...guess }));
    const { body } = await server.ask<Job>(`/imports/${staged.id}/into/${songId}`, { tracks });
    const ended = await server.ended(body);
    expect(ended).toMatchObject({
      state: 'done',
      songId,
      result: {
        stems: [
          { file: 'bass (2).wav', name: 'Bass', family: 'Low', seconds: 0.2 },
          { file: 'Hat.wav', name: 'Hat', family: 'Rhythm', seconds: 0.1 },
        ],
      },
    });
    const { body: known } = await server.ask(`/songs/${songId}/files/${encodeURIComponent('bass (2).wav')}`);
    expect(known).toMatchObject({ info: { channels: 2, sampleRate: 48000, frames: 9600 } });
    expect((await whole(songId!)).song).toEqual(before.song);
    expect(files('staging')).not.toContain(staged.id);
    expect((await server.ask(`/songs/${songId}/files/..%2F..%2Fsure-hand.sqlite`)).status).toBe(404);
    expect((await server.ask(`/songs/${songId}/files/none.wav`)).body).toEqual({
      missing: expect.stringContaining('none.wav is missing') as string,
    });
  });

  test('that can’t be used, or are for a song that is not there, leave nothing', async () => {
    const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.2)]);
    const staged = await stage(['Hat.wav', tone('int16', 1, 48000, 0.1)]);
    const tracks = staged.stems.map(({ id, guess }) => ({ stem: id, ...guess }));
    expect((await server.ask(`/imports/${staged.id}/into/99`, { tracks })).status).toBe(404);
    expect((await server.ask(`/imports/${staged.id}/into/${songId}`, { tracks: [] })).status).toBe(400);
    expect((await server.ask(`/imports/none/into/${songId}`, { tracks })).status).toBe(404);
    expect(files('songs', String(songId)).filter((name) => name.endsWith('.wav'))).toEqual(['Bass.wav']);
    // They wait where they are, and can still be taken.
    const { body } = await server.ask<Job>(`/imports/${staged.id}/into/${songId}`, { tracks });
    expect((await server.ended(body)).state).toBe('done');
  });
});

test('files of one name taken into a song at the same time keep each its own, also where one of them is broken', async () => {
  const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.2)]);
  const broken = tone('float32', 1, 48000, 0.2);
  new DataView(broken.buffer, broken.byteOffset).setFloat32(broken.length - 400, NaN, true);
  const all = [tone('int16', 1, 48000, 0.3), broken, tone('int16', 1, 48000, 0.4)];
  const staged = await Promise.all(all.map((bytes) => stage(['Hat.wav', bytes])));
  const jobs = await Promise.all(
    staged.map(({ id, stems }) =>
      server.ask<Job>(`/imports/${id}/into/${songId}`, {
        tracks: stems.map((one) => ({ stem: one.id, ...one.guess })),
      }),
    ),
  );
  const ends = await Promise.all(jobs.map(({ body }) => server.ended(body)));
  expect(ends.map(({ state }) => state)).toEqual(['done', 'failed', 'done']);
  const taken = ends.flatMap(
    ({ result }) => (result as { stems: { file: string; seconds: number }[] } | undefined)?.stems ?? [],
  );
  expect(new Set(taken.map(({ file }) => file)).size).toBe(2);
  for (const { file, seconds } of taken) {
    const { body } = await server.ask(`/songs/${songId}/files/${encodeURIComponent(file)}`);
    expect(body).toMatchObject({ info: { frames: Math.round(seconds * 48000) } });
  }
});

describe('what is asked for oddly', () => {
  const UPLOAD = '/imports/ID/stems?name=';
  test.each([
    [`${UPLOAD}a&name=b`, 400, /Give name once/],
    [`${UPLOAD}${'a'.repeat(2000)}`, 400, /at most 1000 letters/],
    ['/songs/zip?name=a&name=b', 400, /Give name once/],
  ])('%s is refused', async (path, status, sentence) => {
    const { id } = (await server.ask<{ id: string }>('/imports', {})).body;
    const method = path.startsWith('/songs') ? 'POST' : 'PUT';
    const answer = await server.send<{ sentence: string }>(
      path.replace('ID', id),
      tone('int16', 1, 48000, 0.1),
      method,
    );
    expect(answer).toMatchObject({ status, body: { sentence: expect.stringMatching(sentence) as string } });
  });

  test('or called oddly is taken: long names in wide letters, half a letter', async () => {
    const ended = await make(
      [`${'雨'.repeat(150)}.wav`, tone('int16', 1, 48000, 0.1)],
      ['\ud83d.wav'.toWellFormed(), tone('int16', 1, 48000, 0.1)],
    );
    expect(ended).toMatchObject({ state: 'done', sentence: null });
    const { files: known, song } = await whole(ended.songId!);
    for (const file of Object.values(known)) expect(file).toHaveProperty('info');
    expect(song.channels).toHaveLength(3);
    const named = { revision: 0, edit: { kind: 'title', name: 'Half \ud83d \0 it' } };
    expect((await server.ask(`/songs/${ended.songId}/edits`, named)).status).toBe(201);
    const bounced = await server.ask<Job>(`/songs/${ended.songId}/bounces`, { bits: '16' });
    expect((await server.ended(bounced.body)).state).toBe('done');
    const copy = await server.ask<{ id: number }>(`/songs/${ended.songId}/duplicate`, {});
    expect((await whole(copy.body.id)).song.name).toBe('Half \ud83d \0 it (copy)');
    expect((await server.ask('/songs')).status).toBe(200);
    for (const what of ['zip', 'document'])
      expect((await fetch(`${server.address}/api/songs/${ended.songId}/${what}`)).status).toBe(200);
  });

  test('is no file of the song where it is one of its folders or its document', async () => {
    const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.1)]);
    for (const name of ['bounces', 'peaks', 'song.json', 'half-made', '雨'.repeat(90)])
      for (const what of ['files', 'audio', 'peaks'])
        expect([what, name, (await server.ask(`/songs/${songId}/${what}/${encodeURIComponent(name)}`)).status]).toEqual(
          [...[what, name], 404],
        );
  });

  test('a channel whose clip plays no plain file is refused, and the song opens as before; no other channel is called main', async () => {
    const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.1)]);
    const add = (channel: object): Promise<{ status: number; body: { sentence: string } }> =>
      server.ask(`/songs/${songId}/edits`, { revision: 0, edit: { kind: 'addChannel', channel } });
    for (const file of ['a/b.wav', '../b.wav', 'a\\b.wav', '.b.wav', 'b\n.wav', '雨'.repeat(90)]) {
      const clips = [{ t: 0, file, length: 1 }];
      const { status, body } = await add({ key: 'new', kind: 'track', name: 'New', clips });
      expect([file, status, body.sentence]).toEqual([
        file,
        422,
        expect.stringMatching(/no plain name of a file beside/),
      ]);
    }
    expect((await add({ key: 'main', kind: 'track', name: 'New' })).body.sentence).toMatch(/“main”/);
    expect((await whole(songId!)).song.channels).toHaveLength(2);
  });
});

test('a full disk is answered by its sentence and 507, nothing is lost, and it goes on once there is room', async () => {
  const { songId } = await make(['Bass.wav', tone('int16', 1, 48000, 0.1)]);
  const sent = { revision: 0, edit: { kind: 'rest', values: { 'bass/level': -3 } }, key: 'one' };
  const db = server.app.get(Sequelize);
  const fill = jest.spyOn(db, 'transaction').mockImplementationOnce((async () => {
    const raw = Object.assign(new Error('SQLITE_FULL: database or disk is full'), { code: 'SQLITE_FULL' });
    throw Object.assign(new Error(raw.message), { name: 'SequelizeDatabaseError', original: raw });
  }) as never);
  const full = await server.ask<{ sentence: string }>(`/songs/${songId}/edits`, sent);
  expect([full.status, full.body.sentence]).toEqual([
    507,
    expect.stringMatching(/disk .* is full.* is safe\. Make room/),
  ]);
  expect((await whole(songId!)).revision).toBe(0);
  fill.mockRestore();
  expect((await server.ask(`/songs/${songId}/edits`, sent)).status).toBe(201);
  expect((await whole(songId!)).song.lanes['bass/level']!.rest).toBe(-3);
});

describe('a song of one’s own stems', () => {
  test('takes every usual format, mono and stereo, at any rate, and plays at one', async () => {
    const before = files('staging');
    const ended = await make(
      ['01_Lead Vox.wav', tone('int16', 1, 48000)],
      ['02_Choir.wav', tone('int24', 2, 48000)],
      ['Bass.wav', tone('float32', 1, 44100)],
      ['Bass.wav', tone('int32', 1, 96000)],
    );
    expect(ended).toMatchObject({ state: 'done', share: 1, sentence: null });
    const { song, files: known } = await whole(ended.songId!);
    expect(song.channels.map(({ name, family }) => [name, family])).toEqual([
      ['Lead Vox', 'Voices'],
      ['Choir', 'Voices'],
      ['Bass', 'Low'],
      ['Bass 2', 'Low'],
      ['Main', 'Mix'],
    ]);
    expect(song).toMatchObject({ name: 'My own', length: 1, tempo: [{ bpm: 100 }], meter: [{ beats: 3, unit: 4 }] });
    expect(Object.keys(known).sort()).toEqual(['01_Lead Vox.wav', '02_Choir.wav', 'Bass (2).wav', 'Bass.wav']);
    for (const file of Object.values(known)) expect(file).toMatchObject({ info: { sampleRate: 48000, frames: 48000 } });
    // Taken to the song’s rate it is the same tone, to a hair.
    const bytes = readFileSync(join(server.data, 'songs', String(ended.songId), 'Bass.wav'));
    const read = readWavInfo(bytes, bytes.length);
    if (!read.ok) throw new Error(read.sentence);
    const column = [new Float32Array(48000)];
    decodeFrames(bytes.subarray(read.value.dataOffset), read.value, column, { frames: 48000 });
    for (const n of [5000, 12345, 40000])
      expect(column[0]![n]).toBeCloseTo(0.5 * Math.sin((2 * Math.PI * 500 * n) / 48000), 4);
    const peaks = await fetch(`${server.address}/api/songs/${ended.songId}/peaks/Bass.wav`);
    expect(() => peaksOf(new ArrayBuffer(0))).toThrow();
    expect(peaks.ok && (await peaks.arrayBuffer()).byteLength > 100).toBe(true);
    expect(files('staging')).toEqual(before);
  });

  test('names a broken file with what is wrong, and the rest goes on', async () => {
    const nan = tone('float32', 1, 48000, 0.1);
    new DataView(nan.buffer, nan.byteOffset).setFloat32(44 + 4000, NaN, true);
    const staged = await stage(
      ['good.wav', tone('int16', 1, 48000, 0.2)],
      ['short.wav', tone('int16', 1, 48000, 0.2).subarray(0, 900)],
      ['notes.txt', new TextEncoder().encode('not a song')],
      ['nan.wav', nan],
    );
    expect(staged.stems.map((stem) => stem.sentence)).toEqual([
      null,
      expect.stringContaining('cut short'),
      expect.stringContaining('no WAV file'),
      null,
    ]);
    const ok = staged.stems.filter((stem) => !stem.sentence);
    const ended = await server.ended((await server.ask<Job>(`/imports/${staged.id}/song`, asked(ok))).body);
    expect(ended).toMatchObject({ state: 'done', sentence: expect.stringMatching(/nan\.wav.*no number near 0\.0 s/) });
    expect((await whole(ended.songId!)).song.channels.map((c) => c.name)).toEqual(['Good', 'Main']);
  });

  test('that is given up, or has nothing whole, leaves nothing behind', async () => {
    const before = await kept();
    const staged = await stage(['voice.wav', tone('int16', 1, 44100, 20)]);
    const job = (await server.ask<Job>(`/imports/${staged.id}/song`, asked(staged.stems))).body;
    await server.ask(`/jobs/${job.id}`, undefined, 'DELETE');
    expect((await server.ended(job)).state).toBe('cancelled');
    await server.ask(`/imports/${staged.id}`, undefined, 'DELETE');
    expect(await kept()).toEqual(before);
  });

  test.each([
    [{ bpm: 5 }, /bpm must not be less than 10/],
    [{ tracks: [] }, /tracks must contain at least 1/],
    [{ sampleRate: 'fast' }, /sampleRate must/],
    [{ unit: 5 }, /unit must be one of/],
  ])('asked for with %j is refused in a sentence', async (wrong, sentence) => {
    const staged = await stage(['voice.wav', tone('int16', 1, 48000, 0.1)]);
    const answer = await server.ask<{ sentence: string }>(`/imports/${staged.id}/song`, asked(staged.stems, wrong));
    expect(answer).toMatchObject({ status: 400, body: { sentence: expect.stringMatching(sentence) } });
  });
});

describe('songs', () => {
  test('are duplicated with their audio and log, removed, and put back', async () => {
    const id = (await make(['voice.wav', tone('int16', 1, 48000, 0.2)])).songId!;
    const { body: copy } = await server.ask<{ id: number }>(`/songs/${id}/duplicate`, {});
    expect((await whole(copy.id)).song).toEqual({ ...(await whole(id)).song, name: 'My own (copy)' });
    expect(files('songs', String(copy.id))).toEqual(files('songs', String(id)));
    await server.ask(`/songs/${id}`, undefined, 'DELETE');
    const names = async (): Promise<string[]> =>
      (await server.ask<ListedSong[]>('/songs')).body.flatMap((one) =>
        [id, copy.id].includes(one.id) ? [one.name] : [],
      );
    expect(await names()).toEqual(['My own (copy)']);
    await server.ask(`/songs/${id}/restore`, {});
    expect((await names()).sort()).toEqual(['My own', 'My own (copy)']);
    const title: Edit = { kind: 'title', name: 'Another' };
    await server.ask(`/songs/${id}/edits`, { revision: 0, edit: title });
    expect(await names()).toContain('Another');
  });

  const zipOf = async (...entries: readonly [string, Uint8Array | string][]): Promise<Uint8Array> => {
    const zip = new ZipArchive({ store: true });
    const chunks: Buffer[] = [];
    zip.on('data', (chunk: Buffer) => chunks.push(chunk));
    for (const [name, content] of entries) zip.append(Buffer.from(content), { name });
    await zip.finalize();
    return Buffer.concat(chunks);
  };
  const opened = async (bytes: Uint8Array): Promise<Job> =>
    server.ended((await server.send<Job>('/songs/zip?name=song.zip', bytes, 'POST')).body);

  test('saved as a zip with their audio come back whole, unknown fields too', async () => {
    const id = await server.create();
    mkdirSync(join(server.data, 'songs', String(id)), { recursive: true });
    writeFileSync(join(server.data, 'songs', String(id), 'voice.wav'), tone('int24', 1, 48000, 0.5));
    const zip = await fetch(`${server.address}/api/songs/${id}/zip`);
    expect(zip.headers.get('content-disposition')).toContain('Kept.zip');
    const ended = await opened(new Uint8Array(await zip.arrayBuffer()));
    expect(ended).toMatchObject({ state: 'done', sentence: null });
    expect((await whole(ended.songId!)).song).toEqual((await whole(id)).song);
    const bytes = (song: number): Buffer => readFileSync(join(server.data, 'songs', String(song), 'voice.wav'));
    expect(bytes(ended.songId!)).toEqual(bytes(id));
  });

  test.each([
    ['no zip', async () => new TextEncoder().encode('PK not really'), /no zip file/],
    ['a zip cut short', async () => (await zipOf(['song.json', JSON.stringify(SONG)])).subarray(0, 200), /no zip file/],
    ['a zip of something else', () => zipOf(['readme.txt', 'hello']), /no song\.json/],
    ['a broken document', () => zipOf(['song.json', '{"format":']), /no JSON/],
    [
      'a name that climbs out',
      async () => {
        // The packer would not write such a name: it is put into the bytes afterwards.
        const bytes = Buffer.from(await zipOf(['xx/song.json', JSON.stringify(SONG)]));
        for (let at = bytes.indexOf('xx/song'); at >= 0; at = bytes.indexOf('xx/song')) bytes.write('../song', at);
        return bytes;
      },
      /can’t be read: invalid relative path/,
    ],
    [
      'a document that reaches elsewhere',
      () =>
        zipOf([
          'song.json',
          JSON.stringify({
            ...SONG,
            channels: [{ key: 'v', kind: 'track', clips: [{ file: '../x.wav' }] }],
            lanes: {},
          }),
        ]),
      /no plain name beside it/,
    ],
    [
      'audio that is none',
      () => zipOf(['song.json', JSON.stringify(SONG)], ['voice.wav', 'nothing']),
      /voice\.wav: This is no WAV/,
    ],
    ['one name twice', () => zipOf(['song.json', '{}'], ['song.json', '{}']), /twice/],
  ])('%s is refused in a sentence, and nothing of it is left', async (_what, bytes, sentence) => {
    const before = await kept();
    const ended = await opened(await bytes());
    expect(ended).toMatchObject({ state: 'failed', sentence: expect.stringMatching(sentence) });
    expect(await kept()).toEqual(before);
  });

  test('whose zip lacks a file open without it, and say so', async () => {
    const ended = await opened(
      await zipOf(['song.json', JSON.stringify(SONG)], ['other.wav', tone('int16', 1, 48000, 0.1)]),
    );
    expect(ended).toMatchObject({ state: 'done', sentence: expect.stringContaining('lacks voice.wav') });
    expect(files('songs', String(ended.songId))).toEqual(['peaks']);
  });
});

describe('a bounce', () => {
  const song = async (sec: number): Promise<number> =>
    (await make(['voice.wav', tone('int16', 1, 48000, sec)], ['choir.wav', tone('int16', 2, 48000, sec)])).songId!;
  const list = async (id: number): Promise<ListedBounce[]> =>
    (await server.ask<ListedBounce[]>(`/songs/${id}/bounces`)).body;

  test('of the mix, a range and stems is made in a worker, told of on the way, measured, listed and fetched', async () => {
    const id = await song(4);
    const socket = io(server.address);
    const told: Job[] = [];
    socket.on('job', (job: Job) => told.push(job));
    await new Promise((connected) => socket.on('connect', () => connected(null)));
    for (const body of [
      { bits: '16' },
      { bits: '24', range: [1, 3] },
      { bits: '32f', stems: ['voice', 'choir'], throughMain: false },
    ])
      expect(await server.ended((await server.ask<Job>(`/songs/${id}/bounces`, body)).body)).toMatchObject({
        state: 'done',
      });
    socket.close();
    const made = await list(id);
    expect(made.map(({ file, seconds }) => [file, seconds])).toEqual([
      ['My own – Choir 32f.wav', 4],
      ['My own – Voice 32f.wav', 4],
      ['My own – mix 24.wav', 2],
      ['My own – mix 16.wav', 4],
    ]);
    // 0.5 of a sine on both sides of a stereo track: −9 LUFS and a little for 500 Hz; the voice 3 dB under it.
    const loud = Object.fromEntries(made.map(({ file, loudness }) => [file, loudness.integrated]));
    expect(loud['My own – Choir 32f.wav']! - loud['My own – Voice 32f.wav']!).toBeCloseTo(3, 1);
    expect(made[0]!.loudness.truePeak).toBeCloseTo(-6, 1);
    const file = await fetch(`${server.address}/api/songs/${id}/bounces/${made[2]!.id}/file`);
    const bytes = new Uint8Array(await file.arrayBuffer());
    expect(readWavInfo(bytes, bytes.length)).toMatchObject({ ok: true, value: { frames: 96000, format: 'int24' } });
    expect(told.filter((job) => job.kind === 'bounce').map((job) => job.state)).toContain('done');
    expect(new Set(told.map((job) => job.name))).toContain('Mix of My own');
    await server.ask(`/songs/${id}/bounces/${made[0]!.id}`, undefined, 'DELETE');
    expect(await list(id)).toHaveLength(3);
  });

  test('and another of the same name at the same time are two files, each whole', async () => {
    const id = await song(2);
    const twice = [0, 1].map(() => server.ask<Job>(`/songs/${id}/bounces`, { bits: '24', stems: ['voice', 'choir'] }));
    for (const { body } of await Promise.all(twice)) expect(await server.ended(body)).toMatchObject({ state: 'done' });
    expect((await list(id)).map(({ file }) => file).sort()).toEqual([
      'My own – Choir 24 (2).wav',
      'My own – Choir 24.wav',
      'My own – Voice 24 (2).wav',
      'My own – Voice 24.wav',
    ]);
    const [size, ...others] = files('songs', String(id), 'bounces').map(
      (file) => readFileSync(join(server.data, 'songs', String(id), 'bounces', file)).length,
    );
    expect(others).toEqual([size, size, size]);
  });

  test('whose file is gone can be taken out of the list; one of a song of a long name in wide letters has a file', async () => {
    const id = await song(0.5);
    await server.ask(`/songs/${id}/edits`, { revision: 0, edit: { kind: 'title', name: '雨'.repeat(150) } });
    await server.ended((await server.ask<Job>(`/songs/${id}/bounces`, { bits: '16' })).body);
    const [made] = await list(id);
    expect(made!.file).toMatch(/^雨{50,80} 16\.wav$/);
    rmSync(join(server.data, 'songs', String(id), 'bounces', made!.file));
    expect((await server.ask(`/songs/${id}/bounces/${made!.id}/file`)).status).toBe(404);
    expect((await server.ask(`/songs/${id}/bounces/${made!.id}`, undefined, 'DELETE')).status).toBe(204);
    expect(await list(id)).toEqual([]);
  });

  test('that is given up leaves no half file', async () => {
    const id = await song(20);
    const job = (await server.ask<Job>(`/songs/${id}/bounces`, { bits: '24' })).body;
    await server.ask(`/jobs/${job.id}`, undefined, 'DELETE');
    expect((await server.ended(job)).state).toBe('cancelled');
    expect(files('songs', String(id), 'bounces')).toEqual([]);
    expect(await list(id)).toEqual([]);
  });

  test.each([
    [{ bits: '12' }, 400, /bits must be one of/],
    [{ bits: '16', range: [3, 9] }, 422, /no range of the song/],
    [{ bits: '16', stems: ['drum'] }, 422, /no channel “drum”/],
    [{ bits: '16', stems: ['main'] }, 422, /no sound of its own/],
  ])('of %j is refused', async (body, status, sentence) => {
    const id = await song(1);
    const answer = await server.ask<{ sentence: string }>(`/songs/${id}/bounces`, body);
    expect(answer).toMatchObject({ status, body: { sentence: expect.stringMatching(sentence) } });
  });
});

describe('the journal of an open pass', () => {
  const began = passState(songOf(SONG));
  const write = (id: number, seq: number, at: number, more: object = {}): Promise<{ status: number }> =>
    server.ask(`/songs/${id}/journals/pass-1`, { seq, at, events: [{ do: 'letgo', t: at }], ...more }, 'PUT');
  const left = async (id: number): Promise<OpenJournal[]> =>
    (await server.ask<OpenJournal[]>(`/songs/${id}/journals`)).body;
  /** As if its tab had been gone for a while. */
  const orphan = (): Promise<unknown> =>
    server.app.get(Sequelize).query(`UPDATE journals SET updatedAt = '2020-01-01 00:00:00.000 +00:00'`);

  test('is offered once its tab is gone, over a restart, in order, each piece once', async () => {
    const id = await server.create();
    await write(id, 0, 1, { began });
    await write(id, 1, 1.25);
    await write(id, 1, 1.25);
    expect(await left(id)).toEqual([]);
    await server.restart();
    await orphan();
    expect(await left(id)).toEqual([
      {
        key: 'pass-1',
        began,
        at: 1.25,
        events: [
          { do: 'letgo', t: 1 },
          { do: 'letgo', t: 1.25 },
        ],
      },
    ]);
  });

  test('is gone as its pass is kept, and a late piece does not bring it back', async () => {
    const id = await server.create();
    await write(id, 0, 1, { began });
    const edit: Edit = { kind: 'rest', values: { 'voice/level': -3 } };
    await server.ask(`/songs/${id}/edits`, { revision: 0, edit, key: 'pass-1' });
    await write(id, 1, 1.5);
    await orphan();
    expect(await left(id)).toEqual([]);
  });
});

test('the second tab is told of a change once it is kept', async () => {
  const id = await server.create();
  const socket = io(server.address);
  await new Promise((connected) => socket.on('connect', () => connected(null)));
  const told = new Promise((come) => socket.on('song', come));
  const edit: Edit = { kind: 'rest', values: { 'voice/level': -3 } };
  await server.ask(`/songs/${id}/edits`, { revision: 0, edit });
  expect(await told).toEqual({ songId: id, revision: 1 });
  socket.close();
});

test('sockets pass the same door: a page from elsewhere is not let in', async () => {
  const socket = io(server.address, { extraHeaders: { origin: 'http://elsewhere.example' }, reconnection: false });
  expect(await new Promise((refused) => socket.on('connect_error', () => refused('refused')))).toBe('refused');
  socket.close();
});

test('the song document is found whole where it is asked for', async () => {
  const id = await server.create();
  const { body } = await server.ask<Song>(`/songs/${id}/document`);
  expect(body).toEqual(JSON.parse(JSON.stringify((await whole(id)).song)));
});
