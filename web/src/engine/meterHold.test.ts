import { describe, expect, test } from '@jest/globals';
import { MeterHold } from './meterHold.js';

describe('a meter', () => {
  test('keeps its highest peak standing for 1.5 s, and lets it fall 24 dB a second after that', () => {
    const meters = new MeterHold();
    meters.read('voice', [0.5, 0.25], 0);
    expect(meters.read('voice', [0.1, 0.1], 1000)).toEqual({ peaks: [0.1, 0.1], held: 0.5, clipped: false });
    expect(meters.heldAt('voice', 1500)).toBe(0.5);
    expect(20 * Math.log10(meters.heldAt('voice', 2000) / 0.5)).toBeCloseTo(-12, 6);
    expect(meters.isFalling('voice', 2000)).toBe(true);
    expect(meters.isFalling('voice', 10_000)).toBe(false);
    expect(meters.read('voice', [0.3, 0.6], 2500).held).toBe(0.6);
  });

  test('marks a channel that went over until it is cleared, and no other', () => {
    const meters = new MeterHold();
    meters.read('voice', [0.2, 1], 0);
    meters.read('fiddle', [0.999, 0], 0);
    expect(meters.read('voice', [0, 0], 60_000).clipped).toBe(true);
    expect(meters.read('fiddle', [0, 0], 60_000).clipped).toBe(false);
    meters.clear();
    expect(meters.read('voice', [0, 0], 60_001)).toEqual({ peaks: [0, 0], held: 0, clipped: false });
  });
});
