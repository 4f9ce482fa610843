import { Curve, CurveReader, columnsOf, linePoint, thinRun } from '../../core/dist/curve/index.js';
import { HandTable, MixRenderer, mixPlan } from '../../core/dist/mix/index.js';
import { readSong } from '../../core/dist/formats/index.js';
import { figure, median } from './figures.mjs';

/** The same numbers every time, 0 … 1. */
export const chance = (seed) => () => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;

/** A slow random ride in dB, a point every `every` seconds. */
export function ridePoints(length, every, seed, low = -20, high = 6) {
  const random = chance(seed);
  const points = [];
  let v = (low + high) / 2;
  for (let t = 0; t < length; t += every) {
    v = Math.min(high, Math.max(low, v + (random() - 0.5) * (high - low) * 0.2));
    points.push(linePoint(t, v));
  }
  return points;
}

/** Curves of all twelve parameters of an equaliser, every one of them moving all the time. */
export function equaliserLanes(channel, length, every, seed) {
  const param = (name, k, low, high) => [
    `${channel}/insert/eq/${name}`,
    { points: ridePoints(length, every, 7 * seed + k, low, high) },
  ];
  return [1, 2, 3, 4].flatMap((n) => [
    param(`freq${n}`, 3 * n, 60 * 3 ** n, 180 * 3 ** n),
    param(`gain${n}`, 3 * n + 1, -12, 12),
    param(`q${n}`, 3 * n + 2, 0.4, 4),
  ]);
}

function lookUps() {
  const columns = columnsOf(Curve.of(ridePoints(360, 0.05, 1)), { kind: 'level' });
  const n = 4_000_000;
  const random = chance(7);
  const times = Float64Array.from({ length: n }, () => random() * 360);
  const rate = (timeOf) => {
    const runs = [];
    let sum = 0;
    for (let k = 0; k < 5; k++) {
      const reader = new CurveReader(columns);
      const began = performance.now();
      for (let i = 0; i < n; i++) sum += reader.travelAt(timeOf(i));
      runs.push(n / 1e3 / (performance.now() - began));
    }
    if (!(sum > 0)) throw new Error('nothing was read');
    return median(runs);
  };
  figure({
    name: 'curve look-up, forward',
    value: rate((i) => (i * 360) / n),
    unit: 'M/s',
    must: 20,
    aim: 40,
    better: 'more',
    note: '7,200 straight segments',
  });
  figure({
    name: 'curve look-up, random',
    value: rate((i) => times[i]),
    unit: 'M/s',
    must: 3,
    aim: 6,
    better: 'more',
    note: 'the same curve',
  });
}

function thinning() {
  const n = 1_000_000;
  const random = chance(1);
  const t = new Float64Array(n);
  const x = new Float64Array(n);
  let v = 0.5;
  let d = 0;
  for (let i = 0; i < n; i++) {
    t[i] = i * 0.005;
    d = d * 0.97 + (random() - 0.5) * 0.004;
    v = Math.min(1, Math.max(0, v + d * 0.2));
    x[i] = v;
  }
  const runs = [];
  let kept;
  for (let k = 0; k < 4; k++) {
    const began = performance.now();
    kept = thinRun({ t, x }, 0.002);
    runs.push((performance.now() - began) / 1000);
  }
  figure({
    name: 'thinning a million samples',
    value: median(runs),
    unit: 's',
    must: 0.3,
    aim: 0.1,
    better: 'less',
    note: `a wandering hand, kept as ${kept.t.length} points within 0.002`,
  });
  const exact = thinRun({ t, x }, 0.002, { exactSteps: Infinity, fewStarts: Infinity });
  figure({
    name: 'points kept, to the fewest possible',
    value: kept.t.length / exact.t.length,
    unit: '×',
    must: 1.1,
    aim: 1.02,
    better: 'less',
    note: `the same run searched without limits keeps ${exact.t.length}`,
  });
}

/** A hand between two blocks: the first frame of the next one that is not what the curve alone would give. */
function handToSound() {
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    length: 9,
    channels: [{ key: 'a', kind: 'track', clips: [{ file: 'f' }] }],
  });
  const hands = new HandTable(new ArrayBuffer(HandTable.bytes(8)), 8);
  const source = {
    channels: () => 1,
    read(_file, _channel, _from, count, out, at) {
      out.fill(1, at, at + count);
      return true;
    },
  };
  const renderer = new MixRenderer(mixPlan(read.value), source, hands);
  const [left, right] = [new Float32Array(128), new Float32Array(128)];
  renderer.render(left, right, 128);
  const before = left[127];
  hands.hold(0, false, 0.5);
  renderer.render(left, right, 128);
  figure({
    name: 'hand event → heard, after the start of the next block',
    value: left.findIndex((x) => x !== before),
    unit: 'frames',
    must: 127,
    better: 'less',
    note: 'the jump is spread over 96 frames (2 ms) from there',
  });
}

export function coreFigures() {
  handToSound();
  lookUps();
  thinning();
}
