import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  Curve,
  holdPoint,
  linePoint,
  thinRun,
  valueArriving,
  valueAt,
  type Point,
  type Range,
} from '../../curve/index.js';
import { readEdit } from '../../formats/index.js';
import { laneOf, type Song } from '../../song/index.js';
import { FOOT, curves, expectNear, share } from '../../test/curves.js';
import { curve, pairs, testSong } from '../../test/songs.js';
import { LEVEL_LAW, PAN_LAW, TRIM_LAW, clamp, travelOf, valueOf } from '../../units/index.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';
import { runs } from '../../test/runs.js';
import { expectWithin } from '../../test/often.js';

const LEVEL = 'voice/level';
const OTHER = 'fiddle/level';
const withLevel = (points: Iterable<Point>, parts: Parameters<typeof testSong>[0] = {}): Song =>
  testSong({ ...parts, lanes: { [LEVEL]: { rest: -9, points }, ...parts.lanes } });
/** Where a level stands on its throw. */
const at = (song: Song, t: number, id = LEVEL): number => {
  const { points, rest } = laneOf(song, id);
  return travelOf(LEVEL_LAW, valueAt(points, LEVEL_LAW, rest, t));
};
const arriving = (song: Song, t: number): number => {
  const { points, rest } = laneOf(song, LEVEL);
  return travelOf(LEVEL_LAW, valueArriving(points, LEVEL_LAW, rest, t));
};
const ranges = fc.tuple(share, share).map(([a, b]): Range => [20 * a, 20 * a + 0.5 + 20 * b]);
const travel = (x: number): number => valueOf(LEVEL_LAW, x);
const sentenceOf = (song: Song, edit: unknown): string => {
  const read = readEdit(song, edit);
  return read.ok ? 'taken' : read.sentence;
};

/** Edits of a range of the voice's level. */
const ranged = (range: Range, x: number): Edit[] => [
  { kind: 'clear', controls: [LEVEL], range },
  { kind: 'place', values: { [LEVEL]: travel(x) }, range, edge: 2 * x },
  { kind: 'ramp', values: { [LEVEL]: travel(x) }, range, shape: 's', bend: 0.5, after: 'resume' },
  { kind: 'ramp', values: { [LEVEL]: travel(x) }, range, towards: 'old' },
  { kind: 'copy', from: LEVEL, range: [range[0] / 2, range[0] / 2 + range[1] - range[0]], to: LEVEL, at: range[0] },
  { kind: 'shape', control: LEVEL, range, wave: 'sine', perBeat: 0.2 + x, depth: 0.4, centre: x },
  { kind: 'thin', controls: [LEVEL], range, tolerance: 0.05 },
  {
    kind: 'draw',
    pieces: [{ control: LEVEL, layer: 'base', span: range, points: curve(linePoint(range[0], travel(x))) }],
  },
];

test('an edit of a range leaves the outside as it was, points and values, and is taken back', () => {
  fc.assert(
    fc.property(
      curves,
      ranges,
      share,
      fc.array(share, { minLength: 12, maxLength: 12 }),
      (points, range, x, shares) => {
        const before = withLevel(points);
        const was = [...laneOf(before, LEVEL).points];
        for (const edit of ranged(range, x)) {
          const { song, inverse, changed } = applyEdit(before, edit);
          const is = [...laneOf(song, LEVEL).points];
          const isOut = ({ t }: Point): boolean => t < range[0] - 1e-9 || t > range[1] + 1e-9;
          const bare = ({ t, v, shape }: Point) => ({ t, v, shape });
          if (was.length) expect(is.filter(isOut).map(bare)).toEqual(was.filter(isOut).map(bare));
          for (const t of shares.map((s) => 50 * s))
            if (t < range[0] - 1e-9 || t >= range[1] + 1e-9) expectNear(at(song, t), at(before, t));
          expect(changed).toEqual(inverse ? [LEVEL] : []);
          if (inverse) expect(applyEdit(song, inverse).song).toEqual(before);
        }
      },
    ),
    { numRuns: runs(300) },
  );
});

describe('clearing', () => {
  test('goes straight between the shoulders of a range', () => {
    fc.assert(
      fc.property(curves, ranges, share, (points, range, s) => {
        const before = withLevel(points);
        const { song } = applyEdit(before, { kind: 'clear', controls: [LEVEL], range });
        const [a, b] = range;
        const [from, to] = points.length ? [arriving(before, a), at(before, b)] : [at(before, a), at(before, b)];
        const t = a + (b - a) * clamp(s, 0.001, 0.999);
        expectNear(at(song, t), from + ((to - from) * (t - a)) / (b - a), FOOT);
      }),
      { numRuns: runs(300) },
    );
  });

  test('takes away a whole curve, or points by their times, and finds nothing where nothing stands', () => {
    const song = withLevel([linePoint(1, -9), linePoint(4, -3), linePoint(6, -12), linePoint(9, -9)]);
    const all = applyEdit(song, { kind: 'clear', controls: [LEVEL, OTHER] });
    expect(all.changed).toEqual([LEVEL]);
    expect(laneOf(all.song, LEVEL).points).toBe(Curve.EMPTY);
    const some = applyEdit(song, { kind: 'clear', controls: [LEVEL], points: { [LEVEL]: [4, 6] } }).song;
    expect(pairs(laneOf(some, LEVEL).points)).toEqual([
      [1, -9],
      [9, -9],
    ]);
    expect(applyEdit(some, { kind: 'clear', controls: [LEVEL], range: [2, 8] }).song).toBe(some);
    expect(sentenceOf(song, { kind: 'clear', controls: [LEVEL], points: { [OTHER]: [4] } })).toBe(
      'Points of fiddle/level are given, which is not among the controls.',
    );
    expect(sentenceOf(song, { kind: 'clear', controls: [LEVEL], range: [1, 2], points: {} })).toBe(
      'Points to clear are given by a range or by their times, not by both.',
    );
  });
});

describe('moving', () => {
  const song = withLevel(
    [linePoint(1, travel(0.2)), linePoint(4, travel(0.3)), linePoint(6, travel(0.6)), linePoint(9, travel(0.2))],
    { lanes: { [OTHER]: { points: [linePoint(5, travel(0.9)), linePoint(8, travel(0.5))] } } },
  );
  const move = (by: { t?: number; travel?: number }, controls = [LEVEL], range: Range = [4, 7]): Edit => ({
    kind: 'move',
    controls,
    range,
    by,
  });
  const placesAfter = (edit: Edit, id = LEVEL, of = song): number[][] =>
    [...laneOf(applyEdit(of, edit).song, id).points].map(({ t, v }) => [
      t,
      Math.round(1e9 * travelOf(LEVEL_LAW, v)) / 1e9,
    ]);

  test('takes points in a range by equal time and travel, no shoulders made', () => {
    expect(placesAfter(move({ t: 0.5, travel: 0.1 }))).toEqual([
      [1, 0.2],
      [4.5, 0.4],
      [6.5, 0.7],
      [9, 0.2],
    ]);
  });

  test('stops all where the first meets one that stays, the song’s start, or an end of the throw; time and travel apart', () => {
    expect(placesAfter(move({ t: 20, travel: 0.9 })).slice(1, 3)).toEqual([
      [7, 0.7],
      [9, 1],
    ]);
    expect(placesAfter(move({ t: -20 }))[1]).toEqual([1, 0.3]);
    expect(placesAfter(move({ t: -20 }, [LEVEL], [0, 5]))[0]![0]).toBe(0);
    // The fiddle has a tenth of its throw left: so the voice goes no further either.
    expect(placesAfter(move({ travel: 0.4 }, [LEVEL, OTHER])).map(([, x]) => x)).toEqual([0.2, 0.4, 0.7, 0.2]);
    // A lane that is safe neither goes nor holds up the other.
    const safe = applyEdit(song, { kind: 'guard', control: OTHER, changes: { safe: true } }).song;
    expect(placesAfter(move({ travel: 0.4 }, [LEVEL, OTHER]), LEVEL, safe)[1]).toEqual([4, 0.7]);
  });

  test('comes no nearer than 1 ms where two stand at one time', () => {
    const stepped = withLevel([linePoint(1, -3), linePoint(4, -6), linePoint(4, -9), linePoint(8, -9)]);
    expect(placesAfter(move({ t: 9 }, [LEVEL], [0, 2]), LEVEL, stepped)[0]![0]).toBeCloseTo(3.999, 9);
    // And a step that moves comes no nearer to one that stands alone.
    const late = placesAfter(move({ t: 9 }, [LEVEL], [3, 5]), LEVEL, stepped).map(([t]) => t!);
    [1, 7.999, 7.999, 8].forEach((t, i) => expectNear(late[i]!, t));
  });

  test('moved there and back is where it was; points never change their order, nor go', () => {
    fc.assert(
      fc.property(curves, ranges, fc.double({ min: -8, max: 8, noNaN: true }), (points, range, dt) => {
        const before = withLevel(points);
        const edit: Edit = { kind: 'move', controls: [LEVEL], range, by: { t: dt, travel: 0 } };
        const there = applyEdit(before, edit).song;
        const [was, is] = [laneOf(before, LEVEL).points, laneOf(there, LEVEL).points];
        expect(is.length).toBe(was.length);
        expect([...is.v]).toEqual([...was.v]);
        expect(sentenceOf(there, { kind: 'points', control: LEVEL, remove: [], add: [] })).toBe('taken');
        expect(readEdit(there, { kind: 'lanes', lanes: { [LEVEL]: laneOf(there, LEVEL) } }).ok).toBe(true);
        const stay = [...was.t].filter((t, i) => t === is.t[i]);
        const far = is.t.reduce((most, t, i) => Math.max(most, Math.abs(t - was.t[i]!)), 0);
        // Points are told by their times: one that came to where another stands can't be told from it.
        if (far > 0.01 && !is.t.some((t, i) => t !== was.t[i] && stay.includes(t))) {
          const times = [...was.t].map((t, i) => (t === is.t[i] ? null : is.t[i]!)).filter((t) => t !== null);
          const back = {
            kind: 'move',
            controls: [LEVEL],
            points: { [LEVEL]: times },
            by: { t: -Math.sign(dt) * far },
          } as const;
          const home = laneOf(applyEdit(there, back).song, LEVEL).points;
          home.t.forEach((t, i) => expectNear(t, was.t[i]!));
        }
      }),
      { numRuns: runs(300) },
    );
  });

  test('scales from the lowest point or from a pivot, and back', () => {
    const double = applyEdit(song, { kind: 'scale', controls: [LEVEL], range: [1, 7], factor: 2 }).song;
    expect([...laneOf(double, LEVEL).points].map(({ v }) => Math.round(1e9 * travelOf(LEVEL_LAW, v)) / 1e9)).toEqual([
      0.2, 0.4, 1, 0.2,
    ]);
    const pivot = travel(0.4);
    const half: Edit = { kind: 'scale', controls: [LEVEL], factor: 0.5, pivot };
    const there = applyEdit(song, half).song;
    expect(at(there, 6)).toBeCloseTo(0.5, 9);
    const back = applyEdit(there, { ...half, factor: 2 }).song;
    for (const t of [1, 4, 6, 9]) expectNear(at(back, t), at(song, t));
    expect(sentenceOf(song, { kind: 'scale', controls: ['voice/mute'], factor: 2 })).toBe(
      'voice/mute is a switch, which can’t be scaled.',
    );
  });
});

describe('thinning a lane', () => {
  const rough = Array.from({ length: 3000 }, (_, i) =>
    linePoint(i / 50, travel(0.5 + 0.3 * Math.sin(i / 90) + 0.004 * Math.sin(i * 1.7))),
  );

  test('says how many points there were and are, and how far off it is where', () => {
    const before = withLevel(rough);
    const { song, thinned } = applyEdit(before, { kind: 'thin', controls: [LEVEL, OTHER], tolerance: 0.01 });
    const [told] = thinned!;
    expect(thinned).toHaveLength(1);
    expect([told!.control, told!.before, told!.after]).toEqual([LEVEL, 3000, laneOf(song, LEVEL).points.length]);
    expect(told!.after).toBeLessThan(60);
    const off = rough.map(({ t }) => Math.abs(at(song, t) - at(before, t)));
    expectNear(Math.max(...off), told!.maxDeviation, 1e-9);
    expectNear(off[rough.findIndex(({ t }) => t === told!.at)]!, told!.maxDeviation, 1e-9);
    expect(told!.maxDeviation).toBeLessThanOrEqual(0.01);
  });

  test('never deviates by more, keeps steps, holds and bent segments, and finds nothing twice', () => {
    fc.assert(
      fc.property(curves, curves, fc.double({ min: 0.001, max: 0.2, noNaN: true }), (first, second, tolerance) => {
        const shift = (first.at(-1)?.t ?? 0) + 0.5;
        const lines = second.map((p) => linePoint(shift + p.t / 3, p.v));
        const before = withLevel([...first, ...lines]);
        const { song } = applyEdit(before, { kind: 'thin', controls: [LEVEL], tolerance });
        for (let t = 0; t < 60; t += 0.173) expectWithin(at(song, t), at(before, t), tolerance + 1e-9);
        const is = [...laneOf(song, LEVEL).points];
        const was = [...laneOf(before, LEVEL).points];
        for (const [i, p] of was.entries())
          if (was[i + 1]?.t === p.t || p.shape === 'hold')
            expect(is.some(({ t, v, shape }) => t === p.t && v === p.v && shape === p.shape)).toBe(true);
        const again = applyEdit(song, { kind: 'thin', controls: [LEVEL], tolerance: 1e-9 });
        expect(laneOf(again.song, LEVEL).points.length).toBeGreaterThan(is.length / 2 - 1);
      }),
      { numRuns: runs(200) },
    );
  });

  test('of a long lane keeps at most 1.1 × the fewest points there could be', () => {
    let [v, speed, seed] = [0.5, 0, 7];
    const chance = (): number => (seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0) / 2 ** 32;
    const ride = Array.from({ length: 20_000 }, (_, i) => {
      speed = speed * 0.97 + (chance() - 0.5) * 0.004;
      v = clamp(v + speed * 0.2, 0, 1);
      return { t: i * 0.005, x: v };
    });
    const before = withLevel(
      ride.map(({ t, x }) => linePoint(t, travel(x))),
      { length: 200 },
    );
    const { thinned } = applyEdit(before, { kind: 'thin', controls: [LEVEL], tolerance: 0.002 });
    const run = {
      t: ride.map(({ t }) => t),
      x: [...laneOf(before, LEVEL).points.v].map((db) => travelOf(LEVEL_LAW, db)),
    };
    const fewest = thinRun(run, 0.002, { exactSteps: Infinity, fewStarts: Infinity }).t.length;
    expect(thinned![0]!.after).toBeLessThanOrEqual(1.1 * fewest);
    expect(fewest).toBeGreaterThan(300);
  });

  test('within a range leaves the points beside it', () => {
    const { song } = applyEdit(withLevel(rough), { kind: 'thin', controls: [LEVEL], range: [20, 40], tolerance: 0.01 });
    const { points } = laneOf(song, LEVEL);
    const beside = ({ t }: Point): boolean => t < 20 || t > 40;
    expect([...points].filter(beside)).toEqual(rough.filter(beside));
    expect([...points].filter((p) => !beside(p)).length).toBeLessThan(30);
  });
});

describe('copying', () => {
  const rising = [linePoint(0, -30), { t: 4, v: -12, shape: 'bend', bend: 0.6 } as const, linePoint(8, 0)];
  const song = withLevel(rising, { lanes: { 'voice/mute': { points: [holdPoint(2, 1), holdPoint(5, 0)] } } });
  const copied = (edit: Partial<Edit & { kind: 'copy' }>): Song =>
    applyEdit(song, { kind: 'copy', from: LEVEL, range: [2, 8], to: OTHER, at: 20, ...edit }).song;

  test('goes to another lane and time as it is, and comes back as it was', () => {
    const there = copied({});
    for (let s = 0; s < 6; s += 0.37) expectNear(at(there, 20 + s, OTHER), at(song, 2 + s));
    const back = applyEdit(there, { kind: 'copy', from: OTHER, range: [20, 26], to: LEVEL, at: 2 }).song;
    for (let t = 0; t < 20; t += 0.37) expectNear(at(back, t), at(song, t));
  });

  test('goes by travel to another kind, shapes and all', () => {
    const { points } = laneOf(copied({ to: 'voice/pan' }), 'voice/pan');
    for (let s = 0; s < 6; s += 0.37)
      expectNear(travelOf(PAN_LAW, valueAt(points, PAN_LAW, 0, 20 + s)), at(song, 2 + s));
    expect(points.length).toBeLessThan(6);
  });

  test('comes to a trim as an offset against its value at the range’s start', () => {
    const { trim } = laneOf(copied({ toLayer: 'trim' }), OTHER);
    const { points } = laneOf(song, LEVEL);
    const from = valueAt(points, LEVEL_LAW, 0, 2);
    for (let s = 0; s < 6; s += 0.11) {
      const wanted = clamp(valueAt(points, LEVEL_LAW, 0, 2 + s) - from, -12, 12);
      expectNear(travelOf(TRIM_LAW, valueAt(trim, TRIM_LAW, 0, 20 + s)), travelOf(TRIM_LAW, wanted), 0.002);
    }
  });

  test('to a switch is on from half the throw; a switch goes only to switches', () => {
    const mute = laneOf(copied({ to: 'fiddle/mute' }), 'fiddle/mute').points;
    const edges = [...mute].filter(({ t }) => t > 20 && t < 26);
    expect(edges.map(({ v }) => v)).toEqual([1]);
    expectNear(at(song, edges[0]!.t - 18), 0.5, 1e-6);
    const muted = applyEdit(song, { kind: 'copy', from: 'voice/mute', range: [1, 6], to: 'fiddle/mute', at: 11 }).song;
    expect(pairs(laneOf(muted, 'fiddle/mute').points).filter(([t]) => t > 11)).toEqual([
      [12, 1],
      [15, 0],
      [16, 0],
    ]);
    expect(sentenceOf(song, { kind: 'copy', from: 'voice/mute', range: [1, 6], to: OTHER, at: 11 })).toBe(
      'voice/mute is a switch, which is copied only to switches, not to fiddle/level.',
    );
  });

  test('of an empty lane is what it rests at', () => {
    const there = applyEdit(song, { kind: 'copy', from: OTHER, range: [2, 4], to: LEVEL, at: 1 }).song;
    expect(pairs(laneOf(there, LEVEL).points).filter(([t]) => t >= 1 && t <= 3)).toHaveLength(4);
    expectNear(at(there, 2), travelOf(LEVEL_LAW, 0));
  });
});

describe('shapes', () => {
  const tempi = [
    { t: 0, bpm: 90 },
    { t: 12, bpm: 140 },
  ];
  const song: Song = { ...testSong(), tempo: tempi };
  const quarters = (t: number): number => (t < 12 ? t * 1.5 : 18 + ((t - 12) * 140) / 60);
  const waves = {
    sine: (u: number) => Math.sin(2 * Math.PI * u),
    triangle: (u: number) => (2 / Math.PI) * Math.asin(Math.sin(2 * Math.PI * u)),
    square: (u: number) => (u % 1 < 0.5 ? 1 : -1),
    sawUp: (u: number) => 2 * (u % 1) - 1,
    sawDown: (u: number) => 1 - 2 * (u % 1),
  };

  test('are within 0.002 of their course, over changes of tempo, and within the throw', () => {
    const names = fc.constantFrom(...(Object.keys(waves) as (keyof typeof waves)[]));
    fc.assert(
      fc.property(names, share, share, share, ranges, (wave, rate, depth, centre, range) => {
        const [perBeat, phase] = [0.1 + rate, 10 * depth];
        const edit: Edit = { kind: 'shape', control: LEVEL, range, wave, perBeat, depth, centre, phase };
        const after = applyEdit(song, edit).song;
        for (let k = 1; k < 60; k++) {
          const t = range[0] + ((range[1] - range[0]) * (k + 0.013)) / 60.5;
          const u = (quarters(t) - quarters(range[0])) * perBeat + phase;
          // At a step itself rounding decides.
          if (!['sine', 'triangle'].includes(wave) && Math.abs(((u * 2) % 1) - 0.5) > 0.499) continue;
          expectNear(at(after, t), clamp(centre + depth * waves[wave](u), 0, 1), 0.002);
        }
      }),
      { numRuns: runs(250) },
    );
  });

  test('random steps hold for a cycle each, the same for one seed', () => {
    const edit: Edit = {
      kind: 'shape',
      control: LEVEL,
      range: [0, 8],
      wave: 'steps',
      perBeat: 0.5,
      depth: 0.3,
      centre: 0.5,
      seed: 7,
    };
    const once = applyEdit(testSong(), edit).song;
    expect(once).toEqual(applyEdit(testSong(), edit).song);
    const steps = Array.from({ length: 8 }, (_, k) => at(once, k + 0.5));
    expect(new Set(steps).size).toBeGreaterThan(6);
    for (const [k, x] of steps.entries()) {
      expect(Math.abs(x - 0.5)).toBeLessThanOrEqual(0.3);
      expectNear(at(once, k + 0.99), x);
    }
    expect(applyEdit(testSong(), { ...edit, seed: 8 } as Edit).song).not.toEqual(once);
  });

  test('switch a mute in time, and are refused where they would be far too many points', () => {
    const gate: Edit = {
      kind: 'shape',
      control: 'voice/mute',
      range: [0, 4],
      wave: 'square',
      perBeat: 0.5,
      depth: 0.5,
      centre: 0.5,
    };
    const muted = laneOf(applyEdit(testSong(), gate).song, 'voice/mute').points;
    expect(pairs(muted).slice(0, 5)).toEqual([
      [0, 0],
      [0, 1],
      [0.5, 0],
      [1, 1],
      [1.5, 0],
    ]);
    const sine: Edit = { ...gate, wave: 'sine', centre: 0.75, depth: 0.5 } as Edit;
    const turns = pairs(laneOf(applyEdit(testSong(), sine).song, 'voice/mute').points).filter(([t]) => t > 0 && t < 1);
    expect(turns.map(([t, v]) => [Math.round(1e6 * t) / 1e6, v])).toEqual([
      [0.583333, 0],
      [0.916667, 1],
    ]);
    const fast = {
      kind: 'shape',
      control: LEVEL,
      range: [0, 3600],
      wave: 'sine',
      perBeat: 64,
      depth: 0.5,
      centre: 0.5,
    };
    expect(sentenceOf(testSong({ length: 4000 }), fast)).toContain('more than 200000 points');
  });
});

describe('placing and ramps', () => {
  test('place runs over its edges inside the range, at most half of it', () => {
    fc.assert(
      fc.property(curves, ranges, share, fc.constantFrom(0, 0.1, 2), share, (points, range, x, edge, s) => {
        const before = withLevel(points);
        const after = applyEdit(before, { kind: 'place', values: { [LEVEL]: travel(x) }, range, edge }).song;
        const [a, b] = range;
        const run = Math.min(edge, (b - a) / 2);
        const goal = travelOf(LEVEL_LAW, travel(x));
        if (b - a - 2 * run > 1e-6) expectNear(at(after, a + run + (b - a - 2 * run) * 0.99 * s), goal, FOOT);
        if (!run || s < 0.01 || s > 0.99) return;
        expectNear(at(after, a + run * s), arriving(before, a) + (goal - arriving(before, a)) * s, FOOT);
        expectNear(at(after, b - run * s), at(before, b) + (goal - at(before, b)) * s, FOOT);
      }),
      { numRuns: runs(300) },
    );
  });

  test('ignore modes and heed safe, parked and the write scope', () => {
    const song = testSong({ settings: { writeScope: ['level'] }, lanes: { [OTHER]: { safe: true } } });
    const values = { [LEVEL]: -3, [OTHER]: -3, 'voice/pan': 0.5, 'main/level': -1 };
    const placed = applyEdit(song, { kind: 'place', values, range: [4, 8] });
    expect(placed.changed).toEqual([LEVEL, 'main/level']);
    expect(placed.refused).toEqual([
      { control: OTHER, reason: 'safe' },
      { control: 'voice/pan', reason: 'scope' },
    ]);
    // The song's own edge time, where none is said.
    expect(pairs(laneOf(placed.song, 'main/level').points).map(([t]) => t)).toEqual([4, 4.1, 7.9, 8]);
  });

  test('a ramp comes to its value at the end, and the curve resumes, or the value holds to the next point, or to the song’s end', () => {
    const song = withLevel([linePoint(0, travel(0.2)), linePoint(10, travel(0.4)), linePoint(30, travel(0.8))]);
    const ramped = (after: 'resume' | 'next' | 'end'): Song =>
      applyEdit(song, { kind: 'ramp', values: { [LEVEL]: travel(0.9) }, range: [5, 8], after }).song;
    for (const after of ['resume', 'next', 'end'] as const) {
      expectNear(at(ramped(after), 6.5), 0.6);
      expectNear(arriving(ramped(after), 8), 0.9);
      expectNear(at(ramped(after), 4.9), at(song, 4.9));
    }
    expectNear(at(ramped('resume'), 9), at(song, 9));
    expectNear(at(ramped('next'), 9.9), 0.9);
    expectNear(at(ramped('next'), 20), at(song, 20));
    expectNear(at(ramped('end'), 59), 0.9);
    const back = applyEdit(song, {
      kind: 'ramp',
      values: { [LEVEL]: travel(0) },
      range: [10, 20],
      towards: 'old',
    }).song;
    expectNear(at(back, 10), 0);
    expectNear(at(back, 15), 0.3);
    expectNear(arriving(back, 10), 0.4);
    expectNear(at(back, 25), at(song, 25));
  });

  test('a ramp sets a switch at its end, with resume not at all', () => {
    const values = { 'voice/mute': 1 };
    const end = applyEdit(testSong(), { kind: 'ramp', values, range: [5, 8], after: 'end' }).song;
    expect(pairs(laneOf(end, 'voice/mute').points).slice(0, 2)).toEqual([
      [8, 0],
      [8, 1],
    ]);
    expect(applyEdit(testSong(), { kind: 'ramp', values, range: [5, 8] }).changed).toEqual([]);
  });
});

describe('points by themselves', () => {
  const song = withLevel([linePoint(1, -9), linePoint(4, -3), linePoint(9, -9)]);

  test('go out and in, exact values and shapes with them; one in the place of another', () => {
    const bend = { t: 4, v: -4.5, shape: 'bend', bend: 0.3 } as const;
    const edit = readEdit(song, {
      kind: 'points',
      control: LEVEL,
      remove: [{ t: 4, v: -3 }],
      add: [bend, { t: 20, v: 0 }],
    });
    if (!edit.ok) throw new Error(edit.sentence);
    const { song: after, inverse } = applyEdit(song, edit.value);
    expect([...laneOf(after, LEVEL).points]).toEqual([linePoint(1, -9), bend, linePoint(9, -9), linePoint(20, 0)]);
    expect(applyEdit(after, inverse!).song).toEqual(song);
    expect(nameOfEdit(song, edit.value, null)).toBe('Points of Voice level');
  });

  test('at a time where one stands make a step, and a third is refused, as is one to remove that is not there', () => {
    const step = { kind: 'points', control: LEVEL, remove: [], add: [{ t: 4, v: -20 }] } as const;
    const stepped = applyEdit(song, (readEdit(song, step) as { value: Edit }).value).song;
    expect(pairs(laneOf(stepped, LEVEL).points).slice(1, 3)).toEqual([
      [4, -3],
      [4, -20],
    ]);
    expect(sentenceOf(stepped, step)).toBe('Three points of the curve of voice/level share 4 s; at most two may.');
    expect(sentenceOf(song, { ...step, add: [], remove: [{ t: 4, v: -2 }] })).toBe(
      'voice/level has no point at 4 s with the value -2; it has been changed meanwhile, and nothing was done.',
    );
    expect(sentenceOf(song, { ...step, add: [{ t: 4, v: 40 }] })).toContain('outside its range');
    // One in the place of either of the two leaves them in their order.
    const swapped = (v: number): number[][] => {
      const edit: Edit = { kind: 'points', control: LEVEL, remove: [{ t: 4, v }], add: curve(linePoint(4, v - 1)) };
      return pairs(laneOf(applyEdit(stepped, edit).song, LEVEL).points).slice(1, 3);
    };
    expect(swapped(-3)).toEqual([
      [4, -4],
      [4, -20],
    ]);
    expect(swapped(-20)).toEqual([
      [4, -3],
      [4, -21],
    ]);
  });
});

test('carried on, the return line follows where the carrying ends and lands on the curve as it was', () => {
  const song = withLevel([linePoint(0, -20), linePoint(40, -10)]);
  const held = applyEdit(song, { kind: 'place', values: { [LEVEL]: -3 }, range: [5, 10], edge: 0 }).song;
  const edit: Edit = { kind: 'carry', control: LEVEL, from: 10, to: 16, return: 2 };
  const after = applyEdit(held, edit).song;
  expectNear(at(after, 15.9), travelOf(LEVEL_LAW, -3));
  expectNear(at(after, 17), (travelOf(LEVEL_LAW, -3) + at(song, 18)) / 2);
  expectNear(at(after, 18), at(song, 18));
  const step = applyEdit(held, { ...edit, return: 0 }).song;
  expectNear(at(step, 16), at(song, 16));
  // The song's end cuts the line; backwards it is ignored.
  const late = laneOf(applyEdit(held, { ...edit, to: 59.5 }).song, LEVEL).points;
  expect(late.t.at(-1)).toBe(60);
  const early = applyEdit(held, { ...edit, from: 5, to: 2 }).song;
  expectNear(at(early, 1.9), at(song, 1.9));
  expectNear(at(early, 2), travelOf(LEVEL_LAW, -3));
});
