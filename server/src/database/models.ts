import type { Edit } from '@sure-hand/core/edits';
import { BelongsTo, Column, DataType, ForeignKey, HasMany, Model, Table } from 'sequelize-typescript';

/** A song without its lanes: the rest of its document as JSON, and the revision that the next edit must be made on. */
@Table({ tableName: 'songs' })
export class SongRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true, autoIncrement: true })
  declare id: number;
  @Column({ type: DataType.STRING, allowNull: false })
  declare name: string;
  @Column({ type: DataType.TEXT, allowNull: false })
  declare document: string;
  @Column({ type: DataType.INTEGER, allowNull: false, defaultValue: 0 })
  declare revision: number;
  /** When its owner removed it; null while it is there. */
  @Column({ type: DataType.DATE, allowNull: true })
  declare removedAt: Date | null;

  @HasMany(() => LaneRow)
  declare lanes: LaneRow[];
}

@Table({ tableName: 'lanes', timestamps: false })
export class LaneRow extends Model {
  @ForeignKey(() => SongRow)
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare songId: number;
  @Column({ type: DataType.STRING, primaryKey: true })
  declare control: string;
  /** What a lane has besides its points: resting value, guards, fields of other versions. */
  @Column({ type: DataType.TEXT, allowNull: false })
  declare state: string;
  @Column({ type: DataType.BLOB, allowNull: false })
  declare points: Buffer;
  @Column({ type: DataType.BLOB, allowNull: false })
  declare trim: Buffer;
  @BelongsTo(() => SongRow)
  declare song: SongRow;
}

/** Every edit as it was applied, undos and redos included, by the revision it led to: what a stale tab is told. */
@Table({ tableName: 'changes', updatedAt: false })
export class ChangeRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare songId: number;
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare revision: number;
  /** The edit as JSON; empty where it is packed. */
  @Column({ type: DataType.TEXT, allowNull: false })
  declare edit: string;
  /** The edit, packed; null of a change that was kept before edits were. */
  @Column({ type: DataType.BLOB, allowNull: true })
  declare packed: Buffer | null;

  /** How many points are in it, which may stand elsewhere and only be named here; null of a change from before they could. */
  @Column({ type: DataType.INTEGER, allowNull: true })
  declare points: number | null;

  /** The sender's name for it: an edit that comes twice, since its answer was lost, is kept once. */
  @Column({ type: DataType.STRING, allowNull: true })
  declare key: string | null;
}

/** The undo history: a step, what takes it back, and whether it is taken back now. */
@Table({ tableName: 'steps', updatedAt: false })
export class StepRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true, autoIncrement: true })
  declare id: number;
  @Column({ type: DataType.INTEGER, allowNull: false })
  declare songId: number;
  @Column({ type: DataType.STRING, allowNull: false })
  declare name: string;
  /** What it did, where that stands not with the changes: of steps from before it did. */
  @Column({ type: DataType.TEXT, allowNull: false })
  declare edit: string;
  /** The revision that it led to, under which what it did stands with the changes. */
  @Column({ type: DataType.INTEGER, allowNull: true })
  declare revision: number | null;
  /** What takes it back as JSON; empty where it is packed. */
  @Column({ type: DataType.TEXT, allowNull: false })
  declare inverse: string;
  /** What takes it back, packed; null of a step that was kept before edits were. */
  @Column({ type: DataType.BLOB, allowNull: true })
  declare packed: Buffer | null;
  @Column({ type: DataType.BOOLEAN, allowNull: false, defaultValue: false })
  declare undone: boolean;
  /** The kind of its edit. */
  @Column({ type: DataType.STRING, allowNull: false, defaultValue: '' })
  declare kind: Edit['kind'];
  /** The controls whose lanes it changed, as JSON; null of steps from before that was kept. */
  @Column({ type: DataType.TEXT, allowNull: true })
  declare controls: string | null;
}

/** A pass that wrote something: its receipt, and the lanes it wrote as they were before and after. It is never removed by undo. */
@Table({ tableName: 'passes', updatedAt: false })
export class PassRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare songId: number;
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare number: number;
  @Column({ type: DataType.INTEGER, allowNull: true })
  declare stepId: number | null;
  @Column({ type: DataType.BOOLEAN, allowNull: false, defaultValue: false })
  declare undone: boolean;
  @Column({ type: DataType.TEXT, allowNull: false })
  declare receipt: string;

  /** What its owner calls it, and what there is to say of it. */
  @Column({ type: DataType.STRING, allowNull: true })
  declare name: string | null;
  @Column({ type: DataType.TEXT, allowNull: true })
  declare note: string | null;

  /** Lanes that were guarded by the time the pass came, as refusals: they were left alone, and what was ridden is kept here. */
  @Column({ type: DataType.TEXT, allowNull: true })
  declare left: string | null;

  /** Of a placing or a ramp, as JSON: what was placed where; null of a pass. */
  @Column({ type: DataType.TEXT, allowNull: true })
  declare entry: string | null;

  /** The sender's name for the pass: one that comes twice is logged once. */
  @Column({ type: DataType.STRING, allowNull: true })
  declare key: string | null;
}

/** A curve as bytes, once for all that name it. */
@Table({ tableName: 'curves', timestamps: false })
export class CurveRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true, autoIncrement: true })
  declare id: number;

  /** SHA-256 of the bytes. */
  @Column({ type: DataType.BLOB, allowNull: false })
  declare hash: Buffer;

  @Column({ type: DataType.BLOB, allowNull: false })
  declare bytes: Buffer;
}

/** One written layer of a pass, old and new curve whole. */
@Table({ tableName: 'passLanes', timestamps: false })
export class PassLaneRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare songId: number;
  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare number: number;
  @Column({ type: DataType.STRING, primaryKey: true })
  declare control: string;
  @Column({ type: DataType.STRING, primaryKey: true })
  declare layer: string;
  @Column({ type: DataType.BLOB, allowNull: false })
  declare before: Buffer;
  @Column({ type: DataType.BLOB, allowNull: false })
  declare after: Buffer;

  /** The curves by their numbers; null where they stand as bytes, being short, or of an earlier version. */
  @Column({ type: DataType.INTEGER, allowNull: true })
  declare beforeCurve: number | null;
  @Column({ type: DataType.INTEGER, allowNull: true })
  declare afterCurve: number | null;

  /** What the layer was at without points. */
  @Column({ type: DataType.DOUBLE, allowNull: false, defaultValue: 0 })
  declare rest: number;
}

/** A mix or stem that was bounced to a file, with what it measures. */
@Table({ tableName: 'bounces', updatedAt: false })
export class BounceRow extends Model {
  @Column({ type: DataType.INTEGER, primaryKey: true, autoIncrement: true })
  declare id: number;

  @Column({ type: DataType.INTEGER, allowNull: false })
  declare songId: number;

  @Column({ type: DataType.STRING, allowNull: false })
  declare name: string;

  @Column({ type: DataType.STRING, allowNull: false })
  declare file: string;

  @Column({ type: DataType.STRING, allowNull: false })
  declare format: string;

  @Column({ type: DataType.DOUBLE, allowNull: false })
  declare seconds: number;

  @Column({ type: DataType.INTEGER, allowNull: false })
  declare bytes: number;

  @Column({ type: DataType.TEXT, allowNull: false })
  declare loudness: string;
}

/** A pass that is open, or was when its tab went away: how things stood as it began, and how far it was. */
@Table({ tableName: 'journals' })
export class JournalRow extends Model {
  @Column({ type: DataType.STRING, primaryKey: true })
  declare key: string;

  @Column({ type: DataType.INTEGER, allowNull: false })
  declare songId: number;

  @Column({ type: DataType.TEXT, allowNull: false })
  declare began: string;

  @Column({ type: DataType.DOUBLE, allowNull: false })
  declare at: number;
}

/** What hands did in a quarter of a second of an open pass. */
@Table({ tableName: 'journalChunks', timestamps: false })
export class JournalChunkRow extends Model {
  @Column({ type: DataType.STRING, primaryKey: true })
  declare journal: string;

  @Column({ type: DataType.INTEGER, primaryKey: true })
  declare seq: number;

  @Column({ type: DataType.TEXT, allowNull: false })
  declare events: string;
}

export const MODELS = [
  SongRow,
  LaneRow,
  ChangeRow,
  StepRow,
  PassRow,
  PassLaneRow,
  CurveRow,
  BounceRow,
  JournalRow,
  JournalChunkRow,
];
