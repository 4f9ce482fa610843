import { afterAll, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { configureStore } from '@reduxjs/toolkit';
import { Curve, linePoint } from '@sure-hand/core/curve';
import type { Edit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { SmallServer, SmallShelf } from '../test/smallServer.js';
import { Outbox } from './outbox.js';
import { fetchChanges } from './songApi.js';
import {
  cutShortFound,
  cutShortSettled,
  editsCameFirst,
  songClosed,
  songReducer,
  type PendingEdit,
} from './songSlice.js';
import { SongSync, leftAloneWords } from './songSync.js';

const rest = (control: string, value: number): Edit => ({ kind: 'rest', values: { [control]: value } });
let server: SmallServer;
let shelf: SmallShelf<PendingEdit>;
type Tab = {
  sync: SongSync;
  outbox: Outbox;
  song: () => Song;
  state: () => ReturnType<typeof songReducer>;
  refused: string[];
  waiting: () => { readonly [id: number]: number };
  /** The song is left, as its views are. */
  leave: () => void;
};
/** A tab with the song open in it; `gone`: tabs that went away before. */
const tab = async (name = 'tab', gone: ReadonlySet<string> = new Set()): Promise<Tab> => {
  const store = configureStore({
    reducer: { song: songReducer },
    middleware: (defaults) => defaults({ immutableCheck: false, serializableCheck: false }),
  });
  const refused: string[] = [];
  let waiting: { readonly [id: number]: number } = {};
  const listener = {
    onWaiting: (counts: typeof waiting) => void (waiting = counts),
    onAway: () => undefined,
    onRefused: (_id: number, sentence: string) => void refused.push(sentence),
  };
  const soon = (): Promise<void> => new Promise((tick) => setTimeout(tick, 1));
  const outbox = new Outbox(
    listener,
    leftAloneWords(() => null),
    shelf.of(name, gone),
    soon,
  );
  const sync = new SongSync(store, outbox, soon);
  await sync.open(1);
  const state = (): ReturnType<typeof songReducer> => store.getState().song;
  const leave = (): void => {
    store.dispatch(songClosed());
    sync.close(1);
  };
  return { sync, outbox, song: () => state().song!, state, refused, waiting: () => waiting, leave };
};
let tellsWhole = false;
const fresh = (): void => {
  server = new SmallServer();
  server.tellsWhole = tellsWhole;
  shelf = new SmallShelf();
  globalThis.fetch = jest.fn(server.fetch) as unknown as typeof fetch;
};
beforeEach(fresh);

describe.each([
  ['change by change', false],
  ['by the song whole', true],
])('edits, what came first being told %s,', (_how, isWhole) => {
  beforeEach(() => {
    tellsWhole = isWhole;
    fresh();
  });
  afterAll(() => void (tellsWhole = false));

  test('are sent by themselves at whatever moment they are made, also as the one before is just over, be the song left meanwhile', async () => {
    const pause = async (ticks: number): Promise<void> => {
      for (let i = 0; i < ticks; i++) await null;
    };
    /** Time enough for all that needs no waiting, and nothing that asks for it. */
    const settle = async (): Promise<void> => {
      for (let i = 0; i < 50; i++) await new Promise((done) => setImmediate(done));
    };
    for (let ticks = 0; ticks < 60; ticks++) {
      fresh();
      const one = await tab();
      one.sync.make(rest('voice/pan', 0.5));
      await pause(ticks);
      one.sync.make(rest('voice/pan', 0.25));
      await settle();
      expect([ticks, server.song.lanes['voice/pan']?.rest]).toEqual([ticks, 0.25]);
      // What waits is sent by the outbox once the song is left.
      one.sync.make(rest('fiddle/pan', 0.5));
      one.leave();
      await pause(ticks);
      one.outbox.add(1, [{ key: 'last', edit: rest('fiddle/level', -3) }]);
      await settle();
      expect([ticks, server.changes.map(({ edit }) => edit)]).toEqual([
        ticks,
        [rest('voice/pan', 0.5), rest('voice/pan', 0.25), rest('fiddle/pan', 0.5), rest('fiddle/level', -3)],
      ]);
    }
  });

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

  test('that a full disk is in the way of wait with its sentence, which is gone once they are kept', async () => {
    const { sync, song, state } = await tab();
    server.full = 3;
    sync.make(rest('voice/pan', 0.5));
    while (!state().notKept) await new Promise((tick) => setImmediate(tick));
    expect(state()).toMatchObject({ isAway: true, trouble: 'The disk is full.', troubleStays: true });
    expect([song().lanes['voice/pan']!.rest, server.changes]).toEqual([0.5, []]);
    await sync.flush();
    expect(state()).toMatchObject({ isAway: false, notKept: null, trouble: null, pending: [] });
    expect(server.song.lanes['voice/pan']!.rest).toBe(0.5);
  });

  test('go on top of an older song where the server has one again, and that is said; an answer that came late is none', async () => {
    const { sync, song, state } = await tab();
    sync.make(rest('voice/pan', 0.5));
    await sync.flush();
    const backup = { song: server.song, revision: server.revision, changes: [...server.changes] };
    for (const value of [-1, -2, -3]) sync.make(rest('fiddle/level', value));
    await sync.flush();
    const late = await fetchChanges(1, 3);
    expect(state()).toMatchObject({ revision: 4, trouble: null });
    sync.store.dispatch(editsCameFirst(late));
    Object.assign(server, backup);
    sync.make(rest('fiddle/pan', 0.25));
    await sync.flush();
    expect(state()).toMatchObject({
      revision: 2,
      pending: [],
      trouble: expect.stringMatching(/older state of this song/) as string,
    });
    expect(server.song.lanes['fiddle/pan']!.rest).toBe(0.25);
    expect(server.song.lanes['fiddle/level']?.rest).not.toBe(-3);
    expect(song()).toEqual(server.song);
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
    one.sync.make(rest('voice/level', -3));
    await one.sync.flush();
    one.sync.make(rest('voice/pan', 0.5));
    // It is called what it is, and not what the one before it is, though the server has not heard of it yet.
    expect(await one.sync.step('undo')).toMatch(/pan/);
    expect(one.song().lanes['voice/pan']).toBeUndefined();
    expect(one.song()).toEqual(server.song);
  });

  test('undo takes back the step that stood there, and never another tab’s that came in between', async () => {
    const [one, two] = [await tab(), await tab()];
    one.sync.make(rest('voice/pan', 0.5));
    await one.sync.flush();
    two.sync.make(rest('fiddle/level', -3));
    await two.sync.flush();
    expect(await one.sync.step('undo')).toBe(null);
    expect(one.state().trouble).toMatch(/nothing was taken back: to undo “.*Fiddle level.*”, ask once more\.$/);
    expect(server.song.lanes).toMatchObject({ 'voice/pan': { rest: 0.5 }, 'fiddle/level': { rest: -3 } });
    expect(one.song()).toEqual(server.song);
    // Asked once more, seeing it: that is meant now.
    expect(await one.sync.step('undo')).toMatch(/Fiddle level/);
    expect(server.song.lanes['fiddle/level']).toBeUndefined();
    expect(server.song.lanes['voice/pan']).toMatchObject({ rest: 0.5 });
  });

  test('undo twice, quickly, takes back two steps; of an edit that was refused it takes back nothing else', async () => {
    const { sync, song, state } = await tab();
    for (const value of [-1, -2, -3]) sync.make(rest('voice/level', value));
    await sync.flush();
    expect(await Promise.all([sync.step('undo'), sync.step('undo')])).toEqual([
      expect.stringMatching(/Voice level/),
      expect.stringMatching(/Voice level/),
    ]);
    expect(song().lanes['voice/level']!.rest).toBe(-1);
    sync.make(rest('voice/level', 99));
    expect(await sync.step('undo')).toBe(null);
    expect(state().trouble).toBe('It takes up to 12.');
    expect(song().lanes['voice/level']!.rest).toBe(-1);
    expect(server.song).toEqual(song());
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

test('a fault of the server’s own takes nothing back: it is tried again until the server has it', async () => {
  const { sync, song, state } = await tab();
  server.faults = 3;
  sync.make(rest('voice/pan', 0.5));
  await sync.flush();
  expect(server.song.lanes['voice/pan']!.rest).toBe(0.5);
  expect(state()).toMatchObject({ pending: [], trouble: null });
  expect(song()).toEqual(server.song);
});

describe('what waits for the server', () => {
  const isSent = async (check: () => boolean): Promise<void> => {
    while (!check()) await new Promise((tick) => setTimeout(tick, 2));
  };

  test('goes on being sent once its song is left, in its order, and is there again when it is opened', async () => {
    const { sync, outbox, waiting, song, leave } = await tab();
    server.away = 1e9;
    sync.make(rest('voice/pan', 0.25));
    sync.make(rest('voice/pan', 0.5));
    sync.make(rest('fiddle/level', -3));
    expect([waiting(), outbox.isEmpty]).toEqual([{ 1: 3 }, false]);
    leave();
    await new Promise((tick) => setTimeout(tick, 5));
    server.away = 0;
    await isSent(() => outbox.isEmpty);
    expect(server.changes.map(({ edit }) => edit)).toEqual([
      rest('voice/pan', 0.25),
      rest('voice/pan', 0.5),
      rest('fiddle/level', -3),
    ]);
    expect([waiting(), shelf.kept.size]).toEqual([{}, 0]);
    await sync.open(1);
    expect(song()).toEqual(server.song);
  });

  test('is on top of the song that is opened while it still waits, and sent from there', async () => {
    const { sync, outbox, song, leave } = await tab();
    server.away = 1e9;
    sync.make(rest('voice/pan', 0.5));
    leave();
    await new Promise((tick) => setTimeout(tick, 5));
    server.away = 0;
    await sync.open(1);
    expect(song().lanes['voice/pan']!.rest).toBe(0.5);
    await isSent(() => outbox.isEmpty);
    expect(server.changes).toHaveLength(1);
    expect(song()).toEqual(server.song);
  });

  test('outlives its tab: the next one sends it from any view, after what others did meanwhile', async () => {
    const gone = await tab('gone');
    server.away = 1e9;
    gone.sync.make(rest('voice/pan', 0.5));
    await isSent(() => shelf.kept.size === 1);
    server.apply(rest('voice/pan', -1));
    const next = new Outbox(
      { onWaiting: () => undefined, onAway: () => undefined, onRefused: () => undefined },
      () => null,
      shelf.of('next', new Set(['gone'])),
      async () => new Promise((tick) => setTimeout(tick, 1)),
    );
    server.away = 0;
    await next.gather();
    await isSent(() => next.isEmpty);
    expect(server.song.lanes['voice/pan']!.rest).toBe(0.5);
    expect(shelf.kept.size).toBe(0);
  });

  test('is found while the next tab still opens the song: it is on top of it, and sent', async () => {
    await shelf.of('gone').put(1, 'left', { key: 'left', edit: rest('voice/pan', 0.5) });
    const gone = new Set<string>();
    const { sync, outbox, song, state, leave } = await tab('next', gone);
    leave();
    globalThis.fetch = jest.fn(async (url: string, init: { body?: string }) => {
      if (!gone.size && /songs\/1$/.test(url)) {
        gone.add('gone');
        await outbox.gather();
      }
      return server.fetch(url, init);
    }) as unknown as typeof fetch;
    await sync.open(1);
    expect(song().lanes['voice/pan']!.rest).toBe(0.5);
    await isSent(() => outbox.isEmpty);
    expect([state().pending, server.changes.length]).toEqual([[], 1]);
    expect(song()).toEqual(server.song);
  });

  test('a browser that keeps nothing still sends everything', async () => {
    const { sync } = await tab();
    shelf.fails = true;
    sync.make(rest('voice/pan', 0.5));
    await sync.flush();
    expect(server.song.lanes['voice/pan']!.rest).toBe(0.5);
  });

  test('that the server refuses for a reason is taken back and said, wherever one is; what comes after it is sent', async () => {
    const { sync, outbox, refused, leave } = await tab();
    server.away = 1e9;
    sync.make(rest('voice/level', 99));
    sync.make(rest('fiddle/level', -3));
    leave();
    await new Promise((tick) => setTimeout(tick, 5));
    server.away = 0;
    await isSent(() => outbox.isEmpty);
    expect(refused).toEqual(['It takes up to 12.']);
    expect(server.song.lanes['fiddle/level']!.rest).toBe(-3);
  });
});

test('an answer that is cut short on its way is none: the edit is sent again, and kept once', async () => {
  const { sync, song, state } = await tab();
  server.cutsShort = true;
  sync.make(rest('voice/pan', 0.5));
  while (server.revision < 1) await new Promise((tick) => setTimeout(tick, 1));
  server.cutsShort = false;
  await sync.flush();
  expect(state()).toMatchObject({ pending: [], revision: 1, isAway: false });
  expect(server.changes).toHaveLength(1);
  expect(song()).toEqual(server.song);
});

test('a refusal whose reason was cut short takes nothing back: it is asked for again', async () => {
  const { sync, state } = await tab();
  server.cutsShort = true;
  sync.make(rest('voice/level', 99));
  while (!state().isAway) await new Promise((tick) => setTimeout(tick, 1));
  expect(state()).toMatchObject({ trouble: null, pending: [{ edit: rest('voice/level', 99) }] });
  server.cutsShort = false;
  await sync.flush();
  expect(state()).toMatchObject({ trouble: 'It takes up to 12.', pending: [] });
});

test('a pass over a lane that somebody has made safe meanwhile leaves it alone, and says so', async () => {
  const { sync, song, state } = await tab();
  server.apply({ kind: 'guard', control: 'voice/level', changes: { safe: true } });
  const points = Curve.of([linePoint(1, 3), linePoint(2, 3)]);
  const receipt = { lap: 0, from: 0, to: 3, lanes: [], refused: [], rested: [] };
  sync.make({ kind: 'pass', pieces: [{ control: 'voice/level', layer: 'base', span: [1, 2], points }], receipt });
  expect(song().lanes['voice/level']!.points).toHaveLength(5);
  await sync.flush();
  expect(song()).toEqual(server.song);
  expect(song().lanes['voice/level']!.points).toHaveLength(1);
  expect(state().trouble).toMatch(
    /^Guarded meanwhile, and left as it was: Voice level \(safe\)\. What you rode there is kept/,
  );
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

test('a pass that was cut short is offered once: not again by a look that began before it was kept or dropped', () => {
  const found = ['one', 'two'].map((key) => ({ key })) as never;
  const opened = songReducer(undefined, { type: 'none' });
  const look = (state: typeof opened, since: number): typeof opened =>
    songReducer(state, cutShortFound({ found, since }));
  const keysOf = ({ cutShort }: typeof opened): string[] => cutShort.map(({ key }) => key);
  const settled = songReducer(look(opened, 0), cutShortSettled('one'));
  expect([keysOf(settled), keysOf(look(settled, 0))]).toEqual([['two'], ['two']]);
  // What a later look finds was not taken after all.
  expect(keysOf(look(settled, 1))).toEqual(['two', 'one']);
});

test('what went with old versions is not offered to be taken back any more, here and in other tabs', async () => {
  const [one, two] = [await tab(), await tab()];
  one.sync.make(rest('voice/pan', 0.5));
  await one.sync.flush();
  await two.sync.follow({ songId: 1, revision: 1 });
  expect([one, two].map(({ state }) => state().history.undo)).toEqual([expect.any(String), expect.any(String)]);
  const before = two.song();
  server.steps = [];
  for (const { sync } of [one, two]) await sync.follow({ songId: 1, revision: 1, isLogShorter: true });
  expect([one, two].map(({ state }) => state().history.undo)).toEqual([null, null]);
  expect(two.song()).toBe(before);
});

test('what is told of twice at one time is taken over once', async () => {
  const { sync, song, state } = await tab();
  const note = (text: string): Edit => ({ kind: 'mark', list: 'notes', remove: null, add: { t: 3, text } });
  // Both ask for what came since the revision they know; the answers come one after the other.
  const answers: (() => void)[] = [];
  const plain = globalThis.fetch;
  globalThis.fetch = (async (url: string, init: object) => {
    const answer = await (plain as unknown as typeof server.fetch)(url, init as { body?: string });
    if (url.includes('since=')) await new Promise<void>((go) => answers.push(go));
    return answer;
  }) as unknown as typeof fetch;
  server.apply(note('one'));
  const first = sync.follow({ songId: 1, revision: 1 });
  while (answers.length < 1) await new Promise((tick) => setTimeout(tick, 1));
  server.apply(note('two'));
  const second = sync.follow({ songId: 1, revision: 2 });
  while (answers.length < 2) await new Promise((tick) => setTimeout(tick, 1));
  answers[0]!();
  await first;
  expect(song().notes.map(({ text }) => text)).toEqual(['one']);
  answers[1]!();
  await second;
  expect(song().notes.map(({ text }) => text)).toEqual(['one', 'two']);
  sync.make(note('three'));
  await sync.flush();
  expect(song().notes.map(({ text }) => text)).toEqual(['one', 'two', 'three']);
  expect(state()).toMatchObject({ revision: 3, pending: [] });
  expect(server.song).toEqual(song());
});

test('one’s own edit that came along with what others did, before its answer, is applied once', async () => {
  const { sync, song, state } = await tab();
  const note: Edit = { kind: 'mark', list: 'notes', remove: null, add: { t: 3, text: 'mine' } };
  let answered: () => void = () => undefined;
  const plain = globalThis.fetch;
  globalThis.fetch = (async (url: string, init: { method?: string; body?: string }) => {
    const answer = await (plain as unknown as typeof server.fetch)(url, init);
    if (init?.body) await new Promise<void>((go) => (answered = go));
    return answer;
  }) as unknown as typeof fetch;
  sync.make(note);
  while (server.revision < 1) await new Promise((tick) => setTimeout(tick, 1));
  const { stale: _stale, ...changes } = await fetchChanges(1, 0);
  sync.store.dispatch(editsCameFirst(changes));
  answered();
  await sync.flush();
  expect(song().notes).toEqual([note.add]);
  expect(state()).toMatchObject({ revision: 1, pending: [] });
});

test('a song that cannot be opened is a sentence, not a crash', async () => {
  server.away = 1;
  const { state } = await tab();
  expect(state()).toMatchObject({ status: 'failed', trouble: 'The server can’t be reached.' });
});
