import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, linePoint, type Point } from '@sure-hand/core/curve';
import { parseSong } from '@sure-hand/core/formats';
import { withLayer, laneOf, type Song } from '@sure-hand/core/song';
import { pickedMoved, pickedThere, picksAsHeard, picksIn, type PickedPoints } from './picking.js';

const read = parseSong(
  JSON.stringify({ format: 'sure-hand-song', version: 1, length: 60, channels: [{ key: 'a', kind: 'track' }] }),
);
if (!read.ok) throw new Error(read.sentence);
const bare = read.value;
const songOf = (points: readonly Point[]): Song => ({
  ...bare,
  lanes: { 'a/level': withLayer(laneOf(bare, 'a/level'), 'base', Curve.of(points)) },
});
/** Curves on whole seconds, some of whose points make steps, and times of which some are of no point; in no order. */
const curves = fc
  .array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.boolean()), { maxLength: 30 })
  .map((drawn) =>
    [...new Map(drawn).entries()]
      .sort(([a], [b]) => a - b)
      .flatMap(([t, isStep]) => (isStep ? [linePoint(t, -20), linePoint(t, -6)] : [linePoint(t, -12)])),
  );
const asked = fc.uniqueArray(fc.integer({ min: 0, max: 40 }), { maxLength: 45 });
const laneOfTimes = (times: readonly number[]): PickedPoints => ({ control: 'a/level', layer: 'base', times });

test('what is picked is what stands at its times, both points of a step, whatever the order and however often it is asked', () => {
  fc.assert(
    fc.property(curves, curves, asked, (points, others, times) => {
      const lane = laneOfTimes(times);
      // Of another song in between: what was found in one is not told of the other.
      for (const some of [points, others, points]) {
        const song = songOf(some);
        expect([...picksIn(song, lane).at]).toEqual(some.flatMap(({ t }, i) => (times.includes(t) ? [i] : [])));
        const there = times.filter((time) => some.some(({ t }) => t === time));
        const kept = pickedThere(song, { lanes: [lane], isPass: false });
        expect(kept?.lanes[0]!.times.toSorted((a, b) => a - b) ?? []).toEqual(there.toSorted((a, b) => a - b));
        if (there.length && there.length === times.length) expect(kept!.lanes[0]).toBe(lane);
      }
    }),
  );
});

test('points that have moved stay picked where they stand now, and are drawn as picked while they are heard there', () => {
  fc.assert(
    fc.property(curves, asked, fc.integer({ min: 1, max: 9 }), (points, times, by) => {
      const [was, is] = [songOf(points), songOf(points.map((one) => ({ ...one, t: one.t + by / 10 })))];
      const lane = laneOfTimes(times);
      expect([...picksAsHeard(was, is, lane).at]).toEqual([...picksIn(was, lane).at]);
      const there = [...new Set(points.map(({ t }) => t))].filter((t) => times.includes(t));
      const moved = pickedMoved(was, is, { lanes: [lane], isPass: false });
      expect(moved?.lanes[0]!.times ?? []).toEqual(there.map((t) => t + by / 10));
    }),
  );
});
