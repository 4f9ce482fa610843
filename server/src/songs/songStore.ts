import { Injectable, NotFoundException, UnprocessableEntityException } from '@nestjs/common';
import { InjectModel } from '@nestjs/sequelize';
import { readEdit } from '@sure-hand/core/formats';
import { applyEdit, guardedSince, isUndoStep, nameOfEdit, type Edit } from '@sure-hand/core/edits';
import { type ControlId, type Refusal, type Song } from '@sure-hand/core/song';
import { Subject } from 'rxjs';
import { Op, type Transaction } from 'sequelize';
import { Sequelize } from 'sequelize-typescript';
import type { Settling } from '../audio/audioShelf.js';
import { LaneRow, SongRow, StepRow } from '../database/models.js';
import { OneWriter } from '../database/oneWriter.js';
import { CurveStore, blobNaming, type KeptCurves } from '../database/curveStore.js';
import { writeRows } from '../database/writeRows.js';
import { ChangeLog, type KeptChange } from './changeLog.js';
import { JournalLog } from '../journals/journalLog.js';
import {
  documentOf,
  frameChanged,
  laneColumns,
  lanesChanged,
  songOfRows,
  type History,
  type KeptSong,
  type StepOf,
} from './keptSong.js';
import { PassLog, finishedBy } from '../passes/passLog.js';

/**
 * An edit that another one came before: what the song has become since, for the sender to take over and try again. One
 * of the changes may be the very edit, kept before though its answer was lost: then its key is there.
 */
export type Stale = {
  readonly stale: true;
  readonly revision: number;
  readonly changes: readonly KeptChange[];
  readonly history: History;
  readonly lastPass: number;
  /**
   * There where all that came since is too much to be told: `changes` is empty, the song is to be asked for whole, and these
   * are the keys of what was kept since.
   */
  readonly keys?: readonly string[];
};
/** A song has a new revision, or another name or place in the list; `isLogShorter`: old versions went, and what could be undone with them. */
export type SongChange = { readonly songId: number; readonly revision: number; readonly isLogShorter?: true };
/**
 * An edit that is kept. `edit` is what was applied: for an undo, the inverse; null for one known only from the log of
 * passes, since all of it had been left alone.
 */
export type Kept = {
  readonly stale: false;
  readonly revision: number;
  readonly edit: Edit | null;
  readonly refused: readonly Refusal[];
  readonly history: History;
  readonly passNumber: number | null;
  /** It was kept before under its key: the song has it already, and nothing was done again. */
  readonly isKnown?: true;
};

/** What an edit led to, for whoever adds to its transaction: the song's revision, its inverse, its number in the log. */
type Made = {
  readonly revision: number;
  readonly inverse: Edit | null;
  readonly passNumber: number | null;
  readonly changed: readonly ControlId[];
  /** Curves that are kept by now, to be named. */
  readonly kept: KeptCurves;
};

/** Songs in the database, one edit after the other: their order here is the truth for every tab. */
@Injectable()
export class SongStore {
  /** Told of every change, once it is kept. */
  readonly changed = new Subject<SongChange>();
  /** Songs that are held in memory, or on their way there: one that is asked for twice is read once. */
  readonly #held = new Map<number, Promise<KeptSong>>();
  readonly #queues = new Map<number, Promise<unknown>>();

  constructor(
    private readonly sequelize: Sequelize,
    @InjectModel(SongRow) private readonly songs: typeof SongRow,
    @InjectModel(LaneRow) private readonly lanes: typeof LaneRow,
    @InjectModel(StepRow) private readonly steps: typeof StepRow,
    private readonly changes: ChangeLog,
    private readonly passes: PassLog,
    private readonly journals: JournalLog,
    private readonly writer: OneWriter,
    private readonly curves: CurveStore,
  ) {}

  /** Every song that was not removed, the last changed first. */
  list(): Promise<SongRow[]> {
    return this.songs.findAll({ where: { removedAt: null }, order: [['updatedAt', 'DESC']] });
  }

  /**
   * Keeps a new song; gives back its id. `settle` puts its files where they belong, once the id is known: the song is
   * there only if that was done, and what it gives back is called once the song is kept.
   */
  async create(song: Song, settle?: Settling, logOf?: number): Promise<number> {
    let settled: (() => void) | undefined;
    const id = await this.writer.transaction(async (transaction) => {
      const row = await this.songs.create({ name: song.name, document: documentOf(song) }, { transaction });
      await this.#keepLanes(row.id, song, Object.keys(song.lanes), transaction);
      if (logOf !== undefined) await this.passes.copy(logOf, row.id, transaction);
      settled = settle?.(row.id);
      return row.id;
    });
    settled?.();
    this.changed.next({ songId: id, revision: 0 });
    return id;
  }

  /** Makes a song of its own of a copy, as it stands at one moment, with its log of passes. */
  duplicate(id: number, settle: Settling): Promise<number> {
    return this.#inTurn(id, async () => {
      const { song } = await this.get(id);
      return this.create({ ...song, name: `${song.name} (copy)` }, settle, id);
    });
  }

  /** Every song there is a row of, removed ones too, and how far it is. */
  async revisions(): Promise<{ readonly id: number; readonly revision: number }[]> {
    return (await this.songs.findAll({ attributes: ['id', 'revision'] })).map(({ id, revision }) => ({ id, revision }));
  }

  /** Takes a song out of the list, or puts it back; nothing of it is lost. */
  async setRemoved(id: number, removed: boolean): Promise<void> {
    const { revision } = await this.get(id);
    const changes = { removedAt: removed ? new Date() : null };
    await this.writer.write(() => this.songs.update(changes, { where: { id }, silent: true }));
    this.changed.next({ songId: id, revision });
  }

  /** Songs that were removed before a moment: nobody will ask for them again. */
  async longRemoved(before: Date): Promise<number[]> {
    const rows = await this.songs.findAll({ where: { removedAt: { [Op.lt]: before } } });
    return rows.map((row) => row.id);
  }

  /** Forgets a song for good. */
  async forget(id: number): Promise<void> {
    await this.writer.write(async () => {
      await this.songs.destroy({ where: { id } });
      await this.curves.forgetUnused();
    });
    this.#held.delete(id);
  }

  /** What a song has become since a revision. */
  async changesSince(id: number, since: number): Promise<Stale> {
    return this.#staleAnswer(await this.get(id), since);
  }

  /** A song as it stands; null where there is none. */
  async find(id: number): Promise<KeptSong | null> {
    const row = await this.songs.findByPk(id, { attributes: ['id'] });
    return row ? this.get(id) : null;
  }

  /** Throws Not Found where there is no such song. */
  get(id: number): Promise<KeptSong> {
    const held = this.#held.get(id);
    if (held) return held;
    // Noted before it is there: a change meanwhile waits for this one reading, and none can put an older one after it.
    const reading = this.#read(id);
    this.#held.set(id, reading);
    reading.catch(() => this.#held.get(id) === reading && this.#held.delete(id));
    return reading;
  }

  async #read(id: number): Promise<KeptSong> {
    const row = await this.songs.findByPk(id);
    if (!row) throw new NotFoundException(`There is no song ${id}. Go back to the list of songs.`);
    return songOfRows(row, await this.lanes.findAll({ where: { songId: id } }));
  }

  /**
   * Applies an edit that was made on `revision`, and keeps it; or says what came before it. `key`: the sender's name for
   * it. Throws a sentence where it is none that this song can take.
   */
  edit(id: number, revision: number, given: unknown, key: string | null = null): Promise<Kept | Stale> {
    return this.#inTurn(id, async () => {
      const kept = await this.get(id);
      // What came first decides what this one means: it is looked at once its sender has taken that over.
      if (kept.revision !== revision) return this.#staleAnswer(kept, revision);
      const known = key === null ? null : await this.#keptBefore(kept, key);
      if (known) return known;
      const read = readEdit(kept.song, given);
      if (!read.ok) throw new UnprocessableEntityException(read.sentence);
      const edit = read.value;
      return this.#keep(
        kept,
        { edit, key },
        async ({ revision: made, inverse, passNumber, changed, kept: named }, transaction) => {
          if (key !== null) await this.journals.kept(key, transaction);
          if (!isUndoStep(edit) || inverse === null) return;
          await this.steps.destroy({ where: { songId: id, undone: true }, transaction });
          const name = nameOfEdit(kept.song, edit, passNumber);
          const row = { songId: id, name, kind: edit.kind, edit: '', revision: made, inverse: '' };
          const controls = JSON.stringify(changed);
          const step = await this.steps.create(
            { ...row, packed: blobNaming(inverse, named), controls },
            { transaction },
          );
          if (passNumber !== null) await this.passes.belongsTo(id, passNumber, step.id, transaction);
        },
      );
    });
  }

  /** Which of some keys belong to edits that are kept. */
  async knownKeys(id: number, keys: readonly string[]): Promise<string[]> {
    await this.get(id);
    return [...new Set([...(await this.changes.known(id, keys)), ...(await this.passes.known(id, keys))])];
  }

  /** The answer to an edit that was kept before: its sender never got the first one. Null where its key is new. */
  async #keptBefore({ id, revision, song }: KeptSong, key: string): Promise<Kept | null> {
    const change = await this.changes.ofKey(id, song, key);
    const passNumber = await this.passes.numberOf(id, key);
    if (!change && passNumber === null) return null;
    const history = await this.history(id);
    const edit = change?.edit ?? null;
    return { stale: false, revision, edit, refused: [], history, passNumber, isKnown: true };
  }

  /**
   * Takes the last step back, or does the last one taken back again; null where there is none. `meant`: the step that its sender saw there,
   * and no other.
   */
  step(
    id: number,
    revision: number,
    which: 'undo' | 'redo',
    meant: number | null = null,
  ): Promise<Kept | Stale | null> {
    return this.#inTurn(id, async () => {
      const kept = await this.get(id);
      if (kept.revision !== revision) return this.#staleAnswer(kept, revision);
      const step = await this.#stepFor(id, which);
      if (!step) return null;
      if (meant !== null && step.id !== meant) return this.#staleAnswer(kept, revision);
      const edit = await this.changes.ofStep(kept.song, step, which);
      const undone = which === 'undo';
      const refused = guardedSince(kept.song, edit);
      if (refused.length) return this.#unchanged(kept, edit, refused);
      return this.#keep(
        kept,
        { edit, key: null },
        async (_made, transaction) => {
          await step.update({ undone }, { transaction });
          await this.passes.mark(id, step.id, undone, transaction);
        },
        true,
      );
    });
  }

  async history(id: number): Promise<History> {
    const [undo, redo] = await Promise.all([this.#stepFor(id, 'undo'), this.#stepFor(id, 'redo')]);
    const [undoOf, redoOf] = await Promise.all([this.#stepOf(id, undo), this.#stepOf(id, redo)]);
    return { undo: undo?.name ?? null, redo: redo?.name ?? null, undoOf, redoOf };
  }

  async #stepOf(id: number, step: StepRow | null): Promise<StepOf | null> {
    if (!step) return null;
    return { step: step.id, kind: step.kind, pass: await this.passes.ofStep(id, step.id) };
  }

  #stepFor(id: number, which: 'undo' | 'redo'): Promise<StepRow | null> {
    return which === 'undo'
      ? this.steps.findOne({ where: { songId: id, undone: false }, order: [['id', 'DESC']] })
      : this.steps.findOne({ where: { songId: id, undone: true }, order: [['id', 'ASC']] });
  }

  /** Shortens a song's log while nothing else is done to the song; tells of it. */
  async shortenLog<T>(id: number, act: () => Promise<T>): Promise<T> {
    const done = await this.#inTurn(id, act);
    this.changed.next({ songId: id, revision: (await this.get(id)).revision, isLogShorter: true });
    return done;
  }

  /** One thing after the other for each song; other songs go on meanwhile. */
  #inTurn<T>(id: number, act: () => Promise<T>): Promise<T> {
    const before = this.#queues.get(id) ?? Promise.resolve();
    const turn = before.then(act, act);
    this.#queues.set(
      id,
      turn.catch(() => undefined),
    );
    return turn;
  }

  async #staleAnswer(kept: KeptSong, since: number): Promise<Stale> {
    // What comes in while this is read belongs to the next answer: the revision said is that of the last change told.
    const { id, revision, song } = kept;
    const known = { revision, history: await this.history(id), lastPass: await this.passes.last(id) };
    return { stale: true, ...known, ...(await this.changes.since(id, song, [since, revision])) };
  }

  /** Applies an edit and writes all that follows from it in one transaction; `alongside` adds to that. */
  async #keep(
    kept: KeptSong,
    { edit, key }: KeptChange,
    alongside: (made: Made, transaction: Transaction) => Promise<void>,
    isStep = false,
  ): Promise<Kept> {
    const { id } = kept;
    const applied = applyEdit(kept.song, edit);
    const finished = isStep ? null : finishedBy(kept.song, edit, applied, key);
    if (applied.song === kept.song) {
      if (!finished) return this.#unchanged(kept, edit, applied.refused);
      // All of it was left alone: it is in the log with what was ridden, and the song is as it was.
      const passNumber = await this.writer.transaction(async (transaction) => {
        const { number, kept: named } = await this.passes.add(id, finished, transaction);
        const made = { revision: kept.revision, inverse: null, passNumber: number, changed: [], kept: named };
        await alongside(made, transaction);
        return number;
      });
      this.changed.next({ songId: id, revision: kept.revision });
      return { ...(await this.#unchanged(kept, edit, applied.refused)), passNumber };
    }
    const revision = kept.revision + 1;
    const passNumber = await this.writer.transaction(async (transaction) => {
      const row: { revision: number; document?: string; name?: string } = { revision };
      if (frameChanged(kept.song, applied.song)) row.document = documentOf(applied.song);
      if (applied.song.name !== kept.song.name) row.name = applied.song.name;
      await this.songs.update(row, { where: { id }, transaction });
      await this.#keepLanes(id, applied.song, lanesChanged(kept.song, applied.song), transaction);
      const logged = finished ? await this.passes.add(id, finished, transaction) : null;
      const { inverse, changed } = applied;
      const change = { edit, key, inverse };
      const named = await this.changes.add({ songId: id, revision }, change, logged?.kept ?? new Map(), transaction);
      const number = logged?.number ?? null;
      await alongside({ revision, inverse, passNumber: number, changed, kept: named }, transaction);
      return number;
    });
    this.#held.set(id, Promise.resolve({ id, revision, song: applied.song }));
    this.changed.next({ songId: id, revision });
    return { stale: false, revision, edit, refused: applied.refused, history: await this.history(id), passNumber };
  }

  /** The answer to an edit that left the song as it is. */
  async #unchanged({ id, revision }: KeptSong, edit: Edit, refused: readonly Refusal[]): Promise<Kept> {
    return { stale: false, revision, edit, refused, history: await this.history(id), passNumber: null };
  }

  async #keepLanes(songId: number, song: Song, ids: readonly string[], transaction: Transaction): Promise<void> {
    const there = ids.filter((control) => song.lanes[control]);
    const rows = there.map((control) => ({ songId, control, ...laneColumns(song.lanes[control]!) }));
    await writeRows(this.sequelize, 'lanes', rows, transaction);
    const gone = ids.filter((control) => !song.lanes[control]);
    if (gone.length) await this.lanes.destroy({ where: { songId, control: gone }, transaction });
  }
}
