import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import { Op, type Transaction } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import { CurveStore } from '../database/curveStore.js';
import { ChangeRow, PassLaneRow, PassRow, StepRow } from '../database/models.js';
import { OneWriter } from '../database/oneWriter.js';

/** What pruning would take away, said before it is done. */
export type Pruned = {
  /** So many passes and placings go for good, with what they found and left. */
  readonly entries: number;
  /** So many older ones stay, since they are called something. */
  readonly named: number;
  /** So many steps can't be taken back any more; those done again neither, where `redo` is not 0. */
  readonly undo: number;
  readonly redo: number;
  /** About so many bytes of curves nothing names any more then. */
  readonly bytes: number;
};

type Plan = { readonly said: Pruned; readonly numbers: readonly number[]; readonly last: StepRow | null };

/** Takes old versions out of a song's log, by act alone: the last ones and those with a name stay. The song itself stays as it is. */
@Injectable()
export class Pruning {
  constructor(
    private readonly sequelize: Sequelize,
    @InjectModel(PassRow) private readonly passes: typeof PassRow,
    @InjectModel(PassLaneRow) private readonly lanes: typeof PassLaneRow,
    @InjectModel(StepRow) private readonly steps: typeof StepRow,
    @InjectModel(ChangeRow) private readonly changes: typeof ChangeRow,
    private readonly curves: CurveStore,
    private readonly writer: OneWriter,
  ) {}

  /** What would go if the last so many entries were kept, and the named ones. */
  async forecast(songId: number, keep: number): Promise<Pruned> {
    return (await this.#plan(songId, keep)).said;
  }

  /** Does it; gives back what went. */
  async prune(songId: number, keep: number): Promise<Pruned> {
    const { said, numbers, last } = await this.#plan(songId, keep);
    if (!numbers.length) return said;
    await this.writer.transaction(async (transaction) => {
      const where = { songId, number: [...numbers] };
      await this.lanes.destroy({ where, transaction });
      await this.passes.destroy({ where, transaction });
      if (last) await this.#forgetSteps(songId, last, transaction);
      await this.#nameAnew(songId, transaction);
    });
    await this.writer.write(async () => {
      await this.curves.forgetUnused();
      // What is free goes back to the disk; where that has no room for it, it is used again all the same.
      await this.sequelize.query('VACUUM').catch(() => undefined);
    });
    return said;
  }

  async #plan(songId: number, keep: number): Promise<Plan> {
    const attributes = ['number', 'name', 'stepId'];
    const all = await this.passes.findAll({ where: { songId }, attributes, order: [['number', 'DESC']] });
    const old = all.slice(keep);
    const gone = old.filter(({ name }) => name === null);
    const numbers = gone.map(({ number }) => number);
    const stepIds = gone.flatMap(({ stepId }) => stepId ?? []);
    // Steps are taken back one after the other: none can be that stands before one which is gone.
    const last = stepIds.length ? await this.steps.findOne({ where: { songId, id: Math.max(...stepIds) } }) : null;
    const undo = last ? await this.steps.count({ where: { songId, undone: false, id: { [Op.lte]: last.id } } }) : 0;
    const redo = last?.undone ? await this.steps.count({ where: { songId, undone: true } }) : 0;
    const bytes = await this.#bytesOf(songId, numbers);
    return { said: { entries: gone.length, named: old.length - gone.length, undo, redo, bytes }, numbers, last };
  }

  /** How much the curves are that only some passes name. */
  async #bytesOf(songId: number, numbers: readonly number[]): Promise<number> {
    const gone = new Set(numbers);
    const attributes = ['number', 'beforeCurve', 'afterCurve'];
    const rows = await this.lanes.findAll({ where: { songId }, attributes });
    const named = (isGone: boolean): Set<number> =>
      new Set(
        rows
          .filter(({ number }) => gone.has(number) === isGone)
          .flatMap((row) => [row.beforeCurve ?? [], row.afterCurve ?? []].flat()),
      );
    const stays = named(false);
    return this.curves.bytesOf([...named(true)].filter((curve) => !stays.has(curve)));
  }

  /** Forgets a step and all before it. What changed then is still known to have been kept, though not what it was. */
  async #forgetSteps(songId: number, last: StepRow, transaction: Transaction): Promise<void> {
    const upTo = { [Op.lte]: last.id };
    await this.steps.destroy({
      where: { songId, [Op.or]: [{ id: upTo }, ...(last.undone ? [{ undone: true }] : [])] },
      transaction,
    });
    if (last.revision === null) return;
    const where = { songId, revision: { [Op.lte]: last.revision } };
    await this.changes.update({ edit: '', packed: null, points: null }, { where, transaction });
  }

  /** Sees what of a song still names curves, and forgets that anything else did. */
  async #nameAnew(songId: number, transaction: Transaction): Promise<void> {
    const lanes = await this.lanes.findAll({
      where: { songId },
      attributes: ['beforeCurve', 'afterCurve'],
      transaction,
    });
    const named = new Set(lanes.flatMap((row) => [row.beforeCurve ?? [], row.afterCurve ?? []].flat()));
    const documents = [
      ...(await this.changes.findAll({ where: { songId }, attributes: ['packed'], transaction })),
      ...(await this.steps.findAll({ where: { songId }, attributes: ['packed'], transaction })),
    ];
    for (const { packed } of documents) if (packed) for (const curve of this.curves.namedIn(packed)) named.add(curve);
    await this.curves.keepOnly(songId, named, transaction);
  }
}
