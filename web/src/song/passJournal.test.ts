import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { passState } from '@sure-hand/core/pass';
import { testSong } from '../test/songs.js';
import { PassJournalist } from './passJournal.js';

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
function begun(): { journal: PassJournalist; pass: (sec: number, isWriting: boolean) => Promise<void> } {
  let ms = 10_000;
  const journal = new PassJournalist(1, () => ms);
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
