import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt } from '../curve/index.js';
import { applyEdit } from '../edits/index.js';
import { EFFECTS, defaultsOf } from '../effects/index.js';
import { readSong } from '../formats/index.js';
import { controlOf, laneOf, type Channel, type Insert, type Song } from '../song/index.js';
import { CLIP_OF_ONES } from '../test/ones.js';
import { RATE, frames, largestStep, magnitudeDb, through } from '../test/effects.js';
import { testSong } from '../test/songs.js';
import { travelOf } from '../units/index.js';
import { bounce } from './bounce.js';
import { HandTable } from './hands.js';
import { MixPlanner } from './planner.js';
import { mixPlan } from './plan.js';
import { MixRenderer, type SampleSource } from './renderer.js';
import { expectWithin, firstOther } from '../test/often.js';

const clips = [{ ...CLIP_OF_ONES, length: 20 }];
const track = (key: string, more: Partial<Channel> = {}): Partial<Channel> => ({
  key,
  kind: 'track',
  name: key,
  clips,
  ...more,
});
const MAIN = { key: 'main', kind: 'main' } as const;
const insert = (slot: string, effect: string, settings: object = {}): Insert => ({
  slot,
  effect,
  settings: { ...defaultsOf(EFFECTS.get(effect)!), ...settings },
});
const id = (param: string, slot = 'fx', channel = 'a'): string => `${channel}/insert/${slot}/${param}`;
type Lanes = NonNullable<Parameters<typeof testSong>[0]>['lanes'];
const song = (inserts: readonly Insert[], lanes: Lanes = {}, more: readonly Partial<Channel>[] = []): Song =>
  testSong({ channels: [track('a', { inserts }), ...more, MAIN], lanes: { ...lanes }, length: 8 });

/** Every file holds the same: a function of the frame. */
const source = (at: (frame: number) => number): SampleSource => ({
  channels: () => 1,
  read: (_f, _c, from, count, out, place) => {
    for (let k = 0; k < count; k++) out[place + k] = at(from + k);
    return true;
  },
});
const TONE = source((n) => 0.4 * Math.sin((2 * Math.PI * 300 * n) / RATE));
const CLICK = source((n) => (n === 0 ? 1 : 0));
const PLUCKS = source((n) => Math.sin((n * n) / 9e4) * Math.exp(-(n % 12_000) / 1500));

/** The mix from the start, so many frames at a time. */
function mixed(of: Song, from: SampleSource, count: number, block: (k: number) => number = () => 4096): Float32Array {
  const left = new Float32Array(count);
  const right = new Float32Array(count);
  const renderer = new MixRenderer(mixPlan(of), from);
  for (let at = 0, k = 0; at < count; k++) {
    const n = Math.min(block(k), count - at);
    renderer.render(left.subarray(at, at + n), right.subarray(at, at + n), n);
    at += n;
  }
  return left;
}
const loudest = (sound: ArrayLike<number>, from = 0, to = sound.length): number => {
  let most = 0;
  for (let n = from; n < to; n++) most = Math.max(most, Math.abs(sound[n]!));
  return most;
};
const db = (gain: number): number => 20 * Math.log10(gain);

/** A little of everything: parameters that move, a return with inserts, a key. */
const busy = testSong({
  length: 8,
  channels: [
    track('a', {
      inserts: [insert('eq', 'equaliser'), insert('echo', 'delay', { beats: 0.75 }), insert('wide', 'chorus')],
      sends: [{ bus: 'hall', tap: 'post', pan: 'follow' }],
    }),
    track('b', { inserts: [insert('duck', 'compressor', { key: 'a' }), insert('low', 'filter', { slope: 24 })] }),
    { key: 'hall', kind: 'bus', name: 'Hall', inserts: [insert('room', 'reverb'), insert('bits', 'reducer')] },
    MAIN,
  ],
  lanes: {
    'a/send/hall/level': { rest: -6 },
    [id('freq2', 'eq')]: { points: [linePoint(0, 200), linePoint(2, 5000), linePoint(4, 300)] },
    [id('gain2', 'eq')]: { points: [linePoint(0.5, 0), linePoint(1, 12)], trim: [linePoint(0, 0), linePoint(3, -6)] },
    [id('feedback', 'echo')]: { points: [linePoint(1, 0.2), linePoint(2, 0.7)] },
    [id('rate', 'wide')]: { points: [linePoint(0, 0.5), linePoint(3, 3)] },
    [id('threshold', 'duck', 'b')]: { rest: -30 },
    [id('cutoff', 'low', 'b')]: { points: [linePoint(0, 20_000), linePoint(3, 200)] },
    [id('mix', 'room', 'hall')]: { rest: 1 },
    [id('decay', 'room', 'hall')]: { points: [linePoint(0, 0.5), linePoint(4, 6)] },
    [id('bits', 'bits', 'hall')]: { points: [linePoint(3, 16), linePoint(4, 6)] },
  },
});

describe('inserts in the mix', () => {
  test('a ridden parameter is read on the grid of the song, and what it leads to goes straight between', () => {
    const ridden = song([insert('fx', 'filter')], {
      [id('cutoff')]: { points: [linePoint(0.2, 300), linePoint(0.7, 8000)] },
    });
    const heard = mixed(ridden, TONE, frames(1));
    const { points, rest } = laneOf(ridden, id('cutoff'));
    const { law } = controlOf(ridden, id('cutoff'));
    const model = through('filter', {
      left: Float32Array.from({ length: frames(1) }, (_, n) => 0.4 * Math.sin((2 * Math.PI * 300 * n) / RATE)),
      values: (frame) => ({ cutoff: valueAt(points, law, rest, frame / RATE) }),
    }).left;
    const gain = Math.SQRT1_2;
    expect(loudest(heard.map((x, n) => x - gain * model[n]!))).toBeLessThan(1e-6);
  });

  test('comes out the same whatever the blocks are, and a range of it as if the song had come there', () => {
    const whole = mixed(busy, PLUCKS, frames(6));
    const odd = [128, 1, 333, 64, 2000, 77];
    expect(
      firstOther(
        mixed(busy, PLUCKS, frames(6), (k) => odd[k % odd.length]!),
        whole,
      ),
    ).toBe(-1);
    const part: number[] = [];
    const range = [frames(4), frames(5)] as const;
    bounce(mixPlan(busy), PLUCKS, range, (left, _right, count) => part.push(...left.subarray(0, count)));
    expect(loudest(part)).toBeGreaterThan(0.01);
    expect(db(loudest(part.map((x, n) => x - whole[range[0] + n]!)))).toBeLessThan(-140);
  });

  test.each([
    [
      'equaliser',
      {},
      Object.fromEntries(
        [1, 2, 3, 4].flatMap((n) => [
          [`freq${n}`, 20],
          [`gain${n}`, 18],
          [`q${n}`, 10],
        ]),
      ),
    ],
    ['filter', { shape: 'band', slope: 24 }, { cutoff: 20, resonance: 12 }],
    ['reducer', {}, { rate: 7003, bits: 5 }],
  ])(
    'a range with a %s at its extremes is as the whole has it, and what it has left to sound is heard to its end',
    (effect, settings, rest) => {
      // Loud for a second, silent for so long that all but the longest tails are over, and loud once more.
      const burst = source((n) =>
        n < frames(1) || n > frames(12) ? 0.1 * Math.sin((2 * Math.PI * 20.7 * n) / RATE) : 0,
      );
      const at = Object.fromEntries(Object.entries(rest).map(([param, v]) => [id(param), { rest: v }]));
      const clip = (t: number, length: number): object => ({ ...CLIP_OF_ONES, t, offset: t, length });
      const of = testSong({
        length: 14,
        channels: [
          track('a', { inserts: [insert('fx', effect, settings)], clips: [clip(0, 1), clip(12, 2)] as never }),
          MAIN,
        ],
        lanes: at,
      });
      const whole = mixed(of, burst, frames(13));
      const model = through(effect, {
        left: Float32Array.from({ length: frames(13) }, (_, n) => {
          const out = [0];
          burst.read(0, 0, n, 1, out as never, 0);
          return out[0]!;
        }),
        settings,
        values: () => rest as { [param: string]: number },
      }).left;
      const gain = Math.SQRT1_2;
      const scale = Math.max(1, loudest(model));
      expect(loudest(whole.map((x, n) => x - gain * model[n]!)) / scale).toBeLessThan(1e-6);
      for (const [from, to] of [
        [0.5, 1],
        [5.003, 5.5],
        [12.4, 13],
      ] as const) {
        const part: number[] = [];
        bounce(mixPlan(of), burst, [frames(from), frames(to)], (left, _right, count) =>
          part.push(...left.subarray(0, count)),
        );
        const off = loudest(part.map((x, n) => x - whole[frames(from) + n]!));
        expect([from, db(off) < -140]).toEqual([from, true]);
      }
    },
  );

  test('what moves in a silence is there as the sound comes back, whatever the blocks are', () => {
    const clip = (t: number, length: number): object => ({ ...CLIP_OF_ONES, t, offset: t, length });
    const of = testSong({
      length: 8,
      channels: [
        track('a', { inserts: [insert('fx', 'filter')], clips: [clip(0, 1), clip(3.00171, 2)] as never }),
        MAIN,
      ],
      lanes: {
        [id('cutoff')]: { points: [linePoint(0.5, 400), linePoint(2.9, 9000), linePoint(3.4, 500)] },
        [id('on')]: {
          points: [
            { ...linePoint(0, 0), shape: 'hold' },
            { ...linePoint(2, 1), shape: 'hold' },
          ],
        },
      },
    });
    const whole = mixed(of, TONE, frames(4));
    // One sample behind the other, and in odd blocks, as the audio thread may wake anywhere.
    for (const block of [() => 128, (k: number) => [77, 64, 500, 1][k % 4]!])
      expect(firstOther(mixed(of, TONE, frames(4), block), whole)).toBe(-1);
    const model = through('filter', {
      left: Float32Array.from({ length: frames(4) }, (_, n) =>
        n < frames(1) || n >= frames(3.00171) ? 0.4 * Math.sin((2 * Math.PI * 300 * n) / RATE) : 0,
      ),
      values: (frame) => ({
        cutoff: valueAt(laneOf(of, id('cutoff')).points, controlOf(of, id('cutoff')).law, 0, frame / RATE),
      }),
    }).left;
    const from = frames(3.00171);
    expect(loudest(whole.map((x, n) => (n < from ? 0 : x - Math.SQRT1_2 * model[n]!)))).toBeLessThan(1e-6);
  });

  test.each([...EFFECTS.keys()])(
    'a %s that was given what is no number, or no sound, is well again after it',
    (effect) => {
      let bad: number | null = null;
      const sound: SampleSource = {
        channels: () => 1,
        read: (_f, _c, from, count, out, place) => {
          for (let k = 0; k < count; k++)
            out[place + k] = bad ?? 0.2 * Math.sin((2 * Math.PI * 300 * (from + k)) / RATE);
          return true;
        },
      };
      const sane = mixPlan(song([insert('fx', effect)]));
      const renderer = new MixRenderer(sane, sound);
      const roll = (blocks: number): Float32Array => {
        const out = new Float32Array(blocks * 128);
        for (let b = 0; b < blocks; b++)
          renderer.render(out.subarray(b * 128, (b + 1) * 128), new Float32Array(128), 128);
        return out;
      };
      const isSound = (out: Float32Array): boolean => out.every(Number.isFinite) && loudest(out) > 0.02;
      expect(isSound(roll(40))).toBe(true);
      for (bad of [NaN, Infinity]) {
        expect(roll(3).every(Number.isFinite)).toBe(true);
        bad = null;
        expect(isSound(roll(200).subarray(128))).toBe(true);
      }
      // A parameter that is no number, as a draft of something half typed had it.
      const slots = sane.nodes.find(({ key }) => key === 'a')!.inserts[0]!.params;
      const half = {
        ...sane,
        controls: sane.controls.map((one, slot) => (slots.includes(slot) ? { ...one, rest: NaN } : one)),
      };
      renderer.change(half, new Set(slots));
      expect(roll(20).every(Number.isFinite)).toBe(true);
      renderer.change(sane, new Set(slots));
      expect(isSound(roll(200).subarray(2 * 128))).toBe(true);
    },
  );

  test.each([
    ['delay', { feedback: 0.3, time: 400 }],
    ['reverb', { decay: 2, before: 30 }],
    ['chorus', { feedback: -0.6, rate: 1.3 }],
    ['compressor', { threshold: -40, ratio: 8, release: 400 }],
  ])(
    'a range with a %s at rest begins no earlier than it can be heard in it, and is as the whole has it',
    (effect, rest) => {
      const length = 24;
      const at = Object.fromEntries(Object.entries(rest).map(([param, v]) => [id(param), { rest: v }]));
      const of = testSong({
        length,
        channels: [track('a', { inserts: [insert('fx', effect)], clips: [{ ...CLIP_OF_ONES, length }] }), MAIN],
        lanes: at,
      });
      let first = Infinity;
      const noted: SampleSource = {
        ...PLUCKS,
        read: (file, channel, from, count, out, place) => {
          first = Math.min(first, from);
          return PLUCKS.read(file, channel, from, count, out, place);
        },
      };
      const whole = mixed(of, PLUCKS, frames(21));
      const part: number[] = [];
      const from = frames(20);
      bounce(mixPlan(of), noted, [from, frames(21)], (left, _right, count) => part.push(...left.subarray(0, count)));
      expect(first).toBeGreaterThan(frames(1));
      expect(loudest(part)).toBeGreaterThan(0.01);
      expect(db(loudest(part.map((x, n) => x - whole[from + n]!)))).toBeLessThan(-140);
    },
  );

  test('goes round a loop without a click, its tails ringing over the wrap', () => {
    const renderer = new MixRenderer(mixPlan(busy), TONE);
    const left = new Float32Array(frames(4));
    const [block, right] = [new Float32Array(2400), new Float32Array(2400)];
    for (let k = 0; k < 80; k++) {
      if (k === 50) renderer.wrap(frames(0.5));
      renderer.render(block, right, 2400);
      left.set(block, k * 2400);
    }
    // Parameters that jump with it go there within a line of the grid.
    const over =
      largestStep(left.subarray(frames(2.49), frames(2.51))) - largestStep(left.subarray(frames(1), frames(2.4)));
    expect(over / loudest(left)).toBeLessThan(0.05);
  });

  test('in another order they sound otherwise; one that is off is as if it were not there, once 2 ms are over', () => {
    const [crush, dark] = [insert('crush', 'reducer'), insert('dark', 'filter')];
    const few = { [id('bits', 'crush')]: { rest: 3 } };
    const lanes = { ...few, [id('cutoff', 'dark')]: { rest: 500 } };
    const one = mixed(song([crush, dark], lanes), TONE, 9600);
    const other = mixed(song([dark, crush], lanes), TONE, 9600);
    expect(new Set(other).size).toBeLessThan(12);
    expect(new Set(one).size).toBeGreaterThan(100);
    const at = 4801 / RATE;
    const off = mixed(
      song([crush], {
        ...few,
        [id('on', 'crush')]: {
          points: [
            { ...linePoint(0, 1), shape: 'hold' },
            { ...linePoint(at, 0), shape: 'hold' },
          ],
        },
      }),
      TONE,
      9600,
    );
    const [plain, wet] = [mixed(song([]), TONE, 9600), mixed(song([crush], few), TONE, 9600)];
    expect(off.subarray(0, 4800)).toEqual(wet.subarray(0, 4800));
    // Read at the next line of the grid, and over 2 ms from there.
    expect(firstOther(off.subarray(4801 + 64 + 97), plain.subarray(4801 + 64 + 97))).toBe(-1);
  });

  test('one that makes two sides leaves the level of its channel as it was', () => {
    const dry = { [id('mix')]: { rest: 0 } };
    for (const effect of ['reverb', 'chorus'])
      for (const pan of [0, -1, 0.5]) {
        const panned = { ...dry, 'a/pan': { rest: pan } };
        expect(mixed(song([insert('fx', effect)], panned), TONE, 4096)).toEqual(
          mixed(song([], { 'a/pan': { rest: pan } }), TONE, 4096),
        );
      }
  });

  test('a delay in beats follows the tempo', () => {
    const read = readSong({
      ...song([insert('fx', 'delay', { beats: 1.5 })], { [id('mix')]: { rest: 1 }, [id('tone')]: { rest: 20_000 } }),
      tempo: [{ t: 0, bpm: 90 }],
    });
    if (!read.ok) throw new Error(read.sentence);
    const heard = mixed(read.value, CLICK, frames(1.2));
    expect(heard.findIndex((x) => Math.abs(x) > 0.2)).toBe(frames(1));
  });

  test('trim of a parameter in dB is heard, within its own range', () => {
    const heard = (rest: number, trim: number): number => {
      const of = song([insert('fx', 'equaliser', { shapes: ['peak', 'peak', 'peak', 'peak'] })], {
        [id('gain1')]: { rest, trim: [linePoint(0, trim)] },
        [id('freq1')]: { rest: 300 },
      });
      return magnitudeDb(mixed(of, CLICK, frames(1)), 300) + 3.0103;
    };
    expect(heard(3, 4)).toBeCloseTo(7, 2);
    expect(heard(15, 9)).toBeCloseTo(18, 2);
    expect(heard(-15, -12)).toBeCloseTo(-18, 2);
  });
});

describe('hands and changes while it rolls', () => {
  function rolling(of: Song, from: SampleSource = TONE) {
    const planner = new MixPlanner(of);
    const hands = new HandTable(new ArrayBuffer(HandTable.bytes(64)), 64);
    const renderer = new MixRenderer(planner.plan, from, hands);
    const heard: number[] = [];
    const roll = (count: number): Float32Array => {
      const [left, right] = [new Float32Array(count), new Float32Array(count)];
      for (let at = 0; at < count; at += 128)
        renderer.render(left.subarray(at, at + 128), right.subarray(at, at + 128), Math.min(128, count - at));
      heard.push(...left);
      return left;
    };
    const change = (now: Song): void => {
      const { change: told } = planner.follow(now);
      if (told) renderer.change(planner.plan, new Set(told.controls.map(({ slot }) => slot)));
    };
    return { planner, hands, renderer, roll, change, heard };
  }

  test('a hand has a parameter from the next line of the grid on, and its curve has it again after', () => {
    const on = rolling(song([insert('fx', 'filter')]));
    const slot = on.planner.slotOf(id('cutoff'));
    const { law } = controlOf(song([insert('fx', 'filter')]), id('cutoff'));
    const open = loudest(on.roll(9600), 4800);
    on.hands.hold(slot, false, travelOf(law, 60));
    const held = loudest(on.roll(9600), 4800);
    expect(db(held / open)).toBeCloseTo(-28, 0);
    on.hands.letGo(slot);
    expect(loudest(on.roll(9600), 4800)).toBeCloseTo(open, 4);
    // It moves the whole throw within one line of the grid.
    expect(largestStep(on.heard)).toBeLessThan(largestStep(on.heard.slice(0, 9000)) + 0.1 * open);
  });

  test.each([
    ['filter', { [id('cutoff')]: { rest: 500 } }],
    ['reverb', { [id('mix')]: { rest: 1 } }],
    ['equaliser', { [id('gain1')]: { rest: 15 }, [id('freq1')]: { rest: 600 } }],
  ] as const)(
    'a %s that changes the sound comes and goes over 2 ms, and after that it is as if it had never been',
    (effect, lanes) => {
      const [bare, full] = [song([]), song([insert('fx', effect)], lanes as Lanes)];
      const on = rolling(bare);
      // Not where the tone is at nothing.
      on.roll(4840);
      on.change(full);
      on.roll(9600);
      on.change(bare);
      const gone = on.roll(4800);
      expect(firstOther(gone.subarray(128), mixed(bare, TONE, 19_240).subarray(14_440 + 128))).toBe(-1);
      const calm = Math.max(largestStep(mixed(bare, TONE, 9600)), largestStep(mixed(full, TONE, 9600)));
      // What is taken away or put on top comes over 96 frames.
      expect(largestStep(on.heard)).toBeLessThan(calm + loudest(on.heard) / 48);
    },
  );

  test('inserts come and go over 2 ms without a click; those that stay ring on', () => {
    const start = song([insert('fx', 'delay')], { [id('mix')]: { rest: 1 }, [id('feedback')]: { rest: 0.9 } });
    const on = rolling(
      start,
      source((n) => (n < 4800 ? 0.4 * Math.sin((2 * Math.PI * 300 * n) / RATE) : 0)),
    );
    on.roll(frames(0.5));
    const added = applyEdit(start, {
      kind: 'insert',
      channel: 'a',
      remove: null,
      add: { ...insert('eq', 'equaliser'), at: 0 },
    }).song;
    on.change(added);
    expect(loudest(on.roll(frames(0.5)))).toBeGreaterThan(0.05);
    on.change(applyEdit(added, { kind: 'insertOrder', channel: 'a', slots: ['fx', 'eq'] }).song);
    expect(loudest(on.roll(frames(0.5)))).toBeGreaterThan(0.05);
  });

  test('another order comes without a click, nor does a repeat have one, and then it is as if it had always been so', () => {
    const [echo, low, crush] = [insert('echo', 'delay'), insert('low', 'filter'), insert('crush', 'reducer')];
    const lanes: Lanes = {
      [id('mix', 'echo')]: { rest: 0.5 },
      [id('time', 'echo')]: { rest: 20 },
      [id('feedback', 'echo')]: { rest: 0 },
      [id('cutoff', 'low')]: { rest: 250 },
      [id('bits', 'crush')]: { rest: 3 },
    };
    const start = song([echo, low, crush], lanes);
    const on = rolling(start);
    on.roll(4840);
    const slots = [
      ['low', 'echo', 'crush'],
      ['crush', 'echo', 'low'],
      ['low', 'crush', 'echo'],
    ];
    for (const order of slots) {
      const now = applyEdit(start, { kind: 'insertOrder', channel: 'a', slots: order }).song;
      const other = mixed(now, TONE, 24_000);
      // The values that the reducer leaves lie a quarter apart, and of whatever comes into it as much of them as the rest lets through.
      const calm = Math.max(largestStep(on.heard.slice(-4800)), largestStep(other.subarray(19_200)));
      const from = on.heard.length;
      on.change(now);
      on.roll(9600);
      expect(largestStep(on.heard.slice(from - 1))).toBeLessThan(calm + loudest(on.heard) / 48);
    }
    const last = song([low, crush, echo], lanes);
    const end = on.heard.length;
    const whole = mixed(last, TONE, end);
    for (let n = end - 2400; n < end; n++) expectWithin(on.heard[n]!, whole[n]!, 5e-6);
  });

  test('one insert put elsewhere takes nothing but itself aside; a second order that comes meanwhile is the one that stays', () => {
    const of = (slots: readonly string[]): Song =>
      song(
        slots.map((slot) => insert(slot, 'filter')),
        Object.fromEntries(slots.map((slot, i) => [id('cutoff', slot), { rest: 300 * (i + 1) }])),
      );
    const start = of(['one', 'two', 'three']);
    const on = rolling(start);
    on.roll(9600);
    const order = (slots: readonly string[]): Song =>
      applyEdit(start, { kind: 'insertOrder', channel: 'a', slots: [...slots] }).song;
    // Filters are the same in any order: what is heard meanwhile is what the other two leave.
    const two = loudest(mixed(of(['one', 'two']), TONE, 9600), 4800);
    on.change(order(['three', 'one', 'two']));
    expect(loudest(on.roll(384))).toBeLessThan(two * 1.02);
    on.change(order(['one', 'three', 'two']));
    on.roll(128);
    on.change(order(['two', 'one', 'three']));
    on.roll(4800);
    const end = on.heard.length;
    const whole = mixed(start, TONE, end);
    for (let n = end - 1200; n < end; n++) expectWithin(on.heard[n]!, whole[n]!, 5e-5);
  });
});

describe('a compressor with a key', () => {
  const ducked = (lanes: Lanes = {}, solo: readonly string[] = []): Song => {
    const base = testSong({
      length: 8,
      channels: [
        track('a', { inserts: [insert('duck', 'compressor', { key: 'b' })], solo: solo.includes('a') }),
        track('b', { solo: solo.includes('b') }),
        MAIN,
      ],
      lanes: {
        [id('threshold', 'duck')]: { rest: -40 },
        [id('ratio', 'duck')]: { rest: 20 },
        [id('attack', 'duck')]: { rest: 1 },
        ...lanes,
      },
    });
    return base;
  };
  /** How loud `a` alone is: `b` sounds in the first half of a second, but is heard nowhere else. */
  const alone = (of: Song): number => {
    const plan = mixPlan(of, { stem: { channel: 'a', throughMain: true } });
    const renderer = new MixRenderer(plan, TONE);
    const [left, right] = [new Float32Array(19_200), new Float32Array(19_200)];
    for (let at = 0; at < left.length; at += 4096) {
      const n = Math.min(4096, left.length - at);
      renderer.render(left.subarray(at, at + n), right.subarray(at, at + n), n);
    }
    return db(loudest(left, 9600));
  };

  test('listens to another channel after its level, whatever is soloed, and not to its mute', () => {
    const full = alone(ducked());
    const bare = alone(ducked({ 'b/mute': { rest: 1 } }));
    // 0.4 is −8 dB, 32 over the threshold: 30.4 of them are taken off.
    expect(bare - full).toBeCloseTo(30.4, 0);
    const quiet = alone(ducked({ 'b/level': { rest: -20 } }));
    expect(bare - quiet).toBeCloseTo(11.4, 0);
    const soloed = mixed(ducked({}, ['a']), TONE, 19_200);
    expect(db(loudest(soloed, 9600))).toBeCloseTo(full, 1);
  });

  test('may make no loop with outputs and sends: refused by name', () => {
    const listens = (key: string, to: string): Partial<Channel> =>
      track(key, { inserts: [insert('duck', 'compressor', { key: to })] });
    const read = (channels: readonly object[]): unknown =>
      readSong({ format: 'sure-hand-song', version: 1, length: 8, channels });
    expect(read([listens('a', 'b'), listens('b', 'a'), MAIN])).toMatchObject({
      ok: false,
      sentence: 'Outputs, sends and keys of inserts feed back in a loop: a → b → a. Take one of them out.',
    });
    expect(
      read([
        { ...track('a'), output: 'hall' },
        { key: 'hall', kind: 'bus', name: 'hall', inserts: [insert('d', 'compressor', { key: 'a' })] },
        MAIN,
      ]),
    ).toMatchObject({ ok: true });
    expect(read([listens('a', 'hall'), { key: 'hall', kind: 'bus', name: 'hall' }, MAIN])).toMatchObject({ ok: true });
    expect(
      read([{ ...listens('a', 'hall'), output: 'hall' }, { key: 'hall', kind: 'bus', name: 'hall' }, MAIN]),
    ).toMatchObject({ ok: false });
    expect(read([listens('a', 'gone'), MAIN])).toMatchObject({
      sentence: 'An insert of a listens to the channel “gone”, which the song does not have.',
    });
  });
});
