import { DataTypes, type QueryInterface, type Sequelize } from 'sequelize';
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
  await q.addIndex('steps', ['songId', 'undone', 'id']);
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
  await q.addColumn('songs', 'removedAt', { type: DataTypes.DATE, allowNull: true });
  await q.addColumn('changes', 'key', { type: DataTypes.STRING, allowNull: true });
  await q.addIndex('changes', ['songId', 'key']);
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
  await q.addColumn('passes', 'name', { type: DataTypes.STRING, allowNull: true });
  await q.addColumn('passes', 'note', { type: DataTypes.TEXT, allowNull: true });
  await q.addColumn('passLanes', 'rest', { type: DataTypes.DOUBLE, allowNull: false, defaultValue: 0 });
}

/** What of a pass was left alone, guarded by somebody meanwhile; the sender's key of one that left nothing else behind. */
async function passesLeftAlone(q: QueryInterface): Promise<void> {
  await q.addColumn('passes', 'left', { type: DataTypes.TEXT, allowNull: true });
  await q.addColumn('passes', 'key', { type: DataTypes.STRING, allowNull: true });
  await q.addIndex('passes', ['songId', 'key']);
}

/** What kind of edit each step is: its name is for people alone. */
async function kindsOfSteps(q: QueryInterface): Promise<void> {
  await q.addColumn('steps', 'kind', { type: DataTypes.STRING, allowNull: false, defaultValue: '' });
  await q.sequelize.query("UPDATE steps SET kind = json_extract(edit, '$.kind')");
}

/** What a step did stands with the changes of the song: that of a pass is large, and is written once. */
async function stepsByRevision(q: QueryInterface): Promise<void> {
  await q.addColumn('steps', 'revision', { type: DataTypes.INTEGER, allowNull: true });
}

/** Edits, and what takes them back, with their curves as bytes: what stood as JSON before stays as it is. */
async function packedEdits(q: QueryInterface): Promise<void> {
  const blob = { type: DataTypes.BLOB, allowNull: true };
  await q.addColumn('changes', 'packed', blob);
  await q.addColumn('steps', 'packed', blob);
}

/** Placings stand in the log beside the passes; steps say which controls they changed. */
async function placingsLogged(q: QueryInterface): Promise<void> {
  await q.addColumn('passes', 'entry', { type: DataTypes.TEXT, allowNull: true });
  await q.addColumn('steps', 'controls', { type: DataTypes.TEXT, allowNull: true });
}

/** Brings a database up to date, each migration once, in order. */
export function migrator(sequelize: Sequelize): Umzug<QueryInterface> {
  return new Umzug({
    migrations: [
      { name: '2026-11-25-first-tables', up: ({ context }) => firstTables(context) },
      { name: '2026-11-25-files-and-journals', up: ({ context }) => filesAndJournals(context) },
      { name: '2026-11-26-named-passes', up: ({ context }) => namedPasses(context) },
      { name: '2026-11-27-passes-left-alone', up: ({ context }) => passesLeftAlone(context) },
      { name: '2026-11-27-kinds-of-steps', up: ({ context }) => kindsOfSteps(context) },
      { name: '2026-11-27-steps-by-revision', up: ({ context }) => stepsByRevision(context) },
      { name: '2026-11-27-packed-edits', up: ({ context }) => packedEdits(context) },
      { name: '2026-11-28-placings-logged', up: ({ context }) => placingsLogged(context) },
    ],
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize }),
    logger: undefined,
  });
}
