import { applyEdit, isUndoStep, nameOfEdit, type Edit } from '@sure-hand/core/edits';
import { PACKED_TYPE, packed, unpacked } from '@sure-hand/core/formats';
import { type Song } from '@sure-hand/core/song';
import { testSong } from './songs.js';

/** An answer as a page gets it; one that was cut short on its way ends in the middle. */
const answerOf = (status: number, document: object, isCut = false): object => {
  const bytes = packed(document);
  return {
    ok: status < 300,
    status,
    headers: { get: () => PACKED_TYPE },
    arrayBuffer: async () => (isCut ? bytes.slice(0, bytes.length / 2) : bytes).buffer,
  };
};

const bodyOf = (body: string | Uint8Array | undefined): unknown => {
  if (!body) return null;
  return typeof body === 'string' ? JSON.parse(body) : unpacked(body);
};

/** A server that keeps edits as the real one does: in order, refusing stale revisions; it can be away. */
export class SmallServer {
  constructor(public song: Song = testSong()) {}

  revision = 0;
  changes: { edit: Edit; key: string | null }[] = [];
  /** What came first is always too much to be told change by change. */
  tellsWhole = false;
  /** The answer to the next edit is lost on its way, though the edit was kept. */
  losesAnswer = false;
  /** Answers come only half. */
  cutsShort = false;
  steps: { id: number; edit: Edit; inverse: Edit }[] = [];
  #stepCount = 0;
  away = 0;
  /** So many edits find no room on its disk. */
  full = 0;
  /** So many requests are answered with a fault of the server’s own. */
  faults = 0;

  apply(edit: Edit, key: string | null = null): void {
    const { song, inverse } = applyEdit(this.song, edit);
    this.song = song;
    this.revision++;
    this.changes.push({ edit, key });
    if (isUndoStep(edit) && inverse) this.steps.push({ id: ++this.#stepCount, edit, inverse });
  }

  /** What undo would take back, and how it is named. */
  get history(): object {
    const last = this.steps.at(-1);
    const undoOf = last ? { step: last.id, kind: last.edit.kind, pass: null } : null;
    return { undo: last ? nameOfEdit(this.song, last.edit, null) : null, redo: null, undoOf, redoOf: null };
  }

  answer(
    path: string,
    body: { revision: number; edit: Edit; key: string; brief?: boolean; step?: number } | null,
  ): { status: number; json: object } {
    const since = /since=(\d+)/.exec(path);
    const stale = (from: number): object => ({
      stale: true,
      revision: this.revision,
      ...(this.tellsWhole
        ? { changes: [], keys: this.changes.slice(from).flatMap(({ key }) => key ?? []) }
        : { changes: this.changes.slice(from) }),
      history: this.history,
      lastPass: 0,
    });
    if (/revision$/.test(path)) return { status: 200, json: { revision: this.revision } };
    if (since) return { status: 200, json: stale(Number(since[1])) };
    if (!body)
      return {
        status: 200,
        json: { id: 1, revision: this.revision, song: this.song, history: this.history, lastPass: 0, files: {} },
      };
    if (body.revision !== this.revision) return { status: 409, json: stale(body.revision) };
    if (path.endsWith('undo')) {
      if (body.step !== undefined && body.step !== this.steps.at(-1)?.id)
        return { status: 409, json: stale(body.revision) };
      const { inverse } = this.steps.pop()!;
      this.apply(inverse);
      this.steps.pop();
      return { status: 200, json: { revision: this.revision, edit: inverse, history: this.history, passNumber: null } };
    }
    if (this.changes.some(({ key }) => key === body.key))
      return {
        status: 201,
        json: { revision: this.revision, edit: body.edit, history: this.history, passNumber: null, isKnown: true },
      };
    if (Object.values((body.edit as { values?: object }).values ?? {}).includes(99))
      return { status: 422, json: { sentence: 'It takes up to 12.' } };
    if (this.full > 0) {
      this.full--;
      return { status: 507, json: { sentence: 'The disk is full.' } };
    }
    const { refused, song } = applyEdit(this.song, body.edit);
    if (song !== this.song) this.apply(body.edit, body.key);
    const edit = body.brief ? { isAsSent: true } : { edit: body.edit };
    return {
      status: 201,
      json: { revision: this.revision, ...edit, refused, history: this.history, passNumber: null },
    };
  }

  readonly fetch = async (url: string, init: { body?: string | Uint8Array }): Promise<object> => {
    if (this.away > 0) {
      this.away--;
      throw new TypeError('connection refused');
    }
    if (this.faults > 0) {
      this.faults--;
      return answerOf(500, { sentence: 'The server failed at this.' });
    }
    const { status, json } = this.answer(
      url,
      bodyOf(init.body) as { revision: number; edit: Edit; key: string; brief?: boolean; step?: number } | null,
    );
    if (this.losesAnswer && status === 201) {
      this.losesAnswer = false;
      throw new TypeError('connection lost');
    }
    return answerOf(status, json, this.cutsShort);
  };
}

/** What a browser keeps, under one roof for all its tabs; `isGone` says whose tab has gone away. */
export class SmallShelf<T> {
  readonly kept = new Map<string, { songId: number; name: string; tab: string; thing: T }>();
  fails = false;

  /** The shelf as one tab sees it. */
  of(tab: string, gone: ReadonlySet<string> = new Set()) {
    const idOf = (songId: number, name: string): string => `${songId} ${name} ${tab}`;
    return {
      put: async (songId: number, name: string, thing: T): Promise<void> => {
        if (this.fails) throw new Error('the browser keeps nothing');
        this.kept.set(idOf(songId, name), { songId, name, tab, thing });
      },
      putNow: (songId: number, name: string, thing: T): boolean => {
        if (!this.fails) this.kept.set(idOf(songId, name), { songId, name, tab, thing });
        return !this.fails;
      },
      drop: async (songId: number, name: string): Promise<void> => void this.kept.delete(idOf(songId, name)),
      all: async (songId: number): Promise<T[]> =>
        [...this.kept.values()].flatMap((one) => (one.songId === songId ? [one.thing] : [])),
      takeLeft: async (songId: number | null) => {
        const left = [...this.kept].filter(
          ([, one]) => one.tab !== tab && gone.has(one.tab) && (songId === null || one.songId === songId),
        );
        return left.map(([id, one]) => {
          this.kept.delete(id);
          this.kept.set(idOf(one.songId, one.name), { ...one, tab });
          return { songId: one.songId, name: one.name, thing: one.thing };
        });
      },
    };
  }
}
