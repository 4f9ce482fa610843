import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import type { Curve } from '@sure-hand/core/curve';
import { completedEdit, type Edit } from '@sure-hand/core/edits';
import { apart } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import { Op, fn, literal, type Transaction, type WhereOptions } from 'sequelize';
import { CurveStore, blobNaming, type KeptCurves } from '../database/curveStore.js';
import { ChangeRow, StepRow } from '../database/models.js';

/** An edit as it was kept, with its sender's key. */
export type KeptChange = { readonly edit: Edit; readonly key: string | null };

/** What a song has become: its changes, or, where they are more than anybody is told, the keys of those that have one. */
export type Since = { readonly changes: readonly KeptChange[]; readonly keys?: readonly string[] };

/** An edit as it is kept: packed, or as JSON where it was kept before edits were. */
type EditRow = { readonly packed: Buffer | null; readonly json: string };
const rowOf = ({ packed, edit }: ChangeRow): EditRow => ({ packed, json: edit });
/** What was pruned is known to have been kept, and no more. */
const isPruned = ({ packed, edit }: ChangeRow): boolean => packed === null && edit === '';

const curvesIn = (edit: Edit): Curve[] => apart(edit).curves.map(({ curve }) => curve);

/** Of more than this nobody is told change by change: the song whole is less. */
const MOST_TOLD_BYTES = 500_000;
/** What a point takes as bytes. */
const POINT_BYTES = 17;

/** Every edit as it was applied, by the revision it led to; and what takes each of them back. */
@Injectable()
export class ChangeLog {
  constructor(
    @InjectModel(ChangeRow) private readonly changes: typeof ChangeRow,
    private readonly curves: CurveStore,
  ) {}

  /**
   * Keeps a change, and the curves of what takes it back. `logged`: curves that the log of passes has for it. Gives back all
   * that can be named by now.
   */
  async add(
    { songId, revision }: { readonly songId: number; readonly revision: number },
    { edit, key, inverse }: KeptChange & { readonly inverse: Edit | null },
    logged: KeptCurves,
    transaction: Transaction,
  ): Promise<KeptCurves> {
    const found = inverse ? await this.curves.put(songId, curvesIn(inverse), transaction) : [];
    const own = curvesIn(edit);
    const named = new Map([...found, ...logged, ...(await this.curves.known(songId, own, transaction))]);
    const points = own.reduce((sum, curve) => sum + curve.length, 0);
    const change = { songId, revision, edit: '', packed: blobNaming(edit, named), points, key };
    await this.changes.create(change, { transaction });
    return named;
  }

  /** Which of some keys belong to changes that are kept. */
  async known(songId: number, keys: readonly string[]): Promise<string[]> {
    const rows = await this.changes.findAll({ where: { songId, key: [...keys] }, attributes: ['key'] });
    return rows.map((row) => row.key!);
  }

  /** The change that was kept under a key, null as its edit where that was pruned; nothing where none was. */
  async ofKey(songId: number, song: Song, key: string): Promise<{ readonly edit: Edit | null } | null> {
    const row = await this.changes.findOne({ where: { songId, key } });
    if (!row) return null;
    const [edit = null] = isPruned(row) ? [] : await this.#opened(song, [rowOf(row)]);
    return { edit };
  }

  /** What a step did, or what takes it back. */
  async ofStep(song: Song, step: StepRow, which: 'undo' | 'redo'): Promise<Edit> {
    const { songId, revision, packed, inverse, edit: json } = step;
    const row = async (): Promise<EditRow> => {
      if (which === 'undo') return { packed, json: inverse };
      if (revision === null) return { packed: null, json };
      return rowOf((await this.changes.findOne({ where: { songId, revision } }))!);
    };
    const [edit] = await this.#opened(song, [await row()]);
    return edit!;
  }

  /** What a song has become after a revision, up to another. */
  async since(songId: number, song: Song, [after, upTo]: readonly [number, number]): Promise<Since> {
    const where = { songId, revision: { [Op.gt]: after, [Op.lte]: upTo } };
    const keys = await this.#keysIfTooMuch(where);
    if (keys) return { changes: [], keys };
    const rows = await this.changes.findAll({ where, order: [['revision', 'ASC']] });
    const edits = await this.#opened(song, rows.map(rowOf));
    return { changes: rows.map((row, i): KeptChange => ({ edit: edits[i]!, key: row.key })) };
  }

  /** The keys of some changes, where the changes themselves are more than anybody is told; null where they are not. */
  async #keysIfTooMuch(where: WhereOptions): Promise<string[] | null> {
    const bytes = fn('SUM', literal(`LENGTH(edit) + IFNULL(LENGTH(packed), 0) + ${POINT_BYTES} * IFNULL(points, 0)`));
    const [sum] = (await this.changes.findAll({ where, attributes: [[bytes, 'bytes']], raw: true })) as unknown as [
      { bytes: number | null },
    ];
    // What was pruned can't be told at all.
    const pruned = await this.changes.count({ where: { ...(where as object), edit: '', packed: null } });
    if ((sum.bytes ?? 0) <= MOST_TOLD_BYTES && !pruned) return null;
    const ofSenders = { ...(where as object), key: { [Op.ne]: null } };
    return (await this.changes.findAll({ where: ofSenders, attributes: ['key'] })).map((row) => row.key!);
  }

  /** Edits as they were made, with the curves that they name. */
  async #opened(song: Song, rows: readonly EditRow[]): Promise<Edit[]> {
    const packed = await this.curves.open(rows.flatMap((row) => row.packed ?? []));
    return rows.map((row) =>
      row.packed ? (packed.shift() as Edit) : completedEdit(song, JSON.parse(row.json) as Edit),
    );
  }
}
