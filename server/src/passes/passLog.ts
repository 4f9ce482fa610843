import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import {
  loggedLanes,
  placedEntry,
  placedReceipt,
  withoutGuards,
  type Applied,
  type Edit,
  type LoggedLane,
  type PlacedEntry,
  type Receipt,
} from '@sure-hand/core/edits';
import type { Curve } from '@sure-hand/core/curve';
import { type ControlId, type Layer, type Refusal, type Song } from '@sure-hand/core/song';
import type { Transaction } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import { PassLaneRow, PassRow } from '../database/models.js';
import { OneWriter } from '../database/oneWriter.js';
import { blobOfCurve, curveOfBlob } from '../database/curveBlob.js';
import { CurveStore, type KeptCurves } from '../database/curveStore.js';
import { writeRows } from '../database/writeRows.js';

/** A pass in the log, or a placing beside the passes. An undone one stays, marked. */
export type LoggedPass = {
  readonly number: number;
  /** The step of undo that it is; null of one that came along with a copy of its song. */
  readonly stepId: number | null;
  readonly at: string;
  readonly undone: boolean;
  readonly receipt: Receipt;
  readonly name: string | null;
  readonly note: string | null;
  /** Lanes that were guarded when the pass came, and left alone: it is kept here what was ridden on them. */
  readonly left: readonly Refusal[];
  /** Of a placing or a ramp: what was placed where; null of a pass. */
  readonly entry: PlacedEntry | null;
};
/** A pass or a placing that is to be logged: the song before it and after, the controls it wrote, what it left alone, its sender's key. */
export type Finished = {
  readonly receipt: Receipt;
  readonly entry: PlacedEntry | null;
  readonly before: Song;
  readonly after: Song;
  readonly written: readonly ControlId[];
  readonly left: readonly Refusal[];
  /** The song as it would be had nothing been guarded: what was ridden on lanes left alone. */
  readonly unguarded: Song;
  readonly key: string | null;
};

/** An edit that is to be logged, as its song was before it; null of one that leaves no entry, having changed nothing or being of another kind. */
export function finishedBy(before: Song, edit: Edit, applied: Applied, key: string | null): Finished | null {
  const { song: after, changed, refused } = applied;
  const common = { before, after, key };
  if (edit.kind === 'pass') {
    if (after === before && !refused.length) return null;
    const written = edit.pieces.map(({ control }) => control);
    const unguarded = refused.length ? withoutGuards(before, edit) : after;
    return { ...common, receipt: edit.receipt, entry: null, written, left: refused, unguarded };
  }
  const asked = changed.length ? placedEntry(before, edit) : null;
  if (!asked) return null;
  const alone = new Set(refused.map(({ control }) => control));
  const values = Object.fromEntries(Object.entries(asked.values).filter(([id]) => !alone.has(id)));
  const entry = { ...asked, values };
  const receipt = placedReceipt(after, entry, changed, refused);
  return { ...common, receipt, entry, written: changed, left: [], unguarded: after };
}
/** A pass with the old and the new curve of each layer it changed. */
export type WholePass = LoggedPass & { readonly lanes: readonly LoggedLane[] };

const logged = (row: PassRow): LoggedPass => ({
  number: row.number,
  stepId: row.stepId,
  at: (row.get('createdAt') as Date).toISOString(),
  undone: row.undone,
  receipt: JSON.parse(row.receipt) as Receipt,
  name: row.name,
  note: row.note,
  left: row.left === null ? [] : (JSON.parse(row.left) as Refusal[]),
  entry: row.entry === null ? null : (JSON.parse(row.entry) as PlacedEntry),
});

/** The numbers of the curves that rows name. */
const namedBy = (rows: readonly PassLaneRow[]): number[] =>
  rows.flatMap(({ beforeCurve, afterCurve }) => [beforeCurve ?? [], afterCurve ?? []].flat());

function laneOfRow(row: PassLaneRow, curves: ReadonlyMap<number, Curve>): LoggedLane {
  const { control, layer, rest, before, after, beforeCurve, afterCurve } = row;
  const curveOf = (number: number | null, blob: Buffer): Curve =>
    number === null ? curveOfBlob(blob) : curves.get(number)!;
  const points = { before: curveOf(beforeCurve, before), after: curveOf(afterCurve, after) };
  return { control, layer: layer as Layer, rest, ...points };
}

const NO_BYTES = Buffer.alloc(0);

/** The log of passes: every one that wrote, with both curves; undoing marks a pass, it never removes it. */
@Injectable()
export class PassLog {
  constructor(
    private readonly sequelize: Sequelize,
    @InjectModel(PassRow) private readonly passes: typeof PassRow,
    @InjectModel(PassLaneRow) private readonly lanes: typeof PassLaneRow,
    private readonly writer: OneWriter,
    private readonly curves: CurveStore,
  ) {}

  /**
   * Logs a pass with the curves of the song before and after it, and what was ridden on lanes that it left alone; gives
   * back its number, and the curves that are kept for it.
   */
  async add(
    songId: number,
    { receipt, entry, before, after, written, left, unguarded, key }: Finished,
    transaction: Transaction,
  ): Promise<{ readonly number: number; readonly kept: KeptCurves }> {
    const number = (await this.last(songId, transaction)) + 1;
    const row = {
      songId,
      number,
      receipt: JSON.stringify(receipt),
      left: left.length ? JSON.stringify(left) : null,
      entry: entry && JSON.stringify(entry),
    };
    await this.passes.create({ ...row, key }, { transaction });
    const alone = new Set(left.map(({ control }) => control));
    const lanes = [
      ...loggedLanes(before, after, written),
      ...loggedLanes(before, unguarded, [...alone]).filter((lane) => alone.has(lane.control)),
    ];
    const all = lanes.flatMap((lane) => [lane.before, lane.after]);
    const kept = await this.curves.put(songId, all, transaction);
    const bytesOf = (curve: Curve): Buffer => (kept.has(curve) ? NO_BYTES : blobOfCurve(curve));
    const rows = lanes.map(({ before: was, after: is, ...lane }) => {
      const named = { beforeCurve: kept.get(was) ?? null, afterCurve: kept.get(is) ?? null };
      return { songId, number, ...lane, before: bytesOf(was), after: bytesOf(is), ...named };
    });
    await writeRows(this.sequelize, 'passLanes', rows, transaction);
    return { number, kept };
  }

  /** The number of a song's last pass; 0 where there is none. */
  async last(songId: number, transaction?: Transaction): Promise<number> {
    const last = (await this.passes.max('number', { where: { songId }, transaction: transaction ?? null })) as
      | number
      | null;
    return last ?? 0;
  }

  /** The number under which a pass with a key was logged; null where none was. */
  async numberOf(songId: number, key: string): Promise<number | null> {
    return (await this.passes.findOne({ where: { songId, key } }))?.number ?? null;
  }

  /** Which of some keys passes were logged under. */
  async known(songId: number, keys: readonly string[]): Promise<string[]> {
    return (await this.passes.findAll({ where: { songId, key: [...keys] }, attributes: ['key'] })).map(
      (row) => row.key!,
    );
  }

  /** Copies a song's whole log to another song, where its passes belong to no step that could be undone. */
  async copy(from: number, to: number, transaction: Transaction): Promise<void> {
    // Within the database: the curves of a year's passes are more than a statement, or this program, would hold.
    const copied = async (
      table: string,
      columns: readonly string[],
      own: { readonly [column: string]: string },
    ): Promise<void> => {
      const names = columns.map((name) => `\`${name}\``).join(', ');
      const values = columns.map((name) => own[name] ?? `\`${name}\``).join(', ');
      await this.sequelize.query(
        `INSERT INTO \`${table}\` (${names}) SELECT ${values} FROM \`${table}\` WHERE songId = $from`,
        { bind: { from, to }, transaction },
      );
    };
    await copied('passes', Object.keys(this.passes.getAttributes()), { songId: '$to', stepId: 'NULL', key: 'NULL' });
    await copied('passLanes', Object.keys(this.lanes.getAttributes()), { songId: '$to' });
    await copied('curveUses', ['songId', 'curve'], { songId: '$to' });
  }

  /** The number of the pass that a step made; null where it made none. */
  async ofStep(songId: number, stepId: number): Promise<number | null> {
    return (await this.passes.findOne({ where: { songId, stepId }, attributes: ['number'] }))?.number ?? null;
  }

  async belongsTo(songId: number, number: number, stepId: number, transaction: Transaction): Promise<void> {
    await this.passes.update({ stepId }, { where: { songId, number }, transaction });
  }

  async mark(songId: number, stepId: number, undone: boolean, transaction: Transaction): Promise<void> {
    await this.passes.update({ undone }, { where: { songId, stepId }, transaction });
  }

  /** Every pass of a song, newest first. */
  async list(songId: number): Promise<LoggedPass[]> {
    return (await this.passes.findAll({ where: { songId }, order: [['number', 'DESC']] })).map(logged);
  }

  /** One pass with its curves; null where there is none. */
  async get(songId: number, number: number): Promise<WholePass | null> {
    const row = await this.passes.findOne({ where: { songId, number } });
    if (!row) return null;
    const lanes = await this.lanes.findAll({ where: { songId, number } });
    const curves = await this.curves.get(namedBy(lanes));
    return { ...logged(row), lanes: lanes.map((lane) => laneOfRow(lane, curves)) };
  }

  /** The pass that a step was; null where it was none. */
  async atStep(songId: number, stepId: number): Promise<LoggedPass | null> {
    const row = await this.passes.findOne({ where: { songId, stepId } });
    return row && logged(row);
  }

  /** The passes that changed one lane and came along with a copy of its song, newest first, without their curves. */
  async thatCameAlong(songId: number, control: string): Promise<LoggedPass[]> {
    const lanes = await this.lanes.findAll({ where: { songId, control }, attributes: ['number'] });
    const number = [...new Set(lanes.map((lane) => lane.number))];
    const where = { songId, number, stepId: null };
    return (await this.passes.findAll({ where, order: [['number', 'DESC']] })).map(logged);
  }

  /** The last versions of one lane: the passes that changed it, newest first, with its curves alone. */
  async ofLane(songId: number, control: string, most: number): Promise<WholePass[]> {
    const last = await this.lanes.findAll({
      ...{ where: { songId, control }, attributes: ['number'], group: ['number'] },
      ...{ order: [['number', 'DESC']], limit: most },
    });
    const number = last.map((lane) => lane.number);
    const lanes = await this.lanes.findAll({ where: { songId, control, number }, order: [['number', 'DESC']] });
    const rows = await this.passes.findAll({ where: { songId, number } });
    const curves = await this.curves.get(namedBy(lanes));
    return rows
      .sort((a, b) => b.number - a.number)
      .map((row) => ({
        ...logged(row),
        lanes: lanes.filter((lane) => lane.number === row.number).map((lane) => laneOfRow(lane, curves)),
      }));
  }

  /** Says what a pass is called, or what there is to say of it. False where there is no such pass. */
  async describe(songId: number, number: number, words: Partial<Pick<LoggedPass, 'name' | 'note'>>): Promise<boolean> {
    const [changed] = await this.writer.write(() => this.passes.update(words, { where: { songId, number } }));
    return changed > 0;
  }
}
