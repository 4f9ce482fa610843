import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { WAVES, holdPoint, linePoint, type Wave } from '../curve/index.js';
import { applyEdit } from '../edits/index.js';
import { effectiveValueAt } from '../groups/index.js';
import { controlsOf, type Song, type Sway } from '../song/index.js';
import { CLIP_OF_ONES as clip, ones } from '../test/ones.js';
import { testSong } from '../test/songs.js';
import { LEVEL_LAW, gainOfDb, gainOfTravel, leftGain, travelOf } from '../units/index.js';
import { bounce } from './bounce.js';
import { HandTable } from './hands.js';
import { MixPlanner } from './planner.js';
import { mixPlan } from './plan.js';
import { MixRenderer } from './renderer.js';
import { runs } from '../test/runs.js';
import { expectWithin, firstOther } from '../test/often.js';

const RATE = 48000;
const centre = leftGain(3, 0);
const LEVEL = 'voice/level';
type Lanes = NonNullable<NonNullable<Parameters<typeof testSong>[0]>['lanes']>;
const withSway = (sway: Partial<Sway>, lanes: Lanes = {}, length = 8): Song => ({
  ...testSong({
    length,
    channels: [{ key: 'voice', kind: 'track', name: 'Voice', clips: [{ ...clip, length }] }],
    lanes: { ...lanes, [LEVEL]: { rest: -6, points: [], ...lanes[LEVEL], sway: sway as Sway } },
  }),
});

/** The gain of the voice over so many frames. */
function gains(song: Song, frames: number, of: MixRenderer = new MixRenderer(mixPlan(song), ones)): Float64Array {
  const [left, right] = [new Float32Array(frames), new Float32Array(frames)];
  for (let at = 0; at < frames; at += 128)
    of.render(left.subarray(at, at + 128), right.subarray(at, at + 128), Math.min(128, frames - at));
  return Float64Array.from(left, (x) => x / centre);
}

/** One cycle of each wave, said anew: what it is a share u of the way. */
const COURSE: { readonly [wave in Exclude<Wave, 'steps'>]: (u: number) => number } = {
  sine: (u) => Math.sin(2 * Math.PI * u),
  triangle: (u) => 1 - 4 * Math.abs(((u + 0.25) % 1) - 0.5),
  square: (u) => (u < 0.5 ? 1 : -1),
  sawUp: (u) => 2 * u - 1,
  sawDown: (u) => 1 - 2 * u,
};
const courses = Object.entries(COURSE) as [Exclude<Wave, 'steps'>, (u: number) => number][];

describe('a sway that is heard', () => {
  test.each(courses)(
    'goes as its wave does, in travel on the steady line, from the song’s start: %s',
    (wave, course) => {
      const song = withSway({ wave, hz: 2, depth: 0.1, phase: 0.3 });
      const heard = gains(song, 2 * RATE);
      let off = 0;
      for (let n = 0; n < heard.length; n++) {
        const turns = 2 * (n / RATE) + 0.3;
        // A step is spread over 2 ms from its frame.
        const [u, sinceStep] = [turns % 1, wave === 'square' ? (turns % 0.5) / 2 : (turns % 1) / 2];
        if ((wave === 'square' || wave.startsWith('saw')) && sinceStep < 0.0021) continue;
        const wanted = gainOfTravel(travelOf(LEVEL_LAW, -6) + 0.1 * course(u));
        off = Math.max(off, Math.abs(20 * Math.log10(heard[n]! / wanted)));
      }
      expect(off).toBeLessThan(0.05);
    },
  );

  test('a step of it is spread over 2 ms from its very frame', () => {
    const song = withSway({ wave: 'square', hz: 10, depth: 0.1 });
    const heard = gains(song, RATE / 2);
    const [high, low] = [0.1, -0.1].map((by) => gainOfTravel(travelOf(LEVEL_LAW, -6) + by));
    for (const at of [2400, 4800, 7200]) {
      const [from, to] = at % 4800 ? [high!, low!] : [low!, high!];
      expect(heard[at - 1]).toBeCloseTo(from, 6);
      expect(heard[at]).toBeCloseTo(from, 6);
      expect(heard[at + 48]).toBeCloseTo((from + to) / 2, 5);
      expect(heard[at + 96]).toBeCloseTo(to, 6);
    }
  });

  test('counts quarter notes through changes of tempo, and is the same wherever a bounce begins', () => {
    const song = {
      ...withSway({ wave: 'steps', perBeat: 2, depth: 0.2, seed: 7 }),
      tempo: [
        { t: 0, bpm: 120 },
        { t: 1.3, bpm: 93 },
        { t: 3, bpm: 171 },
      ],
    };
    const bounced = (from: number, to: number): Float32Array => {
      const left: number[] = [];
      bounce(mixPlan(song), ones, [from, to], (block, _right, count) => left.push(...block.subarray(0, count)));
      return Float32Array.from(left);
    };
    const whole = bounced(0, 4 * RATE);
    const from = Math.round(2.2 * RATE);
    const part = bounced(from, 4 * RATE);
    expect(part.length).toBe(4 * RATE - from);
    expect(firstOther(part, whole.subarray(from))).toBe(-1);
    // A step every eighth of 120 a minute until 1.3 s, then of 93, then of 171.
    const quarters = (t: number): number =>
      t < 1.3 ? t * 2 : t < 3 ? 2.6 + (t - 1.3) * (93 / 60) : 2.6 + 1.7 * (93 / 60) + (t - 3) * (171 / 60);
    const at = (t: number): number => Math.round((whole[Math.round(t * RATE)]! / centre) * 1e5);
    const seen = new Map<number, Set<number>>();
    for (let t = 0.01; t < 3.99; t += 0.007) {
      const turns = 2 * quarters(t);
      if (turns % 1 < 0.05) continue;
      const values = seen.get(Math.floor(turns)) ?? new Set();
      seen.set(Math.floor(turns), values.add(at(t)));
    }
    expect(seen.size).toBeGreaterThan(12);
    for (const values of seen.values()) expect(values.size).toBe(1);
    expect(new Set([...seen.values()].map((values) => [...values][0])).size).toBe(seen.size);
  });

  test('what the song says of a control at a time is what is heard of it there', () => {
    fc.assert(
      fc.property(
        fc.record({
          wave: fc.constantFrom(...WAVES),
          rate: fc.oneof(fc.record({ hz: fc.constant(3.3) }), fc.record({ perBeat: fc.constant(0.75) })),
          depth: fc.double({ min: 0, max: 0.5, noNaN: true }),
          phase: fc.double({ min: -2, max: 2, noNaN: true }),
        }),
        ({ wave, rate, depth, phase }) => {
          const song = withSway(
            { wave, depth, phase, ...rate },
            {
              [LEVEL]: { points: [linePoint(0, -20), linePoint(1.5, 6), linePoint(1.5, -3)] },
              [`${LEVEL}/sway`]: { points: [linePoint(0.2, 0), linePoint(1, 0.3)] },
            },
          );
          const heard = gains(song, 2 * RATE);
          const times = Array.from({ length: 60 }, (_, k) => 64 * (20 + 23 * k));
          const isFar = (n: number): boolean => {
            const wanted = gainOfDb(effectiveValueAt(song, LEVEL, n / RATE));
            const before = gainOfDb(effectiveValueAt(song, LEVEL, n / RATE - 0.0021));
            return Math.abs(wanted - before) < 0.02 && Math.abs(heard[n]! - wanted) > 2e-3 * (1 + wanted);
          };
          expect(times.filter(isFar)).toEqual([]);
        },
      ),
      { numRuns: runs(25) },
    );
  });

  test('stays on the throw; off or parked there is none; a hand on the control gives the steady line, one on its depth the depth', () => {
    const song = withSway({ wave: 'square', hz: 4, depth: 0.5 });
    expect(Math.min(...gains(song, RATE / 4).slice(6200, 11900))).toBeCloseTo(gainOfTravel(0.15), 5);
    const steady = gainOfDb(-6);
    for (const still of [
      applyEdit(song, { kind: 'channel', channel: 'voice', changes: { mode: 'off' } }).song,
      applyEdit(song, { kind: 'guard', control: LEVEL, changes: { parked: true } }).song,
      withSway({ wave: 'square', hz: 4, depth: 0.5, on: false }),
    ])
      for (const gain of gains(still, 9600)) expectWithin(gain, steady, 5e-7);

    const hands = new HandTable(new ArrayBuffer(HandTable.bytes(16)), 16);
    const slot = (id: string): number => [...controlsOf(song).keys()].indexOf(id);
    const renderer = new MixRenderer(mixPlan(song), ones, hands);
    hands.hold(slot(LEVEL), false, 0.5);
    hands.hold(slot(`${LEVEL}/sway`), false, 0.2);
    const heard = gains(song, 6000, renderer);
    expect(heard[4000]).toBeCloseTo(gainOfTravel(0.6), 6);
    hands.hold(slot(`${LEVEL}/sway`), false, 0);
    expect(gains(song, 4000, renderer)[3000]).toBeCloseTo(gainOfTravel(0.5), 6);
  });

  test('is told to the audio thread as it comes, changes, is ridden, and goes, and no more than that', () => {
    const plain = testSong({ channels: [{ key: 'voice', kind: 'track', clips: [clip] }] });
    const planner = new MixPlanner(plain);
    const told = (song: Song): string[] => planner.follow(song).change?.controls.map(({ plan }) => plan.id) ?? [];
    const sway: Sway = { wave: 'sine', perBeat: 1, depth: 0.1, phase: 0, seed: 1, on: true };
    const swaying = applyEdit(plain, { kind: 'sway', control: LEVEL, sway }).song;
    expect(told(swaying)).toEqual([LEVEL, `${LEVEL}/sway`]);
    const faster = { ...swaying, tempo: [{ t: 0, bpm: 90 }] };
    expect(told(faster)).toEqual([LEVEL]);
    const deeper = applyEdit(faster, { kind: 'rest', values: { [`${LEVEL}/sway`]: 0.3 } }).song;
    expect(told(deeper)).toEqual([LEVEL, `${LEVEL}/sway`]);
    expect(planner.plan.controls[planner.slotOf(`${LEVEL}/sway`)]!.rest).toBeCloseTo(0.6, 12);
    const { freed, change } = planner.follow(applyEdit(deeper, { kind: 'sway', control: LEVEL, sway: null }).song);
    expect([freed.length, change!.controls.map(({ plan }) => plan.id)]).toEqual([1, [LEVEL]]);
    expect(planner.slotOf(`${LEVEL}/sway`)).toBe(-1);
  });

  test('moves pans, sends and what an insert is set to', () => {
    const song = testSong({
      length: 4,
      channels: [
        {
          key: 'voice',
          kind: 'track',
          clips: [clip],
          inserts: [{ slot: 'fx', effect: 'reducer', settings: {} }],
          sends: [{ bus: 'hall', tap: 'pre', pan: 'follow' }],
        },
        { key: 'hall', kind: 'bus' },
      ],
      lanes: {
        [LEVEL]: { rest: -144, points: [] },
        'voice/pan': { rest: -1 },
        'voice/send/hall/level': { points: [holdPoint(0, 0)], sway: { wave: 'square', hz: 5, depth: 0.25 } as Sway },
      },
    });
    const heard = gains(song, RATE / 2);
    const loud = gainOfTravel(1) / gainOfTravel(0.5);
    expect(heard[3000]! / heard[7000]!).toBeCloseTo(loud, 3);
    const moved = applyEdit(song, {
      kind: 'sway',
      control: 'voice/pan',
      sway: { wave: 'square', hz: 5, depth: 0.5, phase: 0, seed: 1, on: true },
    }).song;
    // Hard left, the pan sways to the centre.
    expect(gains(moved, 4000)[3000]! / heard[3000]!).toBeCloseTo(centre, 5);
  });
});
