import { Session } from 'node:inspector/promises';
import { expect, test } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { FrameEncoder, type WavInfo } from '@sure-hand/core/formats';
import { HandTable, MixPlanner } from '@sure-hand/core/mix';
import type { Channel } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import { PageKeeper } from './pageKeeper.js';
import { RollingMix } from './rollingMix.js';
import { T_INT, makeBuffers, viewsOf, type StreamedFile } from './sharedLayout.js';

const RATE = 48000;
const SEC = 4;
const BLOCK = 128;
/** Half a minute of playing, after as much as it takes until all of it is compiled. */
const WARM_BLOCKS = 4000;
const BLOCKS = WARM_BLOCKS + (30 * RATE) / BLOCK;
/** Numbers that are handed from call to call still are things in memory here and there: so much of them, at most. */
const MOST_BYTES_A_BLOCK = 1600;

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

/** Four tracks whose levels, pans, mutes and sends move, trim on one of them, through a return with a sound and a VCA. */
const song = testSong({
  length: SEC,
  settings: { loop: [0.5, SEC - 0.5] },
  channels: [
    ...files.map(({ name }, i): Partial<Channel> => ({
      key: `t${i}`,
      kind: 'track',
      clips: [{ file: name, length: SEC }] as never,
      sends: [{ bus: 'hall', tap: 'post', pan: 'own' }],
    })),
    { key: 'hall', kind: 'bus', name: 'Hall', sound: 'reverb' },
    { key: 'main', kind: 'main' },
    { key: 'all', kind: 'vca', name: 'All', members: ['t0', 't1'] },
  ],
  lanes: {
    ...Object.fromEntries(
      files.flatMap((_, i) => [
        [`t${i}/level`, { points: ride(-20 - i, 3) }],
        [`t${i}/pan`, { points: ride(-0.8, 0.9) }],
        [`t${i}/send/hall/level`, { points: ride(-30, -3) }],
      ]),
    ),
    't1/level': { points: ride(-12, 0), trim: ride(-3, 3) },
    't2/mute': { points: ride(0, 1) },
    'all/level': { points: ride(-6, 2) },
  },
});

test('blocks that are ridden and go round a loop leave hardly anything to be collected in the audio thread', async () => {
  const planner = new MixPlanner(song, { stereo: new Set(files.map(({ name }) => name)) });
  const { plan } = planner;
  const buffers = makeBuffers(files, plan);
  const views = viewsOf(buffers);
  const keeper = new PageKeeper(files, views, async (_file, _from, length) => tone(length), RATE);
  keeper.setClips(plan.nodes.flatMap((node) => node.clips));
  // All of it has room: what fetches pages is another thread.
  for (let k = 0; k < 60; k++) {
    keeper.tend(k < 30 ? 0 : 2 * RATE);
    await new Promise((done) => setImmediate(done));
  }
  const mix = new RollingMix(RATE, BLOCK);
  mix.take({ type: 'open', plan, files, buffers, version: 1 });
  mix.take({ type: 'loop', loop: [0.5 * RATE, (SEC - 0.5) * RATE] });
  mix.take({ type: 'play', frame: 0 });
  const hands = new HandTable(buffers.hands, buffers.controlRoom);
  const ridden = planner.slotOf('t3/level');
  const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  let loudest = 0;
  const roll = (from: number, to: number): void => {
    for (let b = from; b < to; b++) {
      if (b % 7 === 0) hands.hold(ridden, false, 0.6 + 0.1 * Math.sin(b / 50));
      if (b % 2000 === 1999) hands.letGo(ridden);
      mix.render(left, right, (b * BLOCK) / RATE);
      if (left[5]! > loudest) loudest = left[5]!;
    }
  };
  // What is compiled on the way is compiled first.
  roll(0, WARM_BLOCKS);
  const made = await bytesMadeBy(() => roll(WARM_BLOCKS, BLOCKS));
  expect(loudest).toBeGreaterThan(0.05);
  expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
  expect(Atomics.load(views.ints, T_INT.wraps)).toBeGreaterThan(9);
  expect(made / (BLOCKS - WARM_BLOCKS)).toBeLessThan(MOST_BYTES_A_BLOCK);
}, 120_000);

type Sampled = { readonly selfSize: number; readonly children: readonly Sampled[] };

/** What an act makes in memory, whether or not it was collected meanwhile, in bytes; measured by samples. */
async function bytesMadeBy(act: () => void): Promise<number> {
  const session = new Session();
  session.connect();
  await session.post('HeapProfiler.enable');
  await session.post('HeapProfiler.startSampling', {
    samplingInterval: 4096,
    includeObjectsCollectedByMajorGC: true,
    includeObjectsCollectedByMinorGC: true,
  });
  act();
  const { profile } = (await session.post('HeapProfiler.stopSampling')) as { profile: { head: Sampled } };
  session.disconnect();
  const sizeOf = ({ selfSize, children }: Sampled): number =>
    children.reduce((sum, one) => sum + sizeOf(one), selfSize);
  return sizeOf(profile.head);
}
