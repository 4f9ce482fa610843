import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linePoint, holdPoint, valueAt, type Point } from '../curve/index.js';
import { applyEdit } from '../edits/index.js';
import { effectiveValueAt } from '../groups/index.js';
import { readSong } from '../formats/index.js';
import { channelOf, controlOf, controlsOf, laneOf, outputOf, type Channel, type Song } from '../song/index.js';
import { CLIP_OF_ONES, ones } from '../test/ones.js';
import { testSong } from '../test/songs.js';
import { dbOfGain, gainOfDb, leftBalanceGain, leftGain } from '../units/index.js';
import { bounce } from './bounce.js';
import { MixRenderer, type SampleSource } from './renderer.js';
import { mixPlan } from './plan.js';
import { TAIL_SEC, returnEffect } from './returnSound.js';
import { runs } from '../test/runs.js';
import { firstOther } from '../test/often.js';

const RATE = 48000;
const clips = [CLIP_OF_ONES];
const track = (key: string, more: Partial<Channel> = {}): Partial<Channel> => ({ key, kind: 'track', clips, ...more });
const bus = (key: string, more: Partial<Channel> = {}): Partial<Channel> => ({ key, kind: 'bus', ...more });
const send = (to: string, tap: 'pre' | 'post' = 'post', pan: 'follow' | 'own' = 'follow') => ({ bus: to, tap, pan });

function mixed(song: Song, frames: number, source = ones): { left: Float32Array; right: Float32Array } {
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  const renderer = new MixRenderer(mixPlan(song), source);
  for (let at = 0; at < frames; at += 512)
    renderer.render(left.subarray(at, at + 512), right.subarray(at, at + 512), Math.min(512, frames - at));
  return { left, right };
}

/** The rules (3) written plainly: what a constant of 1 on every track comes out as at t, by the curves alone. */
function modelled(song: Song, t: number): readonly [number, number] {
  const law = song.settings.panLaw;
  const own = (id: string): number => {
    const lane = laneOf(song, id);
    return valueAt(lane.points, controlOf(song, id).law, lane.rest, t);
  };
  const level = (id: string): number => gainOfDb(effectiveValueAt(song, id, t));
  const panned = ({ kind }: Channel, [l, r]: readonly [number, number], pan: number): [number, number] =>
    kind === 'track'
      ? [l * leftGain(law, pan), r * leftGain(law, -pan)]
      : [l * leftBalanceGain(law, pan), r * leftBalanceGain(law, -pan)];
  const into = (key: string): [number, number] => {
    const channel = channelOf(song, key)!;
    const sum: [number, number] = channel.kind === 'track' ? [1, 1] : [0, 0];
    for (const from of song.channels) {
      if (from.kind === 'vca' || from.kind === 'main' || from.key === key) continue;
      const muted = effectiveValueAt(song, `${from.key}/mute`, t) >= 0.5;
      const feeds: [number, number][] = [];
      const feedsHere = outputOf(song, from) === key || from.sends.some((one) => one.bus === key);
      const [l, r] = muted || !feedsHere ? [0, 0] : into(from.key);
      const fader = level(`${from.key}/level`);
      if (outputOf(song, from) === key) feeds.push(panned(from, [l * fader, r * fader], own(`${from.key}/pan`)));
      for (const { bus: to, tap, pan } of from.sends) {
        const id = `${from.key}/send/${to}`;
        if (to !== key || own(`${id}/on`) < 0.5) continue;
        const gain = level(`${id}/level`) * (tap === 'pre' ? 1 : fader);
        feeds.push(panned(from, [l * gain, r * gain], own(pan === 'own' ? `${id}/pan` : `${from.key}/pan`)));
      }
      for (const [x, y] of feeds) [sum[0], sum[1]] = [sum[0] + x, sum[1] + y];
    }
    return sum;
  };
  const main = song.channels.find((channel) => channel.kind === 'main')!;
  const fader = effectiveValueAt(song, `${main.key}/mute`, t) >= 0.5 ? 0 : level(`${main.key}/level`);
  const [l, r] = into(main.key);
  return panned(main, [l * fader, r * fader], own(`${main.key}/pan`));
}

const graph: readonly Partial<Channel>[] = [
  track('a', { output: 'group', sends: [send('hall'), send('slap', 'pre', 'own')] }),
  track('b', { sends: [send('hall', 'pre'), send('group', 'post', 'own')] }),
  bus('hall', { sends: [send('slap')] }),
  bus('slap', { output: 'group' }),
  bus('group'),
  { key: 'main', kind: 'main' },
  { key: 'all', kind: 'vca', members: ['a', 'more'] },
  { key: 'more', kind: 'vca', members: ['b', 'hall'] },
];
const song = testSong({ channels: graph, length: 1 });

/** A curve over half a second that moves no faster than a hand may (rules, 3), or a switch that goes to and fro. */
const curveFor = (id: string): fc.Arbitrary<Point[]> => {
  const { law } = controlOf(song, id);
  if (law.kind === 'switch')
    return fc.subarray([0.1, 0.2, 0.3, 0.4]).map((ts) => ts.map((t, i) => holdPoint(t, i % 2)));
  const value =
    law.kind === 'level' ? fc.double({ min: -18, max: 6, noNaN: true }) : fc.double({ min: -1, max: 1, noNaN: true });
  return fc.tuple(value, value, value).map((vs) => vs.map((v, i) => linePoint(0.05 + 0.2 * i, v)));
};
const lanes = fc
  .tuple(
    ...[...controlsOf(song).keys()].map((id) =>
      fc.option(curveFor(id), { nil: [] }).map((points) => [id, { points }] as const),
    ),
  )
  .map((entries) => Object.fromEntries(entries));

describe('the graph', () => {
  test('gives what the curves say, within 0.05 dB, for any curves on levels, pans, mutes and sends', () => {
    fc.assert(
      fc.property(lanes, fc.constantFrom(3 as const, 4.5 as const, 6 as const), (drawn, panLaw) => {
        const ridden = testSong({ channels: graph, length: 1, lanes: drawn, settings: { panLaw } });
        const { left, right } = mixed(ridden, RATE / 2);
        // Away from the 2 ms after a step.
        for (let t = 0.0123; t < 0.5; t += 0.0571) {
          const expected = modelled(ridden, t);
          [left, right].forEach((side, s) => {
            const heard = side[Math.round(t * RATE)]!;
            if (expected[s]! < 1e-4) expect(heard).toBeLessThan(2e-4);
            else expect(Math.abs(dbOfGain(heard) - dbOfGain(expected[s]!))).toBeLessThan(0.05);
          });
        }
      }),
      { numRuns: runs(30) },
    );
  });

  test('a send before the fader stays when the fader closes, one after it goes; a mute closes both', () => {
    const level = { 'a/send/pre/level': { rest: 0 }, 'a/send/post/level': { rest: 0 } };
    const at = (more: object): number[] => {
      const s = testSong({
        channels: [
          track('a', { output: 'none', sends: [send('pre', 'pre'), send('post')] }),
          bus('none'),
          bus('pre', { solo: true }),
          bus('post'),
        ],
        lanes: { ...level, 'none/level': { rest: -144 }, ...more },
      });
      return ['pre', 'post'].map((key) => {
        const only = { ...s, channels: s.channels.map((c) => ({ ...c, solo: c.key === key })) };
        return mixed(only, 512).left[500]!;
      });
    };
    const half = leftGain(3, 0);
    expect(at({})).toEqual([expect.closeTo(half, 5), expect.closeTo(half, 5)]);
    expect(at({ 'a/level': { rest: -144 } })).toEqual([expect.closeTo(half, 5), 0]);
    expect(at({ 'a/mute': { rest: 1 } })).toEqual([0, 0]);
    expect(at({ 'a/send/pre/on': { rest: 0 } })).toEqual([0, expect.closeTo(half, 5)]);
  });

  test('rendered, a VCA folded into its members is heard as before, over the whole song and over a range', () => {
    const places = fc.array(fc.tuple(fc.integer({ min: 1, max: 19 }), fc.double({ min: -20, max: 6, noNaN: true })), {
      minLength: 1,
      maxLength: 5,
    });
    const curve = (list: readonly (readonly [number, number])[]): Point[] =>
      [...new Map(list)].sort((a, b) => a[0] - b[0]).map(([n, db]) => linePoint(n / 10, db));
    fc.assert(
      fc.property(
        places,
        places,
        places,
        fc.constantFrom(undefined, [0.45, 1.25] as const),
        (own, over, outer, range) => {
          const before = testSong({
            length: 2,
            channels: [
              track('voice', { sends: [send('hall', 'post')] as never }),
              track('fiddle', { output: 'hall' }),
              bus('hall'),
              { key: 'main', kind: 'main' },
              { key: 'band', kind: 'vca', members: ['voice', 'hall'] },
              { key: 'all', kind: 'vca', members: ['band', 'fiddle'] },
            ],
            lanes: {
              'voice/level': { points: curve(own) },
              'voice/send/hall/level': { rest: -6 },
              'band/level': { points: curve(over), trim: [linePoint(0.5, 0), linePoint(1, -2)] },
              'all/level': { points: curve(outer) },
            },
          });
          const { song: after } = applyEdit(before, { kind: 'foldVca', vca: 'band', ...(range ? { range } : {}) });
          const [was, is] = [before, after].map((song) => mixed(song, 2 * RATE).left) as [Float32Array, Float32Array];
          // A step of one and the opposite step of the other are each spread over 2 ms.
          const isEdge = (n: number): boolean => !!range?.some((t) => Math.abs(n / RATE - t) < 0.005);
          let worst = 0;
          for (let n = 0; n < was.length; n += 17)
            if (was[n]! > gainOfDb(-60) && !isEdge(n))
              worst = Math.max(worst, Math.abs(dbOfGain(is[n]!) - dbOfGain(was[n]!)));
          expect(worst).toBeLessThan(0.05);
        },
      ),
      { numRuns: runs(20) },
    );
  });

  test('a soloed bus is fed by what feeds it and by nothing beside it; a soloed track keeps its sends', () => {
    const channels = [track('a', { sends: [send('hall')] }), track('b', { sends: [send('hall')] }), bus('hall')];
    const lanesOf = { 'a/send/hall/level': { rest: -6 }, 'b/send/hall/level': { rest: -12 } };
    const soloing = (key: string): number =>
      mixed(testSong({ channels: channels.map((c) => ({ ...c, solo: c.key === key })), lanes: lanesOf }), 128)
        .left[100]! / leftGain(3, 0);
    expect(soloing('hall')).toBeCloseTo(gainOfDb(-6) + gainOfDb(-12), 5);
    expect(soloing('a')).toBeCloseTo(1 + gainOfDb(-6), 5);
  });

  test('stems bounced one by one add up to the mix before the main; through it they have its fader', () => {
    const whole = testSong({
      channels: [
        track('a', { output: 'group', sends: [send('hall')] }),
        track('b', { sends: [send('hall', 'pre')] }),
        bus('hall'),
        bus('group'),
        { key: 'all', kind: 'vca', members: ['b'] },
      ],
      lanes: {
        'a/send/hall/level': { rest: -6 },
        'b/send/hall/level': { rest: -12 },
        'group/level': { rest: -3 },
        'all/level': { rest: -9 },
        'main/level': { rest: -10 },
      },
    });
    const stem = (channel: string, throughMain: boolean): number => {
      const left = new Float32Array(64);
      new MixRenderer(mixPlan(whole, { stem: { channel, throughMain } }), ones).render(left, new Float32Array(64), 64);
      return left[60]!;
    };
    const mix = mixed(whole, 64).left[60]!;
    expect(gainOfDb(-10) * (stem('a', false) + stem('b', false))).toBeCloseTo(mix, 6);
    expect(stem('a', true) + stem('b', true)).toBeCloseTo(mix, 6);
    expect(stem('hall', false)).toBeCloseTo(leftGain(3, 0) * (gainOfDb(-6) + gainOfDb(-12)), 6);
  });

  test.each([
    ['a bus that sends to itself', [bus('hall', { name: 'Hall', sends: [send('hall')] })], 'Hall → Hall'],
    [
      'two returns that feed each other',
      [bus('hall', { name: 'Hall', sends: [send('slap')] }), bus('slap', { name: 'Slap', output: 'hall' })],
      'Hall → Slap → Hall',
    ],
    [
      'a main that sends to a bus',
      [bus('hall', { name: 'Hall' }), { key: 'main', kind: 'main' as const, name: 'Main', sends: [send('hall')] }],
      'Hall → Main → Hall',
    ],
  ])('%s is refused, naming the loop', (_what, ringed, loop) => {
    expect(readSong({ format: 'sure-hand-song', version: 1, length: 1, channels: ringed })).toMatchObject({
      ok: false,
      sentence: expect.stringContaining(`feed back in a loop: ${loop}.`),
    });
  });
});

/** What a return gives for one sample of 1 on both sides, so many seconds of it. */
function rung(sound: 'reverb' | 'delay' | 'chorus', sec: number, block = 480): Float32Array[] {
  const sides = [new Float32Array(sec * RATE), new Float32Array(sec * RATE)];
  for (const side of sides) side[0] = 1;
  const effect = returnEffect(sound, RATE);
  effect.clear(0);
  for (let at = 0; at < sec * RATE; at += block)
    effect.process(
      sides[0]!.subarray(at, at + block),
      sides[1]!.subarray(at, at + block),
      Math.min(block, sec * RATE - at),
    );
  return sides;
}
const energyDb = (x: Float32Array, from: number, to: number): number => {
  let sum = 0;
  for (let i = Math.round(from * RATE); i < to * RATE; i++) sum += x[i]! * x[i]!;
  return 10 * Math.log10(sum + 1e-30);
};

describe('the returns', () => {
  test('the hall dies away by 60 dB in about two seconds, differently on either side', () => {
    const [left, right] = rung('reverb', 4);
    const fall = energyDb(left!, 0.2, 0.4) - energyDb(left!, 1.2, 1.4);
    expect(fall).toBeGreaterThan(28);
    expect(fall).toBeLessThan(60);
    let both = 0;
    for (let i = 0; i < left!.length; i++) both += left![i]! * right![i]!;
    expect(Math.abs(both)).toBeLessThan(0.5 * 10 ** (energyDb(left!, 0, 4) / 10));
  });

  test('the slap repeats once, clearly, on the other side; the swirl moves between its delays', () => {
    const [left] = rung('delay', 1);
    const loudest = left!.reduce((best, x, i) => (Math.abs(x) > Math.abs(left![best]!) ? i : best), 0);
    expect(loudest / RATE).toBeCloseTo(0.118, 3);
    const heard = [...rung('chorus', 1)[0]!].flatMap((x, i) => (x !== 0 ? [i / RATE] : []));
    expect(Math.min(...heard)).toBeGreaterThan(0.009);
    expect(Math.max(...heard)).toBeLessThan(0.02);
  });

  test.each(['reverb', 'delay', 'chorus'] as const)(
    '%s is below −140 dB after its tail, and the same whatever the blocks',
    (sound) => {
      const sec = TAIL_SEC[sound] + 0.5;
      const [left] = rung(sound, sec);
      const tail = left!.subarray(Math.round(TAIL_SEC[sound] * RATE));
      expect(dbOfGain(tail.reduce((most, x) => Math.max(most, Math.abs(x)), 0))).toBeLessThan(-140);
      expect(firstOther(rung(sound, sec, 128)[0]!, left!)).toBe(-1);
    },
  );

  test('a range bounced by itself has the returns’ tails of what came before it', () => {
    const bursts: SampleSource = {
      channels: () => 1,
      read: (_f, _c, from, count, out, at) => {
        for (let i = 0; i < count; i++) out[at + i] = (from + i) % RATE < 4800 ? Math.sin((from + i) / 9) : 0;
        return true;
      },
    };
    const wet = testSong({
      channels: [
        track('a', { sends: [send('hall'), send('slap')] }),
        bus('hall', { sound: 'reverb' }),
        bus('slap', { sound: 'delay' }),
      ],
      lanes: { 'a/send/hall/level': { rest: 0 }, 'a/send/slap/level': { rest: -3 } },
      length: 9,
    });
    const whole = mixed(wet, 9 * RATE, bursts).left;
    const part: number[] = [];
    bounce(mixPlan(wet), bursts, [398400, 412800], (left, _right, count) => part.push(...left.subarray(0, count)));
    expect(part).toHaveLength(14400);
    const off = part.reduce((most, x, i) => Math.max(most, Math.abs(x - whole[398400 + i]!)), 0);
    expect(Math.max(...part)).toBeGreaterThan(1e-3);
    expect(dbOfGain(off)).toBeLessThan(-140);
  });
});

test.each([
  ['line', 0.5],
  ['round', Math.SQRT1_2],
  ['s', 0.5],
] as const)('a %s fade is at %d half-way', (shape, half) => {
  const faded = testSong({ channels: [track('a', { clips: [{ ...clips[0]!, fadeIn: 0.1, fadeInShape: shape }] })] });
  const { left } = mixed(faded, 5120);
  expect(left[2400]! / leftGain(3, 0)).toBeCloseTo(half, 4);
  expect(left[1200]! / left[2400]!).toBeCloseTo(
    shape === 'line' ? 0.5 : shape === 'round' ? Math.sin(Math.PI / 8) / Math.SQRT1_2 : 0.2929,
    3,
  );
});
