import 'reflect-metadata';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Sequelize } from 'sequelize-typescript';
import type { ListedBounce } from '../bounces/bounceShelf.js';
import { VERSIONS, bringUpToDate } from '../database/migrations.js';
import type { Job } from '../jobs/jobBoard.js';
import { startServer, type Running } from '../server.js';
import type { KeptAnswer, ListedSong, WholeSong } from '../songs/songs.controller.js';
import { backUp, restore } from './backup.js';
import { endedJob } from '../test/endedJob.js';
import { toneWav } from '../test/toneWav.js';
import { DATABASE_FILE } from './layout.js';
import type { LostSong } from './lostAndFound.js';

/** At which statement a start is killed: at each by `npm run harness`, at some with every test. */
const EVERY = process.env.SURE_HAND_ALL ? 1 : 11;

let data = '';
let running: Running | null = null;
let said: string[] = [];

const start = async (folder = data): Promise<Running> =>
  startServer(
    { host: '127.0.0.1', port: 0, dataFolder: folder, webFolder: null },
    { demo: 'short', say: (sentence) => said.push(sentence) },
  );
const restart = async (meanwhile: () => void = () => undefined): Promise<void> => {
  await running?.close();
  running = null;
  meanwhile();
  said = [];
  running = await start();
};

async function ask<Body>(path: string, body?: object, method = body ? 'POST' : 'GET'): Promise<Body> {
  const options = body ? { body: JSON.stringify(body), headers: { 'Content-Type': 'application/json' } } : {};
  const answer = await fetch(`${running!.address}/api${path}`, { method, ...options });
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${answer.status} ${text}`);
  return (text ? JSON.parse(text) : null) as Body;
}

const ended = (job: Pick<Job, 'id'>): Promise<Job> => endedJob(async (path) => ({ body: await ask<Job>(path) }), job);

/** A song with a voice, its curve, and the voice's file; its number. */
async function makeSong(name = 'Kept'): Promise<number> {
  const { id } = await ask<{ id: string }>('/imports', {});
  const answer = await fetch(`${running!.address}/api/imports/${id}/stems?name=voice.wav`, {
    method: 'PUT',
    body: new Blob([new Uint8Array(toneWav())]),
  });
  const stem = (await answer.json()) as { id: string };
  const tracks = [{ stem: stem.id, name: 'Voice', family: 'Voices' }];
  const job = await ask<Job>(`/imports/${id}/song`, { name, sampleRate: 48000, bpm: 100, beats: 4, unit: 4, tracks });
  return (await ended(job)).songId!;
}
const edit = (id: number, revision: number, value: number): Promise<KeptAnswer> =>
  ask(`/songs/${id}/edits`, { revision, edit: { kind: 'rest', values: { 'voice/level': value } } });
const whole = (id: number): Promise<WholeSong> => ask(`/songs/${id}`);

beforeEach(async () => {
  data = mkdtempSync(join(tmpdir(), 'sure-hand-folder-'));
  writeFileSync(join(data, 'demo-made'), '');
  said = [];
  running = await start();
});
afterEach(async () => {
  await running?.close();
  running = null;
  rmSync(data, { recursive: true, force: true });
});

describe('one process at a time', () => {
  test('works on a folder: the second says who has it and where, and touches nothing of what is in the making', async () => {
    const half = join(data, 'songs', 'making-x');
    mkdirSync(half, { recursive: true });
    await expect(start()).rejects.toThrow(
      new RegExp(`running on the data folder .*process ${process.pid}\\)\\. It is at ${running!.address}\\.`),
    );
    expect(existsSync(half)).toBe(true);
    expect(await ask<ListedSong[]>('/songs')).toEqual([]);
    const address = running!.address;
    await restart();
    expect(running!.address).not.toBe(address);
    expect(existsSync(half)).toBe(false);
  });

  test('a folder that can’t be worked in is named', async () => {
    const file = join(data, 'file');
    writeFileSync(file, '');
    await expect(start(join(file, 'data'))).rejects.toThrow(/can’t be worked in .*SURE_HAND_DATA=/);
  });
});

describe('an upgrade', () => {
  /** The database as it lies there; what is written to it need not outlast a power cut. */
  const opened = async (): Promise<Sequelize> => {
    const db = new Sequelize({ dialect: 'sqlite', storage: join(data, DATABASE_FILE), logging: false });
    await db.query('PRAGMA synchronous = OFF');
    return db;
  };
  const noCopy = (): Promise<void> => Promise.resolve();
  /** All tables, indices and their columns, as SQLite has them. */
  const shape = async (db: Sequelize): Promise<unknown> => {
    const [rows] = await db.query('SELECT name, sql FROM sqlite_master ORDER BY name');
    const [done] = await db.query('SELECT name FROM SequelizeMeta ORDER BY name');
    return { rows, done };
  };
  /** Lets so many statements that change something through, then fails, as where a start is killed there. */
  const failingAfter = (db: Sequelize, most: number, isAtOnce: boolean): void => {
    const query = db.query.bind(db) as (...given: unknown[]) => Promise<unknown>;
    let count = 0;
    jest.spyOn(db, 'query').mockImplementation((async (statement: string | { query: string }, ...more: unknown[]) => {
      const text = typeof statement === 'string' ? statement : statement.query;
      if (!isAtOnce && /^(BEGIN|COMMIT|ROLLBACK)/.test(text)) return [];
      if (/^(CREATE|ALTER|INSERT|UPDATE)/i.test(text) && count++ >= most) throw new Error('killed');
      return query(statement, ...more);
    }) as never);
  };

  test('that is killed anywhere leaves the folder as it was, or can be begun again, for every version there was', async () => {
    await running!.close();
    running = null;
    rmSync(join(data, DATABASE_FILE));
    const clean = await opened();
    await bringUpToDate(clean, noCopy);
    const wanted = await shape(clean);
    await clean.close();
    for (const isAtOnce of [true, false])
      for (let most = 0, isDone = false; !isDone; most += EVERY) {
        for (const end of ['', '-wal', '-shm']) rmSync(join(data, `${DATABASE_FILE}${end}`), { force: true });
        const killed = await opened();
        failingAfter(killed, most, isAtOnce);
        isDone = await bringUpToDate(killed, noCopy).then(
          () => true,
          () => false,
        );
        jest.restoreAllMocks();
        await killed.close();
        const again = await opened();
        if (isAtOnce && !isDone) {
          const [tables] = await again.query("SELECT name FROM sqlite_master WHERE name NOT LIKE 'sqlite%'");
          expect(tables.filter((one) => (one as { name: string }).name !== 'SequelizeMeta')).toEqual([]);
        }
        await bringUpToDate(again, noCopy);
        expect({ most, ...((await shape(again)) as object) }).toEqual({ most, ...(wanted as object) });
        await again.close();
        if (most === 0) expect(isDone).toBe(false);
      }
  });

  test('keeps the folder as it was, named in what is said: a server starts on that', async () => {
    const id = await makeSong();
    await edit(id, 0, -3);
    const before = await whole(id);
    await restart(() => undefined);
    // As of the version before the last: what that had come to is taken back.
    await running!.close();
    running = null;
    const db = await opened();
    for (const statement of ['DROP TABLE curveUses', 'DROP TABLE curves', 'ALTER TABLE changes DROP COLUMN points'])
      await db.query(statement);
    for (const index of ['passes_song_id_step_id', 'pass_lanes_song_id_control']) await db.query(`DROP INDEX ${index}`);
    for (const column of ['beforeCurve', 'afterCurve']) await db.query(`ALTER TABLE passLanes DROP COLUMN ${column}`);
    await db.query(`DELETE FROM SequelizeMeta WHERE name = '${VERSIONS.at(-1)}'`);
    await db.close();
    await restart();
    const [, copy] = /It is kept as it was in (.*)\.$/.exec(said[0]!)!;
    expect(readdirSync(copy!).sort()).toEqual(['demo-made', 'songs', DATABASE_FILE].sort());
    expect(await whole(id)).toEqual(before);
    // Once is enough: the next start has nothing to do.
    await restart();
    expect(said).toEqual([]);
    await running!.close();
    running = await start(copy);
    expect((await whole(id)).song).toEqual(before.song);
    expect((await whole(id)).files['voice.wav']).toHaveProperty('info');
  });

  test('of a folder that a newer version has been at is refused, and one whose database is none, with nothing changed', async () => {
    await running!.close();
    running = null;
    const db = await opened();
    await db.query("INSERT INTO SequelizeMeta (name) VALUES ('2031-01-01-later')");
    await db.close();
    await expect(start()).rejects.toThrow(/newer version of Sure Hand than this one \(it knows of 2031-01-01-later\)/);
    for (const end of ['-wal', '-shm']) rmSync(join(data, `${DATABASE_FILE}${end}`), { force: true });
    writeFileSync(join(data, DATABASE_FILE), 'no database at all, but a page of text'.repeat(200));
    await expect(start()).rejects.toThrow(/no database that can be read/);
    expect(readFileSync(join(data, DATABASE_FILE), 'utf8')).toMatch(/^no database at all/);
  });
});

describe('what the database does not know', () => {
  const songs = (): string[] => readdirSync(join(data, 'songs')).sort();

  test('is put aside and told, never deleted; its song comes back with its curve, its audio and its bounce', async () => {
    const id = await makeSong('The Weir');
    await edit(id, 0, -7.5);
    const bounced = await ended(await ask<Job>(`/songs/${id}/bounces`, { bits: '16' }));
    expect(bounced.state).toBe('done');
    const before = await whole(id);
    const [bounce] = await ask<ListedBounce[]>(`/songs/${id}/bounces`);
    const audio = readFileSync(join(data, 'songs', String(id), 'voice.wav'));
    await restart(() => {
      for (const end of ['', '-wal', '-shm']) rmSync(join(data, `${DATABASE_FILE}${end}`), { force: true });
    });
    expect(said).toEqual([expect.stringMatching(/“The Weir” is not in the database\. It is in .*lost/)]);
    expect(await ask<ListedSong[]>('/songs')).toEqual([]);
    const [lost] = await ask<LostSong[]>('/lost');
    expect(lost).toMatchObject({ name: 'The Weir', files: 1, bytes: audio.length });
    writeFileSync(join(data, 'lost', lost!.folder, 'bounces', 'broken.wav'), 'no sound');
    const begun = await ask<Job>(`/lost/${encodeURIComponent(lost!.folder)}/song`, {});
    // Meanwhile nobody makes a second one of it, nor deletes it.
    for (const [path, method] of [
      ['/song', 'POST'],
      ['', 'DELETE'],
    ] as const)
      await expect(ask(`/lost/${encodeURIComponent(lost!.folder)}${path}`, {}, method)).rejects.toThrow(/^422/);
    const back = await ended(begun);
    expect(back).toMatchObject({
      state: 'done',
      sentence: expect.stringMatching(/The Weir is back as it was last left/),
    });
    const now = await whole(back.songId!);
    expect(now.song).toEqual(before.song);
    expect(readFileSync(join(data, 'songs', String(back.songId), 'voice.wav'))).toEqual(audio);
    const [measured] = await ask<ListedBounce[]>(`/songs/${back.songId}/bounces`);
    for (const field of ['name', 'file', 'bits', 'bytes', 'seconds'] as const)
      expect(measured![field]).toBe(bounce![field]);
    // At 16 bits it is dithered: by so little it measures otherwise than before.
    expect(measured!.loudness.integrated).toBeCloseTo(bounce!.loudness.integrated, 2);
    expect(await ask<LostSong[]>('/lost')).toEqual([]);
  });

  test('and has no document is a new song of its audio, a track each; a folder without any says so', async () => {
    await restart(() => {
      const folder = join(data, 'songs', '41');
      mkdirSync(join(folder, 'peaks'), { recursive: true });
      for (const name of ['Lead Vox.wav', 'bass.wav']) writeFileSync(join(folder, name), toneWav({ rate: 44100 }));
      mkdirSync(join(data, 'songs', 'Odds'));
      symlinkSync(join(data, 'nowhere'), join(data, 'songs', 'leads nowhere'));
    });
    const lost = await ask<LostSong[]>('/lost');
    expect(lost.map(({ name, files }) => [name, files]).sort()).toEqual([
      [null, 0],
      [null, 2],
    ]);
    const folders = lost.map(({ folder }) => encodeURIComponent(folder)).sort();
    const back = await ended(await ask<Job>(`/lost/${folders[0]}/song`, {}));
    expect(back.sentence).toMatch(/No song document .*a new song, a track each/);
    const { song } = await whole(back.songId!);
    expect(song.channels.map(({ name }) => name).sort()).toEqual(['Bass', 'Lead Vox', 'Main']);
    expect(song.sampleRate).toBe(44100);
    expect((await ended(await ask<Job>(`/lost/${folders[1]}/song`, {}))).sentence).toMatch(/there is no WAV file/);
    // What is not all a song's is not deleted but by act.
    expect(await ask<LostSong[]>('/lost')).toHaveLength(2);
    for (const folder of folders) await ask(`/lost/${folder}`, undefined, 'DELETE');
    expect(await ask<LostSong[]>('/lost')).toEqual([]);
    await expect(ask(`/lost/..%2Fsongs/song`, {})).rejects.toThrow(/^404/);
  });

  test('and says of itself that it is half made is deleted; of a song that is kept it is not', async () => {
    const id = await makeSong();
    await restart(() => {
      for (const [folder, isMarked] of [
        ['making-a', 0],
        ['removing-9', 0],
        ['77', 1],
        [String(id), 1],
      ] as const) {
        mkdirSync(join(data, 'songs', folder), { recursive: true });
        if (isMarked) writeFileSync(join(data, 'songs', folder, 'half-made'), '');
      }
    });
    expect([songs(), said]).toEqual([[String(id)], []]);
    expect(existsSync(join(data, 'songs', String(id), 'half-made'))).toBe(false);
    expect((await whole(id)).files['voice.wav']).toHaveProperty('info');
  });

  test('since it is older than the folder, stands beside it as a song of its own', async () => {
    const id = await makeSong('The Weir');
    await edit(id, 0, -1);
    await restart(() => undefined);
    await running!.close();
    running = null;
    const older = readFileSync(join(data, DATABASE_FILE));
    await restart();
    await edit(id, 1, -2);
    await restart(() => writeFileSync(join(data, DATABASE_FILE), older));
    expect((await whole(id)).song.lanes['voice/level']!.rest).toBe(-1);
    expect(said).toEqual([expect.stringMatching(/“The Weir” is older in the database .*\(1 changes against 2\)/)]);
    const [lost] = await ask<LostSong[]>('/lost');
    const back = await ended(await ask<Job>(`/lost/${encodeURIComponent(lost!.folder)}/song`, {}));
    expect((await whole(back.songId!)).song.lanes['voice/level']!.rest).toBe(-2);
    expect((await whole(back.songId!)).files['voice.wav']).toHaveProperty('info');
  });

  test('a removed song goes for good after its week, with its files, and can be begun again', async () => {
    const id = await makeSong();
    await ask(`/songs/${id}`, undefined, 'DELETE');
    const past = new Date(Date.now() - 8 * 24 * 3600 * 1000).toISOString();
    await restart(() => renameSync(join(data, 'songs', String(id)), join(data, 'songs', `removing-${id}`)));
    await running!.close();
    running = null;
    const db = new Sequelize({ dialect: 'sqlite', storage: join(data, DATABASE_FILE), logging: false });
    await db.query(`UPDATE songs SET removedAt = '${past}' WHERE id = ${id}`);
    await db.close();
    await restart();
    expect([songs(), said]).toEqual([[], []]);
    await expect(whole(id)).rejects.toThrow(/^404/);
  });
});

describe('a backup', () => {
  const quiet = (): void => undefined;
  let to = '';
  beforeEach(() => void (to = mkdtempSync(join(tmpdir(), 'sure-hand-backup-'))));
  afterEach(() => rmSync(to, { recursive: true, force: true }));
  const stop = async (): Promise<void> => {
    await running?.close();
    running = null;
  };

  test('is made while the server runs and is worked with, renewed by what is new, and put back whole', async () => {
    const id = await makeSong('The Weir');
    await edit(id, 0, -1);
    const before = await whole(id);
    const meanwhile = edit(id, 1, -2);
    const first = await backUp(data, to, quiet);
    await meanwhile;
    // The song's audio with its peaks; a document is only there once nobody has changed the song for a while.
    expect(first).toMatchObject({ songs: 1, files: 2, copied: 2 });
    expect(await backUp(data, to, quiet)).toMatchObject({ songs: 1, files: 2, copied: 0, bytes: 0 });
    const other = await makeSong('Lights');
    expect(await backUp(data, to, quiet)).toMatchObject({ songs: 2, files: 4, copied: 2 });
    await expect(restore(data, to, quiet)).rejects.toThrow(/is running on the data folder .* at http/);
    await ask(`/songs/${other}`, undefined, 'DELETE');
    await edit(id, 2, -12);
    await stop();
    const { replaced, ...back } = await restore(data, to, quiet);
    expect(back).toMatchObject({ songs: 2, files: 4 });
    await restart();
    expect(said).toEqual([]);
    expect((await ask<ListedSong[]>('/songs')).map(({ name }) => name).sort()).toEqual(['Lights', 'The Weir']);
    const now = await whole(id);
    expect(now.song.lanes['voice/level']!.rest).toBe(-2);
    expect([now.revision, now.files]).toEqual([2, before.files]);
    // What was there before is a folder that a server starts on.
    await stop();
    running = await start(replaced!);
    expect((await whole(id)).song.lanes['voice/level']!.rest).toBe(-12);
  });

  test('goes on where it was ended, and is none before it has come to its end; what leads nowhere is left out and said', async () => {
    const id = await makeSong('The Weir');
    symlinkSync('/nowhere/choir.wav', join(data, 'songs', String(id), 'choir.wav'));
    const fills = (sentence: string): void => {
      if (/Copying .*voice/.test(sentence)) throw Object.assign(new Error('no room'), { code: 'ENOSPC' });
    };
    await expect(backUp(data, to, fills)).rejects.toThrow(/The disk that .* is on is full\. .*goes on with it/);
    await stop();
    await expect(restore(data, to, quiet)).rejects.toThrow(/never came to its end/);
    const words: string[] = [];
    const came = await backUp(data, to, (sentence) => words.push(sentence));
    expect(came).toMatchObject({ songs: 1, missing: 1 });
    expect(words).toContainEqual(expect.stringMatching(/choir\.wav is not there any more, or leads nowhere/));
    await expect(restore(data, to, fills)).rejects.toThrow(/is on is full\. .*What was there is as it was/);
    await restart();
    expect(said).toEqual([]);
    expect((await whole(id)).files['voice.wav']).toHaveProperty('info');
    await stop();
    await restore(data, to, quiet);
    await restart();
    expect((await whole(id)).files['voice.wav']).toHaveProperty('info');
  });

  test.each([
    ['in the data folder', () => join(data, 'backup'), /can’t be in it/],
    ['around it', () => join(data, '..'), /nor around it/],
    ['in a folder with other things', () => join(data, '..', 'with'), /has other things in it/],
  ])('%s is refused', async (_where, at, sentence) => {
    mkdirSync(join(tmpdir(), 'with'), { recursive: true });
    writeFileSync(join(tmpdir(), 'with', 'thing'), '');
    await expect(backUp(data, at(), quiet)).rejects.toThrow(sentence);
  });

  test('of no data folder is refused; what is none is not put back', async () => {
    await expect(backUp(to, join(to, '../none'), quiet)).rejects.toThrow(/no data folder/);
    await stop();
    await expect(restore(data, to, quiet)).rejects.toThrow(/is no backup/);
    await start().then((at) => (running = at));
  });

  test('put back and ended in the midst is put back to its end by the next start, wherever it was ended', async () => {
    const id = await makeSong('The Weir');
    await backUp(data, to, quiet);
    await edit(id, 0, -12);
    await stop();
    const was = mkdtempSync(join(tmpdir(), 'sure-hand-was-'));
    cpSync(data, was, { recursive: true });
    for (let moves = 0; moves <= 5; moves++) {
      rmSync(data, { recursive: true, force: true });
      cpSync(was, data, { recursive: true });
      // As it is after so many of its moves.
      const ready = join(data, 'restore-ready');
      cpSync(to, ready, { recursive: true });
      const aside = join(data, 'before-restore', 'then');
      mkdirSync(aside, { recursive: true });
      if (moves > 0) writeFileSync(join(ready, 'replaced-to'), aside);
      const all: [string, string][] = [DATABASE_FILE, 'songs'].flatMap((part): [string, string][] => [
        [join(data, part), join(aside, part)],
        [join(ready, part), join(data, part)],
      ]);
      for (const [from, into] of all.slice(0, Math.max(0, moves - 1))) renameSync(from, into);
      said = [];
      running = await start();
      expect([moves, ...said]).toEqual([moves, expect.stringMatching(/put back to its end/)]);
      expect((await whole(id)).song.lanes['voice/level']?.rest ?? 0).not.toBe(-12);
      expect((await whole(id)).files['voice.wav']).toHaveProperty('info');
      await stop();
      const [kept] = readdirSync(join(data, 'before-restore')).filter((name) =>
        existsSync(join(data, 'before-restore', name, DATABASE_FILE)),
      );
      expect(readdirSync(join(data, 'before-restore', kept!)).sort()).toEqual(
        expect.arrayContaining(['songs', DATABASE_FILE]),
      );
    }
    rmSync(was, { recursive: true, force: true });
    running = await start();
  });
});
