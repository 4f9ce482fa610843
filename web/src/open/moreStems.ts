import { keyFor, nameApart, type NewTrack } from '@sure-hand/core/formats';
import type { Edit } from '@sure-hand/core/edits';
import { channelWithDefaults, type Song } from '@sure-hand/core/song';
import type { Job } from '@sure-hand/server';
import { beginImport, dropImport, sendStem, takeStemsInto } from '../song/upload.js';
import { followJob } from './jobs.js';
import type { SongFiles } from './songFiles.js';

/** How far stems are that were dropped into the open song; null where none are on their way. */
export type StemsComing = { readonly share: number; readonly doing: string };

/** What came of them: how many tracks, and what was left out and why. */
export type StemsCame = { readonly tracks: number; readonly sentence: string | null };

/** Tracks of stems, each of a name and key of its own, before the buses. */
function trackEdits(song: Song, stems: readonly NewTrack[]): Edit[] {
  const names = new Set(song.channels.map(({ name }) => name));
  const keys = new Set(song.channels.map(({ key }) => key));
  const first = song.channels.findIndex(({ kind }) => kind !== 'track');
  const at = first < 0 ? song.channels.length : first;
  return stems.map(({ file, seconds, name: given, family }, i): Edit => {
    const name = nameApart(given, names);
    names.add(name);
    const key = keyFor(name, keys);
    keys.add(key);
    const length = Math.min(seconds, song.length);
    const clips = [{ t: 0, file, offset: 0, length }] as never;
    const channel = channelWithDefaults({ key, kind: 'track', name, family, clips }, song.length);
    return { kind: 'addChannel', channel, at: at + i };
  });
}

/** What stems need of the song that is open. */
type StemsHost = {
  readonly songId: number;
  readonly files: SongFiles;
  readonly song: () => Song;
  readonly makeEdit: (edit: Edit) => void;
};

/** Stems dropped into the open song: sent, taken in by the server, then tracks of it. It goes on whatever is looked at meanwhile. */
export class MoreStems {
  coming: StemsComing | null = null;
  #abort: AbortController | null = null;
  #listeners = new Set<() => void>();

  constructor(readonly host: StemsHost) {}

  subscribe(listener: () => void): () => void {
    this.#listeners.add(listener);
    return () => this.#listeners.delete(listener);
  }

  #say(coming: StemsComing | null): void {
    this.coming = coming;
    for (const listener of this.#listeners) listener();
  }

  /** Takes files in; throws the sentence where none of them could be, an `AbortError` where it was given up. */
  async take(dropped: readonly File[]): Promise<StemsCame> {
    if (this.#abort) throw new Error('Stems are on their way already; wait until they are there.');
    const abort = (this.#abort = new AbortController());
    let id: string | null = null;
    try {
      id = await beginImport();
      const sent = await this.#send(id, dropped, abort.signal);
      const good = sent.filter((stem) => stem.sentence === null);
      const left = sent.flatMap(({ fileName, sentence }) => (sentence === null ? [] : [`${fileName}: ${sentence}`]));
      if (!good.length) throw new Error(left.join(' ') || 'There was no file in what was dropped.');
      const tracks = good.map(({ id: stem, guess }) => ({ stem, ...guess }));
      const begun = await takeStemsInto(id, this.host.songId, tracks);
      const onWord = ({ share, doing }: Job): void =>
        this.#say({ share: 0.5 + 0.5 * share, doing: doing || 'Taking them in' });
      const done = await followJob(begun, onWord, abort.signal);
      const { stems } = done.result as { readonly stems: readonly NewTrack[] };
      for (const { file } of stems) await this.host.files.know(file);
      for (const edit of trackEdits(this.host.song(), stems)) this.host.makeEdit(edit);
      return { tracks: stems.length, sentence: [...left, done.sentence].filter(Boolean).join(' ') || null };
    } finally {
      this.#abort = null;
      this.#say(null);
      if (id) void dropImport(id).catch(() => undefined);
    }
  }

  async #send(
    id: string,
    dropped: readonly File[],
    signal: AbortSignal,
  ): Promise<Awaited<ReturnType<typeof sendStem>>[]> {
    const all = dropped.reduce((sum, { size }) => sum + size, 0) || 1;
    let before = 0;
    const sent = [];
    for (const file of dropped) {
      const onShare = (share: number): void =>
        this.#say({ share: (0.5 * (before + share * file.size)) / all, doing: `Sending ${file.name}` });
      onShare(0);
      sent.push(await sendStem(id, file, { onShare, signal }));
      before += file.size;
    }
    return sent;
  }

  /** Gives them up: nothing of them stays. */
  giveUp(): void {
    this.#abort?.abort();
  }
}
