import { mkdirSync } from 'node:fs';
import { dirname } from 'node:path';
import { Injectable } from '@nestjs/common';
import { AudioShelf, type SongFolder } from '../audio/audioShelf.js';
import { JobTrouble, type Work } from '../jobs/jobBoard.js';
import { WorkPool } from '../jobs/workPool.js';
import type { StemTask, TakenStem } from './stemWorker.js';

/** A file to become one of a song's. */
export type Intake = { readonly name: string; readonly path: string; readonly file: string };
/** What came of it: the stem as the song has it, or the sentence why it was left out. */
export type TakenIn<T extends Intake> = { readonly from: T } & (
  | { readonly taken: TakenStem }
  | { readonly taken: null; readonly sentence: string }
);

/** Takes audio files into a song's folder, side by side in worker threads: checked, at the song's rate, with peaks. */
@Injectable()
export class StemIntake {
  constructor(
    private readonly pool: WorkPool,
    private readonly shelf: AudioShelf,
  ) {}

  /** Takes in all of them; one that is broken is named with what is wrong, and the rest goes on. */
  async take<T extends Intake>(
    songId: SongFolder,
    sampleRate: number,
    all: readonly T[],
    work: Work,
  ): Promise<TakenIn<T>[]> {
    const shares = all.map(() => 0);
    mkdirSync(dirname(this.shelf.peaksPath(songId, 'any')), { recursive: true });
    const takeOne = async (from: T, i: number): Promise<TakenIn<T>> => {
      const report = (share: number): void => {
        shares[i] = share;
        work.report(shares.reduce((sum, one) => sum + one, 0) / all.length, from.name);
      };
      const task: StemTask = {
        from: from.path,
        to: this.shelf.path(songId, from.file),
        peaksTo: this.shelf.peaksPath(songId, from.file),
        sampleRate,
      };
      try {
        const taken = await this.pool.run<TakenStem>('stemWorker', task, { ...work, report });
        report(1);
        return { from, taken };
      } catch (error) {
        if (!(error instanceof JobTrouble)) throw error;
        return { from, taken: null, sentence: `${from.name}: ${error.message}` };
      }
    };
    return Promise.all(all.map(takeOne));
  }
}
