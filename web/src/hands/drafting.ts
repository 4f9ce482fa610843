import { applyEdit, whyNotMade, type Applied, type Edit } from '@sure-hand/core/edits';
import type { ControlId, Song } from '@sure-hand/core/song';
import type { Comparison } from './comparison.js';
import type { HandSession } from './handSession.js';
import type { SongControl } from './songControl.js';

/** What drafting needs: where the song is heard, what else may be heard in its place, and who makes edits. */
type Host = {
  readonly session: Pick<HandSession, 'hear' | 'recorder'>;
  readonly comparison: Pick<Comparison, 'heard' | 'asItStands'>;
  readonly control: Pick<SongControl, 'mend'>;
};

/** An edit while it is still in the hand: heard and drawn as it would be, kept only as the hand comes up. */
export class Drafting {
  #controls: readonly ControlId[] = [];

  constructor(readonly host: Host) {}

  /** Controls whose curves are drafted now. */
  get controls(): readonly ControlId[] {
    return this.#controls;
  }

  /** Lets an edit of the song as it stands be heard; gives back what it would do. */
  draft(edit: Edit): Applied {
    const { session, comparison } = this.host;
    if (comparison.heard) comparison.asItStands();
    const { song } = session.recorder;
    // What the song can't take is not heard either: nothing half typed reaches the sound.
    if (whyNotMade(song, edit)) {
      this.drop();
      return { song, inverse: null, changed: [], refused: [] };
    }
    const applied = applyEdit(song, edit);
    this.#controls = applied.changed;
    session.hear(applied.changed.length ? applied.song : null);
    return applied;
  }

  /** Makes the edit, on the song as it stands by then; what it did. */
  keep(edit: Edit): Applied {
    const applied = this.host.control.mend(edit);
    this.drop();
    return applied;
  }

  /** The song is heard as it stands again. */
  drop(): void {
    if (!this.#controls.length) return;
    this.#controls = [];
    this.host.session.hear(null);
  }

  /** The song as it stands, without what is drafted. */
  get song(): Song {
    return this.host.session.recorder.song;
  }
}
