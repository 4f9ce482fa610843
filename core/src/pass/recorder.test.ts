import { describe, expect, test } from '@jest/globals';
import { linePoint, valueAt, type Curve } from '../curve/index.js';
import { type Receipt } from '../edits/index.js';
import { laneOf, modeInForce, type FoldTrim, type Mode, type Song } from '../song/index.js';
import { curve, pairs, testSong } from '../test/songs.js';
import { LEVEL_LAW, travelOf } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';
import { preflight } from './preflight.js';
import { PassRecorder } from './recorder.js';

const LEVEL = 'voice/level';

function ride(song: Song, events: readonly HandEvent[]): { song: Song; receipts: readonly Receipt[] } {
  const ridden = runMoves(song, events);
  if (!ridden.ok) throw new Error(ridden.sentence);
  return ridden;
}
const inMode = (mode: Mode, parts: Parameters<typeof testSong>[0] = {}): Song =>
  testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice', mode },
      { key: 'fiddle', kind: 'track', mode: 'read' },
    ],
    ...parts,
  });
const points = (song: Song, id = LEVEL): Curve => laneOf(song, id).points;

/** Play from 8, touch at 9.5, −2 dB at 9.6, let go at 11, stop at 16. */
const oneRide: HandEvent[] = [
  { do: 'play', from: 8 },
  { t: 9.5, do: 'touch', control: LEVEL },
  { t: 9.6, do: 'move', control: LEVEL, value: -2 },
  { t: 11, do: 'release', control: LEVEL },
  { t: 16, do: 'stop' },
];

describe('touch', () => {
  test('writes from the touch to the release and a straight way back over the return time', () => {
    const { song, receipts } = ride(inMode('touch'), oneRide);
    expect(pairs(points(song))).toEqual([
      [0, -6],
      [9.5, -6],
      [9.6 - 0.02, -6],
      [9.6, -2],
      [11, -2],
      [11.25, -6],
    ]);
    expect(receipts).toEqual([
      {
        lap: 0,
        from: 8,
        to: 16,
        lanes: [
          {
            ...{
              control: LEVEL,
              layer: 'base',
              spans: [[9.5, 11.25]],
              moves: 1,
              points: 5,
              maxDeviation: 0,
              clamped: [],
            },
            returns: [[11, 11.25]],
          },
        ],
        refused: [],
        rested: [],
      },
    ]);
  });

  test('the way back aims at the moving curve where it lands, not at the value before the touch', () => {
    const rising = { [LEVEL]: { points: curve(linePoint(0, -30), linePoint(20, 0)) } };
    const { song } = ride(inMode('touch', { lanes: rising }), oneRide);
    const old = rising[LEVEL].points;
    expect(valueAt(points(song), LEVEL_LAW, 0, 11.25)).toBeCloseTo(valueAt(old, LEVEL_LAW, 0, 11.25), 9);
    expect(travelOf(LEVEL_LAW, valueAt(points(song), LEVEL_LAW, 0, 11.125))).toBeCloseTo(
      (travelOf(LEVEL_LAW, -2) + travelOf(LEVEL_LAW, valueAt(old, LEVEL_LAW, 0, 11.25))) / 2,
      9,
    );
    for (const t of [3, 9.49, 11.3, 17])
      expect(valueAt(points(song), LEVEL_LAW, 0, t)).toBeCloseTo(valueAt(old, LEVEL_LAW, 0, t), 9);
  });

  test('moves of a busy machine, 25 ms apart, go straight from one to the next; a gap over 50 ms is a hand that held still', () => {
    const { song } = ride(inMode('touch'), [
      ...oneRide.slice(0, 2),
      { t: 9.525, do: 'move', control: LEVEL, value: -5 },
      { t: 9.55, do: 'move', control: LEVEL, value: -3 },
      { t: 9.6, do: 'move', control: LEVEL, value: -2 },
      { t: 9.651, do: 'move', control: LEVEL, value: -1 },
      { t: 10, do: 'stop' },
    ]);
    expect(pairs(points(song))).toEqual([
      [0, -6],
      [9.5, -6],
      [9.525, -5],
      [9.55, -3],
      [9.6, -2],
      [9.651 - 0.02, -2],
      [9.651, -1],
      [10, -1],
      [10, -6],
    ]);
  });

  test('a hand that holds still writes too', () => {
    const rising = { [LEVEL]: { points: curve(linePoint(0, -30), linePoint(20, 0)) } };
    const still = oneRide.filter((event) => event.do !== 'move');
    const { song } = ride(inMode('touch', { lanes: rising }), still);
    const held = valueAt(rising[LEVEL].points, LEVEL_LAW, 0, 9.5);
    expect(valueAt(points(song), LEVEL_LAW, 0, 10.9)).toBe(held);
  });

  test('a new touch cuts the way back; two spans that meet stay two', () => {
    const { song, receipts } = ride(inMode('touch'), [
      ...oneRide.slice(0, 4),
      { t: 11.125, do: 'touch', control: LEVEL },
      { t: 12, do: 'release', control: LEVEL },
      { t: 16, do: 'stop' },
    ]);
    expect(receipts[0]!.lanes[0]!.spans).toEqual([
      [9.5, 11.125],
      [11.125, 12.25],
    ]);
    const held = valueAt(points(song), LEVEL_LAW, 0, 11.5);
    expect(travelOf(LEVEL_LAW, held)).toBeCloseTo((travelOf(LEVEL_LAW, -2) + travelOf(LEVEL_LAW, -6)) / 2, 9);
  });

  test('a stop while the hand is down ends the span with a step; one during the way back lets it be written whole', () => {
    const down = ride(inMode('touch'), [...oneRide.slice(0, 3), { t: 10, do: 'stop' }]);
    expect(pairs(points(down.song)).slice(-2)).toEqual([
      [10, -2],
      [10, -6],
    ]);
    const back = ride(inMode('touch'), [...oneRide.slice(0, 4), { t: 11.1, do: 'stop' }]);
    expect(back.receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 11.25]]);
  });

  test('the song’s end cuts the way back', () => {
    const { song, receipts } = ride(inMode('touch', { length: 11.1 }), oneRide.slice(0, 4));
    expect(receipts[0]).toMatchObject({ to: 11.1, lanes: [{ spans: [[9.5, 11.1]] }] });
    expect(valueAt(points(song), LEVEL_LAW, 0, 11.1)).toBe(-6);
  });

  test('a lane without points gets its resting value at both edges', () => {
    const bare = inMode('touch', { lanes: { [LEVEL]: { rest: -9, points: [] } } });
    const { song } = ride(bare, [...oneRide.slice(0, 3), { t: 10, do: 'stop' }]);
    expect(pairs(points(song))).toEqual([
      [9.5, -9],
      [9.58, -9],
      [9.6, -2],
      [10, -2],
      [10, -9],
    ]);
  });

  test('a resting value set in the same pass is what the way back of a bare lane goes to', () => {
    const { song } = ride(inMode('touch', { lanes: { [LEVEL]: { rest: -9, points: [] } } }), [
      ...oneRide.slice(0, 4),
      { t: 12, do: 'mode', channel: 'voice', mode: 'off' },
      { t: 12.1, do: 'move', control: LEVEL, value: -20 },
      { t: 13, do: 'mode', channel: 'voice', mode: 'touch' },
      { t: 13.1, do: 'touch', control: LEVEL },
      { t: 14, do: 'release', control: LEVEL },
      { t: 16, do: 'stop' },
    ]);
    expect(laneOf(song, LEVEL).rest).toBe(-20);
    expect(valueAt(points(song), LEVEL_LAW, 0, 14.25)).toBeCloseTo(-20, 9);
  });

  test('several controls go in one pass, each on its own', () => {
    const { song, receipts } = ride(inMode('touch'), [
      { do: 'play', from: 8 },
      { t: 9, do: 'touch', control: 'voice/pan' },
      { t: 9, do: 'touch', control: LEVEL },
      { t: 9.5, do: 'move', control: 'voice/pan', value: -0.5 },
      { t: 10, do: 'release', control: LEVEL },
      { t: 10, do: 'move', control: 'voice/mute', value: 1 },
      { t: 12, do: 'stop' },
    ]);
    expect(receipts[0]!.lanes.map((lane) => [lane.control, lane.spans])).toEqual([
      ['voice/pan', [[9, 12]]],
      [LEVEL, [[9, 10.25]]],
      ['voice/mute', [[10, 10.5]]],
    ]);
    expect([...points(song, 'voice/mute')]).toEqual([
      { t: 10, v: 0, shape: 'hold', bend: 0 },
      { t: 10, v: 1, shape: 'hold', bend: 0 },
      { t: 10.5, v: 0, shape: 'hold', bend: 0 },
    ]);
  });

  test('a fast hand is joined straight, a slow one holds until 20 ms before its next value', () => {
    const { song } = ride(inMode('touch'), [
      { do: 'play', from: 0 },
      { t: 1, do: 'touch', control: LEVEL },
      { t: 1.01, do: 'move', control: LEVEL, value: -5 },
      { t: 1.02, do: 'move', control: LEVEL, value: -4 },
      { t: 2, do: 'move', control: LEVEL, value: -3 },
      { t: 3, do: 'stop' },
    ]);
    expect(pairs(points(song)).slice(1, 7)).toEqual([
      [1, -6],
      [1.01, -5],
      [1.02, -4],
      [1.98, -4],
      [2, -3],
      [3, -3],
    ]);
  });

  test('a control without a touch sensor lets go half a second after its last move', () => {
    const { receipts } = ride(inMode('touch'), [
      { do: 'play', from: 0 },
      { t: 1, do: 'move', control: LEVEL, value: -5 },
      { t: 1.4, do: 'move', control: LEVEL, value: -4 },
      { t: 5, do: 'stop' },
    ]);
    expect(receipts[0]!.lanes[0]).toMatchObject({ spans: [[1, 1.9 + 0.25]], moves: 2 });
  });
});

describe('latch and write', () => {
  test('latch holds the last value to the end of the pass', () => {
    const { song, receipts } = ride(inMode('latch'), oneRide);
    expect(receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 16]]);
    expect(pairs(points(song)).slice(-2)).toEqual([
      [16, -2],
      [16, -6],
    ]);
  });

  test('write takes every control that may be written, from the value under the now line, and falls back', () => {
    const rising = { [LEVEL]: { points: curve(linePoint(0, -30), linePoint(20, 0)) } };
    const { song, receipts } = ride(inMode('write', { lanes: rising }), [
      { do: 'play', from: 10 },
      { t: 15, do: 'stop' },
    ]);
    expect(receipts[0]!.lanes.map((lane) => [lane.control, lane.spans[0]])).toEqual([
      [LEVEL, [10, 15]],
      ['voice/pan', [10, 15]],
      ['voice/mute', [10, 15]],
    ]);
    const held = valueAt(rising[LEVEL].points, LEVEL_LAW, 0, 10);
    expect(valueAt(points(song), LEVEL_LAW, 0, 14.99)).toBe(held);
    expect(valueAt(points(song), LEVEL_LAW, 0, 15)).toBeCloseTo(valueAt(rising[LEVEL].points, LEVEL_LAW, 0, 15), 9);
    expect(modeInForce(song, 'voice')).toBe('touch');
  });

  test('a value poised while stopped is written from the play position exactly', () => {
    const { song, receipts } = ride(inMode('latch'), [
      { do: 'move', control: LEVEL, value: -3 },
      { do: 'play', from: 8 },
      { t: 10, do: 'stop' },
      { do: 'play', from: 12 },
      { t: 13, do: 'stop' },
    ]);
    expect(pairs(points(song))).toEqual([
      [0, -6],
      [8, -6],
      [8, -3],
      [10, -3],
      [10, -6],
    ]);
    expect(receipts[1]!.lanes).toEqual([]);
  });
});

describe('off, read and resting values', () => {
  test('read writes nothing: the touch is refused, the curve stays', () => {
    const before = inMode('read');
    const { song, receipts } = ride(before, oneRide);
    expect(receipts[0]).toMatchObject({ lanes: [], refused: [{ control: LEVEL, reason: 'mode' }], rested: [] });
    expect(song.lanes).toEqual(before.lanes);
  });

  test.each([
    ['off', LEVEL, true],
    ['read', LEVEL, false],
    ['read', 'voice/pan', true],
  ] as const)('in %s, rolling, a hand on %s sets its resting value: %s', (mode, control, rests) => {
    const { song, receipts } = ride(inMode(mode), [
      { do: 'play', from: 0 },
      { t: 1, do: 'touch', control },
      { t: 2, do: 'move', control, value: -0.5 },
      { t: 3, do: 'release', control },
    ]);
    expect(receipts[0]!.rested).toEqual(rests ? [control] : []);
    expect(receipts[0]!.refused).toEqual(rests ? [] : [{ control, reason: 'mode' }]);
    expect(laneOf(song, control).rest).toBe(rests ? -0.5 : control === LEVEL ? -6 : 0);
  });

  test('stopped in touch, a control without a curve rests; the next receipt says so', () => {
    const { song, receipts } = ride(inMode('touch'), [
      { do: 'move', control: 'voice/pan', value: 0.25 },
      { do: 'move', control: LEVEL, value: 3 },
      { do: 'play', from: 0 },
    ]);
    expect(laneOf(song, 'voice/pan').rest).toBe(0.25);
    expect(laneOf(song, LEVEL).rest).toBe(-6);
    expect(receipts[0]!.rested).toEqual(['voice/pan']);
  });

  test.each([
    ['parked', { parked: true, safe: ['level'] }],
    ['safe', { safe: ['level'] }],
  ] as const)('a hand on a %s control is refused, and sets no resting value', (reason, guards) => {
    const guarded = testSong({ channels: [{ key: 'voice', kind: 'track', mode: 'touch', ...guards }] });
    const { song, receipts } = ride(guarded, oneRide);
    expect(receipts[0]!.refused).toEqual([{ control: LEVEL, reason }]);
    expect(song.lanes).toEqual(guarded.lanes);
  });

  test('a kind that is out of the write scope is refused', () => {
    const { receipts } = ride(inMode('latch', { settings: { writeScope: ['pan'] } }), oneRide);
    expect(receipts[0]!.refused).toEqual([{ control: LEVEL, reason: 'scope' }]);
  });
});

describe('changing one’s mind while rolling', () => {
  test('to read, the span ends with a step; a way back once begun is still written whole', () => {
    const step = ride(inMode('latch'), [
      ...oneRide.slice(0, 4),
      { t: 12, do: 'mode', channel: 'voice', mode: 'read' },
      { t: 16, do: 'stop' },
    ]);
    expect(step.receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 12]]);
    const line = ride(inMode('touch'), [
      ...oneRide.slice(0, 4),
      { t: 11.1, do: 'mode', channel: 'voice', mode: 'read' },
    ]);
    expect(line.receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 11.25]]);
  });

  test('from latch to touch, what no finger holds goes back to the curve', () => {
    const { receipts } = ride(inMode('latch'), [
      ...oneRide.slice(0, 4),
      { t: 12, do: 'mode', channel: 'voice', mode: 'touch' },
    ]);
    expect(receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 12.25]]);
  });

  test('from read to touch, a finger already down begins there, at its value', () => {
    const { song, receipts } = ride(inMode('read'), [
      ...oneRide.slice(0, 3),
      { t: 10, do: 'mode', channel: 'voice', mode: 'touch' },
      { t: 11, do: 'release', control: LEVEL },
    ]);
    expect(receipts[0]).toMatchObject({ lanes: [{ spans: [[10, 11.25]] }], refused: [] });
    expect(pairs(points(song)).slice(1, 3)).toEqual([
      [10, -6],
      [10, -2],
    ]);
  });

  test('let go ends every span with its way back; the finger counts for nothing until it touches anew', () => {
    const { receipts } = ride(inMode('latch'), [
      ...oneRide.slice(0, 3),
      { t: 10, do: 'letgo' },
      { t: 10.5, do: 'move', control: LEVEL, value: 0 },
      { t: 11, do: 'release', control: LEVEL },
      { t: 12, do: 'touch', control: LEVEL },
      { t: 16, do: 'stop' },
    ]);
    expect(receipts[0]!.lanes[0]).toMatchObject({
      spans: [
        [9.5, 10.25],
        [12, 16],
      ],
      moves: 1,
    });
  });

  test('a control made safe under the hand ends with a step, and must be touched anew', () => {
    const { receipts } = ride(inMode('touch'), [
      ...oneRide.slice(0, 3),
      { t: 10, do: 'safe', control: LEVEL, on: true },
      { t: 10.5, do: 'safe', control: LEVEL, on: false },
      { t: 10.6, do: 'move', control: LEVEL, value: 0 },
      { t: 11, do: 'release', control: LEVEL },
    ]);
    expect(receipts[0]!.lanes[0]!.spans).toEqual([[9.5, 10]]);
  });
});

describe('punch range, laps and trim', () => {
  test('nothing is written outside the punch range; a finger already down begins at its start', () => {
    const { song, receipts } = ride(inMode('touch', { settings: { punch: [10, 10.5] } }), oneRide);
    expect(receipts[0]!.lanes[0]!.spans).toEqual([[10, 10.5]]);
    expect(pairs(points(song)).slice(1)).toEqual([
      [10, -6],
      [10, -2],
      [10.5, -2],
      [10.5, -6],
    ]);
  });

  test('switched on while rolling it ends what is outside; switched off, a finger still down begins', () => {
    const recorder = new PassRecorder(inMode('latch'));
    const punched = (punch: [number, number] | null): void =>
      recorder.adopt({ ...recorder.song, settings: { ...recorder.song.settings, punch } });
    recorder.handle({ do: 'play', from: 8 });
    recorder.handle({ t: 9, do: 'touch', control: LEVEL });
    recorder.handle({ t: 9, do: 'move', control: LEVEL, value: -2 });
    recorder.advance(10);
    punched([12, 14]);
    recorder.advance(11);
    punched(null);
    const { receipts } = recorder.handle({ t: 13, do: 'stop' });
    expect(receipts[0]!.lanes).toMatchObject([
      {
        spans: [
          [9, 10],
          [11, 13],
        ],
      },
    ]);
  });

  test('each lap is a pass of its own; a finger still down begins anew, a latched value does not carry over', () => {
    const song = inMode('latch', { settings: { loop: [8, 12] } });
    const { receipts } = ride(song, [
      ...oneRide.slice(0, 3),
      { t: 9, lap: 1, do: 'release', control: LEVEL },
      { t: 8.5, lap: 2, do: 'stop' },
    ]);
    expect(receipts.map((r) => [r.lap, r.from, r.to, r.lanes.map((lane) => lane.spans)])).toEqual([
      [0, 8, 12, [[[9.5, 12]]]],
      [1, 8, 12, [[[8, 12]]]],
      [2, 8, 8.5, []],
    ]);
  });

  test('a loop that reaches past the song comes round at its end: nothing is written after it', () => {
    const song = inMode('latch', { settings: { loop: [56, 70] } });
    const { song: after, receipts } = ride(song, [
      { do: 'play', from: 55 },
      { t: 58, do: 'touch', control: LEVEL },
      { t: 58.5, do: 'move', control: LEVEL, value: -2 },
      { t: 57, lap: 1, do: 'release', control: LEVEL },
    ]);
    expect(receipts.map(({ lap, from, to, lanes }) => [lap, from, to, lanes.map(({ spans }) => spans)])).toEqual([
      [0, 55, 60, [[[58, 60]]]],
      [1, 56, 60, [[[56, 60]]]],
    ]);
    expect(Math.max(...points(after).t)).toBe(60);
    expect(preflight(song, 58).will.find(({ control }) => control === LEVEL)!.to).toBe(60);
    // One that lies wholly behind it, or is too short to come round, is none.
    for (const loop of [
      [60, 70],
      [58, 58.001],
    ] as const) {
      const { receipts: plain } = ride(inMode('latch', { settings: { loop } }), [
        { do: 'play', from: 55 },
        { t: 58, do: 'touch', control: LEVEL },
      ]);
      expect(plain.map(({ from, to }) => [from, to])).toEqual([[55, 60]]);
    }
  });

  test('a control without a sensor that moved just before the wrap lets go as long after it', () => {
    const { receipts } = ride(inMode('touch', { settings: { loop: [8, 12] } }), [
      { do: 'play', from: 8 },
      { t: 11.9, do: 'move', control: LEVEL, value: -3 },
      { t: 10, lap: 1, do: 'stop' },
    ]);
    const spans = receipts.map((r) => r.lanes[0]!.spans[0]!.map((t) => Number(t.toFixed(9))));
    expect(spans).toEqual([
      [11.9, 12],
      [8, 8.65],
    ]);
  });

  test('trim writes offsets on the trim curve, 0 dB outside, and leaves the base alone', () => {
    const { song, receipts } = ride(inMode('touch'), [
      { do: 'trim', channel: 'voice', on: true },
      ...oneRide.slice(0, 2),
      { t: 9.6, do: 'move', control: LEVEL, value: 3 },
      { t: 11, do: 'release', control: LEVEL },
      { t: 12, do: 'touch', control: 'voice/pan' },
      { t: 13, do: 'stop' },
    ]);
    expect(receipts[0]).toMatchObject({
      lanes: [{ layer: 'trim', spans: [[9.5, 11.25]] }],
      refused: [{ control: 'voice/pan', reason: 'trim' }],
    });
    expect(pairs(points(song))).toEqual([[0, -6]]);
    expect(pairs(laneOf(song, LEVEL).trim)).toEqual([
      [9.5, 0],
      [9.58, 0],
      [9.6, 3],
      [11, 3],
      [11.25, 0],
    ]);
  });
});

describe('folding trim', () => {
  /** Trim on over a curve at 0 dB that climbs to +10: the offset goes to +6 and stays. */
  const trimming = (foldTrim: FoldTrim): Song =>
    testSong({
      settings: { foldTrim },
      channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'latch', trim: true }],
      lanes: { [LEVEL]: { points: [linePoint(0, 0), linePoint(20, 10)] } },
    });
  const up: HandEvent[] = [
    { do: 'play', from: 2 },
    { t: 4, do: 'touch', control: LEVEL },
    { t: 4, do: 'move', control: LEVEL, value: 6 },
    { t: 5, do: 'release', control: LEVEL },
  ];

  test('folded with each pass, the trim is in the base at stop, nothing waits, and the receipt says where +12 dB clamped it', () => {
    const before = trimming('pass');
    const { song, receipts } = ride(before, [...up, { t: 16, do: 'stop' }]);
    expect(laneOf(song, LEVEL).trim).toHaveLength(0);
    const [{ clamped }] = receipts[0]!.lanes as [Receipt['lanes'][number]];
    expect(clamped).toHaveLength(1);
    expect(clamped[0]![0]).toBeCloseTo(12, 3);
    expect(clamped[0]![1]).toBe(16);
    const at = (t: number): number => valueAt(points(song), LEVEL_LAW, 0, t);
    expect(at(3.9)).toBeCloseTo(valueAt(points(before), LEVEL_LAW, 0, 3.9), 9);
    expect(at(8)).toBeCloseTo(10, 1);
    expect(at(15)).toBeCloseTo(12, 9);
    expect(at(16)).toBeCloseTo(8, 9);
  });

  test('by hand, it waits until then', () => {
    const waiting = ride(trimming('hand'), [...up, { t: 16, do: 'stop' }, { do: 'trim', channel: 'voice', on: false }]);
    expect(laneOf(waiting.song, LEVEL).trim.length).toBeGreaterThan(1);
    expect(points(waiting.song)).toHaveLength(2);
  });

  test('a lane made safe meanwhile keeps its trim waiting', () => {
    const { song } = ride(trimming('pass'), [
      ...up,
      { t: 6, do: 'safe', control: LEVEL, on: true },
      { t: 16, do: 'stop' },
    ]);
    expect(laneOf(song, LEVEL).trim.length).toBeGreaterThan(1);
    expect(points(song)).toHaveLength(2);
  });
});

describe('a moves list that cannot be taken', () => {
  test.each([
    [{ do: 'move', control: 'voice/lvl', value: 0 }, /no control “voice\/lvl”.*voice\/level/],
    [{ do: 'touch', control: 'drum/level' }, /no channel “drum”.*voice, fiddle/],
    [{ do: 'move', control: LEVEL, value: 13 }, /takes −∞ dB to 12.0 dB, not 13/],
    [{ do: 'move', control: 'voice/mute', value: 0.5 }, /is a switch and takes 0 or 1/],
    [{ do: 'mode', channel: 'drum', mode: 'read' }, /no channel “drum”/],
    [{ do: 'play', from: 99 }, /outside the song/],
  ] as [HandEvent, RegExp][])('%j is refused in a sentence', (event, sentence) => {
    expect(runMoves(inMode('touch'), [event])).toMatchObject({ ok: false, sentence: expect.stringMatching(sentence) });
  });

  test('so is an event out of order, or without its time', () => {
    const late: HandEvent[] = [
      { do: 'play', from: 8 },
      { t: 10, do: 'letgo' },
      { t: 9, do: 'stop' },
    ];
    expect(runMoves(inMode('touch'), late)).toMatchObject({
      ok: false,
      sentence: expect.stringContaining('Event 3 (stop): its time 9 s is before 10 s'),
    });
    expect(runMoves(inMode('touch'), [{ do: 'play', from: 8 }, { do: 'letgo' }])).toMatchObject({ ok: false });
  });
});
