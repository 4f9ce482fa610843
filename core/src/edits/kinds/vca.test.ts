import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { holdPoint, linePoint, valueAt } from '../../curve/index.js';
import { effectiveValueAt } from '../../groups/index.js';
import { channelOf, laneOf, type Channel, type Song } from '../../song/index.js';
import { testSong } from '../../test/songs.js';
import { SWITCH_LAW } from '../../units/index.js';
import { readEdit } from '../../formats/index.js';
import { applyEdit, type Edit } from '../index.js';
import { runs } from '../../test/runs.js';

const band = (lanes: object = {}): Song =>
  testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice' },
      { key: 'fiddle', kind: 'track', name: 'Fiddle' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'band', kind: 'vca', name: 'Band', members: ['voice', 'fiddle'], mode: 'touch' },
      { key: 'all', kind: 'vca', name: 'All', members: ['band'] },
    ],
    gangs: [{ key: 'pair', channels: ['band', 'voice'] }],
    lanes: { 'band/level': { points: [linePoint(8, 0), linePoint(16, -6)] }, ...lanes },
  });
const edit = (song: Song, json: unknown): Edit => {
  const read = readEdit(song, json);
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
};

test('a VCA is made from its key and members, and a ring of them is refused by their names', () => {
  const song = band();
  const made = applyEdit(
    song,
    edit(song, { kind: 'vca', remove: null, add: { key: 'low', name: 'Low', members: ['fiddle'] } }),
  );
  expect(channelOf(made.song, 'low')).toMatchObject({ kind: 'vca', name: 'Low', mode: 'read', members: ['fiddle'] });
  expect(applyEdit(made.song, made.inverse!).song).toEqual(song);
  const ring = { kind: 'vca', remove: { key: 'band' }, add: { key: 'band', name: 'Band', members: ['all'] } };
  expect(readEdit(song, { ...ring, remove: { key: 'band', name: 'Band', members: ['voice', 'fiddle'] } })).toEqual({
    ok: false,
    sentence: 'The VCAs Band → All → Band hold each other in a ring; take one out of the other.',
  });
  expect(readEdit(song, { ...ring, remove: { key: 'band', name: 'Gone', members: [] } })).toMatchObject({ ok: false });
});

test('other members and another name leave its mode and curves; undo leaves the mode of meanwhile', () => {
  const song = band();
  const { key, name, family } = channelOf(song, 'band')!;
  const other = { ...channelOf(song, 'band')!, name: 'Duo', members: ['voice'] };
  const changed = applyEdit(song, {
    kind: 'vca',
    remove: { ...other, key, name, family, members: ['voice', 'fiddle'] },
    add: other,
  });
  expect(channelOf(changed.song, 'band')).toMatchObject({ name: 'Duo', members: ['voice'], mode: 'touch' });
  expect(changed.song.lanes).toBe(song.lanes);
  const latched = applyEdit(changed.song, { kind: 'channel', channel: 'band', changes: { mode: 'latch' } }).song;
  expect(channelOf(applyEdit(latched, changed.inverse!).song, 'band')).toMatchObject({ name: 'Band', mode: 'latch' });
});

test('what is not said of a VCA or a gang that is there is as it stands; what is said and is not so is refused', () => {
  const song = applyEdit(band(), { kind: 'describe', channel: 'band', changes: { family: 'VCAs' } }).song;
  const out = applyEdit(
    song,
    edit(song, { kind: 'vca', remove: { key: 'band', members: ['voice', 'fiddle'] }, add: null }),
  );
  expect(channelOf(out.song, 'band')).toBeUndefined();
  expect(applyEdit(out.song, out.inverse!).song).toEqual(song);
  const renamed = edit(song, { kind: 'vca', remove: { key: 'band' }, add: { key: 'band', name: 'Duo' } });
  expect(channelOf(applyEdit(song, renamed).song, 'band')).toMatchObject({
    name: 'Duo',
    family: 'VCAs',
    mode: 'touch',
  });
  const wider = edit(song, {
    kind: 'gang',
    remove: { key: 'pair', channels: ['band', 'voice'] },
    add: { key: 'pair', channels: ['band', 'voice', 'fiddle'], kinds: ['level', 'mute'] },
  });
  expect(applyEdit(song, wider).song.gangs).toMatchObject([{ key: 'pair', kinds: ['level', 'mute'], pan: 'same' }]);
  const stale = { kind: 'gang', remove: { key: 'pair', channels: ['voice'] }, add: null };
  expect(readEdit(song, stale)).toMatchObject({
    ok: false,
    sentence: expect.stringContaining('changed meanwhile') as string,
  });
});

test('one in another’s place stands where that stood, in VCAs and gangs, and all comes back', () => {
  const song = band();
  const add = { ...channelOf(song, 'band')!, key: 'duo', name: 'Duo' } as Channel;
  const put = applyEdit(song, { kind: 'vca', remove: channelOf(song, 'band')!, add });
  expect(channelOf(put.song, 'all')!.members).toEqual(['duo']);
  expect(put.song.gangs[0]!.channels).toEqual(['duo', 'voice']);
  expect(put.song.lanes['band/level']).toBeUndefined();
  expect(applyEdit(put.song, put.inverse!).song).toEqual(song);
});

test('dissolved with a fold its members are heard as before, muted where it was; without it they are not', () => {
  const mute = (...points: readonly (readonly [number, number])[]): object => ({
    points: points.map(([t, v]) => holdPoint(t, v)),
  });
  const song = band({
    'voice/level': { rest: -6, points: [linePoint(0, -6), linePoint(20, -12)] },
    'band/mute': mute([4, 1], [6, 0]),
    'voice/mute': mute([5, 1], [9, 0]),
  });
  const remove = channelOf(song, 'band')!;
  const folded = applyEdit(song, { kind: 'vca', remove, add: null, fold: true });
  for (const t of [0, 3.9, 4, 5.5, 7, 9, 12, 16, 30]) {
    for (const id of ['voice/level', 'fiddle/level'])
      expect(Math.abs(effectiveValueAt(folded.song, id, t) - effectiveValueAt(song, id, t))).toBeLessThan(0.05);
    for (const id of ['voice/mute', 'fiddle/mute'])
      expect(effectiveValueAt(folded.song, id, t)).toBe(effectiveValueAt(song, id, t));
  }
  expect(channelOf(folded.song, 'band')).toBeUndefined();
  expect(applyEdit(folded.song, folded.inverse!).song).toEqual(song);
  const plain = applyEdit(song, { kind: 'vca', remove, add: null });
  expect(plain.song.lanes['voice/mute']).toBe(song.lanes['voice/mute']);
  expect(effectiveValueAt(plain.song, 'fiddle/mute', 5)).toBe(0);
  const guarded = band({ 'band/mute': mute([4, 1]), 'fiddle/mute': { safe: true } });
  expect(applyEdit(guarded, { kind: 'vca', remove, add: null, fold: true })).toMatchObject({
    changed: [],
    refused: [{ control: 'fiddle/mute', reason: 'safe' }],
  });
});

test('whatever two mutes do, what is folded is on where either was', () => {
  const switches = fc.array(fc.tuple(fc.integer({ min: 0, max: 40 }), fc.boolean()), { maxLength: 8 });
  fc.assert(
    fc.property(switches, switches, fc.boolean(), fc.boolean(), (own, over, ownRest, overRest) => {
      const lane = (list: readonly (readonly [number, boolean])[], rest: boolean): object => ({
        rest: Number(rest),
        points: [...new Map(list).entries()].sort((a, b) => a[0] - b[0]).map(([t, on]) => holdPoint(t, Number(on))),
      });
      const song = band({ 'voice/mute': lane(own, ownRest), 'band/mute': lane(over, overRest) });
      const after = applyEdit(song, { kind: 'vca', remove: channelOf(song, 'band')!, add: null, fold: true }).song;
      const at = (one: Song, id: string, t: number): number => {
        const { points, rest } = laneOf(one, id);
        return valueAt(points, SWITCH_LAW, rest, t);
      };
      for (let t = 0; t < 41; t += 0.5)
        expect(at(after, 'voice/mute', t)).toBe(Math.max(at(song, 'voice/mute', t), at(song, 'band/mute', t)));
    }),
    { numRuns: runs(200) },
  );
});
