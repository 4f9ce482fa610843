import { expect, test } from '@jest/globals';
import { linePoint } from '@sure-hand/core/curve';
import { applyEdit, nameOfEdit, type Edit } from '@sure-hand/core/edits';
import { channelOf, settingsOf, type Channel, type Song } from '@sure-hand/core/song';
import { testSong } from '../test/songs.js';
import {
  EFFECT_CHOICES,
  addedInsert,
  copiedInsert,
  insertCopiedAt,
  insertRows,
  isPictured,
  movedInsert,
  settingChanged,
  settingWord,
  settingsChosen,
  withoutInsert,
} from './inserts.js';

const voice = (song: Song): Channel => channelOf(song, 'voice')!;
const after = (song: Song, edit: Edit | null): Song => applyEdit(song, edit!).song;
const slots = (song: Song, key = 'voice'): string[] => channelOf(song, key)!.inserts.map(({ slot }) => slot);

test('effects are put in at the end, each in a slot of its own, and stand in their order with their switch and first parameter', () => {
  let song = testSong();
  for (const effect of ['equaliser', 'delay', 'equaliser']) song = after(song, addedInsert(voice(song), effect));
  expect(insertRows(song, voice(song)).map(({ name, on, first }) => [name, on, first])).toEqual([
    ['Equaliser 1', 'voice/insert/equaliser/on', 'voice/insert/equaliser/freq1'],
    ['Delay', 'voice/insert/delay/on', 'voice/insert/delay/time'],
    ['Equaliser 2', 'voice/insert/equaliser-2/on', 'voice/insert/equaliser-2/freq1'],
  ]);
  expect(EFFECT_CHOICES).toHaveLength(7);
  const moved = movedInsert(voice(song), 'delay', -1);
  expect(nameOfEdit(song, moved!, null)).toBe('Order of the inserts of Voice');
  expect(slots(after(song, moved))).toEqual(['delay', 'equaliser', 'equaliser-2']);
  expect([movedInsert(voice(song), 'equaliser', -1), movedInsert(voice(song), 'equaliser-2', 1)]).toEqual([null, null]);
  expect(slots(after(song, withoutInsert(voice(song), voice(song).inserts[1]!)))).toEqual(['equaliser', 'equaliser-2']);
});

test('settings are chosen by words; a copy goes to another channel with its curves', () => {
  const song = after(testSong(), addedInsert(voice(testSong()), 'filter'));
  const [filter] = voice(song).inserts;
  expect(settingsChosen(filter!).map(({ is, value }) => [is.name, value])).toEqual([
    ['Shape', 'low'],
    ['Slope', 12],
  ]);
  const steep = after(song, settingChanged(voice(song), filter!, 'slope', 24));
  expect(settingsOf(voice(steep).inserts[0]!)).toEqual({ shape: 'low', slope: 24 });
  expect(['lowShelf', 'peak', 'low', 24].map(settingWord)).toEqual(['Low shelf', 'Peak', 'Low pass', '24 dB']);
  const ridden = after(steep, { kind: 'rest', values: { 'voice/insert/filter/cutoff': 900 } });
  const copied = after(ridden, copiedInsert(voice(ridden), voice(ridden).inserts[0]!, 'fiddle'));
  expect(slots(copied, 'fiddle')).toEqual(['filter']);
  expect(copied.lanes['fiddle/insert/filter/cutoff']!.rest).toBe(900);
  // Or without: it rests where its parameters are at a time.
  const [from, to] = [linePoint(0, 400), linePoint(4, 400 * 4)];
  const drawn = after(steep, {
    kind: 'points',
    control: 'voice/insert/filter/cutoff',
    layer: 'base',
    remove: [],
    add: [from, to],
  } as Edit);
  const stands = after(drawn, insertCopiedAt(drawn, voice(drawn), voice(drawn).inserts[0]!, 'fiddle', 2));
  expect(stands.lanes['fiddle/insert/filter/cutoff']).toMatchObject({ points: { length: 0 } });
  expect(stands.lanes['fiddle/insert/filter/cutoff']!.rest).toBeCloseTo(800, 6);
  expect(settingsOf(channelOf(stands, 'fiddle')!.inserts[0]!)).toEqual({ shape: 'low', slope: 24 });
});

test('a throw stands in its picture, not in its way: while an insert’s is open, for what is in it', () => {
  const cutoff = 'voice/insert/filter/cutoff';
  expect(isPictured({ what: 'effect' }, cutoff)).toBe(true);
  expect(isPictured({ what: 'effect' }, 'voice/level')).toBe(false);
  expect(isPictured({ what: 'inserts' }, cutoff)).toBe(false);
  expect(isPictured(null, cutoff)).toBe(false);
});
