import { songWith, standsAs, type LoggedLane, type PassSide } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';

/** A pass whose two sides can be heard: its number in the log, where it has one already, and its lanes. */
export type ComparedPass = { readonly number: number | null; readonly lanes: readonly LoggedLane[] };

/** What a comparison needs: the song as it stands, a way to be heard, the last pass in the log. */
export type ComparisonHost = {
  song(): Song;
  hear(song: Song | null): void;
  fetchLast(): Promise<ComparedPass | null>;
};

/**
 * What is heard in place of the song as it stands: the lanes of the last pass, or of a chosen one, as it found or as it
 * left them. Everything else is as it is now.
 */
export class Comparison {
  #chosen: ComparedPass | null = null;
  #last: ComparedPass | null = null;
  #side: PassSide | null = null;

  constructor(readonly host: ComparisonHost) {}

  /** Which side of which pass is heard; null where the song is as it stands. */
  get heard(): { readonly side: PassSide; readonly number: number | null } | null {
    return this.#side && this.#pass ? { side: this.#side, number: this.#pass.number } : null;
  }

  get #pass(): ComparedPass | null {
    return this.#chosen ?? this.#last;
  }

  /** A pass has just been made: it is the one to be compared, unless another is chosen. */
  passMade(pass: ComparedPass): void {
    if (pass.lanes.length) this.#last = pass;
    this.asItStands();
  }

  /** Chooses a pass of the log; null goes back to the last one, and to the song as it stands. */
  choose(pass: ComparedPass | null): void {
    this.#chosen = pass;
    this.asItStands();
  }

  asItStands(): void {
    this.#hear(null);
  }

  /** Lets one side be heard. */
  hear(side: PassSide): void {
    this.#hear(side);
  }

  /** The other side: what is heard now is told from how the song stands. False where there is no pass to compare. */
  async toggle(): Promise<boolean> {
    this.#last ??= this.#chosen ?? (await this.host.fetchLast());
    if (!this.#pass) return false;
    const now = this.#side ?? (this.#stands('before') ? 'before' : 'after');
    const other = now === 'before' ? 'after' : 'before';
    this.#hear(this.#stands(other) ? null : other);
    return true;
  }

  /** The song as it stands has changed. */
  songChanged(): void {
    if (this.#side) this.#hear(this.#side);
  }

  #hear(side: PassSide | null): void {
    this.#side = this.#pass ? side : null;
    this.host.hear(this.#side && songWith(this.host.song(), this.#pass!.lanes, this.#side));
  }

  /** Whether the song stands as one side of the pass has it. */
  #stands(side: PassSide): boolean {
    const song = this.host.song();
    return this.#pass!.lanes.every((lane) => standsAs(song, { ...lane, points: lane[side] }, [0, song.length]));
  }
}
