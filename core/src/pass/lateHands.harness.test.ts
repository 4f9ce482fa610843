import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Receipt } from '../edits/index.js';
import type { Song } from '../song/index.js';
import { asMeant, eventsOf, favourites, songs, steps } from '../test/randomHands.js';
import type { HandEvent } from './handEvent.js';
import { LATE, OrderedHands, type Deed, type Moment, type Told } from './orderedHands.js';
import { PassRecorder } from './recorder.js';

/** The page ticks so often; a person does stopped things so often, and plays again so long after a stop at least. */
const TICK_MS = 16;
const STOPPED_EVERY_MS = 7;
const PLAYS_AFTER_MS = LATE.ms + 20;

type Made = { readonly moment: Moment; readonly deed: Deed };

/** Events with the moments at which hands make them; wraps between them, where their laps say so. */
function made(song: Song, events: readonly HandEvent[]): Made[] {
  const { loop } = song.settings;
  const list: Made[] = [];
  let phase = 0;
  let clock = 1000;
  let play: { at: number; from: number; lap: number } | null = null;
  let stoppedAt = -Infinity;
  const since = ({ from }: { from: number }, lap: number, t: number): number =>
    lap === 0 ? t - from : loop![1] - from + (lap - 1) * (loop![1] - loop![0]) + (t - loop![0]);
  for (const event of events) {
    if (event.do === 'play') {
      clock = Math.max(clock + STOPPED_EVERY_MS, stoppedAt + PLAYS_AFTER_MS);
      play = { at: clock, from: event.from, lap: 0 };
      list.push({ moment: { phase: ++phase, at: clock }, deed: { do: 'hand', event } });
      continue;
    }
    if (!play) {
      clock += STOPPED_EVERY_MS;
      if (event.do !== 'stop') list.push({ moment: { phase, at: clock }, deed: { do: 'hand', event } });
      continue;
    }
    for (; play.lap < (event.lap ?? 0); play.lap++)
      list.push({
        moment: { phase: ++phase, at: play.at + 1000 * since(play, play.lap, loop![1]) },
        deed: { do: 'wrap' },
      });
    // Of two at one time the first was made a little earlier: only so can their order be told.
    clock = Math.max(clock + 1e-4, play.at + 1000 * since(play, event.lap ?? 0, event.t!));
    if (event.do === 'stop') {
      phase++;
      play = null;
      stoppedAt = clock;
    }
    list.push({ moment: { phase, at: clock }, deed: { do: 'hand', event } });
  }
  return list;
}

/** Everything told when each event comes late by its share of what is waited for; the page ticks all the while. */
function deliver(song: Song, all: readonly Made[], late: readonly number[]): { hands: OrderedHands; told: Told[] } {
  const hands = new OrderedHands(song);
  const told: Told[] = [];
  const isPages = ({ deed }: Made): boolean =>
    deed.do === 'wrap' || (deed.do === 'hand' && /play|stop/.test(deed.event.do));
  const comes = all.map((one, i) => {
    const { at } = one.moment;
    // What the page does itself it knows at once; a wrap with the next tick, or as it stops.
    const stop = all.slice(i).find((other) => other.deed.do === 'hand' && other.deed.event.do === 'stop')!;
    const lag =
      one.deed.do === 'wrap'
        ? Math.min(TICK_MS - (at % TICK_MS), stop.moment.at - at)
        : isPages(one)
          ? 0
          : late[i % late.length]! * (LATE.ms - 1);
    return { ...one, comesAt: at + lag, i };
  });
  const plays = all.filter(({ deed }) => deed.do === 'hand' && deed.event.do === 'play');
  const last = Math.max(0, ...comes.map(({ comesAt }) => comesAt)) + 3 * LATE.ms;
  let next = 0;
  const inOrder = [...comes].sort((a, b) => a.comesAt - b.comesAt || a.i - b.i);
  // Off every event's own moment, so that time's rounding plays no part.
  for (let now = 1000.0317; now <= last; now += TICK_MS) {
    for (; next < inOrder.length && inOrder[next]!.comesAt <= now; next++) {
      const { moment, deed, comesAt } = inOrder[next]!;
      hands.take({ ...moment, at: deed.do === 'wrap' ? comesAt : moment.at }, deed);
      told.push(...hands.tell(comesAt));
    }
    const { roll } = hands.recorder;
    const begun = plays.filter(({ moment }) => moment.at <= now).at(-1);
    if (roll && begun && roll.lap === 0 && begun.deed.do === 'hand' && begun.deed.event.do === 'play') {
      const t = begun.deed.event.from + (now - begun.moment.at) / 1000;
      const end =
        song.settings.loop && begun.deed.event.from < song.settings.loop[1] ? song.settings.loop[1] : song.length;
      if (t < end) hands.take({ phase: begun.moment.phase, at: now }, { do: 'time', t });
    }
    told.push(...hands.tell(now));
  }
  return { hands, told };
}

test('hands up to a tenth of a second late, over wraps, stops and range ends, leave what prompt ones do', () => {
  const lates = fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 1, maxLength: 40 });
  fc.assert(
    fc.property(songs, steps, favourites, lates, (song, drawn, favourite, late) => {
      const prompt = new PassRecorder(song);
      const receipts: Receipt[] = [];
      const events = eventsOf(song, drawn, favourite).map((event) => {
        const meant = asMeant(prompt, event);
        while (prompt.roll && (meant.lap ?? 0) > prompt.roll.lap) receipts.push(...prompt.wrap().receipts);
        receipts.push(...prompt.handle(meant).receipts);
        return meant;
      });
      const { hands, told } = deliver(song, made(song, events), late);
      expect(told.flatMap((one) => one.receipts)).toEqual(receipts);
      expect(hands.recorder.song).toEqual(prompt.song);
      expect(hands.waits).toBe(false);
    }),
    { numRuns: Number(process.env.SURE_HAND_SEQUENCES ?? 300) },
  );
});
