import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Edit, Receipt } from '@sure-hand/core/edits';
import { LATE, PassRecorder, type HandEvent } from '@sure-hand/core/pass';
import { laneOf, type Mode, type Song } from '@sure-hand/core/song';
import { FrozenKeeper } from '../../../core/src/test/frozen.js';
import { made, type Made } from '../../../core/src/test/lateHands.js';
import { asMeant, eventsOf, favourites, songs, steps } from '../../../core/src/test/randomHands.js';
import { Word, followStore, handsOn } from '../open/handsOn.js';
import type { HandJournal } from './handSession.js';
import { songClosed } from '../song/songSlice.js';
import { songSync, store } from '../store/store.js';
import { SmallServer } from '../test/smallServer.js';
import { testSong } from '../test/songs.js';
import { TimedEngine } from '../test/timedEngine.js';

/** The page ticks so often. */
const TICK_MS = 16;
const isPagesOwn = ({ deed }: Made): boolean => deed.do === 'hand' && /^(play|stop)$/.test(deed.event.do);

/** What became of hands in a page: what it told of passes, the last of each as it stands, and what it has kept. */
type Became = { readonly told: readonly Receipt[]; readonly log: readonly Edit[]; readonly song: Song };

/** A journal that names passes, and holds what is written down of each to being of no other lap. */
class NamingJournal implements HandJournal {
  #passes = 0;
  /** Of the play that is under way; the next is its first. */
  lap = -1;
  begin = (): void => void this.lap++;
  note = ({ lap }: HandEvent): void => expect(lap ?? this.lap).toBe(this.lap);
  reached = (): void => undefined;
  forget = async (): Promise<void> => undefined;
  end = (): string => `pass ${this.#passes++}`;
}

/**
 * A page with its own session, store and outbox, to which hands come late by their share of what is waited for. What its
 * store gets is frozen through and through.
 */
async function ridden(drawn: Song, all: readonly Made[], late: readonly number[]): Promise<Became> {
  const keeper = new FrozenKeeper();
  const server = new SmallServer(keeper.keep(drawn));
  globalThis.fetch = server.fetch as unknown as typeof fetch;
  await songSync.open(1);
  const song = keeper.keep(store.getState().song.song!);
  const engine = new TimedEngine(song);
  const word = new Word();
  const journal = new NamingJournal();
  const hands = handsOn(1, song, { engine, clock: engine, word, journal });
  const { session, next } = hands;
  const { listener } = session;
  const told = new Map<string, Receipt>();
  const onPass = listener.onPass.bind(listener);
  listener.onPass = (pass) => {
    told.set(pass.key, keeper.keep(pass).receipt);
    onPass(pass);
  };
  const onEdits = listener.onEdits.bind(listener);
  listener.onEdits = (edits) => onEdits(keeper.keep(edits));
  const unfollow = followStore({ id: 1, song, hands, word, onChannels: () => undefined });
  const comes = all
    // Wraps the page notices by itself.
    .filter(({ deed }) => deed.do === 'hand')
    .map((one, i) => ({ ...one, at: one.moment.at + (isPagesOwn(one) ? 0 : late[i % late.length]! * (LATE.ms - 1)) }))
    .sort((a, b) => a.at - b.at);
  const end = (): void => {
    session.leave(engine.ms);
    unfollow();
    next.close();
    store.dispatch(songClosed());
    songSync.close(1);
  };
  const goOn = (ms: number): void => {
    for (let at = Math.floor(engine.ms / TICK_MS + 1) * TICK_MS + 0.0317; at < ms; at += TICK_MS) {
      engine.ms = at;
      engine.calls();
      next.flush();
    }
    engine.ms = ms;
  };
  try {
    for (const { deed, moment, at } of comes) {
      goOn(at);
      if (deed.do !== 'hand') continue;
      if (deed.event.do === 'play') {
        journal.lap = -1;
        await session.play(deed.event.from);
      } else if (deed.event.do === 'stop') session.stop(at);
      else {
        const { t: _t, lap: _lap, ...act } = deed.event;
        session.act(act, moment.at);
      }
    }
    goOn(engine.ms + 3 * LATE.ms);
    expect(session.waits).toBe(false);
    // Whoever leaves with a finger down leaves nothing behind that it has set.
    session.stopForGood(engine.ms);
    await songSync.flush();
    // What is kept, shown and ridden on is one and the same song.
    expect(store.getState().song.song).toEqual(server.song);
    expect(session.recorder.song).toEqual(server.song);
    expect(keeper.changed).toBe(0);
    return { told: [...told.values()], log: server.changes.map(({ edit }) => edit), song: server.song };
  } finally {
    end();
  }
}

const passesOf = (log: readonly Edit[]): (Edit & { kind: 'pass' })[] => log.filter((edit) => edit.kind === 'pass');

const sequences = Number(process.env.SURE_HAND_SEQUENCES ?? 10);
const lates = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 40 });

test('in the page itself hands that come late, over wraps, stops and range ends, leave what prompt ones do; no lap is lost or kept twice', async () => {
  await fc.assert(
    fc.asyncProperty(songs, steps, favourites, lates, async (song, drawn, favourite, late) => {
      const prompt = new PassRecorder(song);
      const events = eventsOf(song, drawn, favourite).map((event) => {
        const meant = asMeant(prompt, event);
        while (prompt.roll && (meant.lap ?? 0) > prompt.roll.lap) prompt.wrap();
        prompt.handle(meant);
        return meant;
      });
      const all = made(song, events);
      const expected = await ridden(song, all, [0]);
      const became = await ridden(song, all, late);
      expect(became.told).toEqual(expected.told);
      // Modes are kept as they come, and once more after one that was set before.
      expect(passesOf(became.log)).toEqual(passesOf(expected.log));
      expect(became.song).toEqual(expected.song);
      // Each that wrote anything is in the log, once, as it was told.
      const wrote = became.told.filter(({ lanes }) => lanes.length > 0);
      expect(passesOf(became.log).map(({ receipt }) => receipt)).toEqual(wrote);
    }),
    { numRuns: sequences },
  );
});

test('what a hand set before all was parked is kept, though it comes a little after that; of two modes the later one stands', async () => {
  const song = testSong({ lanes: {} });
  const control = 'fiddle/pan';
  const at = (ms: number, event: HandEvent): Made => ({ moment: { phase: 0, at: ms }, deed: { do: 'hand', event } });
  for (const guard of [
    { do: 'park', on: true },
    { do: 'safe', control, on: true },
  ] as const) {
    const all = [at(1007, { do: 'move', control, value: -0.5 }), at(1014, guard)];
    // The move comes 9 ms after it was made, and 2 ms after the guard.
    const { log, song: left } = await ridden(song, all, [9 / (LATE.ms - 1), 0]);
    expect(laneOf(left, control).rest).toBe(-0.5);
    expect(log.map(({ kind }) => kind)).toEqual(['rest', guard.do === 'park' ? 'settings' : 'guard']);
  }
  const modes = (['off', 'latch'] as const).map((mode, i) => at(1007 + 7 * i, { do: 'mode', channel: 'voice', mode }));
  const { song: left } = await ridden(song, modes, [9 / (LATE.ms - 1), 0]);
  expect(left.channels[0]!.mode).toBe('latch');
});

test('what a finger set at rest that is still down is kept as its song is left', async () => {
  const control = 'voice/level';
  const events: HandEvent[] = [
    { do: 'touch', control },
    { do: 'move', control, value: -6 },
    { do: 'move', control, value: -9 },
  ];
  const song = testSong({ lanes: {}, channels: [{ key: 'voice', kind: 'track', mode: 'off' }] });
  const { log } = await ridden(song, made(song, events), [0]);
  expect(log).toEqual([{ kind: 'rest', values: { [control]: -9 } }]);
});

test('what a companion rests at is kept though the hand on the other comes after a change of the write scope that it was made before', async () => {
  const pan = (mode: Mode, safe: readonly string[]): object => ({ kind: 'track', mode, safe });
  const song = testSong({
    channels: [
      { key: 'voice', ...pan('off', []) },
      { key: 'fiddle', ...pan('off', ['pan']) },
      { key: 'main', kind: 'main' },
    ],
    gangs: [{ key: 'both', name: 'Both', channels: ['voice', 'fiddle'], pan: 'same', modes: true, kinds: ['pan'] }],
    settings: { returnTime: 0, writeScope: ['mute', 'sends', 'inserts'] },
    lanes: {},
  });
  const at = (ms: number, phase: number, event: HandEvent): Made => ({
    moment: { phase, at: ms },
    deed: { do: 'hand', event },
  });
  const all = [
    at(1000, 1, { do: 'play', from: 0 }),
    at(1010, 1, { do: 'touch', control: 'voice/level' }),
    at(1020, 1, { do: 'move', control: 'fiddle/pan', value: -1 }),
    at(1030, 1, { do: 'scope', kinds: ['level', 'pan', 'mute'] }),
    at(1200, 2, { do: 'stop' }),
  ];
  const prompt = await ridden(song, all, [0]);
  // The move comes 2 ms after the scope.
  const late = await ridden(song, all, [0, 0, 12 / (LATE.ms - 1), 0, 0]);
  expect(laneOf(prompt.song, 'voice/pan').rest).toBe(-1);
  expect(late.song).toEqual(prompt.song);
});

test('a ride round a loop with a move every 4 ms leaves every lap in the log once, with all its moves, however late they come', async () => {
  const [loopFrom, loopTo] = [2, 3];
  const song = testSong({ settings: { loop: [loopFrom, loopTo] } });
  const control = 'voice/level';
  const at = (ms: number, event: HandEvent): Made => ({ moment: { phase: 0, at: ms }, deed: { do: 'hand', event } });
  // Played from 1.5 s on: down at 1.7 s, up in the fifth lap.
  const moves = Array.from({ length: 1200 }, (_, k) => 1200 + 4 * k + 0.25);
  const all = [
    at(1000, { do: 'play', from: 1.5 }),
    at(1200, { do: 'touch', control }),
    ...moves.map((ms, k) => at(ms, { do: 'move', control, value: -20 + 15 * Math.sin(k / 40) })),
    at(6010, { do: 'release', control }),
    at(6900, { do: 'stop' }),
  ];
  const lapOf = (ms: number): number => Math.max(0, Math.floor((ms - 1000) / 1000 + 1.5 - loopFrom));
  const movesOf = Array.from({ length: 6 }, (_, lap) => moves.filter((ms) => lapOf(ms) === lap).length);
  await fc.assert(
    fc.asyncProperty(lates, async (late) => {
      const { told, log } = await ridden(song, all, late);
      expect(told.map(({ lap, lanes }) => [lap, lanes[0]?.moves ?? 0])).toEqual(
        movesOf.map((count, lap) => [lap, count]),
      );
      expect(told.slice(1, 4).map(({ lanes }) => lanes[0]!.spans)).toEqual(Array(3).fill([[loopFrom, loopTo]]));
      expect(passesOf(log).map(({ receipt }) => receipt)).toEqual(told.filter(({ lanes }) => lanes.length > 0));
    }),
    // What fails here fails at length: the first is as good as any smaller one.
    { numRuns: Math.ceil(sequences / 5), endOnFailure: true },
  );
});
