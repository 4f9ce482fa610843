import { expect, test } from '@jest/globals';
import { testSong } from '../../test/songs.js';
import { applyEdit } from '../registry.js';
import { mark, type MarkEdit } from './mark.js';

const edit = (remove: number | null, add: [t: number, bpm: number] | null, was = 100): MarkEdit => ({
  ...{ kind: 'mark', list: 'tempo' },
  remove: remove === null ? null : { t: remove, bpm: was },
  add: add && { t: add[0], bpm: add[1] },
});

test.each([
  ['changed where it stands', edit(4, [4, 90])],
  ['moved to the start', edit(4, [0, 100])],
  ['moved on', edit(4, [6, 100])],
  ['taken out, the next one leading', edit(4, null)],
  ['led by another', edit(null, [1, 80])],
  ['followed by another', edit(null, [9, 80])],
])('the first tempo of a document that stands later than 0, %s', (_how, one) => {
  const song = {
    ...testSong(),
    tempo: [
      { t: 4, bpm: 100 },
      { t: 8, bpm: 120 },
    ],
  };
  expect(mark.wrong(song, one)).toBeNull();
  const { song: after, inverse } = applyEdit(song, one);
  expect(after.tempo.find(({ t }) => t === one.add?.t)).toEqual(one.add ?? undefined);
  expect(applyEdit(after, inverse!).song.tempo).toEqual(song.tempo);
});

test.each([
  ['the only one', [{ t: 4, bpm: 100 }], edit(4, null)],
  [
    'the one at the start',
    [
      { t: 0, bpm: 100 },
      { t: 4, bpm: 90 },
    ],
    edit(0, null),
  ],
  [
    'the one at the start, moved',
    [
      { t: 0, bpm: 100 },
      { t: 4, bpm: 90 },
    ],
    edit(0, [2, 100]),
  ],
])('a song keeps a tempo: %s stays', (_what, tempo, one) => {
  expect(mark.wrong({ ...testSong(), tempo }, one)).toMatch(/needs a tempo at its very start/);
});
