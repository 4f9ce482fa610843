import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { WAVES, linePoint, swayingAt, valueAt, type Range } from '../../curve/index.js';
import { effectiveValueAt } from '../../groups/index.js';
import { parseSong } from '../../formats/index.js';
import { readEdit } from '../../formats/editDocument.js';
import {
  controlOf,
  controlsOf,
  guardOn,
  laneOf,
  ownValueAt,
  swayingOf,
  swayWithDefaults,
  type Song,
  type Sway,
} from '../../song/index.js';
import { PassRecorder } from '../../pass/index.js';
import { FOOT, curves } from '../../test/curves.js';
import { pairs, testSong } from '../../test/songs.js';
import { LEVEL_LAW, clamp, travelOf } from '../../units/index.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';
import { runs } from '../../test/runs.js';

const LEVEL = 'voice/level';
const DEPTH = `${LEVEL}/sway`;
const SWAY = swayWithDefaults({ wave: 'sine', perBeat: 0.5, depth: 0.1 });
const made = (song: Song, ...edits: Edit[]): Song => edits.reduce((now, edit) => applyEdit(now, edit).song, song);
const swayed = (sway: Sway | null, control = LEVEL): Edit => ({ kind: 'sway', control, sway });
const refusedOf = (song: Song, edit: Edit): readonly object[] => applyEdit(song, edit).refused;
const wrongOf = (song: Song, edit: unknown): string => {
  const read = readEdit(song, edit);
  return read.ok ? 'right' : read.sentence;
};

describe('a sway', () => {
  test('brings a control for its depth, beside what sways, of its kind, and takes its curve along as it goes', () => {
    const song = testSong();
    const has = made(song, swayed(SWAY));
    expect([...controlsOf(has).keys()].slice(0, 3)).toEqual([LEVEL, DEPTH, 'voice/pan']);
    expect(controlOf(has, DEPTH)).toMatchObject({ name: 'Level sway', kind: 'level', host: LEVEL });
    expect(laneOf(has, DEPTH).rest).toBe(0.1);
    const ridden = made(has, { kind: 'place', values: { [DEPTH]: 0.4 }, range: [8, 16], edge: 0 });
    expect(pairs(laneOf(ridden, DEPTH).points)).toContainEqual([8, 0.4]);
    const gone = applyEdit(ridden, swayed(null));
    expect(controlsOf(gone.song).has(DEPTH)).toBe(false);
    expect(gone.song.lanes[DEPTH]).toBeUndefined();
    expect(gone.song.lanes[LEVEL]).toEqual(song.lanes[LEVEL]);
    expect(applyEdit(gone.song, gone.inverse!).song).toEqual(ridden);
  });

  test('its depth has one resting value, wherever it is set: a hand’s, a lane’s, the sway’s own', () => {
    const has = made(testSong(), swayed(SWAY), { kind: 'place', values: { [DEPTH]: 0.4 }, range: [8, 16], edge: 0 });
    const rests = (song: Song): readonly (number | undefined)[] => [
      song.lanes[LEVEL]!.sway!.depth,
      laneOf(song, DEPTH).rest,
    ];
    const rested = applyEdit(has, { kind: 'rest', values: { [DEPTH]: 0.3 } });
    expect(rests(rested.song)).toEqual([0.3, 0.3]);
    expect(applyEdit(rested.song, rested.inverse!).song).toEqual(has);
    expect(rests(made(has, swayed({ ...SWAY, depth: 0.2 })))).toEqual([0.2, 0.2]);
    const read = parseSong(JSON.stringify({ ...has, lanes: { ...has.lanes, [DEPTH]: { rest: 0.45 } } }));
    expect(read.ok && rests(read.value)).toEqual([0.1, 0.1]);
    const bare = made(testSong(), swayed(SWAY), { kind: 'rest', values: { [DEPTH]: 0.3 } });
    expect([bare.lanes[DEPTH], ...rests(bare)]).toEqual([undefined, 0.3, 0.3]);
  });

  test('is guarded with what sways: its guards are that one’s, and guarded it takes no change', () => {
    const has = made(testSong(), swayed(SWAY));
    for (const control of [LEVEL, DEPTH]) {
      const safe = applyEdit(has, { kind: 'guard', control, changes: { safe: true } });
      expect([LEVEL, DEPTH].map((id) => guardOn(safe.song, id))).toEqual(['safe', 'safe']);
      expect(refusedOf(safe.song, swayed({ ...SWAY, depth: 0.2 }))).toEqual([{ control: LEVEL, reason: 'safe' }]);
      expect(refusedOf(safe.song, { kind: 'printSway', control: LEVEL })).toEqual([{ control: LEVEL, reason: 'safe' }]);
      expect(refusedOf(safe.song, { kind: 'place', values: { [DEPTH]: 0 }, range: [0, 8] })).toEqual([
        { control: DEPTH, reason: 'safe' },
      ]);
      expect(applyEdit(safe.song, safe.inverse!).song).toEqual(has);
    }
    const narrow = made(has, { kind: 'settings', changes: { writeScope: ['pan'] } });
    expect(refusedOf(narrow, { kind: 'place', values: { [DEPTH]: 0 }, range: [0, 8] })).toEqual([
      { control: DEPTH, reason: 'scope' },
    ]);
  });

  test('hands start at, write and thin the steady base; its depth is ridden as any control', () => {
    const has = made(testSong(), swayed({ ...SWAY, depth: 0.5 }));
    const recorder = new PassRecorder(has);
    recorder.handle({ do: 'play', from: 1.5 });
    recorder.handle({ do: 'touch', control: LEVEL, t: 2 });
    expect(recorder.capAt(LEVEL, 2)).toBe(-6);
    recorder.handle({ do: 'touch', control: DEPTH, t: 3 });
    recorder.handle({ do: 'move', control: DEPTH, value: 0.05, t: 3 });
    const { receipts } = recorder.handle({ do: 'stop', t: 5 });
    expect(receipts[0]!.lanes.map(({ control }) => control)).toEqual([LEVEL, DEPTH]);
    for (const t of [2, 3.3, 4.9]) expect(ownValueAt(recorder.song, LEVEL, t).base).toBe(-6);
    expect(ownValueAt(recorder.song, DEPTH, 4).base).toBe(0.05);
  });

  test('taken away under a hand on its depth, that hand is on nothing any more, and what it wrote goes with it', () => {
    const has = made(testSong(), swayed(SWAY));
    const recorder = new PassRecorder(has);
    for (const event of [
      { do: 'play', from: 0 },
      { do: 'touch', control: DEPTH, t: 1 },
      { do: 'touch', control: LEVEL, t: 1 },
      { do: 'move', control: DEPTH, value: 0.4, t: 2 },
    ] as const)
      recorder.handle(event);
    recorder.adopt(made(has, swayed(null)));
    recorder.handle({ do: 'move', control: DEPTH, value: 0.3, t: 3 });
    const { receipts } = recorder.handle({ do: 'stop', t: 4 });
    expect(receipts[0]!.lanes.map(({ control }) => control)).toEqual([LEVEL]);
    expect(Object.keys(recorder.song.lanes)).not.toContain(DEPTH);
  });

  test('what sways is not folded until it is printed: its trim stays, a VCA over it is refused whole', () => {
    const song = testSong({
      lanes: { [LEVEL]: { points: [linePoint(0, -6)], trim: [linePoint(0, 2)] }, 'all/level': { rest: -3 } },
    });
    const has = made(song, swayed(SWAY));
    const fold: Edit = { kind: 'foldTrim', controls: [LEVEL] };
    const vca: Edit = { kind: 'foldVca', vca: 'all' };
    for (const edit of [fold, vca]) {
      expect(applyEdit(has, edit)).toMatchObject({ changed: [], refused: [{ control: LEVEL, reason: 'sway' }] });
      expect(applyEdit(made(has, { kind: 'printSway', control: LEVEL }), edit).refused).toEqual([]);
      expect(applyEdit(made(has, swayed({ ...SWAY, on: false })), edit).refused).toEqual([]);
    }
    expect(applyEdit(made(testSong(), swayed(SWAY)), fold).refused).toEqual([]);
  });

  test('a pass that folds its trim leaves it waiting where the control sways', () => {
    const song = testSong({
      settings: { foldTrim: 'pass' },
      channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'touch', trim: true }],
    });
    const written = (from: Song): readonly number[] => {
      const recorder = new PassRecorder(from);
      recorder.handle({ do: 'play', from: 0 });
      recorder.handle({ do: 'touch', control: LEVEL, t: 1 });
      recorder.handle({ do: 'move', control: LEVEL, value: 3, t: 1 });
      recorder.handle({ do: 'stop', t: 2 });
      const { points, trim } = laneOf(recorder.song, LEVEL);
      return [valueAt(points, LEVEL_LAW, 0, 1.5), trim.length];
    };
    expect(written(song)).toEqual([expect.closeTo(-3, 1), 0]);
    expect(written(made(song, swayed(SWAY)))).toEqual([-6, 4]);
  });

  test('comes with an insert that is copied, and goes with one that is taken out', () => {
    const Q = 'voice/insert/eq/q2';
    const song = testSong({
      channels: [
        { key: 'voice', kind: 'track', inserts: [{ slot: 'eq', effect: 'equaliser', settings: {} }] },
        { key: 'fiddle', kind: 'track' },
      ],
    });
    const has = made(song, swayed(SWAY, Q), { kind: 'place', values: { [`${Q}/sway`]: 0.4 }, range: [8, 16] });
    const copied = made(has, { kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'fiddle', lanes: true });
    expect(copied.lanes['fiddle/insert/eq/q2']!.sway).toEqual(SWAY);
    expect(copied.lanes['fiddle/insert/eq/q2/sway']!.points).toBe(has.lanes[`${Q}/sway`]!.points);
    const [eq] = has.channels[0]!.inserts;
    const out = applyEdit(has, { kind: 'insert', channel: 'voice', remove: eq!, add: null });
    expect(Object.keys(out.song.lanes)).toEqual([LEVEL]);
    expect(applyEdit(out.song, out.inverse!).song).toEqual(has);
  });

  test.each([
    [{ kind: 'sway', control: 'voice/mute', sway: {} }, 'voice/mute is a switch, which has no sway.'],
    [{ kind: 'sway', control: DEPTH, sway: {} }, `${DEPTH} is the depth of a sway, which has no sway of its own.`],
    [
      { kind: 'sway', control: LEVEL, sway: { hz: 3, perBeat: 1 } },
      `The sway of ${LEVEL} says perBeat 1 and hz 3; leave one of them out.`,
    ],
    [{ kind: 'printSway', control: 'voice/pan' }, 'Voice pan has no sway that is on, so there is nothing to print.'],
    [
      { kind: 'rest', values: { 'voice/pan/sway': 0.2 } },
      'There is no control “voice/pan/sway”: Voice pan has no sway. Give it one first.',
    ],
    [{ kind: 'rest', values: { [DEPTH]: 0.6 } }, `${DEPTH} takes 0 to 0.5, not 0.6.`],
    [{ kind: 'sway', control: LEVEL, sway: { hz: 21 } }, /hz.*<= 20/],
  ])('that can’t be says so: %j', (edit, sentence) => {
    const said = wrongOf(made(testSong(), swayed(SWAY)), edit);
    if (typeof sentence === 'string') expect(said).toBe(sentence);
    else expect(said).toMatch(sentence);
  });

  test('in a document: what it does not say is as ever; one of a switch, or a depth without its sway, is a sentence', () => {
    const document = (lanes: object): string => JSON.stringify({ ...testSong(), lanes });
    const read = parseSong(document({ [LEVEL]: { sway: { hz: 2 } } }));
    expect(read.ok && read.value.lanes[LEVEL]!.sway).toEqual({
      ...{ wave: 'sine', hz: 2, depth: 0.05, phase: 0, on: true },
    });
    expect(parseSong(document({ 'voice/mute': { sway: {} } }))).toMatchObject({ ok: false });
    expect(parseSong(document({ [DEPTH]: { points: [] } }))).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('has no sway'),
    });
  });
});

describe('a sway that is printed', () => {
  const tolerance = 0.002 + 1e-6;
  const travelAt = (song: Song, t: number): number => travelOf(LEVEL_LAW, effectiveValueAt(song, LEVEL, t));
  const sways = fc.record({
    wave: fc.constantFrom(...WAVES),
    rate: fc.oneof(
      fc.double({ min: 0.05, max: 6, noNaN: true }).map((hz) => ({ hz })),
      fc.double({ min: 0.05, max: 3, noNaN: true }).map((perBeat) => ({ perBeat })),
    ),
    depth: fc.double({ min: 0, max: 0.5, noNaN: true }),
    phase: fc.double({ min: -2, max: 2, noNaN: true }),
  });
  const ranges = fc.option(
    fc.tuple(fc.double({ min: 0, max: 10, noNaN: true }), fc.double({ min: 0.1, max: 8, noNaN: true })),
  );

  test('is heard as it was, within 0.002 of travel, in few points; outside a range nothing is other', () => {
    fc.assert(
      fc.property(curves, sways, ranges, fc.boolean(), (points, { rate, ...sway }, drawn, isRidden) => {
        const plain = {
          ...testSong({ length: 20, lanes: { [LEVEL]: { rest: -9, points } } }),
          tempo: [
            { t: 0, bpm: 120 },
            { t: 3.7, bpm: 80 },
          ],
        };
        const has = made(
          plain,
          swayed(swayWithDefaults({ ...sway, ...rate })),
          ...(isRidden ? [{ kind: 'ramp', values: { [DEPTH]: 0.5 }, range: [2, 9], after: 'hold' } as const] : []),
        );
        const range: Range | undefined = drawn ? [drawn[0], drawn[0] + drawn[1]] : undefined;
        const edit: Edit = { kind: 'printSway', control: LEVEL, ...(range ? { range } : {}) };
        const { song: after, inverse } = applyEdit(has, edit);
        expect(applyEdit(after, inverse!).song).toEqual(has);
        expect(after.lanes[LEVEL]!.sway === undefined).toBe(!range);
        const isNearStep = (t: number): boolean =>
          [-1, 1].some((by) => Math.abs(travelAt(has, t + by * 1e-4) - travelAt(has, t)) > 0.02);
        const times = Array.from({ length: 900 }, (_, k) => 0.0113 + (19.9 * k) / 900);
        // What is cut below −144 dB is silence from there on: that much of the throw.
        const off = times.filter((t) => {
          const isIn = !range || (t >= range[0] && t < range[1]);
          return !isNearStep(t) && Math.abs(travelAt(after, t) - travelAt(has, t)) > (isIn ? tolerance : FOOT);
        });
        expect(off.map((t) => [t, travelAt(after, t), travelAt(has, t)])).toEqual([]);
        if (range) expect(ownValueAt(after, DEPTH, (range[0] + range[1]) / 2).base).toBe(0);
        const opened = parseSong(JSON.stringify(after));
        expect(opened.ok ? '' : opened.sentence).toBe('');
      }),
      { numRuns: runs(60) },
    );
  });

  test('a sine takes as few points as straight lines so close can, a square two a step', () => {
    const printed = (sway: Partial<Sway>): number =>
      laneOf(
        made(testSong({ length: 16 }), swayed(swayWithDefaults(sway)), { kind: 'printSway', control: LEVEL }),
        LEVEL,
      ).points.length;
    // Eight cycles, each 0.1 deep: lines 0.002 off at most take eight a cycle at the least.
    expect(printed({ hz: 0.5, depth: 0.1 })).toBeLessThan(8 * 11);
    expect(printed({ wave: 'square', hz: 0.5, depth: 0.1 })).toBeLessThanOrEqual(2 * 16 + 2);
    expect(printed({ wave: 'triangle', hz: 0.5, depth: 0.1 })).toBeLessThan(2 * 8 + 6);
  });

  test('is said by name, and by the numbers of its wave', () => {
    const has = made(testSong(), swayed(SWAY));
    expect(nameOfEdit(has, { kind: 'printSway', control: LEVEL }, null)).toBe('Sway of Voice level printed');
    const sine = (t: number): number => Math.sin(2 * Math.PI * t);
    for (const t of [0.3, 1.7, 12.9]) {
      expect(swayingAt(swayingOf(has, SWAY), t)).toBeCloseTo(sine(t), 6);
      const wanted = clamp(travelOf(LEVEL_LAW, -6) + 0.1 * sine(t), 0, 1);
      expect(travelAt(has, t)).toBeCloseTo(wanted, 9);
    }
  });
});
