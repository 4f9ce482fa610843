import { mkdtempSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const sqlite3 = createRequire(new URL('../../server/package.json', import.meta.url))('sqlite3');

/** Plain multiply-adds, each needing the one before. */
function multiplyAdds() {
  let x = 0.5;
  for (let i = 0; i < 3e7; i++) x = x * 0.999_999_9 + 1e-7;
  if (x > 2) throw new Error('the sum ran away');
}

const POINTS = Array.from({ length: 40_000 }, (_, i) => ({
  t: i / 60,
  v: -8 + Math.sin(i / 7),
  shape: 'line',
  bend: 0,
}));
const roundTrip = () => JSON.parse(JSON.stringify(POINTS));

/** Two thousand rows of a kilobyte in one transaction, on the disk as the server keeps songs. */
async function inserts() {
  const folder = mkdtempSync(join(tmpdir(), 'sure-hand-reference-'));
  const db = new sqlite3.Database(join(folder, 'rows.sqlite'));
  const run = (sql, ...values) =>
    new Promise((done, fail) => db.run(sql, values, (error) => (error ? fail(error) : done())));
  try {
    for (const sql of [
      'PRAGMA journal_mode = WAL',
      'PRAGMA synchronous = FULL',
      'CREATE TABLE rows (id INTEGER, bytes BLOB)',
    ])
      await run(sql);
    await run('BEGIN');
    const bytes = Buffer.alloc(1024, 7);
    for (let i = 0; i < 2000; i++) await run('INSERT INTO rows VALUES (?, ?)', i, bytes);
    await run('COMMIT');
  } finally {
    await new Promise((closed) => db.close(closed));
    rmSync(folder, { recursive: true, force: true });
  }
}

/** How long the fixed reference loop takes now, in milliseconds: the best of three, since others only ever slow it. */
export async function referenceMs() {
  let best = Infinity;
  for (let k = 0; k < 3; k++) {
    const began = performance.now();
    multiplyAdds();
    roundTrip();
    await inserts();
    best = Math.min(best, performance.now() - began);
  }
  return best;
}
