import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, SHAPES, columnsOf, linePoint, valueAt, type Point } from '@sure-hand/core/curve';
import { PassRecorder } from '@sure-hand/core/pass';
import { type Song } from '@sure-hand/core/song';
import { barLines, meterMap } from '@sure-hand/core/time';
import { LEVEL_LAW, PAN_LAW, travelOf, LEVEL_SCALE, throwMarks } from '@sure-hand/core/units';
import { NO_FILTER, type LaneFilter } from '../../hands/laneFilter.js';
import { testSong } from '../../test/songs.js';
import { expectWithin } from '../../../../core/src/test/often.js';
import { clipHandles, handleAt } from './clipHandles.js';
import { capLook } from './capLook.js';
import { readableMarks } from './drawCap.js';
import { traceCurve } from './drawCurve.js';
import { pointsDrawn, drawnOn } from './gestures/drawByHand.js';
import {
  heightOf,
  lanesOpenAfter,
  layRows,
  rowAt,
  sameTall,
  steadyRow,
  travelOfY,
  yOfTravel,
  type LayoutView,
} from './rideLayout.js';
import { loopFits, runningScale, standingScale, timeAt, wholeScale, xOf } from './rideScale.js';
import { barsApart, rulerWords } from './rulerWords.js';

const tall = (inHand: string | null, written = {}) => ({ inHand, written });
const view: LayoutView = {
  ...{ front: {}, stacked: {}, chosen: [], folded: [], pinned: [], filter: NO_FILTER },
  ...{ desk: { open: [] }, slimPx: 28, tallPx: 200 },
};

describe('rows', () => {
  test('stand by family, 28 pixels each, the one in hand 200', () => {
    const rows = layRows(testSong(), view, tall('fiddle'));
    expect(rows.map((row) => [row.kind === 'family' ? row.family : row.channel.key, row.top, row.height])).toEqual([
      ['Voices', 0, 22],
      ['voice', 22, 28],
      ['Strings', 50, 22],
      ['fiddle', 72, 200],
      ['Mix', 272, 22],
      ['main', 294, 28],
    ]);
    expect(heightOf(rows)).toBe(322);
    expect(rowAt(rows, 100)!.channel.key).toBe('fiddle');
    expect(rowAt(rows, 60)).toBeNull();
  });

  test('of a folded family go, but for the one in hand and those pinned', () => {
    const folded: LayoutView = { ...view, folded: ['Voices', 'Strings'], pinned: ['voice'] };
    const keys = layRows(testSong(), folded, tall(null)).flatMap((row) =>
      row.kind === 'channel' ? [row.channel.key] : [],
    );
    expect(keys).toEqual(['voice', 'main']);
  });

  test('of lanes that are kept open stand below each other in the channel’s order, whichever is in hand', () => {
    const stacked = { ...view, stacked: { voice: ['voice/mute', 'voice/level'] } };
    const shown = (front: LayoutView['front'], inHand: string | null): unknown[] =>
      layRows(testSong(), { ...stacked, front }, tall(inHand)).flatMap((row) =>
        row.kind === 'channel' && row.channel.key === 'voice' ? [[row.control, row.height, row.isHead]] : [],
      );
    expect(shown({}, 'voice')).toEqual([
      ['voice/level', 200, true],
      ['voice/mute', 120, false],
    ]);
    expect(shown({ voice: 'voice/mute' }, 'voice')).toEqual(shown({}, 'voice'));
    // One that is not kept open comes in its place, and goes again.
    expect(shown({ voice: 'voice/pan' }, 'voice').map((row) => (row as string[])[0])).toEqual([
      'voice/level',
      'voice/pan',
      'voice/mute',
    ]);
    // They stay open where another channel is in hand, and lanes that are mended together are open meanwhile.
    expect(shown({}, 'fiddle')).toEqual([
      ['voice/level', 120, true],
      ['voice/mute', 120, false],
    ]);
    const together = layRows(
      testSong(),
      { ...view, chosen: ['voice/level', 'voice/pan', 'fiddle/level'] },
      tall('fiddle'),
    );
    expect(together.flatMap((row) => (row.kind === 'channel' ? [row.control] : []))).toEqual([
      'voice/level',
      'voice/pan',
      'fiddle/level',
      'main/level',
    ]);
  });

  test('are looked at by name, by what has curves, by kind and mode; the one in hand stays, families of nothing go', () => {
    const song = testSong({
      lanes: { 'voice/pan': { points: [linePoint(2, 0.3)] }, 'fiddle/level': { trim: [linePoint(2, 3)] } },
    });
    const shown = (filter: Partial<LaneFilter>, inHand: string | null = null): string[] =>
      layRows(song, { ...view, filter: { ...NO_FILTER, ...filter } }, tall(inHand)).map((row) =>
        row.kind === 'family' ? `${row.family} ${row.count}` : row.control,
      );
    expect(shown({ name: 'fid' })).toEqual(['Strings 1', 'fiddle/level']);
    expect(shown({ name: 'fid' }, 'voice')).toEqual(['Voices 0', 'voice/level', 'Strings 1', 'fiddle/level']);
    // What has a curve, or trim that waits, comes to the front of its row.
    expect(shown({ onlyCurves: true })).toEqual(['Voices 1', 'voice/pan', 'Strings 1', 'fiddle/level']);
    expect(shown({ kind: 'mute' })).toEqual([
      'Voices 1',
      'voice/mute',
      'Strings 1',
      'fiddle/mute',
      'Mix 1',
      'main/mute',
    ]);
    expect(shown({ kind: 'pan', onlyCurves: true })).toEqual(['Voices 1', 'voice/pan']);
    const touch = song.channels.filter(({ mode }) => mode === 'touch').map(({ key }) => `${key}/level`);
    expect(shown({ mode: 'touch' }).filter((one) => one.includes('/'))).toEqual(touch);
    expect(shown({ mode: 'write' })).toEqual([]);
  });

  test('that a pass wrote stay open after it, three at most, with the lane it wrote in front', () => {
    const lane = (control: string) =>
      ({
        control,
        layer: 'base',
        spans: [],
        moves: control.startsWith('b/') ? 0 : 9,
        points: 0,
        maxDeviation: 0,
        clamped: [],
      }) as const;
    const receipt = (...controls: string[]) => ({
      lap: 0,
      from: 0,
      to: 1,
      lanes: controls.map(lane),
      refused: [],
      rested: [],
    });
    const written = lanesOpenAfter(receipt('fiddle/level', 'fiddle/pan', 'a/pan', 'b/pan', 'c/pan'), {
      fiddle: 'fiddle/pan',
    });
    expect(written).toEqual({ fiddle: 'fiddle/pan', a: 'a/pan', c: 'c/pan' });
    // Of a few channels all stay open, moved or not.
    expect(lanesOpenAfter(receipt('a/pan', 'b/pan', 'b/level'), {})).toEqual({ a: 'a/pan', b: 'b/level' });
    const rows = layRows(testSong(), view, tall('voice', written));
    const shown = rows.flatMap((row) => (row.kind === 'channel' ? [[row.control, row.height, row.isTall]] : []));
    expect(shown).toEqual([
      ['voice/level', 200, true],
      ['fiddle/pan', 120, true],
      ['main/level', 28, false],
    ]);
  });

  test('are the same where the same stand tall, however that was found out', () => {
    expect(sameTall(tall('fiddle', { a: 'a/pan' }), tall('fiddle', { a: 'a/pan' }))).toBe(true);
    expect(sameTall(tall('fiddle', { a: 'a/pan' }), tall('fiddle', { a: 'a/level' }))).toBe(false);
    expect(sameTall(tall('fiddle', { a: 'a/pan' }), tall('fiddle'))).toBe(false);
    expect(sameTall(tall('fiddle'), tall('fiddle', { a: 'a/pan' }))).toBe(false);
    expect(sameTall(tall('fiddle'), tall('voice'))).toBe(false);
  });

  test('keep their place as others grow: the one in hand where it is in sight, else the first that is', () => {
    const rows = layRows(testSong(), view, tall('fiddle'));
    expect(steadyRow(rows, 'fiddle', 0, 600)!.channel.key).toBe('fiddle');
    expect(steadyRow(rows, 'voice', 60, 600)!.channel.key).toBe('fiddle');
    expect(steadyRow(rows, 'fiddle', 273, 600)!.channel.key).toBe('main');
    expect(steadyRow(rows, 'fiddle', 400, 600)).toBeNull();
  });

  test('have their throw from bottom to top, with room for the cap at both ends', () => {
    const row = { top: 100, height: 200 };
    expect([0, 0.5, 1].map((x) => yOfTravel(row, x))).toEqual([288, 200, 112]);
  });
});

describe('time on the screen', () => {
  test('runs under a line a third of the way in', () => {
    const scale = runningScale(50, 1064, 30);
    expect(scale.lineX).toBe(14 + 350);
    expect(xOf(scale, 50)).toBeCloseTo(scale.lineX, 9);
    expect(timeAt(scale, xOf(scale, 61.3))).toBeCloseTo(61.3, 9);
  });

  test('stands while the line walks, and turns its page when the line leaves it', () => {
    const scale = standingScale(12, 1064, 30, 10);
    expect(scale.left).toBe(10);
    expect(scale.lineX).toBeCloseTo(14 + 70, 9);
    expect(standingScale(41, 1064, 30, 10).left).toBeCloseTo(39.5, 9);
    expect(loopFits([10, 20], 12, 30)).toBe(true);
    expect(loopFits([10, 50], 12, 30)).toBe(false);
    expect(loopFits([10, 20], 5, 30)).toBe(false);
  });
});

/** Keeps what is traced, and reads it at any x as a canvas would draw it. */
class Trace {
  readonly at: [number, number][] = [];
  moveTo(x: number, y: number): void {
    this.at.push([x, y]);
  }
  lineTo(x: number, y: number): void {
    this.at.push([x, y]);
  }
  yAt(x: number): number {
    let i = 0;
    while (i + 2 < this.at.length && this.at[i + 1]![0] <= x) i++;
    const [a, b] = [this.at[i]!, this.at[i + 1]!];
    return b[0] === a[0] ? b[1] : a[1] + ((b[1] - a[1]) * (x - a[0])) / (b[0] - a[0]);
  }
}

test('a drawn curve is the curve: within a pixel wherever it is not a step', () => {
  const points = fc
    .array(
      fc.record({
        dt: fc.double({ min: 0.5, max: 9, noNaN: true }),
        v: fc.double({ min: -1, max: 1, noNaN: true }),
        shape: fc.constantFrom(...SHAPES),
        bend: fc.double({ min: -0.6, max: 0.6, noNaN: true }),
      }),
      { maxLength: 12 },
    )
    .map((steps) => {
      let t = 0;
      return Curve.of(steps.map(({ dt, ...rest }): Point => ({ t: (t += dt), ...rest })));
    });
  fc.assert(
    fc.property(points, fc.double({ min: 0, max: 40, noNaN: true }), (curve, position) => {
      const scale = runningScale(position, 1064, 30);
      const trace = new Trace();
      const y = (travel: number): number => 200 - 176 * travel;
      traceCurve(trace, columnsOf(curve, PAN_LAW), 0.5, { scale, from: 14, to: 1064, y });
      for (let x = 15; x < 1064; x += 7) {
        const t = timeAt(scale, x);
        if ([...curve].some((p) => Math.abs(xOf(scale, p.t) - x) < 2)) continue;
        expectWithin(trace.yAt(x), y(travelOf(PAN_LAW, valueAt(curve, PAN_LAW, 0, t))), 1.5);
      }
    }),
  );
});

describe('what a cap looks like', () => {
  const look = (song: Song, act: (recorder: PassRecorder) => void = () => undefined, id = 'voice/level'): string => {
    const recorder = new PassRecorder(song);
    act(recorder);
    return capLook(recorder.song, id, recorder.doing(id, recorder.roll?.now ?? 0));
  };
  const inMode = (mode: string): Song => testSong({ channels: [{ key: 'voice', kind: 'track', mode }] });
  const touching = (recorder: PassRecorder): void => {
    recorder.handle({ do: 'play', from: 0 });
    recorder.handle({ t: 1, do: 'touch', control: 'voice/level' });
  };
  const released = (recorder: PassRecorder): void => {
    touching(recorder);
    recorder.handle({ t: 2, do: 'release', control: 'voice/level' });
  };

  test.each([
    ['reading', look(inMode('read'))],
    ['resting', look(inMode('read'), undefined, 'voice/pan')],
    ['off', look(inMode('off'))],
    ['heard', look(inMode('read'), touching)],
    ['touch', look(inMode('touch'), touching)],
    ['returning', look(inMode('touch'), released)],
    ['latch', look(inMode('latch'), released)],
    ['write', look(inMode('write'), touching)],
    ['poised', look(inMode('latch'), (r) => r.handle({ do: 'move', control: 'voice/level', value: 0 }))],
    ['parked', look(testSong({ channels: [{ key: 'voice', kind: 'track', parked: true }] }))],
  ])('says %s', (expected, got) => expect(got).toBe(expected));
});

test('a throw always marks unity and silence, and its words do not run into each other', () => {
  const marks = throwMarks(LEVEL_SCALE, LEVEL_SCALE.marks);
  expect(marks.find((mark) => mark.label === '0')).toEqual({ travel: 0.75, label: '0', isMain: true });
  expect(marks.find((mark) => mark.label === '−∞')!.travel).toBe(0);
  const y = (travel: number): number => 140 * (1 - travel);
  const kept = readableMarks(marks, y);
  expect(kept.map((mark) => mark.label)).toEqual(expect.arrayContaining(['+12', '0', '−∞']));
  for (const a of kept) for (const b of kept) expect(a === b || Math.abs(y(a.travel) - y(b.travel)) >= 15).toBe(true);
  expect(travelOf(LEVEL_LAW, linePoint(0, 0).v)).toBe(0.75);
});

describe('handles of clips', () => {
  const clip = { file: 'voice.wav', t: 10, length: 8, offset: 0, gain: 0, fadeIn: 1, fadeOut: 2 };
  const song = testSong({
    channels: [
      {
        key: 'voice',
        kind: 'track',
        name: 'Voice',
        family: 'Voices',
        clips: [clip, { ...clip, t: 20, length: 0.5, fadeIn: 0, fadeOut: 0 }],
      },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
  });
  const scale = runningScale(10, 1064, 30);

  test('stand on the tall row alone: the fades where they end, the gain in the middle; none on a clip too small to see', () => {
    const [, slim] = layRows(song, view, tall(null));
    expect(clipHandles(slim as never, scale)).toEqual([]);
    const [, held] = layRows(song, view, tall('voice'));
    const handles = clipHandles(held as never, scale);
    expect(handles.map(({ part, x }) => [part, Math.round(x)])).toEqual([
      ['gain', Math.round(xOf(scale, 14))],
      ['fadeIn', Math.round(xOf(scale, 11))],
      ['fadeOut', Math.round(xOf(scale, 16))],
    ]);
  });

  test('are found by the pointer that is on them, and by none beside them', () => {
    const rows = layRows(song, view, tall('voice'));
    const { top } = rows[1]!;
    expect(handleAt(rows, scale, xOf(scale, 11) + 4, top + 9)).toMatchObject({ part: 'fadeIn', clip: { t: 10 } });
    expect(handleAt(rows, scale, xOf(scale, 14) - 10, top + 7)).toMatchObject({ part: 'gain' });
    expect(handleAt(rows, scale, xOf(scale, 14) - 10, top + 40)).toBeNull();
    expect(handleAt(rows, scale, xOf(scale, 12.5), top + 7)).toBeNull();
  });
});

describe('the ruler', () => {
  /** Weir Lights’ own meter: 4/4 at 92, a bar of 2/4 before the last chorus. */
  const bar = (4 * 60) / 92;
  const map = meterMap(
    [{ t: 0, bpm: 92 }],
    [
      { t: 0, beats: 4, unit: 4 },
      { t: 52 * bar, beats: 2, unit: 4 },
      { t: 52.5 * bar, beats: 4, unit: 4 },
    ],
  );
  const length = 73 * bar;
  const sections = [
    'Intro',
    'Verse 1',
    'Chorus 1',
    'Verse 2',
    'Chorus 2',
    'Fiddle solo',
    'Bridge',
    'Last chorus',
    'Outro',
  ].map((name, i) => ({ name, t: i * 8 * bar }));
  const words = (pxPerSec: number, left: number, width = 1050) =>
    rulerWords({
      map,
      length,
      sections,
      pxPerSec,
      xOf: (t) => 14 + (t - left) * pxPerSec,
      from: 14,
      to: 14 + width,
      fromSec: left,
      toSec: left + width / pxPerSec,
      widthOf: (text) => 7 * text.length,
    });

  test('never writes one thing over another, at any zoom and place; section names come first', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.5, max: 300, noNaN: true }),
        fc.double({ min: -60, max: length, noNaN: true }),
        (px, left) => {
          const all = words(px, left).sort((a, b) => a.x - b.x);
          all.forEach((one, i) => {
            expect(one.x).toBeGreaterThanOrEqual(14);
            expect(one.x + one.width).toBeLessThanOrEqual(14 + 1050);
            if (i) expect(one.x).toBeGreaterThan(all[i - 1]!.x + all[i - 1]!.width);
          });
        },
      ),
    );
    const whole = words(1050 / length, 0).filter(({ what }) => what === 'section');
    expect(whole.map(({ text }) => text)).toEqual(sections.map(({ name }) => name));
  });

  test('is as dense after a change of meter as before it', () => {
    const pxPerSec = 1050 / length;
    const every = barsApart(map, length, pxPerSec, 'lines');
    const lines = barLines(map, 0, length).filter((line) => (line.bar - 1) % every === 0);
    const gaps = lines.slice(1).map((line, i) => (line.t - lines[i]!.t) * pxPerSec);
    expect(Math.min(...gaps)).toBeGreaterThan(Math.max(...gaps) / 2 - 0.01);
    expect(Math.max(...gaps)).toBeLessThan(40);
  });

  test('a name that begins out of sight stands at the edge; one that has no room is cut, or left out', () => {
    const [first] = words(20, 10 * bar).filter(({ what }) => what === 'section');
    expect(first).toMatchObject({ text: 'Verse 1', x: 19 });
    expect(words(0.5, 0).every(({ text }) => text.length > 1 || /\d/.test(text))).toBe(true);
  });

  test('a song that fits the view stands there whole, and the line walks over it', () => {
    const at = (t: number) => wholeScale(t, 1064, length);
    expect(xOf(at(0), 0)).toBeGreaterThanOrEqual(14);
    expect(xOf(at(0), length)).toBeLessThanOrEqual(1064);
    expect(xOf(at(0), length) - xOf(at(0), 0)).toBeCloseTo(1050 - 52, 6);
    expect([at(0).left, at(60).left, at(60).lineX]).toEqual([at(9).left, at(9).left, xOf(at(9), 60)]);
  });
});

describe('drawing by hand', () => {
  test('goes over what was drawn before, forwards and back, in order of time', () => {
    const at = (t: number, v: number) => ({ t, v });
    let path = [at(1, 0)] as readonly { t: number; v: number }[];
    let last = path[0]!;
    for (const to of [at(2, -3), at(4, -6), at(3, -9), at(1.5, -12), at(5, -1)]) {
      path = drawnOn(path, last, to);
      last = to;
    }
    expect(path).toEqual([at(1, 0), at(1.5, -12), at(5, -1)]);
    fc.assert(
      fc.property(fc.array(fc.double({ min: 0, max: 20, noNaN: true }), { minLength: 2, maxLength: 40 }), (times) => {
        let drawn: readonly { t: number; v: number }[] = [at(times[0]!, 0)];
        times.slice(1).forEach((t, i) => (drawn = drawnOn(drawn, at(times[i]!, i), at(t, i + 1))));
        for (let i = 1; i < drawn.length; i++) expect(drawn[i]!.t).toBeGreaterThan(drawn[i - 1]!.t);
        expect(drawn.some(({ t, v }) => t === times.at(-1) && v === times.length - 1)).toBe(true);
      }),
    );
  });

  test('of a switch turns it where the middle of the throw is passed; heights and travels are each other’s reverse', () => {
    const mute = { control: 'voice/mute', layer: 'base' } as const;
    const path = [0.1, 0.2, 0.9, 0.8, 0.3].map((v, i) => ({ t: i, v }));
    expect([...pointsDrawn(testSong(), mute, path)].map(({ t, v, shape }) => [t, v, shape])).toEqual([
      [0, 0, 'hold'],
      [2, 1, 'hold'],
      [4, 0, 'hold'],
    ]);
    const row = { top: 40, height: 200 };
    for (const x of [0, 0.13, 0.5, 1]) expect(travelOfY(row, yOfTravel(row, x))).toBeCloseTo(x, 12);
    expect(travelOfY(row, -500)).toBe(1);
  });
});
