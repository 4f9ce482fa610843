import { DataTypes, type ModelAttributeColumnOptions, type QueryInterface, type Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';

const id = { type: DataTypes.INTEGER, primaryKey: true, allowNull: false } as const;
const songId = {
  ...id,
  references: { model: 'songs', key: 'id' },
  onDelete: 'CASCADE',
} as const;
const text = { type: DataTypes.TEXT, allowNull: false } as const;
const string = { type: DataTypes.STRING, allowNull: false } as const;
const blob = { type: DataTypes.BLOB, allowNull: false } as const;
const date = { type: DataTypes.DATE, allowNull: false } as const;
const flag = { type: DataTypes.BOOLEAN, allowNull: false, defaultValue: false } as const;

/**
 * Adds a column where it is not there yet. Every step of a migration can be done again: earlier versions did not do it as one,
 * and left folders in which a part was done.
 */
async function addColumn(
  q: QueryInterface,
  table: string,
  column: string,
  options: ModelAttributeColumnOptions,
): Promise<void> {
  if (!(column in (await q.describeTable(table)))) await q.addColumn(table, column, options);
}

/** Adds an index where it is not there yet. */
async function addIndex(q: QueryInterface, table: string, columns: readonly string[]): Promise<void> {
  const there = (await q.showIndex(table)) as { readonly fields: { readonly attribute: string }[] }[];
  const isThere = there.some(({ fields }) => fields.map(({ attribute }) => attribute).join() === columns.join());
  if (!isThere) await q.addIndex(table, [...columns]);
}

async function firstTables(q: QueryInterface): Promise<void> {
  const autoId = { ...id, autoIncrement: true };
  const key = { ...string, primaryKey: true };
  await q.createTable('songs', {
    id: autoId,
    name: string,
    document: text,
    revision: { type: DataTypes.INTEGER, allowNull: false, defaultValue: 0 },
    createdAt: date,
    updatedAt: date,
  });
  await q.createTable('lanes', { songId, control: key, state: text, points: blob, trim: blob });
  await q.createTable('changes', { songId, revision: id, edit: text, createdAt: date });
  await q.createTable('steps', {
    id: autoId,
    songId: { ...songId, primaryKey: false },
    name: string,
    edit: text,
    inverse: text,
    undone: flag,
    createdAt: date,
  });
  await addIndex(q, 'steps', ['songId', 'undone', 'id']);
  await q.createTable('passes', {
    songId,
    number: id,
    stepId: { type: DataTypes.INTEGER, allowNull: true },
    undone: flag,
    receipt: text,
    createdAt: date,
  });
  await q.createTable('passLanes', { songId, number: id, control: key, layer: key, before: blob, after: blob });
}

/** Songs that were removed and can come back; edits told apart by the sender's key; bounces; journals of open passes. */
async function filesAndJournals(q: QueryInterface): Promise<void> {
  const key = { ...string, primaryKey: true };
  await addColumn(q, 'songs', 'removedAt', { type: DataTypes.DATE, allowNull: true });
  await addColumn(q, 'changes', 'key', { type: DataTypes.STRING, allowNull: true });
  await addIndex(q, 'changes', ['songId', 'key']);
  await q.createTable('bounces', {
    id: { ...id, autoIncrement: true },
    songId: { ...songId, primaryKey: false },
    name: string,
    file: string,
    format: string,
    seconds: { type: DataTypes.DOUBLE, allowNull: false },
    bytes: { type: DataTypes.INTEGER, allowNull: false },
    loudness: text,
    createdAt: date,
  });
  await q.createTable('journals', {
    key,
    songId: { ...songId, primaryKey: false },
    began: text,
    at: { type: DataTypes.DOUBLE, allowNull: false },
    createdAt: date,
    updatedAt: date,
  });
  await q.createTable('journalChunks', {
    journal: { ...key, references: { model: 'journals', key: 'key' }, onDelete: 'CASCADE' },
    seq: id,
    events: text,
  });
}

/** Passes that are called something; what a logged lane rested at. */
async function namedPasses(q: QueryInterface): Promise<void> {
  await addColumn(q, 'passes', 'name', { type: DataTypes.STRING, allowNull: true });
  await addColumn(q, 'passes', 'note', { type: DataTypes.TEXT, allowNull: true });
  await addColumn(q, 'passLanes', 'rest', { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 });
}

/** What of a pass was left alone, guarded by somebody meanwhile; the sender's key of one that left nothing else behind. */
async function passesLeftAlone(q: QueryInterface): Promise<void> {
  await addColumn(q, 'passes', 'left', { type: DataTypes.TEXT, allowNull: true });
  await addColumn(q, 'passes', 'key', { type: DataTypes.STRING, allowNull: true });
  await addIndex(q, 'passes', ['songId', 'key']);
}

/** What kind of edit each step is: its name is for people alone. */
async function kindsOfSteps(q: QueryInterface): Promise<void> {
  await addColumn(q, 'steps', 'kind', { type: DataTypes.STRING, allowNull: false, defaultValue: '' });
  await q.sequelize.query("UPDATE steps SET kind = json_extract(edit, '$.kind')");
}

/** What a step did stands with the changes of the song: that of a pass is large, and is written once. */
async function stepsByRevision(q: QueryInterface): Promise<void> {
  await addColumn(q, 'steps', 'revision', { type: DataTypes.INTEGER, allowNull: true });
}

/** Edits, and what takes them back, with their curves as bytes: what stood as JSON before stays as it is. */
async function packedEdits(q: QueryInterface): Promise<void> {
  const blob = { type: DataTypes.BLOB, allowNull: true };
  await addColumn(q, 'changes', 'packed', blob);
  await addColumn(q, 'steps', 'packed', blob);
}

/** Placings stand in the log beside the passes; steps say which controls they changed. */
async function placingsLogged(q: QueryInterface): Promise<void> {
  await addColumn(q, 'passes', 'entry', { type: DataTypes.TEXT, allowNull: true });
  await addColumn(q, 'steps', 'controls', { type: DataTypes.TEXT, allowNull: true });
}

/**
 * Curves, each kept once however often it is named: by the log, which has what a pass found as what the one before it left; by
 * edits and what takes them back; by copies of a song. What of earlier versions stands as bytes stays as it is.
 */
async function curvesOnce(q: QueryInterface): Promise<void> {
  await q.createTable('curves', {
    id: { ...id, autoIncrement: true },
    hash: { type: DataTypes.BLOB, allowNull: false, unique: true },
    bytes: blob,
  });
  await q.createTable('curveUses', { songId, curve: id });
  await addIndex(q, 'curveUses', ['curve']);
  for (const column of ['beforeCurve', 'afterCurve'])
    await addColumn(q, 'passLanes', column, { type: DataTypes.INTEGER, allowNull: true });
  await addColumn(q, 'changes', 'points', { type: DataTypes.INTEGER, allowNull: true });
  await addIndex(q, 'passes', ['songId', 'stepId']);
  await addIndex(q, 'passLanes', ['songId', 'control']);
}

/** The versions that a database has been, in order: each migration brings it to its own. */
const MIGRATIONS: readonly { readonly name: string; readonly up: (q: QueryInterface) => Promise<void> }[] = [
  { name: '2026-11-25-first-tables', up: firstTables },
  { name: '2026-11-25-files-and-journals', up: filesAndJournals },
  { name: '2026-11-26-named-passes', up: namedPasses },
  { name: '2026-11-27-passes-left-alone', up: passesLeftAlone },
  { name: '2026-11-27-kinds-of-steps', up: kindsOfSteps },
  { name: '2026-11-27-steps-by-revision', up: stepsByRevision },
  { name: '2026-11-27-packed-edits', up: packedEdits },
  { name: '2026-11-28-placings-logged', up: placingsLogged },
  { name: '2026-12-01-curves-once', up: curvesOnce },
];

/** The versions that a database can be brought to, oldest first. */
export const VERSIONS: readonly string[] = MIGRATIONS.map(({ name }) => name);

/**
 * Brings a database up to date, all of it or nothing: what is ended in the midst is as it was before. `keepCopy` is asked first,
 * where there is something to be kept. Throws a sentence where the database is of a newer version than this one. `to`: no
 * further than to that version.
 */
export async function bringUpToDate(
  sequelize: Sequelize,
  keepCopy: (version: string) => Promise<void>,
  to = VERSIONS.at(-1)!,
): Promise<void> {
  const storage = new SequelizeStorage({ sequelize });
  const done = await storage.executed();
  const unknown = done.filter((name) => !VERSIONS.includes(name));
  if (unknown.length)
    throw new Error(
      `The data folder is of a newer version of Sure Hand than this one (it knows of ${unknown.join(', ')}). Start that version, or give this one another folder: SURE_HAND_DATA=/path/to/folder npm start`,
    );
  const umzug = new Umzug({
    migrations: MIGRATIONS.map(({ name, up }) => ({
      name,
      up: ({ context }: { context: QueryInterface }) => up(context),
    })),
    context: sequelize.getQueryInterface(),
    storage,
    logger: undefined,
  });
  const pending = await umzug.pending();
  const last = VERSIONS.indexOf(to);
  if (!pending.some(({ name }) => VERSIONS.indexOf(name) <= last)) return;
  const version = VERSIONS.findLast((name) => done.includes(name));
  if (version) await keepCopy(version);
  // Without a transaction named, everything goes by one connection; so all that follows is one.
  await sequelize.query('BEGIN IMMEDIATE');
  try {
    await umzug.up({ to });
    await sequelize.query('COMMIT');
  } catch (error) {
    await sequelize.query('ROLLBACK');
    throw error;
  }
}
