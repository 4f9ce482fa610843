import { copyFileSync, existsSync, linkSync, mkdirSync, readdirSync, renameSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Sequelize } from 'sequelize';
import { DEMO_MARK } from '../demoMark.js';
import { DATABASE_FILE, songsIn, stampOf, upgradesIn } from './layout.js';
import { isWithoutLinks } from './linkOrCopy.js';

/**
 * Keeps a copy of a data folder as it is, a folder that a server can be started on: the database, and every song's audio,
 * which takes no room, since audio is never changed in place and both have the same. Where the file system can't do that the
 * audio is left out. Gives back the sentence about it.
 */
export async function keepUpgradeCopy(
  sequelize: Sequelize,
  dataFolder: string,
  version: string,
  now = new Date(),
): Promise<string> {
  const copy = join(upgradesIn(dataFolder), `${version} at ${stampOf(now)}`);
  const half = `${copy}.part`;
  clearHalfCopies(dataFolder);
  mkdirSync(half, { recursive: true });
  try {
    // By SQLite itself: what stands in its log yet is there, and its locks stay.
    await sequelize.query('VACUUM INTO $file', { bind: { file: join(half, DATABASE_FILE) } });
    const isWithAudio = linkAll(songsIn(dataFolder), songsIn(half));
    const mark = join(dataFolder, DEMO_MARK);
    if (existsSync(mark)) copyFileSync(mark, join(half, DEMO_MARK));
    renameSync(half, copy);
    const audio = isWithAudio ? '' : ' It is without the audio, which an upgrade does not touch.';
    return `The data folder is of an earlier version and is brought up to date. It is kept as it was in ${copy}.${audio}`;
  } catch (error) {
    rmSync(half, { recursive: true, force: true });
    throw new Error(
      `The data folder has to be brought up to date, and no copy of it could be made before (${(error as Error).message}). Make room where ${dataFolder} is, and start again; nothing was changed.`,
      { cause: error },
    );
  }
}

/** Copies that an earlier start was making as it ended. */
export function clearHalfCopies(dataFolder: string): void {
  const copies = upgradesIn(dataFolder);
  if (!existsSync(copies)) return;
  for (const name of readdirSync(copies))
    if (name.endsWith('.part')) rmSync(join(copies, name), { recursive: true, force: true });
}

/** Puts all files under second names; false, with none of them there, where this file system has no second names. */
function linkAll(from: string, to: string): boolean {
  if (!existsSync(from)) return true;
  try {
    for (const entry of readdirSync(from, { recursive: true, withFileTypes: true })) {
      if (!entry.isFile()) continue;
      const folder = join(to, entry.parentPath.slice(from.length));
      mkdirSync(folder, { recursive: true });
      linkSync(join(entry.parentPath, entry.name), join(folder, entry.name));
    }
    return true;
  } catch (error) {
    if (!isWithoutLinks(error)) throw error;
    rmSync(to, { recursive: true, force: true });
    return false;
  }
}
