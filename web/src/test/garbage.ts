import { PerformanceObserver } from 'node:perf_hooks';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { expect } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { FrameEncoder, type WavInfo } from '@sure-hand/core/formats';
import { HandTable, MixPlanner } from '@sure-hand/core/mix';
import { swayWithDefaults, type Channel, type Insert, type Song } from '@sure-hand/core/song';
import { testSong } from './songs.js';
import { PageKeeper } from '../engine/pageKeeper.js';
import { RollingMix } from '../engine/rollingMix.js';
import { T_INT, makeBuffers, viewsOf, type StreamedFile } from '../engine/sharedLayout.js';

const RATE = 48000;
const SEC = 4;
const BLOCK = 128;
const WARM_BLOCKS = 8000;
const MINUTE = (60 * RATE) / BLOCK;
/** Ten minutes of them by `npm run harness`, half a one with every test: a hundred bytes a block would be seen there. */
const BLOCKS = (process.env.SURE_HAND_ALL ? 10 : 0.5) * MINUTE;
/** Until what runs is compiled for good, numbers of its earlier forms are collected, the longer the slower the machine: then another round tells. */
const ROUNDS = 12;

const info: WavInfo = {
  format: 'int24',
  channels: 2,
  sampleRate: RATE,
  frames: SEC * RATE,
  dataOffset: 44,
  bytesPerFrame: 6,
};
const files: readonly StreamedFile[] = ['one', 'two', 'three', 'four'].map((name) => ({ name: `${name}.wav`, info }));
const tone = (length: number): Uint8Array => {
  const column = Float32Array.from({ length: length / info.bytesPerFrame }, (_, i) => 0.3 * Math.sin(i / 19));
  return new FrameEncoder('int24').encode([column, column], column.length);
};
const ride = (low: number, high: number): Curve =>
  Curve.of(Array.from({ length: 80 }, (_, i) => linePoint((i * SEC) / 80, i % 2 ? low : high)));

/** The same in bends and s-shapes, one of them only a part of its shape: what a cut leaves. */
const bent: Curve = Curve.of(
  [...ride(-20, 3)].map((point, i) => ({
    ...point,
    shape: i % 2 ? 's' : 'bend',
    bend: i % 3 ? 0.6 : -0.4,
    ...(i % 5 ? {} : { part: [0.2, 0.9] as const }),
  })),
);

/** Each of the effects, on one track or another, with parameters on the move; one listens to another track. */
const EFFECTS_ON = [['equaliser', 'chorus'], ['compressor', 'reducer'], ['filter', 'delay'], ['reverb']] as const;
const insertsOn = (i: number): Insert[] =>
  EFFECTS_ON[i]!.map((effect) => ({ slot: effect, effect, settings: effect === 'compressor' ? { key: 't0' } : {} }));
const MOVING = [
  ['t0/insert/equaliser/freq2', 200, 5000],
  ['t0/insert/equaliser/gain3', -12, 12],
  ['t0/insert/chorus/rate', 0.3, 5],
  ['t1/insert/compressor/threshold', -50, -10],
  ['t1/insert/reducer/bits', 4, 14],
  ['t2/insert/filter/cutoff', 200, 9000],
  ['t2/insert/delay/time', 100, 900],
  ['t3/insert/reverb/decay', 0.5, 6],
] as const;

const insertLanes = {
  ...Object.fromEntries(MOVING.map(([id, low, high]) => [id, { points: ride(low, high) }])),
  't2/insert/filter/on': { points: ride(0, 1) },
  // One sways in steps, one with a depth that is ridden, by notes.
  't2/level': { points: ride(-22, 3), sway: swayWithDefaults({ wave: 'steps', hz: 7, depth: 0.1 }) },
  't2/insert/filter/resonance': { sway: swayWithDefaults({ wave: 'sine', perBeat: 2, depth: 0.2 }) },
  't2/insert/filter/resonance/sway': { points: ride(0, 0.4) },
};

/** Four tracks whose levels, pans, mutes and sends move, trim on one of them, through three returns with sounds and a VCA. */
const returns = ['reverb', 'delay', 'chorus'] as const;
const songOf = (hasInserts: boolean): Song =>
  testSong({
    length: SEC,
    settings: { loop: [0.5, SEC - 0.5] },
    channels: [
      ...files.map(({ name }, i): Partial<Channel> => ({
        key: `t${i}`,
        kind: 'track',
        clips: [{ file: name, length: SEC }] as never,
        sends: [{ bus: returns[i % 3]!, tap: 'post', pan: 'own' }],
        inserts: hasInserts ? insertsOn(i) : [],
      })),
      ...returns.map((sound): Partial<Channel> => ({ key: sound, kind: 'bus', name: sound, sound })),
      { key: 'main', kind: 'main' },
      { key: 'all', kind: 'vca', name: 'All', members: ['t0', 't1'] },
    ],
    lanes: {
      ...Object.fromEntries(
        files.flatMap((_, i) => [
          [`t${i}/level`, { points: ride(-20 - i, 3) }],
          [`t${i}/pan`, { points: ride(-0.8, 0.9) }],
          [`t${i}/send/${returns[i % 3]}/level`, { points: ride(-30, -3) }],
        ]),
      ),
      ...(hasInserts ? insertLanes : {}),
      't0/level': { points: bent },
      't1/level': { points: ride(-12, 0), trim: ride(-3, 3) },
      't2/mute': { points: ride(0, 1) },
      'all/level': { points: ride(-6, 2) },
    },
  });

/** Rolls blocks, ridden and round a loop, through a mix with effects or without: nothing of it is left to be collected. */
export async function leavesNothing(hasInserts: boolean): Promise<void> {
  const song = songOf(hasInserts);
  const planner = new MixPlanner(song, { stereo: new Set(files.map(({ name }) => name)) });
  const { plan } = planner;
  const buffers = makeBuffers(files, plan);
  const views = viewsOf(buffers);
  const keeper = new PageKeeper(files, views, async (_file, _from, length) => tone(length), RATE, buffers.poolPages);
  keeper.setClips(plan.nodes.flatMap((node) => node.clips));
  // All of it has room: what fetches pages is another thread.
  for (let k = 0; k < 60; k++) {
    keeper.tend(k < 30 ? 0 : 2 * RATE);
    await turn();
  }
  const mix = new RollingMix(RATE, BLOCK);
  mix.take({ type: 'open', plan, files, buffers, version: 1 });
  mix.take({ type: 'loop', loop: [0.5 * RATE, (SEC - 0.5) * RATE] });
  if (hasInserts) mix.take({ type: 'watch', watch: { channel: 't1', slot: 'compressor' } });
  mix.take({ type: 'play', frame: 0, roll: 1 });
  const hands = new HandTable(buffers.hands, buffers.controlRoom);
  const ridden = planner.slotOf('t3/level');
  const [left, right, watched] = [new Float32Array(BLOCK), new Float32Array(BLOCK), new Float32Array(BLOCK)];
  let loudest = 0;
  const roll = (blocks = BLOCKS): void => {
    for (let b = 0; b < blocks; b++) {
      if (b % 70 === 0) hands.hold(ridden, false, 0.6 + 0.1 * Math.sin(b / 50));
      if (b % 2000 === 1999) hands.letGo(ridden);
      mix.render(left, right, 0, watched);
      if (left[5]! > loudest) loudest = left[5]!;
    }
  };
  roll(WARM_BLOCKS);
  // One round without a collection tells, all of them are shown where there is none.
  const collections: string[][] = [];
  while (collections.length < ROUNDS && collections.at(-1)?.length !== 0) collections.push(await collectionsIn(roll));
  expect(collections).toContainEqual([]);
  expect(loudest).toBeGreaterThan(0.05);
  expect(watched.some((x) => x !== 0)).toBe(hasInserts);
  expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
  expect(Atomics.load(views.ints, T_INT.wraps)).toBeGreaterThan((19 * BLOCKS) / MINUTE);
}

const turn = (): Promise<void> => new Promise((done) => setImmediate(done));

/** The collections of memory while an act runs, by kind. One before it, which empties what is new, must be seen. */
async function collectionsIn(act: () => void): Promise<string[]> {
  setFlagsFromString('--expose-gc');
  const collect = runInNewContext('gc') as () => void;
  const seen: { readonly at: number; readonly kind: string }[] = [];
  const observer = new PerformanceObserver((list) => {
    for (const { startTime, detail } of list.getEntries()) seen.push({ at: startTime, kind: JSON.stringify(detail) });
  });
  observer.observe({ entryTypes: ['gc'] });
  collect();
  const from = performance.now();
  act();
  const to = performance.now();
  for (let k = 0; k < 1000 && seen.length === 0; k++) await turn();
  await turn();
  observer.disconnect();
  expect(seen.some(({ at }) => at < from)).toBe(true);
  return seen.filter(({ at }) => at >= from && at < to).map(({ kind }) => kind);
}
