import sqlite3 from 'sqlite3';

/** Opens a database without anything of this program's in between. Rejects where the file can't be opened; one that is not there is made, unless it is only read. */
export const opened = (file: string, isThere = false): Promise<sqlite3.Database> =>
  new Promise((done, fail) => {
    const mode = sqlite3.OPEN_READWRITE | (isThere ? 0 : sqlite3.OPEN_CREATE);
    const database = new sqlite3.Database(file, mode, (error) => (error ? fail(error) : done(database)));
  });

export const ran = (database: sqlite3.Database, statement: string): Promise<void> =>
  new Promise((done, fail) => database.run(statement, (error) => (error ? fail(error) : done())));

/** The first row of what is asked for. */
export const rowOf = <T>(database: sqlite3.Database, statement: string): Promise<T> =>
  new Promise((done, fail) => database.get<T>(statement, (error, row) => (error ? fail(error) : done(row))));

export const closed = (database: sqlite3.Database): Promise<void> =>
  new Promise((done) => database.close(() => done()));

/** What the driver has of SQLite's own online backup, which its types do not name. */
type Backup = {
  step(pages: number, done: (error: Error | null) => void): void;
  finish(done: (error: Error | null) => void): void;
};
type BackingUp = { backup(file: string, ready: (error: Error | null) => void): Backup };

/** Copies a database to a file as it stands at one moment, by SQLite's own online backup: whoever works on it goes on. */
export async function backedUp(database: sqlite3.Database, to: string): Promise<void> {
  const asked = (ask: (done: (error: Error | null) => void) => void): Promise<void> =>
    new Promise((done, fail) => ask((error) => (error ? fail(error) : done())));
  let backup: Backup | null = null;
  await asked((ready) => (backup = (database as unknown as BackingUp).backup(to, ready)));
  await asked((done) => backup!.step(-1, done));
  await asked((done) => backup!.finish(done));
}
