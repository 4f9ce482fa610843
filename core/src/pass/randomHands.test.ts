import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { valueAt, type Range } from '../curve/index.js';
import { controlOf, laneOf, layerLaw, type Receipt, type Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { travelOf } from '../units/index.js';
import { handPath } from './handPath.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';

const CONTROLS = ['voice/level', 'voice/pan', 'voice/mute', 'fiddle/level', 'all/level', 'main/level'];
const MODES = ['off', 'read', 'touch', 'latch', 'write'] as const;
const LENGTH = 30;

/** A song with moving curves on some controls and none on others, channels in random modes, some guarded. */
const songs = fc
  .record({
    modes: fc.array(fc.constantFrom(...MODES), { minLength: 4, maxLength: 4 }),
    safe: fc.subarray(CONTROLS),
    parked: fc.subarray(CONTROLS),
    curved: fc.subarray(CONTROLS),
    returnTime: fc.constantFrom(0, 0.25, 1),
    punch: fc.option(fc.constantFrom<Range>([4, 12], [0, 6])),
  })
  .map(({ modes, safe, parked, curved, returnTime, punch }): Song => {
    const lanes = Object.fromEntries(
      CONTROLS.map((id, i) => {
        const v = (k: number): number => (id.endsWith('mute') ? k % 2 : id.endsWith('pan') ? k / 4 - 0.5 : -3 * k - i);
        const points = curved.includes(id)
          ? [0, 1, 2, 3].map((k) => ({ t: 2 + k * 6, v: v(k), shape: 's', bend: 0.4 }))
          : [];
        return [id, { points, safe: safe.includes(id), parked: parked.includes(id) }];
      }),
    );
    const channels = ['voice', 'fiddle', 'all', 'main'].map((key, i) => ({
      key,
      kind: (['track', 'track', 'vca', 'main'] as const)[i]!,
      mode: modes[i]!,
      members: key === 'all' ? ['voice'] : [],
    }));
    return testSong({ length: LENGTH, settings: { returnTime, punch }, channels, lanes: lanes as never });
  });

/** Hands that do anything they can while a pass rolls, in time order. */
const moves = fc
  .array(
    fc.record({
      dt: fc.double({ min: 0, max: 1.5, noNaN: true }),
      what: fc.constantFrom('touch', 'move', 'move', 'move', 'release', 'mode', 'letgo'),
      control: fc.constantFrom(...CONTROLS),
      x: fc.double({ min: 0, max: 1, noNaN: true }),
      mode: fc.constantFrom(...MODES),
    }),
    { maxLength: 25 },
  )
  .map((steps): HandEvent[] => {
    let t = 0;
    const events: HandEvent[] = [{ do: 'play', from: 0 }];
    for (const { dt, what, control, x, mode } of steps) {
      t = Math.min(LENGTH, t + dt);
      const value = control.endsWith('mute') ? Math.round(x) : control.endsWith('pan') ? 2 * x - 1 : -40 * x;
      if (what === 'mode') events.push({ t, do: 'mode', channel: control.split('/')[0]!, mode });
      else if (what === 'letgo') events.push({ t, do: 'letgo' });
      else if (what === 'move') events.push({ t, do: 'move', control, value });
      else events.push({ t, do: what as 'touch' | 'release', control });
    }
    return [...events, { t: Math.min(LENGTH, t + 1), do: 'stop' }];
  });

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
    fc.property(songs, moves, (song, events) => {
      const { after, receipt } = ride(song, events);
      for (const id of CONTROLS) {
        const spans = receipt.lanes.find((lane) => lane.control === id)?.spans ?? [];
        if (receipt.rested.includes(id)) continue;
        for (const t of times)
          if (!spans.some(([a, b]) => t >= a && t < b))
            expect(Math.abs(at(after, id, t) - at(song, id, t))).toBeLessThan(1e-9);
      }
    }),
    { numRuns: 120 },
  );
});

test('nothing guarded is written or rested, and nothing outside the punch range is', () => {
  fc.assert(
    fc.property(songs, moves, (song, events) => {
      const { after, receipt } = ride(song, events);
      for (const id of CONTROLS) {
        const lane = laneOf(song, id);
        if (!lane.safe && !lane.parked) continue;
        expect(laneOf(after, id)).toEqual(lane);
        expect(receipt.rested).not.toContain(id);
      }
      const { punch } = song.settings;
      for (const [a, b] of receipt.lanes.flatMap((lane) => lane.spans)) {
        expect(a).toBeLessThan(b);
        if (punch) expect(a >= punch[0] && b <= punch[1]).toBe(true);
      }
    }),
    { numRuns: 120 },
  );
});

test('receipts count what is there: spans in order without overlap, points as the lane has them', () => {
  fc.assert(
    fc.property(songs, moves, (song, events) => {
      const { after, receipt } = ride(song, events);
      for (const { control, spans, points } of receipt.lanes) {
        for (let i = 1; i < spans.length; i++) expect(spans[i]![0]).toBeGreaterThanOrEqual(spans[i - 1]![1]);
        const there = laneOf(after, control).points.filter((p) => spans.some(([a, b]) => p.t >= a && p.t <= b));
        expect(points).toBe(there.length);
      }
      for (const { control, reason } of receipt.refused) {
        expect(CONTROLS).toContain(control);
        expect(['mode', 'parked', 'safe', 'range']).toContain(reason);
      }
    }),
    { numRuns: 100 },
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
    { numRuns: 100 },
  );
});
