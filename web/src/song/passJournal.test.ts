import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { passState } from '@sure-hand/core/pass';
import type { JournalPiece } from '@sure-hand/server';
import { testSong } from '../test/songs.js';
import { PassJournalist, type JournalPlace } from './passJournal.js';

/** What the server was sent, the browser keeping nothing: there is none here. */
let sent: { seq: number; events: object[]; at: number; began?: object }[] = [];
beforeEach(() => {
  jest.useFakeTimers();
  sent = [];
  globalThis.fetch = jest.fn(async (_url: string, init: { body?: string }) => {
    if (init.body) sent.push(JSON.parse(init.body) as (typeof sent)[number]);
    return { ok: true, status: 204, json: async () => ({}) };
  }) as unknown as typeof fetch;
});
afterEach(() => jest.useRealTimers());

/** A journal of a pass that has begun, with so many seconds to let go by. */
function begun(places?: { browser: JournalPlace; server: JournalPlace }): {
  journal: PassJournalist;
  pass: (sec: number, isWriting: boolean) => Promise<void>;
} {
  let ms = 10_000;
  const journal = new PassJournalist(1, () => ms, places);
  journal.begin(passState(testSong()), [{ do: 'play', from: 2 }], 2);
  const pass = async (sec: number, isWriting: boolean): Promise<void> => {
    for (let k = 0; k < sec * 20; k++) {
      ms += 50;
      journal.reached(2 + (ms - 10_000) / 1000, isWriting);
      await jest.advanceTimersByTimeAsync(50);
    }
  };
  return { journal, pass };
}

test('where no hand does anything and nothing is written, nothing is written down', async () => {
  const { pass } = begun();
  await pass(10, false);
  expect(sent).toEqual([]);
});

test('a hand is written down within a quarter of a second, though the browser itself keeps nothing', async () => {
  const { journal, pass } = begun();
  await pass(1, false);
  journal.note({ t: 3, do: 'touch', control: 'voice/level' });
  await pass(0.25, true);
  expect(sent).toMatchObject([
    {
      seq: 0,
      began: { settings: {} },
      events: [
        { do: 'play', from: 2 },
        { do: 'touch', control: 'voice/level' },
      ],
    },
  ]);
});

test('what only writes on is known to be there by a beat a second, no more', async () => {
  const { journal, pass } = begun();
  journal.note({ t: 2, do: 'touch', control: 'voice/level' });
  await pass(10, true);
  expect(sent.length).toBeGreaterThanOrEqual(9);
  expect(sent.length).toBeLessThanOrEqual(12);
  expect(sent.at(-1)!.at).toBeGreaterThan(10);
  journal.end();
  const before = sent.length;
  await pass(3, false);
  expect(sent).toHaveLength(before);
});

test('a pass in write is written down though no hand ever moves', async () => {
  const { pass } = begun();
  await pass(1.5, true);
  expect(sent[0]).toMatchObject({ seq: 0, events: [{ do: 'play' }] });
});

/** A place that keeps pieces by their number, as both do, and answers as it is told to. */
function place(answer: () => Promise<void>): JournalPlace & { pieces: Map<number, JournalPiece> } {
  const pieces = new Map<number, JournalPiece>();
  return {
    pieces,
    put: (_key, piece) => {
      pieces.set(piece.seq, piece);
      return answer();
    },
    drop: async () => undefined,
  };
}
const touched = (pieces: Map<number, JournalPiece>): number[] =>
  [...pieces.values()].flatMap(({ events }) => events.flatMap((event) => (event.do === 'touch' ? [event.t!] : [])));

test('a server that is slow holds up neither what the browser keeps nor, once it answers, what it is sent', async () => {
  let answer: () => void = () => undefined;
  const [browser, server] = [place(async () => undefined), place(() => new Promise<void>((done) => (answer = done)))];
  const { journal, pass } = begun({ browser, server });
  const times = [3, 4, 5, 6];
  for (const t of times) {
    journal.note({ t, do: 'touch', control: 'voice/level' });
    await pass(1, true);
  }
  expect(touched(browser.pieces)).toEqual(times);
  expect(touched(server.pieces)).toEqual([3]);
  answer();
  await pass(0.3, true);
  // All that came meanwhile goes with one piece.
  expect([touched(server.pieces), server.pieces.size]).toEqual([times, 2]);
  expect(server.pieces.get(1)!.at).toBeGreaterThan(6);
});

test('what the server did not answer goes to it again, as the same piece, before what came after: none is missing', async () => {
  let isAway = false;
  const server = place(async () => {
    if (isAway) throw new Error('away');
  });
  const { journal, pass } = begun({ browser: place(async () => undefined), server });
  const all: number[] = [];
  const ride = async (from: number, count: number): Promise<void> => {
    for (let k = 0; k < count; k++) {
      all.push(from + k / 1000);
      journal.note({ t: from + k / 1000, do: 'touch', control: 'voice/level' });
    }
    await pass(1.2, true);
  };
  await ride(3, 5);
  isAway = true;
  await ride(4, 5);
  // More than goes with one piece.
  await ride(5, 2500);
  server.pieces.forEach((_, seq) => seq > 0 && server.pieces.delete(seq));
  isAway = false;
  await ride(8, 5);
  await pass(1, true);
  expect(touched(server.pieces)).toEqual(all);
  expect([...server.pieces.keys()]).toEqual([...server.pieces.keys()].sort((a, b) => a - b));
  const ats = [...server.pieces.values()].map(({ at }) => at);
  expect(ats).toEqual([...ats].sort((a, b) => a - b));
  expect(server.pieces.get(0)!.began).toBeDefined();
});
