import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { gainOfDb } from '../units/index.js';
import { kSections } from './kWeighting.js';
import { LoudnessMeter } from './meter.js';
import { Programme } from './programme.js';
import { TruePeak, bessel } from './truePeak.js';
import { runs } from '../test/runs.js';

const RATE = 48000;
type Stretch = readonly [db: number, sec: number];

/** A sine of 1 kHz on both sides, stretch after stretch at a peak level in dBFS, as the EBU's signals are made. */
function sines(stretches: readonly Stretch[], rate = RATE): Float32Array {
  const frames = stretches.map(([, sec]) => Math.round(sec * rate));
  const out = new Float32Array(frames.reduce((a, b) => a + b, 0));
  // Ten of its periods are a whole number of frames at every usual rate.
  const periods = Float64Array.from({ length: rate / 100 }, (_, n) => Math.sin((2 * Math.PI * 1000 * n) / rate));
  const { length } = periods;
  let at = 0;
  stretches.forEach(([db], i) => {
    const gain = gainOfDb(db);
    for (const end = at + frames[i]!; at < end; at++) out[at] = gain * periods[at % length]!;
  });
  return out;
}

function measured(signal: Float32Array, rate = RATE): ReturnType<Programme['report']> {
  const programme = new Programme(rate);
  for (let at = 0; at < signal.length; at += 4800) {
    const block = signal.subarray(at, at + 4800);
    programme.add(block, block, block.length);
  }
  return programme.report();
}
const repeated = (times: number, stretches: readonly Stretch[]): Stretch[] =>
  Array.from({ length: times }, () => stretches).flat();

test('the weighting at 48 kHz is the recommendation’s own numbers', () => {
  const [shelf, pass] = kSections(48000);
  [1.53512485958697, -2.69169618940638, 1.19839281085285].forEach((b, i) => expect(shelf.b[i]).toBeCloseTo(b, 10));
  [-1.69065929318241, 0.73248077421585].forEach((a, i) => expect(shelf.a[i]).toBeCloseTo(a, 10));
  [-1.99004745483398, 0.99007225036621].forEach((a, i) => expect(pass.a[i]).toBeCloseTo(a, 10));
});

describe('the signals of EBU Tech 3341', () => {
  test.each<[number, Stretch[], number]>([
    [1, [[-23, 20]], -23],
    [2, [[-33, 20]], -33],
    [
      3,
      [
        [-36, 10],
        [-23, 60],
        [-36, 10],
      ],
      -23,
    ],
    [
      4,
      [
        [-72, 10],
        [-36, 10],
        [-23, 60],
        [-36, 10],
        [-72, 10],
      ],
      -23,
    ],
    [
      5,
      [
        [-26, 20],
        [-20, 20.1],
        [-26, 20],
      ],
      -23,
    ],
  ])('%d reads its integrated loudness to 0.1 LU', (_n, stretches, lufs) => {
    expect(Math.abs(measured(sines(stretches)).integrated - lufs)).toBeLessThanOrEqual(0.1);
  });

  test('1 reads the same momentary and short-term loudness, also at 44.1 and 96 kHz', () => {
    for (const rate of [44100, 48000, 96000]) {
      const report = measured(sines([[-23, 20]], rate), rate);
      for (const lufs of [report.integrated, report.momentaryMax, report.shortTermMax])
        expect(Math.abs(lufs + 23)).toBeLessThanOrEqual(0.1);
    }
  });

  const during = (signal: Float32Array, fromSec: number, read: (meter: LoudnessMeter) => number): number[] => {
    const values: number[] = [];
    const meter = new LoudnessMeter(RATE, (m) => {
      if (m.blocks / 10 >= fromSec) values.push(read(m));
    });
    meter.add(signal, signal, signal.length);
    return values;
  };

  test('9: short-term loudness stands at −23.0 once three seconds have gone by', () => {
    const values = during(
      sines(
        repeated(5, [
          [-20, 1.34],
          [-30, 1.66],
        ]),
      ),
      3,
      (m) => m.shortTerm,
    );
    expect(values.length).toBeGreaterThan(100);
    for (const value of values) expect(Math.abs(value + 23)).toBeLessThanOrEqual(0.1);
  });

  test('12: momentary loudness stands at −23.0 once a second has gone by', () => {
    const values = during(
      sines(
        repeated(25, [
          [-20, 0.18],
          [-30, 0.22],
        ]),
      ),
      1,
      (m) => m.momentary,
    );
    for (const value of values) expect(Math.abs(value + 23)).toBeLessThanOrEqual(0.1);
  });

  test.each([0, 5, 13, 19])(
    '10 and 13, part %d: the highest short-term and momentary loudness are found wherever they stand',
    (i) => {
      const short = measured(
        sines([
          [-200, 0.15 * i],
          [-23, 3],
          [-200, 1],
        ]),
      );
      expect(Math.abs(short.shortTermMax + 23)).toBeLessThanOrEqual(0.1);
      const momentary = measured(
        sines([
          [-200, 0.02 * i],
          [-23, 0.4],
          [-200, 1],
        ]),
      );
      expect(Math.abs(momentary.momentaryMax + 23)).toBeLessThanOrEqual(0.1 + (i % 5 === 0 ? 0 : 0.5));
    },
  );

  test.each([
    [15, 4, 0, 0.5, -6],
    [16, 4, 45, 0.5, -6],
    [17, 6, 60, 0.5, -6],
    [18, 8, 67.5, 0.5, -6],
    [19, 4, 45, 1.41, 3],
  ])('%d: a sine of a %dth of the rate at %d° peaks where it truly does', (_n, part, degrees, amplitude, dbtp) => {
    const signal = Float32Array.from({ length: RATE }, (_, n) => {
      // Faded in, so that the onset is no step.
      const fade = Math.min(1, n / 1000, (RATE - n) / 1000);
      return fade * amplitude * Math.sin((2 * Math.PI * n) / part + (degrees * Math.PI) / 180);
    });
    const { truePeak } = measured(signal);
    expect(truePeak - dbtp).toBeLessThanOrEqual(0.2);
    expect(truePeak - dbtp).toBeGreaterThanOrEqual(-0.4);
  });
});

describe('the signals of EBU Tech 3342', () => {
  test.each<[number, Stretch[], number]>([
    [
      1,
      [
        [-20, 20],
        [-30, 20],
      ],
      10,
    ],
    [
      2,
      [
        [-20, 20],
        [-15, 20],
      ],
      5,
    ],
    [
      3,
      [
        [-40, 20],
        [-20, 20],
      ],
      20,
    ],
    [
      4,
      [
        [-50, 20],
        [-35, 20],
        [-20, 20],
        [-35, 20],
        [-50, 20],
      ],
      15,
    ],
  ])('%d reads its loudness range to 1 LU', (_n, stretches, lu) => {
    expect(Math.abs(measured(sines(stretches)).range - lu)).toBeLessThanOrEqual(1);
  });
});

test('silence is −144 LUFS, and has no range', () => {
  expect(measured(new Float32Array(5 * RATE))).toEqual({
    integrated: -144,
    momentaryMax: -144,
    shortTermMax: -144,
    range: 0,
    truePeak: -144,
  });
});

/** The true peak by its definition, sample after sample: a sinc under a Kaiser window at each quarter between two of them. */
function slowTruePeak(signal: Float32Array): number {
  const kaiser = (u: number): number => (Math.abs(u) >= 1 ? 0 : bessel(7 * Math.sqrt(1 - u * u)) / bessel(7));
  const taps = [1, 2, 3].map((quarter) => {
    const of = Array.from({ length: 24 }, (_, k) => {
      const x = k - 11 - quarter / 4;
      return (Math.sin(Math.PI * x) / (Math.PI * x)) * kaiser(x / 12);
    });
    const sum = of.reduce((a, b) => a + b);
    return of.map((tap) => tap / sum);
  });
  let highest = 0;
  for (let i = 0; i < signal.length; i++)
    for (const of of [[...Array<number>(23).fill(0), 1], ...taps])
      highest = Math.max(highest, Math.abs(of.reduce((sum, tap, k) => sum + tap * (signal[i - 23 + k] ?? 0), 0)));
  return highest;
}

test('the true peak is what its definition says, whatever the blocks are and however quiet it is between', () => {
  const sample = fc.double({ min: -1, max: 1, noNaN: true });
  fc.assert(
    fc.property(
      fc.array(sample, { minLength: 60, maxLength: 200 }),
      fc.integer({ min: 0, max: 100 }),
      fc.integer({ min: 1, max: 70 }),
      (xs, quietFrom, block) => {
        const signal = Float32Array.from(xs, (x, i) => (i > quietFrom && i < quietFrom + 60 ? x * 0.05 : x));
        const peak = new TruePeak();
        for (let at = 0; at < signal.length; at += block) peak.add(signal, at, Math.min(signal.length, at + block));
        expect(peak.highest).toBeCloseTo(slowTruePeak(signal), 12);
      },
    ),
    { numRuns: runs(40) },
  );
});
