import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type sqlite3 from 'sqlite3';
import { closed, opened, ran } from './rawDatabase.js';

/** Who holds a folder: its process, and where it listens once it does. */
type Holder = { readonly pid: number; readonly address: string | null };

const HOLD_FILE = 'hold.sqlite';
const HOLDER_FILE = 'held-by.json';

/** A process that was just ended may need so long to be gone. */
const WAIT_MS = 300;

/**
 * One process works on a data folder at a time: what it finds half made is of an earlier one, and nobody else's. The hold is a
 * lock of the system on a file of its own (SQLite's, which works alike everywhere): whoever is killed holds it no more.
 */
export class FolderHold {
  private constructor(
    private readonly dataFolder: string,
    private readonly lock: sqlite3.Database,
  ) {}

  /** Takes hold of a folder, which is made where it is not there. Throws a sentence where another process has it, or it can't be written to. */
  static async take(dataFolder: string): Promise<FolderHold> {
    let lock: sqlite3.Database | null = null;
    try {
      mkdirSync(dataFolder, { recursive: true });
      lock = await opened(join(dataFolder, HOLD_FILE));
      lock.configure('busyTimeout', WAIT_MS);
      await ran(lock, 'BEGIN EXCLUSIVE');
    } catch (error) {
      if (lock) await closed(lock);
      if ((error as { code?: string }).code === 'SQLITE_BUSY')
        throw new Error(sayHeld(dataFolder, holderOf(dataFolder)), { cause: error });
      throw new Error(
        `The data folder ${dataFolder} can’t be worked in (${(error as Error).message}). Let this user write there, or choose another: SURE_HAND_DATA=/path/to/folder npm start`,
        { cause: error },
      );
    }
    const hold = new FolderHold(dataFolder, lock);
    hold.#note(null);
    return hold;
  }

  /** Says where the holder listens, for whoever comes second. */
  listensAt(address: string): void {
    this.#note(address);
  }

  async release(): Promise<void> {
    rmSync(join(this.dataFolder, HOLDER_FILE), { force: true });
    await closed(this.lock);
  }

  #note(address: string | null): void {
    const holder: Holder = { pid: process.pid, address };
    writeFileSync(join(this.dataFolder, HOLDER_FILE), JSON.stringify(holder));
  }
}

function holderOf(dataFolder: string): Holder | null {
  try {
    return JSON.parse(readFileSync(join(dataFolder, HOLDER_FILE), 'utf8')) as Holder;
  } catch {
    return null;
  }
}

function sayHeld(dataFolder: string, holder: Holder | null): string {
  const who = holder ? `process ${holder.pid}` : 'another process';
  const where = holder?.address ? `It is at ${holder.address}.` : 'It is still starting.';
  return `Sure Hand is running on the data folder ${dataFolder} already (${who}). ${where} Use that one, end it first, or start on another folder: SURE_HAND_DATA=/path/to/folder npm start`;
}
