import type { PeakPyramid } from '@sure-hand/core/mix';
import type { Song } from '@sure-hand/core/song';
import type { SongEngine } from '../engine/songEngine.js';
import { ServerAway, fetchFile } from '../song/songApi.js';
import { troubleCame } from '../song/songSlice.js';
import { store } from '../store/store.js';
import { fetchAllPeaks } from './waveforms.js';

/** With the server away they are asked for again so often. */
const AGAIN_MS = 2000;

/** Files that come to a song while it is open, by this page or another: what plays them is told, and their waveforms are drawn. */
export class SongFiles {
  readonly #asked: Set<string>;
  readonly #ends: (() => void)[] = [];
  #isEnded = false;

  constructor(
    readonly id: number,
    known: Iterable<string>,
    readonly engine: SongEngine,
    readonly onPeaks: (name: string, peaks: PeakPyramid) => void,
  ) {
    this.#asked = new Set(known);
  }

  /** Looks whether a song has clips of files that nobody has asked after yet. */
  follow(song: Song): void {
    const names = new Set(song.channels.flatMap(({ clips }) => clips.map(({ file }) => file)));
    for (const name of names) if (!this.#asked.has(name)) void this.know(name);
  }

  /** Asks what is known of a file, and has it played. */
  async know(name: string): Promise<void> {
    this.#asked.add(name);
    try {
      const file = await fetchFile(this.id, name);
      if (this.#isEnded) return;
      if ('missing' in file) return say(`${file.missing} Its clips are silent; the rest plays.`);
      if (!this.engine.addFiles({ [name]: file.info }))
        return say(`${name} is heard once the song is opened anew: so many files have come since it was.`);
      this.#ends.push(fetchAllPeaks(this.id, [name], this.onPeaks));
    } catch (error) {
      this.#asked.delete(name);
      if (!(error instanceof ServerAway)) return say((error as Error).message);
      setTimeout(() => this.#isEnded || void this.know(name), AGAIN_MS);
    }
  }

  end(): void {
    this.#isEnded = true;
    for (const end of this.#ends) end();
  }
}

const say = (sentence: string): void => void store.dispatch(troubleCame(sentence));
