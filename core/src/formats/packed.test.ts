import { Buffer } from 'node:buffer';
import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, SHAPES, sameCurve, type Point } from '../curve/index.js';
import { applyEdit, completedEdit, type Edit } from '../edits/index.js';
import { anySong, draws, editFrom } from '../test/anyEdit.js';
import { curve, pairs } from '../test/songs.js';
import { bytesOfCurve, curveOfBytes } from './curveBytes.js';
import { readEdit } from './editDocument.js';
import { packed, unpacked } from './packed.js';
import { readSong } from './songDocument.js';
import { runs } from '../test/runs.js';

const RUNS = runs(300);
const number = fc.double({ noNaN: true, noDefaultInfinity: true });
const share = fc.double({ min: 0, max: 1, noNaN: true });
const point: fc.Arbitrary<Point> = fc
  .record({
    t: number,
    v: number,
    shape: fc.constantFrom(...SHAPES),
    bend: fc.oneof(fc.constant(0), fc.double({ min: -1, max: 1, noNaN: true })),
    part: fc.option(fc.tuple(share, share), { nil: undefined }),
    more: fc.option(fc.constantFrom({ colour: 'red' }, { by: { whom: 'Iva' } }), { nil: undefined }),
  })
  .map(({ part, bend, more, ...rest }) => {
    const isPart = part && !(part[0] === 0 && part[1] === 1);
    return { ...more, ...rest, bend: bend === 0 ? 0 : bend, ...(isPart ? { part } : {}) };
  });
const points = fc.array(point, { maxLength: 12 });

describe('a curve', () => {
  test('is its points, to the last bit: as columns, as bytes, as JSON', () => {
    fc.assert(
      fc.property(points, (list) => {
        const made = Curve.of(list);
        expect([...made]).toEqual(list);
        expect([...curveOfBytes(bytesOfCurve(made))]).toEqual(list);
        // JSON knows one zero only.
        const text = JSON.stringify(list);
        expect(JSON.stringify(made)).toBe(JSON.stringify(made.toJSON()));
        expect(JSON.parse(JSON.stringify(made))).toEqual(JSON.parse(text));
      }),
      { numRuns: RUNS },
    );
  });

  test('is the same as another where every point is', () => {
    fc.assert(
      fc.property(points, fc.nat(), (list, which) => {
        const made = Curve.of(list);
        expect(sameCurve(made, Curve.of(list))).toBe(true);
        if (!list.length) return;
        const k = which % list.length;
        const other = list.map((p, i) => (i === k ? { ...p, v: p.v + 1 || 1 } : p));
        if (other[k]!.v !== list[k]!.v) expect(sameCurve(made, Curve.of(other))).toBe(false);
        expect(sameCurve(made, made.slice(1))).toBe(false);
      }),
    );
  });

  test('of a plain ride takes 17 bytes a point; bytes of another version are refused, not guessed', () => {
    const bytes = bytesOfCurve(curve({ t: 1, v: 2, shape: 'line', bend: 0 }, { t: 2, v: 2, shape: 'hold', bend: 0 }));
    expect(bytes.length).toBe(8 + 2 * 17);
    bytes[0] = 9;
    expect(() => curveOfBytes(bytes)).toThrow('version 9');
  });

  test('made by a range of another has the points that stand there', () => {
    const ride = curve(...[1, 2, 3, 4].map((t): Point => ({ t, v: -t, shape: 'bend', bend: t / 4 })));
    expect(pairs(ride.slice(1, 3))).toEqual([
      [2, -2],
      [3, -3],
    ]);
    expect(ride.slice(2, 2)).toBe(Curve.EMPTY);
    expect(ride.slice(0)).toBe(ride);
    expect(ride.at(-1)).toMatchObject({ t: 4, bend: 1 });
    expect(ride.at(4)).toBeUndefined();
  });
});

describe('a document that is packed', () => {
  test('comes out as it went in, curves and all: any song, any edit, and what takes it back', () => {
    fc.assert(
      fc.property(fc.array(draws, { maxLength: 4 }), draws, (before, draw) => {
        const song = before.reduce((s, d) => applyEdit(s, editFrom(s, d)).song, anySong());
        const edit = editFrom(song, draw);
        const { inverse } = applyEdit(song, edit);
        expect(unpacked(packed({ song, edits: [edit, inverse] }))).toEqual({ song, edits: [edit, inverse] });
      }),
      { numRuns: RUNS },
    );
  });

  test('of very many picked points is little more than their numbers, and comes out as it went in', () => {
    const times = Array.from({ length: 5000 }, (_, i) => i / 3 - 0);
    const list = [-0, ...times.slice(1)];
    const edit = { kind: 'move', points: { 'voice/level': list, 'choir/level': [1, 2] }, by: { t: 1 } };
    const odd = { a: [...times, null], b: [...times, 'x'], c: [...times, [1]], d: Array.from({ length: 3000 }) };
    const bytes = packed({ edit, odd: [odd, curve({ t: 1, v: 2, shape: 'line', bend: 0 })] });
    expect(unpacked(packed({ edit }))).toEqual({ edit });
    expect(unpacked(bytes)).toEqual({ edit, odd: [{ ...odd, d: odd.d.fill(null) }, expect.any(Curve)] });
    expect(packed({ edit }).length).toBeLessThan(8 * list.length + 300);
    // As a server has them: bytes that stand anywhere in a larger piece of memory, and share it.
    for (const at of [1, 8]) {
      const pool = Buffer.alloc(at + bytes.length);
      pool.set(bytes, at);
      expect(unpacked(pool.subarray(at))).toEqual(unpacked(bytes));
    }
    const cut = packed({ edit });
    for (const end of [cut.length - 1, cut.length - 8, cut.length - 8 * list.length])
      expect(() => unpacked(cut.slice(0, end))).toThrow(RangeError);
    new DataView(cut.buffer).setFloat64(cut.length - 16, NaN, true);
    expect(() => unpacked(cut)).toThrow('numbers that are none');
  });

  test('is checked like one that comes as JSON, and says the same', () => {
    fc.assert(
      fc.property(draws, (draw) => {
        const song = anySong();
        const edit = editFrom(song, draw);
        const whole = unpacked(packed(edit)) as Edit;
        const listed = JSON.parse(JSON.stringify(edit)) as Edit;
        expect(readEdit(song, whole)).toEqual(readEdit(song, listed));
        if (readEdit(song, whole).ok) expect(completedEdit(song, listed)).toEqual(completedEdit(song, whole));
      }),
      { numRuns: RUNS },
    );
  });

  test('that somebody has changed on its way is refused, or is a document as any: nothing else is reached', () => {
    const bytes = packed({ song: { ...anySong(), note: { __proto__: null, ways: [] } } });
    let refused = 0;
    fc.assert(
      fc.property(fc.array(fc.tuple(fc.nat(), fc.nat(255)), { maxLength: 6 }), fc.nat(), (changes, cut) => {
        const other = bytes.slice(0, cut % 3 === 0 ? cut % bytes.length : bytes.length);
        for (const [at, byte] of changes) other[at % (other.length || 1)] = byte;
        try {
          const document = unpacked(other) as { song?: unknown } | null;
          const read = readSong(document?.song);
          if (read.ok) expect(readSong(JSON.parse(JSON.stringify(read.value)))).toMatchObject({ ok: true });
        } catch (error) {
          refused++;
          expect([RangeError, SyntaxError]).toContain((error as Error).constructor);
        }
      }),
      { numRuns: RUNS },
    );
    expect(refused).toBeGreaterThan(RUNS / 100);
    expect(Object.prototype).not.toHaveProperty('points');
  });

  test.each([
    ['no place', { bare: { a: [] }, ways: [['b']] }],
    ['a place with something in it', { bare: { a: [1] }, ways: [['a']] }],
    ['a prototype', { bare: {}, ways: [['__proto__', 'points']] }],
    ['a way that is none', { bare: { a: [] }, ways: [null] }],
  ])('whose curve has %s is refused', (_what, json) => {
    const text = new Uint8Array([...JSON.stringify(json)].map((letter) => letter.charCodeAt(0)));
    const piece = bytesOfCurve(curve({ t: 1, v: 2, shape: 'line', bend: 0 }));
    const bytes = new Uint8Array(8 + text.length + 4 + piece.length);
    const view = new DataView(bytes.buffer);
    view.setUint32(0, 0x31504853, true);
    view.setUint32(4, text.length, true);
    bytes.set(text, 8);
    view.setUint32(8 + text.length, piece.length, true);
    bytes.set(piece, 12 + text.length);
    expect(() => unpacked(bytes)).toThrow(RangeError);
  });
});
