import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import type { Receipt } from '../edits/index.js';
import { loopOf, type Song } from '../song/index.js';
import { FrozenKeeper } from '../test/frozen.js';
import { made, type Made } from '../test/lateHands.js';
import { asMeant, eventsOf, favourites, songs, steps } from '../test/randomHands.js';
import { LATE, OrderedHands, type Told } from './orderedHands.js';
import { PassRecorder } from './recorder.js';

/** The page ticks so often. */
const TICK_MS = 16;

/** Everything told when each event comes late by its share of what is waited for; the page ticks all the while. */
function deliver(song: Song, all: readonly Made[], late: readonly number[]): { hands: OrderedHands; told: Told[] } {
  const keeper = new FrozenKeeper();
  const hands = new OrderedHands(keeper.keep(song));
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
      keeper.keep(hands.take({ ...moment, at: deed.do === 'wrap' ? comesAt : moment.at }, deed));
      told.push(...keeper.keep(hands.tell(comesAt)));
    }
    const { roll } = hands.recorder;
    const begun = plays.filter(({ moment }) => moment.at <= now).at(-1);
    if (roll && begun && roll.lap === 0 && begun.deed.do === 'hand' && begun.deed.event.do === 'play') {
      const t = begun.deed.event.from + (now - begun.moment.at) / 1000;
      const loop = loopOf(song);
      const end = loop && begun.deed.event.from < loop[1] ? loop[1] : song.length;
      if (t < end) keeper.keep(hands.take({ phase: begun.moment.phase, at: now }, { do: 'time', t }));
    }
    told.push(...keeper.keep(hands.tell(now)));
  }
  expect(keeper.changed).toBe(0);
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
    { numRuns: Number(process.env.SURE_HAND_SEQUENCES ?? 120) },
  );
});
