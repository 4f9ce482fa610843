import { beforeEach, describe, expect, jest, test } from '@jest/globals';
import { configureStore } from '@reduxjs/toolkit';
import { applyEdit, isUndoStep, type Edit, type Song } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import { songReducer } from './songSlice.js';
import { SongSync } from './songSync.js';

const rest = (control: string, value: number): Edit => ({ kind: 'rest', values: { [control]: value } });
const NAMED = { undo: null, redo: null };

/** A server that keeps edits as the real one does: in order, refusing stale revisions; it can be away. */
class SmallServer {
  song: Song = testSong();
  revision = 0;
  changes: { edit: Edit; key: string | null }[] = [];
  /** The answer to the next edit is lost on its way, though the edit was kept. */
  losesAnswer = false;
  steps: { edit: Edit; inverse: Edit }[] = [];
  away = 0;

  apply(edit: Edit, key: string | null = null): void {
    const { song, inverse } = applyEdit(this.song, edit);
    this.song = song;
    this.revision++;
    this.changes.push({ edit, key });
    if (isUndoStep(edit) && inverse) this.steps.push({ edit, inverse });
  }

  answer(path: string, body: { revision: number; edit: Edit; key: string } | null): { status: number; json: object } {
    const since = /since=(\d+)/.exec(path);
    const stale = (from: number): object => ({
      stale: true,
      revision: this.revision,
      changes: this.changes.slice(from),
      history: NAMED,
      lastPass: 0,
    });
    if (since) return { status: 200, json: stale(Number(since[1])) };
    if (!body)
      return {
        status: 200,
        json: { id: 1, revision: this.revision, song: this.song, history: NAMED, lastPass: 0, files: {} },
      };
    if (body.revision !== this.revision) return { status: 409, json: stale(body.revision) };
    if (path.endsWith('undo')) {
      const { inverse } = this.steps.pop()!;
      this.apply(inverse);
      this.steps.pop();
      return { status: 200, json: { revision: this.revision, edit: inverse, history: NAMED, passNumber: null } };
    }
    if (this.changes.some(({ key }) => key === body.key))
      return { status: 201, json: { revision: this.revision, edit: body.edit, history: NAMED, isKnown: true } };
    if (Object.values((body.edit as { values?: object }).values ?? {}).includes(99))
      return { status: 422, json: { sentence: 'It takes up to 12.' } };
    this.apply(body.edit, body.key);
    return { status: 201, json: { revision: this.revision, edit: body.edit, history: NAMED, passNumber: null } };
  }

  readonly fetch = async (url: string, init: { body?: string }): Promise<object> => {
    if (this.away > 0) {
      this.away--;
      throw new TypeError('connection refused');
    }
    const { status, json } = this.answer(
      url,
      init.body ? (JSON.parse(init.body) as { revision: number; edit: Edit; key: string }) : null,
    );
    if (this.losesAnswer && status === 201) {
      this.losesAnswer = false;
      throw new TypeError('connection lost');
    }
    return { ok: status < 300, status, json: async () => json };
  };
}

let server: SmallServer;
const tab = async (): Promise<{ sync: SongSync; song: () => Song; state: () => ReturnType<typeof songReducer> }> => {
  const store = configureStore({
    reducer: { song: songReducer },
    middleware: (defaults) => defaults({ immutableCheck: false, serializableCheck: false }),
  });
  const sync = new SongSync(store, async () => undefined);
  await sync.open(1);
  return { sync, song: () => store.getState().song.song!, state: () => store.getState().song };
};
beforeEach(() => {
  server = new SmallServer();
  globalThis.fetch = jest.fn(server.fetch) as unknown as typeof fetch;
});

describe('edits', () => {
  test('are heard at once and kept in order', async () => {
    const { sync, song, state } = await tab();
    sync.make(rest('voice/pan', 0.5));
    sync.make(rest('fiddle/level', -3));
    expect(song().lanes['fiddle/level']!.rest).toBe(-3);
    expect(state().pending).toHaveLength(2);
    await sync.flush();
    expect(state()).toMatchObject({ revision: 2, pending: [] });
    expect(server.song).toEqual(song());
  });

  test('of two tabs are all kept: the later goes on top of what came first', async () => {
    const [one, two] = [await tab(), await tab()];
    one.sync.make(rest('voice/pan', 0.5));
    await one.sync.flush();
    two.sync.make(rest('fiddle/level', -3));
    await two.sync.flush();
    expect(server.song.lanes).toMatchObject({ 'voice/pan': { rest: 0.5 }, 'fiddle/level': { rest: -3 } });
    expect(two.song()).toEqual(server.song);
  });

  test('wait while the server is away, and go when it is back', async () => {
    const { sync, song, state } = await tab();
    server.away = 3;
    const seen: boolean[] = [];
    sync.make(rest('voice/pan', 0.5));
    expect(song().lanes['voice/pan']!.rest).toBe(0.5);
    await Promise.resolve().then(() => seen.push(state().isAway));
    await sync.flush();
    expect(server.song.lanes['voice/pan']!.rest).toBe(0.5);
    expect(state().isAway).toBe(false);
  });

  test('that the server refuses are taken back, with its sentence; those after it are kept', async () => {
    const { sync, song, state } = await tab();
    sync.make(rest('voice/level', 99));
    sync.make(rest('fiddle/level', -3));
    await sync.flush();
    expect(state()).toMatchObject({ pending: [], trouble: 'It takes up to 12.' });
    expect(song().lanes['voice/level']!.rest).toBe(-6);
    expect(server.song).toEqual(song());
  });

  test('undo goes after what is still on its way, and over what another tab did', async () => {
    const [one, two] = [await tab(), await tab()];
    two.sync.make({ kind: 'channel', channel: 'fiddle', changes: { mode: 'latch' } });
    await two.sync.flush();
    one.sync.make(rest('voice/pan', 0.5));
    await one.sync.step('undo');
    expect(one.song().lanes['voice/pan']).toBeUndefined();
    expect(one.song()).toEqual(server.song);
  });
});

test('an edit whose answer was lost is kept once', async () => {
  const { sync, song, state } = await tab();
  server.losesAnswer = true;
  sync.make(rest('voice/pan', 0.5));
  sync.make(rest('fiddle/level', -3));
  await sync.flush();
  expect(server.changes.map(({ edit }) => edit)).toEqual([rest('voice/pan', 0.5), rest('fiddle/level', -3)]);
  expect(state()).toMatchObject({ pending: [], revision: 2 });
  expect(song()).toEqual(server.song);
});

test('an edit of a tab that went away, kept before it went, is not done again by the one opened after it', async () => {
  const gone = await tab();
  gone.sync.make(rest('voice/pan', 0.5), 'left on the shelf');
  await gone.sync.flush();
  gone.sync.make(rest('voice/pan', 0.75));
  await gone.sync.flush();
  const { sync, song, state } = await tab();
  sync.make(rest('voice/pan', 0.5), 'left on the shelf');
  await sync.flush();
  expect(state()).toMatchObject({ pending: [], revision: 2 });
  expect(song().lanes['voice/pan']!.rest).toBe(0.75);
  expect(song()).toEqual(server.song);
});

test('the second tab follows once it is told, and not twice', async () => {
  const [one, two] = [await tab(), await tab()];
  one.sync.make(rest('voice/pan', 0.5));
  await one.sync.flush();
  await Promise.all([two.sync.follow({ songId: 1, revision: 1 }), two.sync.follow({ songId: 1, revision: 1 })]);
  expect(two.song()).toEqual(server.song);
  expect(two.state().revision).toBe(1);
  await two.sync.follow({ songId: 9, revision: 7 });
  expect(two.state().revision).toBe(1);
});

test('a song that cannot be opened is a sentence, not a crash', async () => {
  server.away = 1;
  const { state } = await tab();
  expect(state()).toMatchObject({ status: 'failed', trouble: 'The server can’t be reached.' });
});
