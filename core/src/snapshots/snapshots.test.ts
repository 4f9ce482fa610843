import { describe, expect, test } from '@jest/globals';
import { linePoint } from '../curve/index.js';
import { readSong } from '../formats/index.js';
import { snapshotWithDefaults, type Snapshot, type Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { comparedValues, isApart } from './compare.js';
import { recalledFrom } from './recall.js';
import { controlsTaken, valuesTaken } from './take.js';

/** A voice with a send, trimming, under a VCA; its fiddle off, its choir parked. */
const song: Song = testSong({
  channels: [
    { key: 'voice', kind: 'track', name: 'Voice', trim: true, sends: [{ bus: 'hall', tap: 'post', pan: 'own' }] },
    { key: 'fiddle', kind: 'track', name: 'Fiddle', mode: 'off' },
    { key: 'choir', kind: 'track', name: 'Choir', parked: true },
    { key: 'hall', kind: 'bus', name: 'Hall' },
    { key: 'main', kind: 'main', name: 'Main' },
    { key: 'all', kind: 'vca', name: 'All', members: ['voice'] },
  ],
  lanes: {
    'voice/level': { rest: -20, points: [linePoint(0, -6), linePoint(10, -12)], trim: [linePoint(0, 4)] },
    'fiddle/level': { rest: -3, points: [linePoint(0, -30)] },
    'choir/level': { rest: -9, points: [linePoint(0, -30)] },
    'all/level': { rest: -5 },
  },
});
const snapshot = (more: Partial<Snapshot>): Snapshot => snapshotWithDefaults({ key: 'one', values: {}, ...more });

describe('taken', () => {
  test('each control by its own value: without trim and VCAs; off or parked by where it rests; held, by the hand', () => {
    const ids = ['voice/level', 'fiddle/level', 'choir/level', 'voice/pan'];
    expect(valuesTaken(song, ids, 0)).toEqual({
      'voice/level': -6,
      'fiddle/level': -3,
      'choir/level': -9,
      'voice/pan': 0,
    });
    const hand = (id: string): number | null => (id === 'voice/pan' ? 0.4 : null);
    expect(valuesTaken(song, ids, 10, hand)).toMatchObject({ 'voice/level': -12, 'voice/pan': 0.4 });
  });

  test('of channels and kinds, or of everything there is', () => {
    expect(controlsTaken(song, { channels: ['voice', 'all'], kinds: ['level', 'sends'] })).toEqual([
      'voice/level',
      'voice/send/hall/level',
      'voice/send/hall/on',
      'voice/send/hall/pan',
      'all/level',
    ]);
    expect(controlsTaken(song, { channels: null, kinds: null })).toHaveLength(20);
  });
});

describe('recalled', () => {
  const values = {
    'voice/level': -4,
    'voice/pan': 0.2,
    'voice/send/hall/level': -8,
    'fiddle/level': -7,
    'gone/level': -1,
  };

  test('through its filter: for each channel the kinds it names, none of a channel it does not; null is all', () => {
    expect(recalledFrom(song, snapshot({ values }))).toEqual({
      values: { 'voice/level': -4, 'voice/pan': 0.2, 'voice/send/hall/level': -8, 'fiddle/level': -7 },
      gone: ['gone/level'],
    });
    expect(recalledFrom(song, snapshot({ values, filter: { voice: ['level', 'sends'] } }))).toEqual({
      values: { 'voice/level': -4, 'voice/send/hall/level': -8 },
      gone: [],
    });
    expect(recalledFrom(song, snapshot({ values, filter: { gone: ['level'] } })).gone).toEqual(['gone/level']);
    expect(recalledFrom(song, snapshot({ values, filter: {} }))).toEqual({ values: {}, gone: [] });
  });

  test('no name that every record has is a channel of the filter', () => {
    const odd = snapshot({ values: { 'constructor/level': -3 }, filter: { voice: ['level'] } });
    expect(recalledFrom(song, odd)).toEqual({ values: {}, gone: [] });
  });

  test('what a control does not take any more is held at its ends', () => {
    const odd = snapshot({ values: { 'voice/level': 99, 'voice/pan': -7, 'voice/mute': 0.7, 'fiddle/level': -300 } });
    expect(recalledFrom(song, odd).values).toEqual({
      'voice/level': 12,
      'voice/pan': -1,
      'voice/mute': 1,
      'fiddle/level': -300,
    });
  });
});

test('two compare control by control, the furthest apart in travel first, what one lacks before what is the same', () => {
  const a = { 'voice/level': -6, 'voice/pan': 0, 'fiddle/level': -60, 'voice/mute': 0 };
  const b = { 'voice/level': -6, 'voice/pan': 0.1, 'fiddle/level': 0, 'all/level': -3 };
  const rows = comparedValues(song, a, b);
  expect(rows.map(({ control }) => control)).toEqual([
    'fiddle/level',
    'voice/pan',
    'voice/mute',
    'all/level',
    'voice/level',
  ]);
  expect(rows[0]).toMatchObject({ a: -60, b: 0, travel: expect.closeTo(0.7, 9) });
  expect(rows[2]).toMatchObject({ a: 0, b: null, travel: null });
  expect(rows.filter(isApart)).toHaveLength(4);
});

describe('in a document', () => {
  const document = (snapshots: unknown): unknown => ({
    format: 'sure-hand-song',
    version: 1,
    length: 60,
    channels: [{ key: 'voice', kind: 'track' }],
    snapshots,
  });
  const sentence = (snapshots: unknown): string => {
    const read = readSong(document(snapshots));
    return read.ok ? '' : read.sentence;
  };

  test('needs a key and values; the rest has defaults, and what it does not know is kept', () => {
    const read = readSong(document([{ key: 'v1', values: { 'voice/level': -4, 'gone/pan': 3 }, colour: 'red' }]));
    expect(read.ok && read.value.snapshots).toEqual([
      {
        key: 'v1',
        name: 'v1',
        note: '',
        t: 0,
        values: { 'voice/level': -4, 'gone/pan': 3 },
        filter: null,
        colour: 'red',
      },
    ]);
  });

  test('a key twice, a value out of range, a filter of no kind: each is a sentence', () => {
    const one = { key: 'v1', name: 'Verse 1', values: {} };
    expect(sentence([one, one])).toBe('Two snapshots have the key “v1”; give one of them another.');
    expect(sentence([{ ...one, values: { 'voice/pan': 2 } }])).toBe(
      'The snapshot Verse 1: voice/pan takes -1 to 1, not 2.',
    );
    expect(sentence([{ ...one, filter: { voice: ['loudness'] } }])).toContain('/snapshots/0/filter');
    expect(sentence([{ ...one, values: { 'voice/level': 'loud' } }])).toContain('/snapshots/0/values/voice~1level');
  });
});
