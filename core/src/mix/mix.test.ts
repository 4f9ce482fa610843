import { describe, expect, test } from '@jest/globals';
import { holdPoint, linePoint, valueAt, type Point } from '../curve/index.js';
import { effectiveValueAt } from '../groups/index.js';
import { applyEdit } from '../edits/index.js';
import { controlsOf, type Song } from '../song/index.js';
import { CLIP_OF_ONES as clip, ones } from '../test/ones.js';
import { curve, testSong } from '../test/songs.js';
import { LEVEL_LAW, PAN_LAW, dbOfGain, gainOfDb, gainOfTravel, leftGain, travelOf } from '../units/index.js';
import { HandTable } from './hands.js';
import { isHeardUnderSolo, soloedIn } from './heard.js';
import { mixPlan } from './plan.js';
import { MixRenderer } from './renderer.js';

const RATE = 48000;
const oneTrack = (lanes: Record<string, { rest?: number; points?: Point[] }>, more = {}): Song =>
  testSong({
    channels: [{ key: 'voice', kind: 'track', clips: [{ ...clip, ...more }] }],
    lanes: { 'voice/level': { rest: 0, points: [] }, ...lanes },
  });

function rendered(renderer: MixRenderer, frames: number, block = 128): { left: Float32Array; right: Float32Array } {
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  const l = new Float32Array(block);
  const r = new Float32Array(block);
  for (let at = 0; at < frames; at += block) {
    const n = Math.min(block, frames - at);
    renderer.render(l, r, n);
    left.set(l.subarray(0, n), at);
    right.set(r.subarray(0, n), at);
  }
  return { left, right };
}
const leftOf = (song: Song, frames: number): Float32Array =>
  rendered(new MixRenderer(mixPlan(song), ones), frames).left;
const centre = leftGain(3, 0);
const slotOf = (song: Song, id: string): number => [...controlsOf(song).keys()].indexOf(id);

describe('a ridden level', () => {
  const ride: Point[] = [
    linePoint(0.1, -60),
    linePoint(0.35, 12),
    linePoint(0.5, -144),
    { t: 0.7, v: -20, shape: 's', bend: 0.5 },
    linePoint(1, 0),
  ];

  test('is heard within 0.05 dB of its curve, exactly at its points, for the fastest move the rules name', () => {
    const left = leftOf(oneTrack({ 'voice/level': { points: ride } }), RATE);
    let worst = 0;
    for (let n = 0; n < RATE; n++) {
      const db = valueAt(curve(...ride), LEVEL_LAW, 0, n / RATE);
      if (db > -60) worst = Math.max(worst, Math.abs(dbOfGain(left[n]! / centre) - db));
    }
    expect(worst).toBeLessThan(0.05);
    for (const p of ride.slice(0, 4)) {
      const n = Math.ceil(p.t * RATE - 1e-6);
      expect(left[n]! / centre).toBeCloseTo(gainOfTravel(travelOf(LEVEL_LAW, p.v)), 5);
    }
    expect(left[24000]).toBe(0);
  });

  test('steps and mutes are spread over 2 ms from their frame, and nothing else is', () => {
    const song = oneTrack({
      'voice/level': { points: [linePoint(0, -6), linePoint(0.1, -6), linePoint(0.1, 0)] },
      'voice/mute': { points: [holdPoint(0, 0), holdPoint(0.2, 1)] },
    });
    const left = leftOf(song, RATE / 2);
    const low = gainOfDb(-6) * centre;
    const at = 4800;
    expect(left[at - 1]).toBeCloseTo(low, 6);
    expect(left[at]).toBeCloseTo(low, 6);
    expect(left[at + 48]).toBeCloseTo((low + centre) / 2, 6);
    expect(left[at + 96]).toBeCloseTo(centre, 6);
    expect(left[9600 + 24]).toBeCloseTo(centre * 0.75, 6);
    expect(left[9600 + 96]).toBe(0);
  });

  test('a pan goes by the song’s law, a trim and a VCA add in dB and their mutes mute', () => {
    const song = testSong({
      settings: { panLaw: 4.5 },
      channels: [
        { key: 'voice', kind: 'track', clips: [clip] },
        { key: 'all', kind: 'vca', members: ['voice'] },
      ],
      lanes: {
        'voice/level': { rest: -6, points: [], trim: [linePoint(0, 2)] },
        'voice/pan': { points: [linePoint(0, -1), linePoint(1, 1)] },
        'all/level': { rest: -3 },
        'all/mute': { points: [holdPoint(0, 0), holdPoint(0.9, 1)] },
      },
    });
    const { left, right } = rendered(new MixRenderer(mixPlan(song), ones), RATE);
    for (const n of [0, 9600, 24000, 33333]) {
      const pan = valueAt(song.lanes['voice/pan']!.points, PAN_LAW, 0, n / RATE);
      const level = gainOfDb(effectiveValueAt(song, 'voice/level', n / RATE));
      expect(left[n]).toBeCloseTo(level * leftGain(4.5, pan), 5);
      expect(right[n]).toBeCloseTo(level * leftGain(4.5, -pan), 5);
    }
    expect(left[43200 + 96]).toBe(0);
  });
});

describe('one engine', () => {
  const song = oneTrack({
    'voice/level': { points: [linePoint(0, -20), linePoint(0.123, 3), linePoint(0.123, -9), linePoint(0.5, 0)] },
    'voice/pan': { points: [linePoint(0.02, -0.4), linePoint(0.4, 0.8)] },
  });

  test('gives the same samples whatever the blocks, and wherever it begins', () => {
    const whole = rendered(new MixRenderer(mixPlan(song), ones), 24000, 4096);
    expect(rendered(new MixRenderer(mixPlan(song), ones), 24000, 128)).toEqual(whole);
    expect(rendered(new MixRenderer(mixPlan(song), ones), 24000, 37)).toEqual(whole);
    for (const from of [1000, 5904 + 50, 6001]) {
      const late = new MixRenderer(mixPlan(song), ones);
      late.locate(from);
      expect(rendered(late, 3000).left).toEqual(whole.left.slice(from, from + 3000));
    }
  });

  test('with hands that do nothing, live is the bounce sample for sample', () => {
    const hands = new HandTable(new ArrayBuffer(HandTable.bytes(16)), 16);
    const live = rendered(new MixRenderer(mixPlan(song), ones, hands), 24000);
    expect(live).toEqual(rendered(new MixRenderer(mixPlan(song), ones), 24000, 4096));
  });
});

describe('a hand', () => {
  const song = oneTrack({ 'voice/level': { points: [linePoint(0, -12)] } });
  const handsOn = (): { hands: HandTable; renderer: MixRenderer } => {
    const hands = new HandTable(new ArrayBuffer(HandTable.bytes(16)), 16);
    return { hands, renderer: new MixRenderer(mixPlan(song), ones, hands) };
  };
  const slot = slotOf(song, 'voice/level');

  test('is heard from the first block that starts after it, within 2 ms, and the curve is back as it lets go', () => {
    const { hands, renderer } = handsOn();
    rendered(renderer, 256);
    hands.hold(slot, false, travelOf(LEVEL_LAW, 0));
    const { left } = rendered(renderer, 256);
    expect(left[0]).toBeCloseTo(gainOfDb(-12) * centre, 6);
    expect(left[1]! > left[0]!).toBe(true);
    expect(left[96]).toBeCloseTo(centre, 6);
    hands.letGo(slot);
    expect(rendered(renderer, 128).left[97]).toBeCloseTo(gainOfDb(-12) * centre, 6);
  });

  test('on its way back goes straight in travel and lands on the curve without a jump', () => {
    const { hands, renderer } = handsOn();
    hands.hold(slot, false, 0.75);
    rendered(renderer, 1280);
    const from = 1280 / RATE;
    hands.line(slot, false, from, 0.75, from + 0.25, travelOf(LEVEL_LAW, -12));
    const { left } = rendered(renderer, 16000);
    const half = gainOfTravel((0.75 + travelOf(LEVEL_LAW, -12)) / 2);
    expect(dbOfGain(left[6000]! / centre)).toBeCloseTo(dbOfGain(half), 2);
    expect(left[15000]).toBeCloseTo(gainOfDb(-12) * centre, 6);
    const jumps = left.slice(1).map((x, n) => Math.abs(x - left[n]!));
    expect(Math.max(...jumps)).toBeLessThan(2e-4);
  });

  test('a song changed under it goes on without a click', () => {
    const { renderer } = handsOn();
    rendered(renderer, 1000);
    const louder = applyEdit(song, {
      kind: 'lanes',
      lanes: { 'voice/level': { ...song.lanes['voice/level']!, points: curve(linePoint(0, 6)) } },
    });
    renderer.change(mixPlan(louder.song), new Set());
    const { left } = rendered(renderer, 256);
    expect(left[0]).toBeCloseTo(gainOfDb(-12) * centre, 6);
    expect(left[96]).toBeCloseTo(gainOfDb(6) * centre, 6);
  });
});

test.each([6, 12.5, 23.9])('a ride is heard %f hours into a song too, at its points and between them', (hours) => {
  const sec = Math.round(hours * 3600);
  const song = testSong({
    length: 86400,
    channels: [{ key: 'voice', kind: 'track', clips: [{ ...clip, length: 86400 }] }],
    lanes: { 'voice/level': { points: [linePoint(sec, -20), linePoint(sec + 0.5, -10), linePoint(sec + 0.5, 0)] } },
  });
  const renderer = new MixRenderer(mixPlan(song), ones);
  renderer.locate(sec * RATE);
  const { left } = rendered(renderer, RATE);
  for (const [t, db] of [
    [0.25, valueAt(song.lanes['voice/level']!.points, LEVEL_LAW, 0, sec + 0.25)],
    [0.499, valueAt(song.lanes['voice/level']!.points, LEVEL_LAW, 0, sec + 0.499)],
    [0.51, 0],
    [0.9, 0],
  ] as const)
    expect(dbOfGain(left[Math.round(t * RATE)]! / centre)).toBeCloseTo(db, 1);
});

describe('clips, buses and solo', () => {
  test('a clip plays where it stands, with its gain and straight fades', () => {
    const song = oneTrack({}, { t: 0.1, length: 0.2, gain: -6, fadeIn: 0.05, fadeOut: 0.1 });
    const left = leftOf(song, RATE / 2);
    const full = gainOfDb(-6) * centre;
    expect(left[4799]).toBe(0);
    expect(left[4800 + 1200]).toBeCloseTo(full / 2, 5);
    expect(left[4800 + 2400]).toBeCloseTo(full, 5);
    expect(left[4800 + 9600 - 2400]).toBeCloseTo(full / 2, 5);
    expect(left[4800 + 9600]).toBe(0);
  });

  test('a bus sums what goes out to it, and the main has the last word', () => {
    const song = testSong({
      channels: [
        { key: 'a', kind: 'track', output: 'group', clips: [clip] },
        { key: 'b', kind: 'track', output: 'group', clips: [clip] },
        { key: 'group', kind: 'bus' },
        { key: 'main', kind: 'main' },
      ],
      lanes: { 'group/level': { rest: -6 }, 'main/level': { rest: -3 }, 'b/level': { rest: -144 } },
    });
    expect(leftOf(song, 128)[0]).toBeCloseTo(centre * gainOfDb(-9), 6);
  });

  test('solo is in place: the rest falls silent, buses on the way stay heard; a bounce ignores it', () => {
    const channels = [
      { key: 'a', kind: 'track' as const, output: 'group', solo: true, clips: [clip] },
      { key: 'b', kind: 'track' as const, output: 'group', clips: [clip] },
      { key: 'c', kind: 'track' as const, clips: [clip] },
      { key: 'group', kind: 'bus' as const },
    ];
    const song = testSong({ channels });
    expect(leftOf(song, 128)[0]).toBeCloseTo(centre, 6);
    const bounce = new MixRenderer(mixPlan(song, { ignoreSolo: true }), ones);
    expect(rendered(bounce, 128).left[0]).toBeCloseTo(3 * centre, 5);
    const busSolo = testSong({
      channels: channels.map((c) => ({ ...c, solo: c.key === 'group' })),
    });
    expect(leftOf(busSolo, 128)[0]).toBeCloseTo(2 * centre, 6);
  });

  test('solo of a VCA solos all that it reaches, through other VCAs too, and keeps their buses heard', () => {
    const song = (soloed: string): Song =>
      testSong({
        channels: [
          { key: 'a', kind: 'track', output: 'bus' },
          { key: 'b', kind: 'track' },
          { key: 'c', kind: 'track' },
          { key: 'bus', kind: 'bus' },
          { key: 'main', kind: 'main' },
          { key: 'inner', kind: 'vca', members: ['a'] },
          { key: 'outer', kind: 'vca', members: ['inner', 'b'] },
        ].map((channel) => ({ ...channel, solo: channel.key === soloed })) as never,
      });
    expect(soloedIn(song('outer'))).toEqual(['a', 'b']);
    expect(soloedIn(song('inner'))).toEqual(['a']);
    const heard = (of: Song): string[] =>
      ['a', 'b', 'c', 'bus', 'main', 'outer'].filter((key) => isHeardUnderSolo(of, key));
    expect(heard(song('outer'))).toEqual(['a', 'b', 'bus', 'main', 'outer']);
    expect(heard(song('inner'))).toEqual(['a', 'bus', 'main', 'outer']);
    expect(heard(song('none'))).toHaveLength(6);
  });

  test('meters hold the highest sample of each channel, after its fader', () => {
    const song = oneTrack({ 'voice/level': { rest: -6 } });
    const meters = new Float32Array(4);
    rendered(new MixRenderer(mixPlan(song), ones, null, meters), 1000);
    expect(meters[0]).toBeCloseTo(gainOfDb(-6) * centre, 6);
    expect(meters[2]).toBeCloseTo(gainOfDb(-6) * centre, 6);
  });
});
