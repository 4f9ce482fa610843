import { describe, expect, test } from '@jest/globals';
import { valueOf } from '../units/index.js';
import {
  RATE,
  frames,
  impulse,
  largestStep,
  magnitudeDb,
  silence,
  sine,
  through,
  type Values,
} from '../test/effects.js';
import { Compressor, EFFECTS, compressedLevel, defaultsOf } from './index.js';
import { LevelWindow } from './levelWindow.js';

const steady = (values: Values) => () => values;
const db = (gain: number): number => 20 * Math.log10(gain);
const peak = (sound: Float32Array, from = 0, to = sound.length): number =>
  sound.subarray(from, to).reduce((most, x) => Math.max(most, Math.abs(x)), 0);

describe('the compressor', () => {
  /** The static curve of the paper, level in and level out in dB. */
  const curve = (x: number, { threshold, ratio, knee }: { threshold: number; ratio: number; knee: number }): number => {
    const over = x - threshold;
    if (2 * over < -knee) return x;
    if (2 * Math.abs(over) <= knee && knee > 0) return x + ((1 / ratio - 1) * (over + knee / 2) ** 2) / (2 * knee);
    return threshold + over / ratio;
  };

  test.each([100, 440, 1234, 5000])('holds a steady sine of %d Hz within 0.1 dB of its static curve', (hz) => {
    for (const level of [-40, -26, -22, -20, -17, -12, -6, 0]) {
      const set = { threshold: -20, ratio: 4, knee: 8 };
      const left = sine(hz, 1, 10 ** (level / 20));
      const out = through('compressor', { left, values: steady({ ...set, release: 500, makeup: 3 }) }).left;
      const gain = db(peak(out, frames(0.8)) / peak(left, frames(0.8)));
      expect(Math.abs(gain - (curve(level, set) - level + 3))).toBeLessThan(0.1);
      expect(compressedLevel(level, { ...set, makeup: 3, mix: 1 })).toBeCloseTo(curve(level, set) + 3, 9);
    }
  });

  test('says what becomes of a steady level as it does it, dry sound mixed in', () => {
    for (const mix of [0, 0.35, 0.8]) {
      const set = { threshold: -24, ratio: 8, knee: 3, makeup: 2, mix };
      const left = sine(500, 1, 10 ** (-6 / 20));
      const out = through('compressor', { left, values: steady({ ...set, release: 500 }) }).left;
      expect(Math.abs(db(peak(out, frames(0.8))) - compressedLevel(-6, set))).toBeLessThan(0.1);
    }
  });

  /** How far it is held down, in dB, at every sample that can tell. */
  function downDb(values: Values, from: number, to: number): { readonly at: number; readonly down: number }[] {
    const left = Float32Array.from(
      { length: frames(6) },
      (_, n) => (n < frames(3) ? from : to) * Math.sin((2 * Math.PI * 500 * n) / RATE),
    );
    const out = through('compressor', { left, values: steady({ threshold: -30, ratio: 4, knee: 0, ...values }) }).left;
    return [...left].flatMap((x, n) =>
      Math.abs(x) > 1e-4 && n >= frames(3) ? [{ at: (n - frames(3)) / RATE, down: -db(out[n]! / x) }] : [],
    );
  }
  const wayMade = (values: Values, from: number, to: number): number => {
    const way = downDb(values, from, to);
    const [first, last] = [way[0]!.down, way.at(-1)!.down];
    return way.find(({ down }) => (down - first) / (last - first) >= 1 - 1 / Math.E)!.at;
  };
  test.each([5, 20, 80])('makes 63 %% of the way down in an attack of %d ms, within 10 %%', (attack) => {
    expect(Math.abs(wayMade({ attack }, 0.01, 0.5) * 1000 - attack)).toBeLessThan(attack / 10);
  });
  test.each([50, 120, 600])('makes 63 %% of the way back in a release of %d ms, within 10 %%', (release) => {
    expect(Math.abs(wayMade({ release, attack: 1 }, 0.5, 0.05) * 1000 - release)).toBeLessThan(release / 10);
  });

  test('listens to its key where it has one; a mix of nothing leaves all as it is; what it holds down can be seen', () => {
    const left = sine(440, 0.5, 0.01);
    const kernels: Compressor[] = [];
    const loud = Float64Array.from(sine(440, 0.5));
    const values = steady({ threshold: -20, ratio: 20, knee: 0, attack: 1 });
    const begun = (kernel: unknown): void => {
      kernels.push(kernel as Compressor);
      Object.assign(kernel as object, { keyLeft: loud, keyRight: loud });
    };
    const out = through('compressor', { left, values, begun }).left;
    expect(db(peak(out, 12_000) / 0.01)).toBeCloseTo(-19, 1);
    expect(kernels[0]!.shown[0]).toBeCloseTo(19, 1);
    expect(through('compressor', { left: sine(440, 0.2), values: steady({ threshold: -40, mix: 0 }) }).left).toEqual(
      sine(440, 0.2),
    );
  });
});

describe('the delay', () => {
  test.each([1, 10, 33.3, 250, 1999.99])('repeats %d ms after, to the frame', (time) => {
    const { left } = through('delay', {
      left: impulse(2.1),
      values: steady({ time, mix: 1, feedback: 0, tone: 20_000 }),
    });
    const first = left.findIndex((x) => Math.abs(x) > 0.3);
    expect(Math.abs(first - (time / 1000) * RATE)).toBeLessThanOrEqual(1);
  });

  test('every repeat goes through the tone once more, and is fainter by the feedback', () => {
    const { left } = through('delay', {
      left: impulse(1),
      values: steady({ time: 100, mix: 1, feedback: 0.5, tone: 2000 }),
    });
    const repeat = (n: number): Float32Array => left.slice(frames(0.1 * n) - 10, frames(0.1 * n) + frames(0.05));
    const loss = (hz: number, n: number): number => magnitudeDb(repeat(n), hz) - magnitudeDb(repeat(n), 20);
    expect(loss(2000, 1)).toBeCloseTo(-3, 0);
    expect(loss(2000, 3)).toBeCloseTo(3 * loss(2000, 1), 1);
    expect(magnitudeDb(repeat(2), 20) - magnitudeDb(repeat(1), 20)).toBeCloseTo(db(0.5), 1);
  });

  test('moved while it sounds it goes there at half a second a second, bending like a tape', () => {
    const left = sine(1000, 2);
    const values = (frame: number): Values => ({
      mix: 1,
      feedback: 0,
      tone: 20_000,
      time: frame < frames(1) ? 100 : 300,
    });
    const { left: out } = through('delay', { left, values });
    const ups = [...out].flatMap((x, n) => (n > 0 && out[n - 1]! < 0 && x >= 0 ? [n] : []));
    const hz = (from: number, to: number): number => {
      const inside = ups.filter((n) => n >= frames(from) && n < frames(to));
      return ((inside.length - 1) * RATE) / (inside.at(-1)! - inside[0]!);
    };
    expect(hz(0.5, 0.99)).toBeCloseTo(1000, 0);
    // 200 ms at half a second a second take 400 ms.
    expect(hz(1.02, 1.38)).toBeCloseTo(500, -1);
    expect(hz(1.45, 2)).toBeCloseTo(1000, 0);
  });
});

describe('the reverb', () => {
  /** Seconds to −60 dB in the octave around 1 kHz, by Schroeder’s backward integration from −5 to −35 dB. */
  function decayOf(sound: Float32Array): number {
    const octave = { settings: { shape: 'band', slope: 24 }, values: steady({ cutoff: 1000, resonance: 1.414 }) };
    const { left } = through('filter', { left: sound, ...octave });
    const energy = new Float64Array(left.length + 1);
    for (let n = left.length - 1; n >= 0; n--) energy[n] = energy[n + 1]! + left[n]! ** 2;
    const when = (level: number): number => energy.findIndex((e) => 10 * Math.log10(e / energy[0]!) <= level) / RATE;
    return 2 * (when(-35) - when(-5));
  }
  test.each([
    [0.2, 6000],
    [0.5, 20_000],
    [1, 12_000],
    [2, 6000],
    [6, 8000],
    [12, 20_000],
  ])('falls by 60 dB in a decay of %d s within 15 %% with its damping at %d Hz', (decay, damping) => {
    const { left } = through('reverb', { left: impulse(decay + 0.5), values: steady({ decay, damping, mix: 1 }) });
    expect(Math.abs(decayOf(left) / decay - 1)).toBeLessThan(0.15);
  });

  test('is stereo from mono, begins after its pause, and rings on after its input', () => {
    const { left, right } = through('reverb', { left: impulse(1), values: steady({ before: 50, mix: 1 }) });
    const first = left.findIndex((x) => Math.abs(x) > 1e-6);
    expect(first).toBeGreaterThanOrEqual(frames(0.05));
    expect(first).toBeLessThan(frames(0.05 + 0.08));
    const dot = (a: Float32Array, b: Float32Array): number => a.reduce((sum, x, n) => sum + x * b[n]!, 0);
    expect(Math.abs(dot(left, right)) / Math.sqrt(dot(left, left) * dot(right, right))).toBeLessThan(0.3);
    expect(peak(left, frames(0.9))).toBeGreaterThan(1e-4);
  });
});

describe('the chorus', () => {
  /** Sent through with a ramp, every side gives back how far it reads. */
  const ramp = Float32Array.from({ length: frames(1.5) }, (_, n) => n / 1024);
  const backOf = (sound: Float32Array): number[] => [...sound].map((x, n) => ((n - x * 1024) / RATE) * 1000);

  test('sways about its delay by its depth, the sides a quarter turn apart, never nearer than nothing', () => {
    const { left, right } = through('chorus', { left: ramp, values: steady({ rate: 1, depth: 2, delay: 12, mix: 1 }) });
    const [l, r] = [backOf(left), backOf(right)];
    for (const turn of [0.1, 0.25, 0.4, 0.75, 0.9]) {
      expect(l[frames(turn)]).toBeCloseTo(12 + 2 * Math.sin(2 * Math.PI * turn), 1);
      expect(r[frames(turn)]).toBeCloseTo(12 + 2 * Math.cos(2 * Math.PI * turn), 1);
    }
    const near = through('chorus', { left: ramp, values: steady({ rate: 1, depth: 10, delay: 0.5, mix: 1 }) });
    expect(Math.min(...backOf(near.left).slice(100))).toBeGreaterThan(0);
  });

  test('its phase counts from the song’s start', () => {
    const values = steady({ rate: 0.7, depth: 2, delay: 12, mix: 1 });
    const whole = backOf(through('chorus', { left: ramp, values }).left);
    const begun = (kernel: { readonly sum: Float64Array; clear(): void }): void => {
      kernel.sum[0] = 0.7 * 0.9;
      kernel.clear();
    };
    const late = backOf(through('chorus', { left: ramp, values, begun }).left);
    for (const sec of [0.1, 0.3, 0.5]) expect(late[frames(sec)]).toBeCloseTo(whole[frames(0.9 + sec)]!, 1);
  });
});

test('the largest of the last 5 ms is found for hours: frames are counted round', () => {
  const window = new LevelWindow(240);
  const next = random(7);
  const magnitudes = Float64Array.from({ length: 6000 }, () => next() ** 8);
  const wrong = [...magnitudes.keys()].filter((n) => {
    window.take(magnitudes, n);
    return window.largest[0] !== Math.max(...magnitudes.subarray(Math.max(0, n - 239), n + 1));
  });
  expect(wrong).toEqual([]);
});

describe('the reducer', () => {
  test.each([1, 2, 3.5, 5, 8])(
    'leaves at most two to the %d values of a full-scale sine, silence among them',
    (bits) => {
      const { left } = through('reducer', { left: sine(101, 1), values: steady({ bits }) });
      const values = new Set(left);
      expect(values.size).toBeLessThanOrEqual(2 ** bits);
      expect(values.size).toBeGreaterThan(2 ** bits - 2);
      expect(values.has(0)).toBe(true);
    },
  );

  test('holds each sample as long as its rate says', () => {
    const { left } = through('reducer', { left: sine(101, 0.1), values: steady({ rate: 4800 }) });
    const changes = [...left].flatMap((x, n) => (n > 0 && x !== left[n - 1] ? [n] : []));
    expect(changes.every((n) => n % 10 === 0)).toBe(true);
    expect(through('reducer', { left: silence(0.1), values: steady({ bits: 1, rate: 500 }) }).left).toEqual(
      silence(0.1),
    );
  });
});

/** Numbers that look random and are the same every time, from 0 to 1. */
function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}

/**
 * Where every parameter jumps anywhere at every line of the grid, no step between neighbouring samples is larger than the largest of
 * any of those settings held still, and so much of the largest magnitude heard.
 */
const OVER: Record<string, number> = {
  equaliser: 0.1,
  filter: 0.25,
  compressor: 0.05,
  delay: 0.05,
  reverb: 0.05,
  chorus: 0.15,
  reducer: 0.05,
};

describe('no effect clicks, however fast its parameters are ridden', () => {
  test.each([...EFFECTS.keys()])('%s', (name) => {
    const effect = EFFECTS.get(name)!;
    const params = effect.params(defaultsOf(effect));
    const next = random(7);
    const sets = Array.from({ length: 16 }, () =>
      Object.fromEntries(params.map(({ key, scale }) => [key, valueOf(scale.law, next())])),
    );
    const left = sine(330, 0.5, 0.5);
    const hold = sets.map((set) => through(name, { left, values: steady(set) }).left);
    const calm = Math.max(...hold.map((sound) => largestStep(sound)));
    const ridden = through(name, { left, values: (frame) => sets[Math.floor(frame / 64) % sets.length]! }).left;
    const over = (largestStep(ridden) - calm) / Math.max(peak(ridden), ...hold.map((sound) => peak(sound)));
    expect(over).toBeLessThan(OVER[name]!);
    expect(ridden.every(Number.isFinite)).toBe(true);
  });

  test.each([...EFFECTS.keys()])('%s sounds the same whatever the blocks are', (name) => {
    const left = sine(330, 0.2, 0.5);
    const effect = EFFECTS.get(name)!;
    const next = random(3);
    const sets = Array.from({ length: 20 }, () =>
      Object.fromEntries(effect.params(defaultsOf(effect)).map(({ key, scale }) => [key, valueOf(scale.law, next())])),
    );
    const values = (frame: number): Values => sets[Math.floor(frame / 640) % sets.length]!;
    expect(through(name, { left, values, block: 17 })).toEqual(through(name, { left, values }));
  });
});
