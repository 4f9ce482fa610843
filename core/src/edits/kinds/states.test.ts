import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { valueAt } from '../../curve/index.js';
import { readEdit } from '../../formats/index.js';
import {
  controlOf,
  controlsOf,
  guardSetWithDefaults,
  laneOf,
  snapshotWithDefaults,
  type Snapshot,
  type Song,
} from '../../song/index.js';
import { anySong, draws, editFrom } from '../../test/anyEdit.js';
import { pairs, testSong } from '../../test/songs.js';
import { linePoint } from '../../curve/index.js';
import { travelOf } from '../../units/index.js';
import { isAsPlaced, isLogged, placedEntry, placedReceipt } from '../entry.js';
import { guardsKept, statesOfSet } from '../guardSets.js';
import { changedAt } from '../origin.js';
import { whyNotPlaced } from '../placing.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';
import { runs } from '../../test/runs.js';
import { expectWithin } from '../../test/often.js';

const verse: Snapshot = snapshotWithDefaults({
  key: 'verse-1',
  name: 'Verse 1',
  t: 12,
  values: { 'voice/level': -4, 'voice/pan': 0.5, 'fiddle/level': -9, 'gone/level': 0 },
  filter: { voice: ['level', 'pan'], gone: ['level'] },
});
const withVerse = (song = testSong()): Song => applyEdit(song, { kind: 'snapshot', remove: null, add: verse }).song;
const at = (song: Song, id: string, t: number): number => {
  const { law } = controlOf(song, id);
  const { points, rest } = laneOf(song, id);
  return travelOf(law, valueAt(points, law, rest, t));
};

describe('a snapshot as an edit', () => {
  test('is taken, changed and removed; each is taken back, in its place', () => {
    const song = withVerse();
    const other = snapshotWithDefaults({ key: 'soft', values: { 'voice/level': -20 } });
    const two = applyEdit(song, { kind: 'snapshot', remove: null, add: other }).song;
    const gone = applyEdit(two, { kind: 'snapshot', remove: verse, add: null });
    expect(gone.song.snapshots.map(({ key }) => key)).toEqual(['soft']);
    expect(applyEdit(gone.song, gone.inverse!).song).toEqual(two);
    const edit: Edit = { kind: 'snapshot', remove: verse, add: { ...verse, name: 'First verse' } };
    expect(nameOfEdit(two, edit, null)).toBe('Snapshot First verse changed');
    expect(applyEdit(two, edit).song.snapshots[0]!.name).toBe('First verse');
  });

  test('changed meanwhile, a value out of range, a key twice: a sentence, and nothing done', () => {
    const song = withVerse();
    const refused = (edit: object): string => {
      const read = readEdit(song, { kind: 'snapshot', ...edit });
      return read.ok ? '' : read.sentence;
    };
    expect(refused({ remove: { ...verse, t: 13 }, add: null })).toMatch(/^The snapshot Verse 1 has been changed/);
    expect(refused({ remove: null, add: verse })).toMatch(/^Two snapshots have the key/);
    expect(refused({ remove: null, add: { key: 'x', values: { 'voice/pan': 4 } } })).toMatch(/takes -1 to 1, not 4/);
    expect(refused({ remove: null, add: null })).toMatch(/puts nothing in/);
  });
});

describe('placing and ramping a snapshot', () => {
  test('what its filter recalls is placed, guards heeded, what is gone is said', () => {
    const song = applyEdit(withVerse(), { kind: 'guard', control: 'voice/pan', changes: { safe: true } }).song;
    const applied = applyEdit(song, { kind: 'place', snapshot: 'verse-1', range: [20, 30], edge: 1 });
    expect(applied).toMatchObject({
      changed: ['voice/level'],
      refused: [{ control: 'voice/pan', reason: 'safe' }],
      gone: ['gone/level'],
    });
    expect(pairs(laneOf(applied.song, 'voice/level').points)).toEqual([
      [0, -6],
      [20, -6],
      [21, -4],
      [29, -4],
      [30, -6],
    ]);
    const ramp = applyEdit(song, { kind: 'ramp', snapshot: 'verse-1', range: [20, 30], after: 'end' });
    expect(valueAt(laneOf(ramp.song, 'voice/level').points, controlOf(song, 'voice/level').law, 0, 45)).toBe(-4);
  });

  test('what it finds so all over the range stays as it is: a lane without a curve gets none', () => {
    const song = withVerse(testSong({ lanes: { 'voice/level': { rest: -4 }, 'voice/pan': { rest: 0.4 } } }));
    expect(applyEdit(song, { kind: 'place', snapshot: 'verse-1', range: [1, 2] }).changed).toEqual(['voice/pan']);
  });

  test('of no snapshot, of two things, of none: a sentence', () => {
    const refused = (edit: object): string => {
      const read = readEdit(withVerse(), { kind: 'place', range: [1, 2], ...edit });
      return read.ok ? '' : read.sentence;
    };
    expect(refused({ snapshot: 'chorus' })).toBe('The song has no snapshot “chorus”. Its snapshots are verse-1.');
    expect(refused({ snapshot: 'verse-1', values: { 'voice/level': 0 } })).toMatch(/one of the two/);
    expect(refused({})).toMatch(/one of the two/);
    expect(refused({ snapshot: 'verse-1', edge: 3 })).toMatch(/\/edge/);
  });

  test('whatever is placed or ramped: nothing outside changes, and no guarded lane; inside it is as it says', () => {
    const edits = draws.filter(({ kind }) => kind === 'place' || kind === 'ramp');
    fc.assert(
      fc.property(fc.array(draws, { maxLength: 12 }), edits, (before, draw) => {
        const base = withVerse(anySong());
        const song = before.reduce((now, one) => applyEdit(now, editFrom(now, one)).song, base);
        const edit = editFrom(song, draw) as Edit & { kind: 'place' | 'ramp' };
        const { song: after, changed, refused } = applyEdit(song, edit);
        const [from, to] = edit.range;
        for (const { control, reason } of refused) expect(whyNotPlaced(song, control)).toBe(reason);
        for (const id of controlsOf(song).keys()) {
          if (!changed.includes(id) && after.lanes[id] !== song.lanes[id]) expect(id).toBe('as it was');
          if (changed.includes(id)) expect(whyNotPlaced(song, id)).toBeNull();
        }
        const ends = edit.kind === 'ramp' && edit.towards !== 'old' && edit.after !== 'resume' ? Infinity : to;
        for (const id of changed)
          for (let t = 0.013; t < 60; t += 0.7)
            if (t < from || t >= ends) expectWithin(at(after, id, t), at(song, id, t), 1e-9);
        const entry = placedEntry(song, edit)!;
        const values = Object.fromEntries(Object.entries(entry.values).filter(([id]) => changed.includes(id)));
        const isBack = edit.kind === 'ramp' && edit.towards === 'old';
        const isSwitched = changed.some((id) => controlOf(song, id).law.kind === 'switch');
        if (!isBack && !(edit.kind === 'ramp' && isSwitched))
          expect(isAsPlaced(after, { ...entry, values }, edit.range)).toBe(true);
      }),
      { numRuns: runs(300) },
    );
  });
});

describe('in the log', () => {
  const song = withVerse();
  const place: Edit = { kind: 'place', snapshot: 'verse-1', range: [20, 30], edge: 1 };
  const both: Edit = { kind: 'together', edits: [place, { ...place, range: [40, 50] }], as: 'Verse 1 on 2 places' };

  test('placings, ramps and several of them at once leave an entry; what is mixed with other mending does not', () => {
    expect(isLogged(both)).toBe(true);
    const lift = { kind: 'lift', controls: ['voice/level'], range: [1, 2], travel: 0.1 } as const;
    expect(isLogged({ kind: 'together', edits: [place, lift] })).toBe(false);
    expect(placedEntry(song, lift)).toBeNull();
    expect(placedEntry(song, both)).toMatchObject({
      kind: 'place',
      snapshot: { key: 'verse-1', name: 'Verse 1' },
      ranges: [
        [20, 30],
        [40, 50],
      ],
      edge: 1,
      values: { 'voice/level': -4, 'voice/pan': 0.5 },
    });
  });

  test('its receipt says where which lanes were written; whether it stands is told by the curves', () => {
    const { song: after, changed, refused } = applyEdit(song, both);
    const entry = placedEntry(song, both)!;
    const receipt = placedReceipt(after, entry, changed, refused);
    expect(receipt).toMatchObject({ from: 20, to: 50, refused: [] });
    expect(receipt.lanes.map(({ control, points }) => [control, points])).toEqual([
      ['voice/level', 8],
      ['voice/pan', 8],
    ]);
    expect(entry.ranges.map((range) => isAsPlaced(after, entry, range))).toEqual([true, true]);
    const nudged = applyEdit(after, { kind: 'lift', controls: ['voice/pan'], range: [44, 45], travel: 0.1 }).song;
    expect(entry.ranges.map((range) => isAsPlaced(nudged, entry, range))).toEqual([true, false]);
    // Its edges are no part of what was placed.
    const edges = applyEdit(after, { kind: 'lift', controls: ['voice/pan'], range: [20.1, 20.9], travel: 0.1 }).song;
    expect(isAsPlaced(edges, entry, [20, 30])).toBe(true);
  });

  test('who wrote at a time: where the later state says something else, a step counting from its own time on', () => {
    const { law } = controlOf(song, 'voice/level');
    const state = (s: Song) => {
      const { points, rest } = laneOf(s, 'voice/level');
      return { points, rest };
    };
    const after = applyEdit(song, { kind: 'place', values: { 'voice/level': -4 }, range: [20, 30], edge: 0 }).song;
    const wrote = (t: number): boolean => changedAt(law, state(song), state(after), t);
    expect([19.9, 20, 25, 29.9, 30, 31].map(wrote)).toEqual([false, true, true, true, false, false]);
  });
});

describe('many states at once', () => {
  test('modes, trim and guards of channels, single controls and the scope; no undo step; taken back as they were', () => {
    const song = testSong({ lanes: { 'fiddle/pan': { points: [linePoint(0, 0.1)], safe: true } } });
    const edit: Edit = {
      kind: 'states',
      scope: ['level'],
      channels: { voice: { mode: 'write', trim: true }, fiddle: { safe: ['level', 'pan'], parked: true } },
      controls: { 'fiddle/pan': { safe: false }, 'voice/mute': { parked: true } },
    };
    const { song: after, inverse } = applyEdit(song, edit);
    expect(after.channels.slice(0, 2)).toMatchObject([
      { mode: 'write', trim: true, safe: [] },
      { mode: 'read', safe: ['level', 'pan'], parked: true },
    ]);
    expect(after.settings.writeScope).toEqual(['level']);
    expect([after.lanes['fiddle/pan']!.safe, after.lanes['voice/mute']!.parked]).toEqual([false, true]);
    expect(applyEdit(after, inverse!).song).toEqual(song);
  });

  test('a set of guards brings back what it kept of its channels, and nothing of the others', () => {
    const song = applyEdit(testSong(), {
      kind: 'states',
      channels: { fiddle: { safe: ['level'] } },
      controls: { 'fiddle/mute': { safe: true } },
    }).song;
    const set = guardsKept(song, {
      key: 'drums',
      name: 'Protect the drums',
      channels: ['fiddle', 'main'],
      withScope: true,
    });
    const freed = applyEdit(song, {
      kind: 'states',
      scope: ['pan'],
      channels: { fiddle: { safe: [], parked: true }, voice: { safe: ['mute'] } },
      controls: { 'fiddle/mute': { safe: false }, 'fiddle/level': { parked: true } },
    }).song;
    const back = applyEdit(freed, statesOfSet(freed, set)).song;
    expect(back.channels.find(({ key }) => key === 'fiddle')).toMatchObject({ safe: ['level'], parked: false });
    expect(back.channels.find(({ key }) => key === 'voice')!.safe).toEqual(['mute']);
    expect(back.settings.writeScope).toEqual(song.settings.writeScope);
    expect([back.lanes['fiddle/mute']!.safe, back.lanes['fiddle/level']!.parked]).toEqual([true, false]);
    expect(statesOfSet(back, set)).toEqual({ kind: 'states', channels: {}, controls: {} });
  });

  test('of channels that are gone the rest is brought back', () => {
    const set = guardSetWithDefaults({
      key: 'old',
      channels: { gone: { safe: ['level'], parked: false }, voice: { safe: ['pan'], parked: false } },
      controls: { 'gone/level': { safe: true, parked: false } },
    });
    expect(statesOfSet(testSong(), set)).toEqual({
      kind: 'states',
      channels: { voice: { safe: ['pan'], parked: false } },
      controls: {},
    });
  });
});
