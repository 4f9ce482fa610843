import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import { laneOf, type Edit, type Receipt, type Song } from '@sure-hand/core/song';
import type { Point } from '@sure-hand/core/curve';
import type { Transaction } from 'sequelize';
import { PassLaneRow, PassRow } from '../database/models.js';
import { blobOfPoints, pointsOfBlob } from '../database/pointsBlob.js';

/** A pass in the log. */
export type LoggedPass = {
  readonly number: number;
  readonly at: string;
  readonly undone: boolean;
  readonly receipt: Receipt;
};
/** One lane of a pass, old and new curve whole. */
export type LoggedLane = {
  readonly control: string;
  readonly layer: string;
  readonly before: Point[];
  readonly after: Point[];
};

const logged = (row: PassRow): LoggedPass => ({
  number: row.number,
  at: (row.get('createdAt') as Date).toISOString(),
  undone: row.undone,
  receipt: JSON.parse(row.receipt) as Receipt,
});

/** The log of passes: every one that wrote, with both curves; undoing marks a pass, it never removes it. */
@Injectable()
export class PassLog {
  constructor(
    @InjectModel(PassRow) private readonly passes: typeof PassRow,
    @InjectModel(PassLaneRow) private readonly lanes: typeof PassLaneRow,
  ) {}

  /** Logs a pass with the curves of the song before and after it; gives back its number. */
  async add(
    songId: number,
    edit: Edit & { kind: 'pass' },
    before: Song,
    after: Song,
    transaction: Transaction,
  ): Promise<number> {
    const number = (await this.last(songId, transaction)) + 1;
    await this.passes.create({ songId, number, receipt: JSON.stringify(edit.receipt) }, { transaction });
    for (const { control, layer } of edit.receipt.lanes) {
      const curve = (song: Song): Buffer => {
        const lane = laneOf(song, control);
        return blobOfPoints(layer === 'trim' ? lane.trim : lane.points);
      };
      const curves = { before: curve(before), after: curve(after) };
      await this.lanes.create({ songId, number, control, layer, ...curves }, { transaction });
    }
    return number;
  }

  /** The number of a song's last pass; 0 where there is none. */
  async last(songId: number, transaction?: Transaction): Promise<number> {
    const last = (await this.passes.max('number', { where: { songId }, transaction: transaction ?? null })) as
      number | null;
    return last ?? 0;
  }

  /** Copies a song's whole log to another song, where its passes belong to no step that could be undone. */
  async copy(from: number, to: number, transaction: Transaction): Promise<void> {
    const options = { where: { songId: from }, raw: true, transaction } as const;
    const passes = await this.passes.findAll(options);
    await this.passes.bulkCreate(
      passes.map((row) => ({ ...row, songId: to, stepId: null })),
      { transaction },
    );
    const lanes = await this.lanes.findAll(options);
    await this.lanes.bulkCreate(
      lanes.map((row) => ({ ...row, songId: to })),
      { transaction },
    );
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
  async get(songId: number, number: number): Promise<(LoggedPass & { lanes: LoggedLane[] }) | null> {
    const row = await this.passes.findOne({ where: { songId, number } });
    if (!row) return null;
    const lanes = await this.lanes.findAll({ where: { songId, number } });
    return {
      ...logged(row),
      lanes: lanes.map(({ control, layer, before, after }) => ({
        control,
        layer,
        before: pointsOfBlob(before),
        after: pointsOfBlob(after),
      })),
    };
  }
}
