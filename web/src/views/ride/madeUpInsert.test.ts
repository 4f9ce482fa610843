import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { valueAt } from '@sure-hand/core/curve';
import { applyEdit, nameOfEdit } from '@sure-hand/core/edits';
import { parseSong, readEdit } from '@sure-hand/core/formats';
import { mixPlan } from '@sure-hand/core/mix';
import { PassRecorder, preflight, runMoves, type HandEvent } from '@sure-hand/core/pass';
import { EFFECTS, EffectKernel, type Effect } from '@sure-hand/core/effects';
import { controlOf, controlsOf, fullName, laneOf, gateThatIsOff, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { numberScale, parseValue, speakValue, throwMarks, travelOf, type Law } from '@sure-hand/core/units';
import { handWords } from '../../hands/handSentence.js';
import { testSong } from '../../test/songs.js';
import { laneOfRow, traceLane } from './drawLanes.js';
import { runningScale, xOf } from './rideScale.js';

/** An effect that nobody knows but this test: one entry, and its parameters are controls like all others. */
const SPEED: Law = { kind: 'log', min: 0.1, max: 10 };
const PARAMS = [
  { key: 'speed', name: 'speed', scale: numberScale(SPEED, { unit: 'Hz', digits: 1, rest: 1 }), rest: 1 },
  {
    key: 'amount',
    name: 'amount',
    scale: numberScale({ kind: 'linear', min: 0, max: 1 }, { unit: '', digits: 2, rest: 0.5 }),
    rest: 0.5,
  },
];
/** It changes nothing of what is heard. */
class Silent extends EffectKernel {
  clear(): void {
    // Nothing is remembered.
  }
  protected work(): void {
    // Nothing follows from its parameters.
  }
  process(): void {
    // Nothing is changed.
  }
}
const WOBBLE: Effect = {
  name: 'Wobble',
  params: () => PARAMS,
  settings: {},
  makesStereo: false,
  rings: false,
  tailSec: () => 0,
  kernel: () => new Silent(2, 0),
};
beforeAll(() => void EFFECTS.set('wobble', WOBBLE));
afterAll(() => void EFFECTS.delete('wobble'));

const ID = 'voice/insert/w1/speed';
const song = (channel: object = {}, parts: object = {}): Song =>
  testSong({
    channels: [
      {
        key: 'voice',
        kind: 'track',
        name: 'Voice',
        mode: 'touch',
        inserts: [{ slot: 'w1', effect: 'wobble', settings: {} }],
        ...channel,
      },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
    lanes: {},
    ...parts,
  });
const RIDE: readonly HandEvent[] = [
  { do: 'play', from: 8 },
  { t: 9, do: 'touch', control: ID },
  { t: 9.02, do: 'move', control: ID, value: 4 },
  { t: 11, do: 'release', control: ID },
  { t: 16, do: 'stop' },
];
function ridden(on: Song, events: readonly HandEvent[] = RIDE): { song: Song; refused: unknown; spans: unknown } {
  const result = runMoves(on, events);
  if (!result.ok) throw new Error(result.sentence);
  const [receipt] = result.receipts;
  return {
    song: result.song,
    refused: receipt!.refused,
    spans: receipt!.lanes.map((lane) => [lane.control, lane.spans]),
  };
}

describe('a made-up insert of two parameters', () => {
  test('is ridden like any lane, and the pass is taken back', () => {
    const { song: after, spans } = ridden(song());
    expect(spans).toEqual([[ID, [[9, 11.25]]]]);
    const { points, rest } = laneOf(after, ID);
    expect(valueAt(points, SPEED, rest, 10)).toBeCloseTo(4, 9);
    expect([8.9, 12].map((t) => valueAt(points, SPEED, rest, t))).toEqual([1, 1]);
  });

  test('is guarded by kind, by itself, by scope and by parking', () => {
    const { refused } = ridden(song({ safe: ['inserts'] }));
    expect(refused).toEqual([{ control: ID, reason: 'safe' }]);
    const alone = applyEdit(song(), { kind: 'guard', control: ID, changes: { safe: true } }).song;
    expect(ridden(alone).refused).toEqual([{ control: ID, reason: 'safe' }]);
    expect(ridden(song({}, { settings: { writeScope: ['level'] } })).refused).toEqual([
      { control: ID, reason: 'scope' },
    ]);
    expect(preflight(song({ parked: true }), 0).wont).toContainEqual({ control: ID, reason: 'parked' });
  });

  test('is poised while stopped, and written from play on', () => {
    const { spans } = ridden(song({ mode: 'latch' }), [
      { do: 'move', control: ID, value: 2 },
      { do: 'play', from: 4 },
      { t: 6, do: 'stop' },
    ]);
    expect(spans).toEqual([[ID, [[4, 6]]]]);
  });

  test('is drawn on its own throw, logarithmic, with its marks', () => {
    const { song: after } = ridden(song());
    const row = {
      kind: 'channel',
      channel: after.channels[0]!,
      control: ID,
      top: 0,
      height: 200,
      isTall: true,
      isHead: true,
    } as const;
    const lane = laneOfRow(after, row);
    const scale = runningScale(10, 1064, 30);
    const drawn: [number, number][] = [];
    const pen = {
      moveTo: (x: number, y: number) => drawn.push([x, y]),
      lineTo: (x: number, y: number) => drawn.push([x, y]),
    };
    traceLane(pen, after, lane, scale, 14, 1064);
    expect(drawn.at(0)![1]).toBeCloseTo(lane.y(0.5), 9);
    const held = drawn.filter(([x]) => x > xOf(scale, 9.1) && x <= xOf(scale, 11));
    expect(held.length).toBeGreaterThan(0);
    for (const [, y] of held) expect(y).toBeCloseTo(lane.y(travelOf(SPEED, 4)), 6);
    const { scale: values } = controlOf(after, ID);
    expect(throwMarks(values, values.marks).map(({ label, isMain }) => [label, isMain])).toEqual([
      ['1.0', true],
      ['10.0', false],
      ['0.1', false],
    ]);
  });

  test('is named, spoken and typed in its unit, and says that its switch is off', () => {
    const on = song();
    expect(fullName(on, ID)).toBe('Voice Wobble speed');
    expect(speakValue(controlOf(on, ID).scale, 2.5)).toBe('2.5 Hz');
    expect(parseValue(controlOf(on, ID).scale, '3 Hz')).toEqual({ ok: true, value: 3 });
    expect(nameOfEdit(on, { kind: 'rest', values: { [ID]: 2 } }, null)).toBe('Rest of Voice Wobble speed');
    const map = meterMap(on.tempo, on.meter);
    const words = (of: Song): string => {
      const { says, more } = handWords({ recorder: new PassRecorder(of), map, position: 2, told: null, inHand: ID });
      return `${says} ${more}`;
    };
    expect(words(song({ safe: ['inserts'] }))).toContain('Safe: Voice Wobble speed is heard, not written.');
    const off = applyEdit(on, { kind: 'rest', values: { 'voice/insert/w1/on': 0 } }).song;
    expect(gateThatIsOff(off, ID, 2)).toMatchObject({ id: 'voice/insert/w1/on', whenOff: 'Wobble is off' });
    expect(words(off)).toContain('Voice Wobble speed is off here: it is not heard.');
  });

  test('is stored, sent and read as it stands, and refused where its values are none', () => {
    const { song: after } = ridden(song());
    const read = parseSong(JSON.stringify(after));
    expect(read).toEqual({ ok: true, value: after });
    expect([...controlsOf(after).keys()].filter((id) => id.includes('insert'))).toEqual([
      ID,
      'voice/insert/w1/amount',
      'voice/insert/w1/on',
    ]);
    expect(readEdit(after, { kind: 'rest', values: { [ID]: 20 } })).toEqual({
      ok: false,
      sentence: `${ID} takes 0.1 to 10, not 20.`,
    });
    const planned = mixPlan(after).controls.find(({ id }) => id === ID)!;
    expect(planned.rest).toBeCloseTo(0.5, 9);
    expect(planned.curve!.t.length).toBe(laneOf(after, ID).points.length);
  });
});
