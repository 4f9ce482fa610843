import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { valueAt } from '../curve/index.js';
import { type Receipt } from '../edits/index.js';
import { controlOf, laneOf, layerLaw, layerPoints, type Song } from '../song/index.js';
import { FrozenKeeper } from '../test/frozen.js';
import { CONTROLS, LENGTH, asMeant, eventsOf, favourites, songs, steps, type Step } from '../test/randomHands.js';
import { testSong } from '../test/songs.js';
import { travelOf } from '../units/index.js';
import { handPath } from './handPath.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';
import { PassRecorder, type Outcome } from './recorder.js';
import { runs } from '../test/runs.js';

/** The receipts of a whole sequence, with the song before and after each pass. */
type Ridden = { readonly before: Song; readonly after: Song; readonly receipt: Receipt };

/** `ticks`: whether time is told to go on before every event, as a clock does, which thins ahead what can be. */
function rideAll(song: Song, drawn: readonly Step[], favourite: string, ticks = false): Ridden[] {
  const keeper = new FrozenKeeper();
  const recorder = new PassRecorder(keeper.keep(song));
  const ridden: Ridden[] = [];
  let before = song;
  const take = (outcome: Outcome): void => {
    const { receipts } = keeper.keep(outcome);
    for (const receipt of receipts) ridden.push({ before, after: recorder.song, receipt });
    if (!recorder.roll || receipts.length) before = recorder.song;
  };
  for (const event of eventsOf(song, drawn, favourite)) {
    while (recorder.roll && (event.lap ?? 0) > recorder.roll.lap) take(recorder.wrap());
    if (ticks && event.t !== undefined) for (let n = 0; n < 4; n++) take(recorder.advance(event.t));
    take(recorder.handle(asMeant(recorder, event)));
  }
  expect(keeper.changed).toBe(0);
  return ridden;
}
function ride(song: Song, events: readonly HandEvent[]): { after: Song; receipt: Receipt } {
  const ridden = runMoves(song, events);
  if (!ridden.ok) throw new Error(ridden.sentence);
  return { after: ridden.song, receipt: ridden.receipts[0]! };
}
const at = (song: Song, id: string, t: number): number => {
  const lane = laneOf(song, id);
  return travelOf(controlOf(song, id).law, valueAt(lane.points, controlOf(song, id).law, lane.rest, t));
};
const times = Array.from({ length: 120 }, (_, k) => (k * LENGTH) / 120 + 0.0137);

test('whatever hands do, outside the written spans nothing has changed', () => {
  fc.assert(
    fc.property(songs, steps, favourites, (song, drawn, favourite) => {
      for (const { before, after, receipt } of rideAll(song, drawn, favourite)) {
        for (const id of CONTROLS) {
          const written = receipt.lanes.filter((lane) => lane.control === id);
          // A folded trim is heard as before, within its tolerance: another test holds it to that.
          const isFolded = laneOf(before, id).trim.length > 0 || written.some((lane) => lane.layer === 'trim');
          if (receipt.rested.includes(id) || (song.settings.foldTrim !== 'hand' && isFolded)) continue;
          const spans = written.flatMap((lane) => (lane.layer === 'base' ? lane.spans : []));
          const isOff = (t: number): boolean =>
            !spans.some(([a, b]) => t >= a && t < b) && Math.abs(at(after, id, t) - at(before, id, t)) > 1e-9;
          expect(times.filter(isOff)).toEqual([]);
        }
      }
    }),
    { numRuns: runs(100) },
  );
});

test('what is thinned ahead while the song rolls is what the end of the pass would have kept, to the last bit', () => {
  let ahead = 0;
  fc.assert(
    fc.property(songs, steps, favourites, (song, drawn, favourite) => {
      const plain = rideAll(song, drawn, favourite);
      const ticked = rideAll(song, drawn, favourite, true);
      expect(ticked.map(({ receipt }) => receipt)).toEqual(plain.map(({ receipt }) => receipt));
      expect(ticked.map(({ after }) => after)).toEqual(plain.map(({ after }) => after));
      ahead += plain.reduce((sum, { receipt }) => sum + receipt.lanes.length, 0);
    }),
    { numRuns: runs(150) },
  );
  // As drawn, 94 to 169 lanes were written in twelve whole runs; far below, nothing would have been compared.
  expect(ahead).toBeGreaterThan(runs(30));
});

test('spans lie in the punch range, in order, without overlap; points are counted as the lane has them', () => {
  fc.assert(
    fc.property(songs, steps, favourites, (song, drawn, favourite) => {
      const { punch, foldTrim } = song.settings;
      for (const { after, receipt } of rideAll(song, drawn, favourite))
        for (const { control, layer, spans, points } of receipt.lanes) {
          spans.forEach(([a, b], i) => {
            expect(a).toBeLessThan(b);
            if (i) expect(a).toBeGreaterThanOrEqual(spans[i - 1]![1]);
            if (punch) expect(a >= punch[0] && b <= punch[1]).toBe(true);
          });
          if (foldTrim !== 'hand') continue;
          const curve = layerPoints(laneOf(after, control), layer);
          expect(points).toBe([...curve].filter((p) => spans.some(([a, b]) => p.t >= a && p.t <= b)).length);
        }
    }),
    { numRuns: runs(100) },
  );
});

test('unthinned, what is written is the hand’s path to 1e-6 in travel', () => {
  const values = fc.array(
    fc.record({
      dt: fc.double({ min: 0.001, max: 0.3, noNaN: true }),
      v: fc.double({ min: -60, max: 12, noNaN: true }),
    }),
    { minLength: 1, maxLength: 30 },
  );
  fc.assert(
    fc.property(values, (steps) => {
      const song = testSong({ length: LENGTH });
      let t = 1;
      const hand = [{ t, v: -6 }, ...steps.map(({ dt, v }) => ({ t: (t += dt), v }))];
      const { after } = ride(song, [
        { do: 'play', from: 0 },
        { t: 1, do: 'touch', control: 'voice/level' },
        ...hand.slice(1).map((h): HandEvent => ({ t: h.t, do: 'move', control: 'voice/level', value: h.v })),
        { t: t + 0.5, do: 'stop' },
      ]);
      const law = layerLaw(song, 'voice/level', 'base');
      const path = handPath(hand, t + 0.5);
      for (let i = 0; i + 1 < path.length; i++) {
        const [a, b] = [path[i]!, path[i + 1]!];
        if (b.t - a.t < 1e-9) continue;
        for (const share of [0, 0.25, 0.5, 0.9]) {
          const expected = travelOf(law, a.v) + share * (travelOf(law, b.v) - travelOf(law, a.v));
          expect(Math.abs(at(after, 'voice/level', a.t + share * (b.t - a.t)) - expected)).toBeLessThan(1e-6);
        }
      }
    }),
    { numRuns: runs(100) },
  );
});
