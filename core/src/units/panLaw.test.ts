import { expect, test } from '@jest/globals';
import { leftBalanceGain, leftGain, PAN_LAWS } from './panLaw.js';
import { dbOfGain } from './unit.js';

test.each(PAN_LAWS)('a mono source loses %f dB at the centre and nothing at its side', (law) => {
  expect(dbOfGain(leftGain(law, 0))).toBeCloseTo(-law, 1);
  expect(leftGain(law, -1)).toBeCloseTo(1, 12);
  expect(leftGain(law, 1)).toBe(0);
});

test('equal power keeps L² + R² at one, equal amplitude L + R', () => {
  for (const p of [-1, -0.6, -0.1, 0, 0.35, 0.9]) {
    expect(leftGain(3, p) ** 2 + leftGain(3, -p) ** 2).toBeCloseTo(1, 12);
    expect(leftGain(6, p) + leftGain(6, -p)).toBeCloseTo(1, 12);
    expect(leftGain(4.5, p) ** 2).toBeCloseTo(leftGain(3, p) * leftGain(6, p), 12);
  }
});

test('a stereo source is balanced: unity at the centre and on the side it moves to', () => {
  for (const law of PAN_LAWS) {
    expect(leftBalanceGain(law, 0)).toBe(1);
    expect(leftBalanceGain(law, -0.7)).toBe(1);
    expect(leftBalanceGain(law, 0.5)).toBeCloseTo(leftGain(law, 0.5) / leftGain(law, 0), 12);
    expect(leftBalanceGain(law, 1)).toBe(0);
  }
});
