import {
  copyFileSync,
  existsSync,
  mkdirSync,
  readFileSync,
  readdirSync,
  renameSync,
  rmSync,
  rmdirSync,
  statSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { join, resolve, sep } from 'node:path';
import { syncToDisk } from '@sure-hand/audio-files';
import { DEMO_MARK } from '../demoMark.js';
import { noRoomSentence } from '../security/noRoom.js';
import { FolderHold } from './folderHold.js';
import { DATABASE_FILE, IN_SONG, MAKING, REMOVING, lostIn, songsIn, stampOf } from './layout.js';
import { backedUp, closed, opened, rowOf } from './rawDatabase.js';

/** A sentence for whoever asked for a backup or to have one back. */
export class FolderTrouble extends Error {}

/** Says that a folder is a backup, and of when: `at` is null of one that is not finished yet. */
const MARK = 'sure-hand-backup.json';
type Mark = { readonly at: string | null; readonly of: string; readonly songs: number };

/** What was copied. `files`: all of them; `bytes`: of those that had to be copied; `missing`: files that went meanwhile, or are links that lead nowhere. */
type Files = { readonly files: number; readonly copied: number; readonly bytes: number; readonly missing: number };
/** What a backup or the way back came to. */
export type Copied = Files & { readonly songs: number };

/** What is being put back is whole once it is called so; before, it is of no use. */
const READY = 'restore-ready';
const HALF = 'restore.part';
/** What was there before is kept in here, a folder for each time. */
const REPLACED = 'before-restore';
/** What of a data folder is backed up and put back; the database first. */
const PARTS = [DATABASE_FILE, 'songs', 'lost', DEMO_MARK] as const;

/**
 * Backs a data folder up into another, also while a server works on it: the database as it stands at one moment, then every
 * audio file, and what was lost. A backup that is there is renewed: audio is never changed in place, so what is there
 * already is not copied again, and nothing there is deleted.
 */
export const backUp = (dataFolder: string, to: string, say: (sentence: string) => void): Promise<Copied> =>
  withRoom(resolve(to), 'What is copied stays there; the same command goes on with it.', () =>
    backUpWith(dataFolder, to, say),
  );

async function backUpWith(dataFolder: string, to: string, say: (sentence: string) => void): Promise<Copied> {
  const from = resolve(dataFolder);
  const target = resolve(to);
  if (!existsSync(join(from, DATABASE_FILE)))
    throw new FolderTrouble(
      `${from} is no data folder: there is no ${DATABASE_FILE} in it. Name the right one with --data.`,
    );
  if (`${target}${sep}`.startsWith(`${from}${sep}`) || `${from}${sep}`.startsWith(`${target}${sep}`))
    throw new FolderTrouble(
      `A backup of ${from} can’t be in it, nor around it. Give a folder elsewhere, best on another disk.`,
    );
  const isBackup = existsSync(join(target, MARK));
  if (existsSync(target) && !isBackup && readdirSync(target).some((name) => name !== `${MARK}.part`))
    throw new FolderTrouble(
      `${target} has other things in it. Give a folder that is empty, is not there yet, or is a backup.`,
    );
  mkdirSync(target, { recursive: true });
  // Ended in the midst, it is still known to be one, and is gone on with.
  if (!isBackup) writeWhole(join(target, MARK), JSON.stringify({ at: null, of: from, songs: 0 } satisfies Mark));
  // Documents first: what is changed meanwhile must not be older in the database than beside the audio.
  copyTree(songsIn(from), songsIn(target), { say, isWanted: (name) => name === IN_SONG.document });
  say('Copying the database …');
  const half = join(target, `${DATABASE_FILE}.part`);
  rmSync(half, { force: true });
  const database = await opened(join(from, DATABASE_FILE), true);
  try {
    database.configure('busyTimeout', 4000);
    await backedUp(database, half);
  } finally {
    await closed(database);
  }
  const songs = await countSongs(half);
  const done = copyTree(songsIn(from), songsIn(target), { say, isWanted: (name) => name !== IN_SONG.document });
  const lost = copyTree(lostIn(from), lostIn(target), { say });
  if (existsSync(join(from, DEMO_MARK))) writeFileSync(join(target, DEMO_MARK), '');
  syncToDisk(half);
  renameSync(half, join(target, DATABASE_FILE));
  const mark: Mark = { at: new Date().toISOString(), of: from, songs };
  writeWhole(join(target, MARK), JSON.stringify(mark));
  return { songs, ...together(done, lost) };
}

const together = (one: Files, other: Files): Files => ({
  files: one.files + other.files,
  copied: one.copied + other.copied,
  bytes: one.bytes + other.bytes,
  missing: one.missing + other.missing,
});

/** Writes a small file, which is there whole or not at all. */
function writeWhole(file: string, text: string): void {
  writeFileSync(`${file}.part`, text);
  syncToDisk(`${file}.part`);
  renameSync(`${file}.part`, file);
}

/** Says in a sentence where a disk was full. */
async function withRoom<T>(folder: string, after: string, act: () => Promise<T>): Promise<T> {
  try {
    return await act();
  } catch (error) {
    if (noRoomSentence(error) === null) throw error;
    throw new FolderTrouble(`The disk that ${folder} is on is full. Make room there, or take another one. ${after}`);
  }
}

/** Whether a folder is a backup that came to its end. Throws a sentence where it is none. */
function checkBackup(source: string): void {
  const mark = join(source, MARK);
  if (!existsSync(mark)) throw new FolderTrouble(`${source} is no backup: sure-hand backup --to makes one.`);
  let isDone = existsSync(join(source, DATABASE_FILE));
  try {
    isDone &&= (JSON.parse(readFileSync(mark, 'utf8')) as Mark).at !== null;
  } catch {
    isDone = false;
  }
  if (!isDone)
    throw new FolderTrouble(
      `${source} is a backup that never came to its end. Go on with it by sure-hand backup --to, or take another one.`,
    );
}

/** How many songs a database has, which is looked through on the way. Throws a sentence where it is damaged. */
async function countSongs(file: string): Promise<number> {
  const database = await opened(file, true);
  try {
    const { quick_check: says } = await rowOf<{ quick_check: string }>(database, 'PRAGMA quick_check');
    if (says !== 'ok') throw new FolderTrouble(`The database is damaged (${says}). Put an earlier backup back.`);
    return (await rowOf<{ count: number }>(database, 'SELECT COUNT(*) AS count FROM songs')).count;
  } finally {
    await closed(database);
  }
}

/** Who is told what is copied, and which files are, by their names: all where nobody says. */
type Copying = { readonly say: (sentence: string) => void; readonly isWanted?: (name: string) => boolean };

/** Copies what is not there yet of a folder and all below it; what is half made stays behind. */
function copyTree(from: string, to: string, how: Copying): Files {
  const { say, isWanted = () => true } = how;
  let done: Files = { files: 0, copied: 0, bytes: 0, missing: 0 };
  if (!existsSync(from)) return done;
  mkdirSync(to, { recursive: true });
  for (const entry of readdirSync(from, { withFileTypes: true })) {
    const { name } = entry;
    const [source, target] = [join(from, name), join(to, name)];
    if (name.startsWith(MAKING) || name.startsWith(REMOVING) || name.endsWith('.part')) continue;
    if (!entry.isDirectory() && !isWanted(name)) continue;
    try {
      done = together(done, entry.isDirectory() ? copyTree(source, target, how) : copied(source, target, say));
    } catch (error) {
      // A song that is removed meanwhile, or a link to a disk that is not there, keeps nothing else from being copied.
      if ((error as { code?: string }).code !== 'ENOENT' || existsSync(source)) throw error;
      say(`${source} is not there any more, or leads nowhere: it is left out.`);
      done = { ...done, missing: done.missing + 1 };
    }
  }
  return done;
}

/** Copies one file where it is not there as it is. */
function copied(source: string, target: string, say: (sentence: string) => void): Files {
  const { size, mtimeMs, atime, mtime } = statSync(source);
  const there = statSync(target, { throwIfNoEntry: false });
  if (there?.size === size && Math.abs(there.mtimeMs - mtimeMs) < 2)
    return { files: 1, copied: 0, bytes: 0, missing: 0 };
  say(`Copying ${source} …`);
  copyFileSync(source, `${target}.part`);
  syncToDisk(`${target}.part`);
  utimesSync(`${target}.part`, atime, mtime);
  renameSync(`${target}.part`, target);
  return { files: 1, copied: 1, bytes: size, missing: 0 };
}

/**
 * Puts a backup back in a data folder's place. What is there is not deleted: it stands in a folder of its own then. Nobody may
 * work on the folder meanwhile. Ended in the midst, the folder is as it was, or the next start ends it.
 */
export const restore = (dataFolder: string, from: string, say: (sentence: string) => void): Promise<Restored> =>
  withRoom(resolve(dataFolder), 'What was there is as it was.', () => restoreWith(dataFolder, from, say));

/** What putting back came to; `replaced`: where what was there before is now. */
type Restored = Copied & { readonly replaced: string | null };

async function restoreWith(dataFolder: string, from: string, say: (sentence: string) => void): Promise<Restored> {
  const source = resolve(from);
  checkBackup(source);
  const hold = await FolderHold.take(resolve(dataFolder)).catch((error: Error) => {
    throw new FolderTrouble(error.message);
  });
  try {
    const half = join(dataFolder, HALF);
    rmSync(half, { recursive: true, force: true });
    mkdirSync(half);
    const songs = await countSongs(join(source, DATABASE_FILE));
    copyFileSync(join(source, DATABASE_FILE), join(half, DATABASE_FILE));
    syncToDisk(join(half, DATABASE_FILE));
    const done = copyTree(songsIn(source), songsIn(half), { say });
    const lost = copyTree(lostIn(source), lostIn(half), { say });
    if (existsSync(join(source, DEMO_MARK))) writeFileSync(join(half, DEMO_MARK), '');
    // An empty list of songs is one, too: what was there goes out of its way.
    mkdirSync(songsIn(half), { recursive: true });
    renameSync(half, join(dataFolder, READY));
    const replaced = finishRestore(dataFolder);
    return { songs, ...together(done, lost), replaced };
  } catch (error) {
    // What was not put back whole takes no room.
    rmSync(join(dataFolder, HALF), { recursive: true, force: true });
    throw error;
  } finally {
    await hold.release();
  }
}

/** Ends what was put back whole and not yet in its place; gives back where what was there before is now, null where there was nothing to do. */
export function finishRestore(dataFolder: string, now = new Date()): string | null {
  rmSync(join(dataFolder, HALF), { recursive: true, force: true });
  const ready = join(dataFolder, READY);
  if (!existsSync(ready)) return null;
  const note = join(ready, 'replaced-to');
  if (!existsSync(note)) writeWhole(note, join(dataFolder, REPLACED, stampOf(now)));
  const replaced = readFileSync(note, 'utf8');
  mkdirSync(replaced, { recursive: true });
  for (const part of PARTS) {
    if (!existsSync(join(ready, part))) continue;
    const ends = part === DATABASE_FILE ? ['-wal', '-shm', ''] : [''];
    for (const end of ends) {
      const there = join(dataFolder, `${part}${end}`);
      if (existsSync(there)) renameSync(there, join(replaced, `${part}${end}`));
    }
    renameSync(join(ready, part), join(dataFolder, part));
  }
  rmSync(ready, { recursive: true, force: true });
  if (readdirSync(replaced).length) return replaced;
  rmdirSync(replaced);
  return null;
}
