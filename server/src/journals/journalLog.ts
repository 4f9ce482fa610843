import { Injectable } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import type { PassJournal, PassState } from '@sure-hand/core/pass';
import { Op, type Transaction } from 'sequelize';
import { JournalChunkRow, JournalRow } from '../database/models.js';
import { OneWriter } from '../database/oneWriter.js';

/** The journal of a pass that was not kept, by its key. */
export type OpenJournal = PassJournal & { readonly key: string };
/** A piece of a journal as its tab sends it. `began` comes with the first. */
export type JournalPiece = {
  readonly seq: number;
  readonly began?: PassState;
  readonly events: PassJournal['events'];
  readonly at: number;
};

/** A journal that nobody has written to for so long belongs to a tab that is gone. */
const GONE_AFTER_MS = 2500;

/** Journals of open passes: written every quarter of a second, dropped as the pass is kept. */
@Injectable()
export class JournalLog {
  constructor(
    @InjectModel(JournalRow) private readonly journals: typeof JournalRow,
    @InjectModel(JournalChunkRow) private readonly chunks: typeof JournalChunkRow,
    private readonly writer: OneWriter,
  ) {}

  /**
   * Writes a piece; one that was written before, and comes again with more in it, takes its place. One that arrives late, after
   * a later state of the pass, is nothing.
   */
  write(songId: number, key: string, piece: JournalPiece): Promise<void> {
    return this.writer.write(() => this.#write(songId, key, piece));
  }

  async #write(songId: number, key: string, { seq, began, events, at }: JournalPiece): Promise<void> {
    if (began)
      await this.journals.findOrCreate({ where: { key }, defaults: { songId, began: JSON.stringify(began), at } });
    // The journal of a pass that is kept already is no more: a late piece of it is nothing.
    const [there] = await this.journals.update({ at }, { where: { key, songId, at: { [Op.lte]: at } } });
    if (there && events.length) await this.chunks.upsert({ journal: key, seq, events: JSON.stringify(events) });
  }

  /** Drops the journal with a key: nobody wants its pass. */
  async drop(key: string): Promise<void> {
    await this.writer.write(() => this.journals.destroy({ where: { key } }));
  }

  /** Drops the journal with a key as its pass is kept. */
  async kept(key: string, transaction: Transaction): Promise<void> {
    await this.journals.destroy({ where: { key }, transaction });
  }

  /** The journals of a song whose tabs are gone. */
  async left(songId: number): Promise<OpenJournal[]> {
    const before = new Date(Date.now() - GONE_AFTER_MS);
    const rows = await this.journals.findAll({ where: { songId, updatedAt: { [Op.lt]: before } } });
    return Promise.all(
      rows.map(async ({ key, began, at }) => {
        const chunks = await this.chunks.findAll({ where: { journal: key }, order: [['seq', 'ASC']] });
        const events = chunks.flatMap((chunk) => JSON.parse(chunk.events) as PassJournal['events']);
        return { key, began: JSON.parse(began) as PassState, events, at };
      }),
    );
  }
}
