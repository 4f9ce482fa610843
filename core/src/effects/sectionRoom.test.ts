import { readFileSync } from 'node:fs';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import wabt from 'wabt';
import { IN_THREAD, threadMemory } from '../units/index.js';
import { GRID_FRAMES } from './kernel.js';
import { EQUALISER_LIST, PlainRoom, listInRoom, sectionRoom, type SectionRoom } from './sectionRoom.js';
import { SECTIONS_CODE } from './sectionsCode.js';
import { BAND_SHAPES, RUN, SECTION, bandInto } from './stateVariable.js';
import { runs } from '../test/runs.js';

const some = (n: number, most: number) =>
  fc.array(fc.double({ min: -most, max: most, noNaN: true }), { minLength: n, maxLength: n });
const TWO = 2 * SECTION.length;
/** Where what stands in a list of a pair. */
const [STARTS, SLOPES, RUNS] = [0, TWO, 2 * TWO];
/** Where an equaliser's has what its numbers end with. */
const ENDS = 48;
/** What a list begins with: numbers to begin with, slopes, states, numbers as they are. */
const pair = fc
  .tuple(some(TWO, 0.9), fc.oneof(some(TWO, 1e-2), some(TWO, 0)), some(RUN.numbers, 1), some(TWO, 0.9))
  .map((parts) => parts.flat());

/** Where a mix has its sound, and the sound there. */
const PLACE = IN_THREAD.mix;
const there = new Float32Array(threadMemory()!.buffer, PLACE, 2 * GRID_FRAMES);

type Given = { readonly numbers: number[]; readonly samples: number[]; readonly at: number; readonly count: number };

/** What a room makes of a sound, from a sample on, and what it leaves in its list. */
function left(
  room: SectionRoom,
  [sound, place]: readonly [Float32Array, number],
  begun: boolean,
  { numbers, samples, at, count }: Given,
): (Float32Array | Float64Array)[] {
  const list = room.list()!;
  list.numbers.set(numbers);
  sound.set(samples);
  room.bring(sound, place, at, count);
  room.two(list, RUNS, STARTS, SLOPES, begun, count);
  room.take(sound, place, at, count);
  return [sound.slice(), list.numbers.slice()];
}

describe('two sections in vectors', () => {
  test('are what this machine uses, and are made from their text', async () => {
    expect(sectionRoom().constructor.name).toBe('VectorRoom');
    const text = readFileSync(new URL('./sections.wat', import.meta.url), 'utf8');
    const { buffer } = (await wabt()).parseWat('sections.wat', text, { simd: true }).toBinary({});
    expect(SECTIONS_CODE).toBe(btoa(String.fromCharCode(...buffer)));
  });

  test('give the same as one after the other to the last bit, for any numbers and any count, wherever the sound is, and touch nothing beside it', () => {
    const given = fc.record({
      numbers: pair,
      samples: some(2 * GRID_FRAMES, 2),
      at: fc.nat(GRID_FRAMES),
      count: fc.integer({ min: 1, max: GRID_FRAMES }),
    });
    fc.assert(
      fc.property(given, fc.boolean(), (of, begun) => {
        const elsewhere = (): [Float32Array, number] => [new Float32Array(of.samples.length), -1];
        const plain = left(new PlainRoom(), elsewhere(), begun, of);
        expect(left(sectionRoom(), elsewhere(), begun, of)).toEqual(plain);
        expect(left(sectionRoom(), [there, PLACE], begun, of)).toEqual(plain);
      }),
      { numRuns: runs(300) },
    );
  });

  test('work out the bands of an equaliser as plain numbers do, to the last bit, whatever their shapes and values', () => {
    const band = fc.tuple(
      fc.double({ min: 20, max: 20_000, noNaN: true }),
      fc.oneof(fc.double({ min: -18, max: 18, noNaN: true }), fc.constant(0)),
      fc.double({ min: 0.1, max: 10, noNaN: true }),
    );
    const bands = fc.array(fc.tuple(fc.constantFrom(...BAND_SHAPES), band), { minLength: 4, maxLength: 4 });
    const rate = fc.constantFrom(44_100, 48_000, 96_000, 32_000);
    fc.assert(
      fc.property(bands, some(24, 1), rate, fc.integer({ min: 1, max: GRID_FRAMES }), (four, before, hz, frames) => {
        const list = sectionRoom().list()!;
        const { numbers } = list;
        const values = Float64Array.from(four.flatMap(([, of]) => of));
        numbers.set(before, ENDS);
        numbers.set(values, EQUALISER_LIST.values);
        for (const [i, [shape]] of four.entries()) numbers[EQUALISER_LIST.shapes + i] = BAND_SHAPES.indexOf(shape);
        numbers[EQUALISER_LIST.sampleRate] = hz;
        sectionRoom().lead!(list, frames);
        const ends = new Float64Array(24);
        for (const [i, [shape]] of four.entries()) bandInto(ends, SECTION.length * i, shape, values, 3 * i, hz);
        expect(numbers.slice(ENDS, ENDS + 24)).toEqual(ends);
        expect([...numbers.subarray(0, 24)]).toEqual(before);
        expect(numbers.slice(24, ENDS)).toEqual(ends.map((end, i) => (end - before[i]!) / frames));
      }),
      { numRuns: runs(300) },
    );
  });

  test('where there is no more room for them, they go through plain numbers', () => {
    const all = Array.from({ length: 4000 }, () => listInRoom());
    const rooms = all.map(({ room }) => room);
    expect(rooms[0]).toBe(sectionRoom());
    expect(rooms.at(-1)!.constructor).toBe(PlainRoom);
    expect(new Set(all.map(({ list }) => list.numbers)).size).toBe(all.length);
  });
});
