import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import wabt from 'wabt';
import { PlainLoops, mixLoops, type MixLoops } from './mixLoops.js';
import { SIMD_CODE } from './simdCode.js';
import { runs } from '../test/runs.js';
import { firstOther } from '../test/often.js';

const BLOCK = 256;
const TARGETS = 3;
const gain = fc.double({ min: -4, max: 4, noNaN: true });
const slope = fc.double({ min: -1e-2, max: 1e-2, noNaN: true });
const sides = fc.record({ gainLeft: gain, slopeLeft: slope, gainRight: gain, slopeRight: slope });
const stretch = fc
  .tuple(fc.nat(BLOCK), fc.nat(BLOCK), fc.integer({ min: -64, max: 64 }))
  .map(([a, b, offset]) => ({ from: Math.min(a, b), to: Math.max(a, b), offset }));

/** Both sets of loops with the same noise in them. */
function filled(seed: number): MixLoops[] {
  return [new PlainLoops(TARGETS, BLOCK), mixLoops(TARGETS, BLOCK)].map((loops) => {
    let state = seed;
    const noise = (): number => ((state = (Math.imul(state, 1664525) + 1013904223) | 0) / 2 ** 31) * 1.5;
    for (const input of [loops.inputLeft, loops.inputRight]) for (let k = 0; k < BLOCK; k++) input[k] = noise();
    for (const sum of [...loops.lefts, ...loops.rights]) for (let k = 0; k < BLOCK; k++) sum[k] = noise();
    return loops;
  });
}

describe('the vector loops of the mix', () => {
  test('are what this machine uses, and are made from their text', async () => {
    expect(mixLoops(1, 16).constructor.name).toBe('VectorLoops');
    const text = readFileSync(new URL('./simdLoops.wat', import.meta.url), 'utf8');
    const { buffer } = (await wabt()).parseWat('simdLoops.wat', text, { simd: true }).toBinary({});
    expect(SIMD_CODE).toBe(btoa(String.fromCharCode(...buffer)));
  });

  test('give the same as the plain ones to the last bit, over any stretch, and touch nothing beside it', () => {
    fc.assert(
      fc.property(fc.nat(), fc.nat(TARGETS - 1), sides, stretch, fc.boolean(), (seed, target, gains, at, isStereo) => {
        const [plain, vector] = filled(seed) as [MixLoops, MixLoops];
        for (const loops of [plain, vector])
          if (isStereo) loops.addStereo(target, gains, at.offset, at.from, at.to);
          else loops.addMono(target, gains, at.offset, at.from, at.to);
        for (let i = 0; i < TARGETS; i++) {
          expect(firstOther(vector.lefts[i]!, plain.lefts[i]!)).toBe(-1);
          expect(firstOther(vector.rights[i]!, plain.rights[i]!)).toBe(-1);
        }
        for (const side of [0, 1] as const)
          expect(vector.peak(side, gains.gainLeft, gains.slopeLeft, at.offset, at.from, at.to)).toBe(
            plain.peak(side, gains.gainLeft, gains.slopeLeft, at.offset, at.from, at.to),
          );
      }),
      { numRuns: runs(300) },
    );
  });

  test('are plain where a mix needs more room than there is, and the others stay where they are', () => {
    const loops = mixLoops(1, 16);
    const large = mixLoops(400, 8192);
    expect(large.constructor.name).toBe('PlainLoops');
    for (const one of [loops, large]) {
      one.inputLeft.fill(0.5);
      one.lefts[0]!.fill(1);
      one.rights[0]!.fill(1);
      one.addMono(0, { gainLeft: 1, slopeLeft: 0.25, gainRight: 0, slopeRight: 0 }, 0, 2, 5);
      expect([...one.lefts[0]!.subarray(0, 6)]).toEqual([1, 1, 1.75, 1.875, 2, 1]);
      expect([...one.rights[0]!.subarray(0, 6)]).toEqual([1, 1, 1, 1, 1, 1]);
    }
  });
});
