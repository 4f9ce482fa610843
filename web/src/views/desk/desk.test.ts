import { expect, test } from '@jest/globals';
import { readSong } from '@sure-hand/core/formats';
import { channelOf, type Song } from '@sure-hand/core/song';
import { NO_FILTER } from '../../hands/laneFilter.js';
import { layStrips, stripAt, throwHeight, widthOfStrips, type StripsView } from './deskLayout.js';

function band(): Song {
  const voice = { kind: 'track', family: 'Voices' };
  const channels = [
    { ...voice, key: 'lead', sends: [{ bus: 'hall' }] },
    { ...voice, key: 'low', sends: [{ bus: 'hall' }] },
    { ...voice, key: 'high' },
    { key: 'hall', kind: 'bus', family: 'Buses' },
    { key: 'main', kind: 'main' },
    { key: 'voices', kind: 'vca', members: ['lead', 'low'] },
    { key: 'all', kind: 'vca', members: ['voices', 'high'] },
  ];
  const read = readSong({ format: 'sure-hand-song', version: 1, length: 60, channels });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}

test('strips stand by families; members of an open VCA stand beside it and nowhere else, sends beside their bus as well', () => {
  const song = band();
  const desk = { px: 88, own: { hall: 160 }, throws: null, open: [], family: null, vca: null } as const;
  const view = (changes: object): StripsView => ({ front: {}, filter: NO_FILTER, desk: { ...desk, ...changes } });
  const keys = (changes: object): string[] => layStrips(song, view(changes)).map(({ key }) => key);
  const plain = ['lead/level', 'low/level', 'high/level', 'hall/level', 'main/level', 'voices/level', 'all/level'];
  expect(keys({})).toEqual(plain);
  expect(keys({ open: ['voices'] })).toEqual([
    ...['high/level', 'hall/level', 'main/level', 'voices/level'],
    ...['voices lead/level', 'voices low/level', 'all/level'],
  ]);
  expect(keys({ open: ['hall'] })).toEqual([
    ...plain.slice(0, 4),
    ...['hall lead/send/hall/level', 'hall low/send/hall/level'],
    ...plain.slice(4),
  ]);
  expect(keys({ throws: 'pan' })).toEqual(['lead/pan', 'low/pan', 'high/pan', 'hall/pan', 'main/pan']);
  expect(keys({ vca: 'voices' })).toEqual(['lead/level', 'low/level', 'voices/level']);
  expect(keys({ family: 'Voices', throws: 'send/hall/level' })).toEqual([
    'lead/send/hall/level',
    'low/send/hall/level',
  ]);
  const strips = layStrips(song, view({}));
  expect(strips.map(({ left }) => left)).toEqual([0, 88, 176, 264, 424, 512, 600]);
  expect(widthOfStrips(strips)).toBe(688);
  expect(stripAt(strips, 300)?.channel).toBe(channelOf(song, 'hall'));
  expect(stripAt(strips, 700)).toBeNull();
  expect([400, 640, 2000].map(throwHeight)).toEqual([174, 414, 560]);
});
