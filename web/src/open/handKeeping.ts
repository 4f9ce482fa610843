import type { PassJournalist } from '../song/passJournal.js';
import type { Settled, SongSync } from '../song/songSync.js';
import type { EditsMade } from '../hands/handSession.js';

/**
 * Sees to it that what hands led to is kept: each pass goes to the server under the key of its journal, which lasts until
 * that is done, or until it is known that nothing was written.
 */
export class HandKeeping {
  constructor(
    readonly sync: Pick<SongSync, 'makeAll'>,
    readonly journal: Pick<PassJournalist, 'forget'>,
  ) {}

  made({ edits, key, before, after }: EditsMade): void {
    const named = edits.map((edit) => ({
      edit,
      key: edit.kind === 'pass' && key !== null ? key : crypto.randomUUID(),
    }));
    this.sync.makeAll(named, { before, after });
    if (key !== null && !edits.some((edit) => edit.kind === 'pass')) this.journal.forget(key, false);
  }

  /** One that was refused is offered as cut short: its journal stays. */
  settled({ key, edit, isKept }: Settled): void {
    if (edit.kind === 'pass' && isKept) this.journal.forget(key, true);
  }
}
