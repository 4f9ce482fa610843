import { describe, expect, test } from '@jest/globals';
import { linePoint } from '@sure-hand/core/curve';
import { applyEdit } from '@sure-hand/core/edits';
import { readSong } from '@sure-hand/core/formats';
import { PassRecorder } from '@sure-hand/core/pass';
import { snapshotWithDefaults, type Snapshot, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { asideRows, asideWords, differenceWords } from './asideWords.js';
import {
  carriedFrom,
  cellFurther,
  cellsBetween,
  cellsWords,
  guardedControls,
  isCellOn,
  nextPlay,
  nextPlayWords,
  statesFor,
} from './guardCells.js';
import { handWords } from './handSentence.js';
import { guardWords, originParts } from './originWords.js';
import { controlsPlaced, leftAloneWords, placesWords, placingEdit, placingOf, valuesNow } from './placing.js';
import {
  controlsToTake,
  filterWith,
  gridOf,
  holdsWords,
  joinedTo,
  nameToTake,
  recallsCell,
  takenNow,
  updatedNow,
} from './snapshotActs.js';

function band(more: object = {}): Song {
  const voice = (key: string, name: string, extra: object = {}): object => ({
    ...{ key, kind: 'track', name, family: 'Voices', sends: [{ bus: 'hall' }] },
    ...extra,
  });
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    length: 60,
    sections: [
      { t: 0, name: 'Intro' },
      { t: 8, name: 'Verse 1' },
      { t: 24, name: 'Chorus' },
      { t: 40, name: 'Verse 2' },
    ],
    channels: [
      voice('lead', 'Lead', { mode: 'touch' }),
      voice('choir', 'Choir', { safe: ['level'] }),
      { key: 'box', kind: 'track', name: 'Box', family: 'Rhythm' },
      { key: 'hall', kind: 'bus', name: 'Hall', family: 'Buses' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'voices', kind: 'vca', name: 'Voices', members: ['lead', 'choir'] },
    ],
    lanes: { 'lead/level': { points: [{ t: 0, v: -6 }] }, 'lead/pan': { safe: true } },
    ...more,
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}
const verse = (more: Partial<Snapshot> = {}): Snapshot =>
  snapshotWithDefaults({
    ...{ key: 'verse', name: 'Verse', t: 9 },
    values: { 'lead/level': -3, 'choir/level': -10, 'lead/send/hall/level': -12, 'gone/pan': 0 },
    ...more,
  });
const withVerse = (song = band()): Song => ({ ...song, snapshots: [verse()] });
const mapOf = (song: Song) => meterMap(song.tempo, song.meter);
const scene = (recorder: PassRecorder) => ({
  recorder,
  inHand: 'lead/level',
  chosen: [],
  onView: ['lead/level', 'box/level'],
});

describe('held aside', () => {
  test('the furthest from its curve first, each with its difference as one says it', () => {
    const recorder = new PassRecorder(band());
    recorder.handle({
      do: 'aside',
      values: { 'lead/level': -4.5, 'lead/pan': -0.25, 'box/level': -144, 'box/mute': 1 },
    });
    expect(asideRows(recorder, 5).map(({ control, difference }) => [control, difference])).toEqual([
      ['box/mute', 'muted'],
      ['box/level', 'to silence'],
      ['lead/pan', '25 to the left'],
      ['lead/level', '+1.5 dB'],
    ]);
    expect(differenceWords(recorder, 'box/level', -144, 0)).toBe('from silence');
    expect(differenceWords(recorder, 'lead/level', -6, -6)).toBe('the same');
  });

  test('the hand bar says of the control in hand where it is held, and where its curve is; nothing is written of it', () => {
    const song = band();
    const recorder = new PassRecorder(song);
    const moment = { recorder, map: mapOf(song), position: 5, inHand: 'lead/level', told: null };
    recorder.handle({ do: 'tryout', on: true });
    expect(handWords(moment)).toMatchObject({
      says: 'Tryout: what you touch is held aside, and nothing of it is written.',
      more: 'A hand holds Lead level aside: heard, not written.',
    });
    recorder.handle({ do: 'move', control: 'lead/level', value: -3 });
    expect(handWords(moment).says).toBe('Lead level is held aside at −3.0 dB; its curve is at −6.0 dB here.');
    recorder.handle({ do: 'before', on: true });
    expect(asideWords(recorder, 'lead/level', 5).says).toMatch(/^Hearing the curves/);
    // What play writes by itself is more than a tryout: that is said first.
    recorder.handle({ do: 'mode', channel: 'box', mode: 'write' });
    expect(handWords(moment).says).toMatch(/^Play writes 3 controls of Box/);
  });
});

describe('placing', () => {
  test('each scope has its controls; what hands have is what is placed', () => {
    const recorder = new PassRecorder(band());
    recorder.handle({ do: 'play', from: 4 });
    recorder.handle({ t: 5, do: 'touch', control: 'lead/level' });
    recorder.handle({ t: 5, do: 'move', control: 'lead/level', value: -1 });
    recorder.handle({ t: 5, do: 'aside', values: { 'box/pan': 0.5 } });
    const of = (scope: Parameters<typeof controlsPlaced>[1]): number => controlsPlaced(scene(recorder), scope).length;
    expect([of('hand'), of('view'), of('aside'), of('writing')]).toEqual([1, 2, 1, 1]);
    // Everything but what is safe: the choir's level and the lead's pan.
    expect(of('all')).toBe(21 - 2);
    expect(valuesNow(recorder, ['lead/level', 'box/pan', 'choir/pan'], 5)).toEqual({
      'lead/level': -1,
      'box/pan': 0.5,
      'choir/pan': 0,
    });
  });

  test('what it would do is counted before it does: who changes how far, who is so already, who is left alone, who is gone', () => {
    const song = withVerse();
    const ranges = [
      [8, 24],
      [40, 60],
    ] as const;
    const edit = placingEdit({ snapshot: 'verse' }, ranges, { how: 'place', edge: 0.1 }, 'Verse placed')!;
    expect(edit).toMatchObject({ kind: 'together', as: 'Verse placed on 2 places' });
    const would = placingOf(song, edit, { ...verse().values }, 8);
    expect(would.rows).toEqual([
      { control: 'lead/send/hall/level', from: -144, to: -12 },
      { control: 'lead/level', from: -6, to: -3 },
    ]);
    expect(leftAloneWords(song, would)).toBe(
      'Left alone: Choir level (safe). 1 of its controls is not in the song any more.',
    );
    expect(placesWords(song, mapOf(song), ranges)).toBe('Verse 1 and Verse 2');
    expect(placesWords(song, mapOf(song), [[4, 6.5]])).toBe('3·1–4·2');
    expect(placingEdit({ values: {} }, ranges, { how: 'place', edge: 0 }, '')).toBeNull();
  });
});

describe('snapshots', () => {
  test('are taken of what hands have, of channels, of a family, of everything; a name is its section’s, once', () => {
    const song = withVerse(band());
    const recorder = new PassRecorder(song);
    recorder.handle({ do: 'aside', values: { 'box/pan': 0.5 } });
    const take = (
      of: Parameters<typeof controlsToTake>[1],
      kinds = ['level', 'pan', 'mute', 'sends'] as const,
    ): number => controlsToTake(scene(recorder), of, kinds, 9).length;
    expect([take('now'), take('chosen'), take('family'), take('all')]).toEqual([1, 5, 10, 21]);
    expect(nameToTake(song, 9)).toBe('Verse 1');
    const taken = takenNow(recorder, { name: 'Verse', note: '', ids: ['box/pan', 'lead/level'], t: 9 });
    expect(taken).toMatchObject({ values: { 'box/pan': 0.5, 'lead/level': -6 }, t: 9, filter: null });
    expect(taken.key).not.toBe('verse');
    expect(nameToTake({ ...song, snapshots: [{ ...verse(), name: 'Verse 1' }] }, 9)).toBe('Verse 1, 2');
    expect(updatedNow(recorder, verse(), 20).values).toEqual({
      ...verse().values,
      'lead/level': -6,
      'choir/level': 0,
      'lead/send/hall/level': -144,
    });
  });

  test('say what they bring back in the job’s words', () => {
    const song = band();
    expect(holdsWords(song, verse())).toBe('3 controls of Voices: levels, Hall sends');
    expect(holdsWords(song, verse({ filter: { lead: ['sends'] } }))).toBe('1 control of Lead: Hall sends');
    expect(holdsWords(song, verse({ filter: {} }))).toBe('Nothing that is recalled.');
  });

  test('a filter is turned by cells, by rows and columns, and is none again where all is recalled', () => {
    const song = band();
    const one = verse();
    expect(gridOf(song, one)).toEqual({ channels: ['lead', 'choir'], kinds: ['level', 'sends'] });
    const cell = { channel: 'lead', kind: 'level' } as const;
    const filtered = { ...one, filter: filterWith(one, [cell], false) };
    expect(filtered.filter).toEqual({ lead: ['sends'], choir: ['level'], gone: ['pan'] });
    expect([recallsCell(filtered, 'lead', 'level'), recallsCell(filtered, 'choir', 'level')]).toEqual([false, true]);
    expect(filterWith(filtered, [cell], true)).toBeNull();
  });

  test('which section came from which is told by the log, and broken where it was changed since', () => {
    const song = withVerse();
    const place = { kind: 'place', snapshot: 'verse', range: [40, 60], edge: 0.1 } as const;
    const entry = {
      kind: 'place',
      snapshot: { key: 'verse', name: 'Verse' },
      ranges: [[40, 60]],
      edge: 0.1,
      values: { 'lead/level': -3, 'lead/send/hall/level': -12 },
    } as const;
    const log = [{ number: 7, undone: false, entry }];
    const placed = applyEdit(song, place).song;
    expect(joinedTo(placed, 'verse', log)).toEqual([{ section: 3, stands: true, number: 7 }]);
    const nudged = applyEdit(placed, { kind: 'lift', controls: ['lead/level'], range: [50, 51], travel: 0.1 }).song;
    expect(joinedTo(nudged, 'verse', log)).toEqual([{ section: 3, stands: false, number: 7 }]);
    expect(joinedTo(placed, 'verse', [{ ...log[0]!, undone: true }])).toEqual([]);
    expect(joinedTo(placed, 'other', log)).toEqual([]);
  });
});

describe('guards', () => {
  test('cells between two are all there are of rows and columns; those that can’t be set are left out', () => {
    const song = band();
    const rows = song.channels.map(({ key }) => key);
    const cells = cellsBetween(rows, { channel: 'box', column: 'sends' }, { channel: 'choir', column: 'pan' });
    expect(cells).toHaveLength(6);
    const { channels } = statesFor(song, cells, true);
    expect(channels).toEqual({ choir: { safe: ['level', 'pan', 'mute', 'sends'] }, box: { safe: ['pan', 'mute'] } });
    const after = applyEdit(song, { kind: 'states', channels: channels! }).song;
    expect(isCellOn(after, { channel: 'box', column: 'pan' })).toBe(true);
    expect(statesFor(after, cells, true)).toEqual({ channels: {} });
    expect(statesFor(after, [{ channel: 'choir', column: 'level' }], false)).toEqual({
      channels: { choir: { safe: ['pan', 'mute', 'sends'] } },
    });
  });

  test('a mode is carried from its cell over the modes beneath, whatever column the hand strays into, and never into what is on or off', () => {
    const song = band();
    const rows = song.channels.map(({ key }) => key);
    const lead = { channel: 'lead', column: 'mode' } as const;
    const cells = cellsBetween(rows, lead, { channel: 'box', column: 'parked' });
    expect(cells).toEqual(['lead', 'choir', 'box'].map((channel) => ({ channel, column: 'mode' })));
    const carried = carriedFrom(song, lead);
    expect(cellsWords(cells, carried)).toBe('Mode touch');
    expect(statesFor(song, cells, carried)).toEqual({ channels: { choir: { mode: 'touch' }, box: { mode: 'touch' } } });
    const fromTrim = cellsBetween(rows, { channel: 'box', column: 'trim' }, { channel: 'choir', column: 'mode' });
    expect(fromTrim.map(({ column }) => column)).toEqual(['trim', 'trim']);
    expect(statesFor(song, cells, true)).toEqual({ channels: {} });
    expect(statesFor(song, fromTrim, 'write')).toEqual({ channels: {} });
  });

  test('a hand finds nothing from a channel that went meanwhile; keys stop at the last cell', () => {
    const gone = { channel: 'gone', column: 'mode' } as const;
    expect(cellsBetween(['lead', 'choir'], gone, { channel: 'choir', column: 'mode' })).toEqual([]);
    expect(cellFurther(['lead', 'choir'], { channel: 'choir', column: 'trim' }, [1, -1])).toEqual({
      channel: 'choir',
      column: 'mode',
    });
    expect(cellFurther(['lead', 'choir'], { channel: 'lead', column: 'parked' }, [-1, 1])).toEqual({
      channel: 'lead',
      column: 'parked',
    });
  });

  test('single controls are named; what the next play does with a channel is said with its reasons', () => {
    const song = band();
    const [lead, choir] = song.channels;
    expect(guardedControls(song, lead!)).toEqual([{ id: 'lead/pan', name: 'Pan', safe: true, parked: false }]);
    const next = nextPlay(new PassRecorder(song), 0);
    expect(nextPlayWords(song, lead!, next.get('lead')!)).toBe('4 when touched; 1 safe');
    expect(nextPlayWords(song, choir!, next.get('choir')!)).toBe('nothing: in read');
    const writing = applyEdit(song, { kind: 'channel', channel: 'choir', changes: { mode: 'write' } }).song;
    const recorder = new PassRecorder(writing);
    recorder.handle({ do: 'aside', values: { 'choir/pan': 1 } });
    expect(nextPlayWords(writing, choir!, nextPlay(recorder, 0).get('choir')!)).toBe(
      '3 by themselves; 1 safe, 1 held aside',
    );
  });
});

test('where from: its own curve, its trim, each VCA over it, and what guards it', () => {
  const song = band({
    lanes: {
      'lead/level': { points: [linePoint(0, -6)], trim: [linePoint(0, 2)], safe: true },
      'voices/level': { rest: -3 },
    },
  });
  expect(originParts(song, 'lead/level', 5).map(({ name, value, isBare }) => [name, value, isBare])).toEqual([
    ['Its own curve', '−6.0 dB', false],
    ['Its trim', '+2.0 dB', false],
    ['VCA Voices', '−3.0 dB', true],
  ]);
  expect(originParts(song, 'lead/pan', 5)).toHaveLength(1);
  expect(guardWords(new PassRecorder(song), 'lead/level')).toEqual(['Lead level is safe by itself.']);
  const parked = applyEdit(song, { kind: 'channel', channel: 'box', changes: { parked: true } }).song;
  expect(guardWords(new PassRecorder(parked), 'box/level')).toEqual([
    'Box is parked: it is at where it rests.',
    'Box reads: no pass writes it.',
  ]);
});
