import { describe, expect, test } from '@jest/globals';
import { Resampler, framesAtRate } from './resample.js';

const tone = (hz: number, rate: number, sec: number): Float32Array =>
  Float32Array.from({ length: Math.round(rate * sec) }, (_, n) => Math.sin((2 * Math.PI * hz * n) / rate));

function resampled(input: Float32Array, from: number, to: number, piece = 4096): Float32Array {
  const resampler = new Resampler(from, to);
  const total = framesAtRate(input.length, from, to);
  const out: number[] = [];
  for (let at = 0; at < input.length; at += piece) out.push(...resampler.push(input.subarray(at, at + piece)));
  out.push(...resampler.finish(total));
  expect(out).toHaveLength(total);
  return Float32Array.from(out);
}
/** Highest difference in dB, away from the edges where the filter reaches into the silence beside. */
function offDb(a: Float32Array, b: Float32Array, edge: number): number {
  let most = 1e-12;
  for (let n = edge; n < a.length - edge; n++) most = Math.max(most, Math.abs(a[n]! - b[n]!));
  return 20 * Math.log10(most);
}

describe('resampling', () => {
  test.each([
    [44100, 48000],
    [96000, 48000],
    [88200, 44100],
    [32000, 48000],
    [22050, 48000],
    [48000, 44100],
    [192000, 48000],
  ])('from %d to %d Hz keeps tones in time and level, to −90 dB', (from, to) => {
    for (const hz of [100, 1000, 9000]) {
      const out = resampled(tone(hz, from, 0.2), from, to);
      expect(offDb(out, tone(hz, to, 0.2), 1000)).toBeLessThan(-90);
    }
  });

  test('what the lower rate cannot hold does not fold back', () => {
    const out = resampled(tone(30000, 96000, 0.2), 96000, 48000);
    expect(offDb(out, new Float32Array(out.length), 1000)).toBeLessThan(-90);
  });

  test('comes out the same whatever the pieces', () => {
    const input = tone(440, 44100, 0.1);
    expect(resampled(input, 44100, 48000, 100)).toEqual(resampled(input, 44100, 48000, 5000));
  });
});
