import { describe, expect, test } from '@jest/globals';
import { PassRecorder } from '@sure-hand/core/pass';
import { applyEdit, loggedLanes, type Receipt } from '@sure-hand/core/edits';
import { laneOf, type Song } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import {
  carriesTo,
  carryOf,
  carryStops,
  freshSpans,
  nextStop,
  snappedTo,
  spanToCarry,
  withChanges,
} from './carrying.js';
import { Comparison } from './comparison.js';

const LEVEL = 'voice/level';

/** The song after a latched ride of the voice from 4 s to 8 s at −2 dB, with the receipt and what changed. */
function ridden(): { before: Song; after: Song; receipt: Receipt } {
  const before = testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
    sections: [
      { t: 0, name: 'Verse' },
      { t: 20, name: 'Chorus' },
    ],
  });
  const recorder = new PassRecorder(before);
  recorder.handle({ do: 'play', from: 4 });
  recorder.handle({ t: 4, do: 'touch', control: LEVEL });
  recorder.handle({ t: 4, do: 'move', control: LEVEL, value: -2 });
  const { receipts } = recorder.handle({ t: 8, do: 'stop' });
  return { before, after: recorder.song, receipt: receipts[0]! };
}

describe('comparing by ear', () => {
  function comparing(): {
    comparison: Comparison;
    heard: () => Song | null;
    change: (song: Song) => void;
    after: Song;
    before: Song;
  } {
    const { before, after } = ridden();
    let song = after;
    let heard: Song | null = null;
    const comparison = new Comparison({
      song: () => song,
      hear: (other) => void (heard = other),
      fetchLast: async () => null,
    });
    return { comparison, heard: () => heard, change: (to) => void (song = to), after, before };
  }

  test('with no pass there is nothing to compare', async () => {
    const { comparison, heard } = comparing();
    expect(await comparison.toggle()).toBe(false);
    expect([comparison.heard, heard()]).toEqual([null, null]);
  });

  test('switches between what the last pass found and the song as it stands', async () => {
    const { comparison, heard, before, after } = comparing();
    comparison.passMade({ number: 3, lanes: loggedLanes(before, after, [LEVEL]) });
    await comparison.toggle();
    expect(comparison.heard).toEqual({ side: 'before', number: 3 });
    expect(laneOf(heard()!, LEVEL).points).toEqual(laneOf(before, LEVEL).points);
    await comparison.toggle();
    expect([comparison.heard, heard()]).toEqual([null, null]);
  });

  test('once the pass is undone, what it left is what is heard instead', async () => {
    const { comparison, heard, change, before, after } = comparing();
    comparison.passMade({ number: 3, lanes: loggedLanes(before, after, [LEVEL]) });
    change(before);
    await comparison.toggle();
    expect(comparison.heard).toEqual({ side: 'after', number: 3 });
    expect(laneOf(heard()!, LEVEL).points).toEqual(laneOf(after, LEVEL).points);
  });

  test('everything but the pass’s lanes is as it is now, also after a change meanwhile', async () => {
    const { comparison, heard, change, before, after } = comparing();
    comparison.passMade({ number: 3, lanes: loggedLanes(before, after, [LEVEL]) });
    comparison.hear('before');
    change(applyEdit(after, { kind: 'rest', values: { 'voice/pan': 0.5 } }).song);
    comparison.songChanged();
    expect(laneOf(heard()!, 'voice/pan').rest).toBe(0.5);
    expect(laneOf(heard()!, LEVEL).points).toEqual(laneOf(before, LEVEL).points);
  });

  test('a chosen pass stands in for the last one until it is given back', async () => {
    const { comparison, before, after } = comparing();
    comparison.choose({ number: 1, lanes: loggedLanes(before, after, [LEVEL]) });
    comparison.hear('after');
    expect(comparison.heard).toEqual({ side: 'after', number: 1 });
    comparison.choose(null);
    expect(comparison.heard).toBeNull();
  });
});

describe('carrying on', () => {
  const { after, receipt } = ridden();

  test('stops at the lane’s points, the range, sections and the song’s ends', () => {
    const [fresh] = freshSpans(receipt, []);
    expect(fresh).toEqual({ control: LEVEL, layer: 'base', span: [4, 8], release: null });
    const stops = carryStops(after, fresh!, [12, 16]);
    expect(stops).toEqual([0, 4, 8, 12, 16, 20, 60]);
    expect([nextStop(stops, 8, 1), nextStop(stops, 4, -1), nextStop(stops, 60, 1)]).toEqual([12, 0, null]);
    expect([snappedTo(stops, 11.9, 0.2), snappedTo(stops, 11.5, 0.2)]).toEqual([12, 11.5]);
  });

  test('goes on from where it was carried to last, and says where the spans are now', () => {
    const of = { control: LEVEL, layer: 'base' } as const;
    const changes = [
      { carries: [{ ...of, from: 8, to: 12 }] },
      { carries: [{ ...of, from: 12, to: 16 }] },
      { carries: [{ ...of, from: 4, to: 0 }] },
      { shift: 0.5 },
    ];
    expect(freshSpans(receipt, changes)[0]!.span).toEqual([0.5, 16.5]);
    expect(withChanges(receipt, changes).lanes[0]!.spans).toEqual([[0.5, 16.5]]);
    expect(spanToCarry(freshSpans(receipt, changes), LEVEL, 1)!.span[1]).toBe(16.5);
    expect(spanToCarry(freshSpans(receipt, changes), 'voice/pan', 1)).toBeNull();
  });

  test('of a span that came back by a line goes on from the release, with the line after it, as far as the song goes', () => {
    const lanes = receipt.lanes.map((lane) => ({ ...lane, returns: [[7.75, 8] as const] }));
    const [fresh] = freshSpans({ ...receipt, lanes }, []);
    expect(fresh).toMatchObject({ span: [4, 8], release: 7.75 });
    const carry = carryOf(after, fresh!, 'end', 12);
    expect(carry).toEqual({ control: LEVEL, layer: 'base', from: 7.75, to: 12, return: 0.25 });
    expect(freshSpans({ ...receipt, lanes }, [{ carries: [carry] }])[0]).toMatchObject({
      span: [4, 12.25],
      release: 12,
    });
    expect(carryOf(after, fresh!, 'end', 59.9).return).toBeCloseTo(0.1, 9);
    expect(carryOf(after, fresh!, 'end', 60)).toEqual({ control: LEVEL, layer: 'base', from: 7.75, to: 60 });
    expect(carryOf(after, fresh!, 'start', 2)).toEqual({ control: LEVEL, layer: 'base', from: 4, to: 2 });
    // Several go to one time together: those that it lies beyond.
    const late = { ...fresh!, control: 'voice/pan', span: [4, 14] as const, release: null };
    const to = (edge: 'start' | 'end', t: number) =>
      carriesTo(after, [fresh!, late], edge, t).map((carry) => [carry.control, carry.from]);
    expect([to('end', 12), to('end', 20).length, to('start', 3).length, to('start', 5)]).toEqual([
      [[LEVEL, 7.75]],
      2,
      2,
      [],
    ]);
  });
});
