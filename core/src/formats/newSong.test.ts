import { expect, test } from '@jest/globals';
import { controlsOf } from '../song/index.js';
import { guessTrack, newSong } from './newSong.js';

test.each([
  ['07_Nylon-Gtr_L.wav', 'Nylon Gtr L', 'Strings & reeds'],
  ['Lead Vox.WAV', 'Lead Vox', 'Voices'],
  ['kick.wav', 'Kick', 'Rhythm'],
  ['stems/12 - UprightBass.wav', 'Upright Bass', 'Low'],
  ['Glock.wav', 'Glock', 'Bells'],
  ['7.wav', '7', 'Others'],
  ['Zither take 3.wav', 'Zither take 3', 'Others'],
])('%s is guessed to be %s, of %s', (file, name, family) => {
  expect(guessTrack(file)).toEqual({ name, family });
});

test('a song of stems has a track each from the start, keys of their own, and the length of the longest', () => {
  const tracks = [
    { file: 'a.wav', seconds: 12.5, name: 'Lead', family: 'Voices' },
    { file: 'b.wav', seconds: 30, name: 'Lead', family: 'Voices' },
    { file: 'c.wav', seconds: 1, name: 'Main', family: 'Others' },
  ];
  const made = newSong({ name: 'New', sampleRate: 44100, tracks, sections: [{ t: 40, name: 'Too late' }] });
  if (!made.ok) throw new Error(made.sentence);
  expect(made.value.channels.map((channel) => channel.key)).toEqual(['lead', 'lead-2', 'main-2', 'main']);
  expect(made.value).toMatchObject({ length: 30, sampleRate: 44100, sections: [], tempo: [{ t: 0, bpm: 120 }] });
  expect(made.value.channels[0]!.clips).toMatchObject([{ t: 0, file: 'a.wav', offset: 0, length: 12.5, gain: 0 }]);
  expect([...controlsOf(made.value).keys()]).toContain('lead-2/level');
});

test('a song of nothing is refused', () => {
  expect(newSong({ name: 'New', sampleRate: 48000, tracks: [] })).toMatchObject({ ok: false });
});

test('stems of one name become channels of names of their own', () => {
  const stem = (name: string, i: number) => ({ name, family: 'Low', file: `${i}.wav`, seconds: 1 });
  const made = newSong({ name: 'Alike', sampleRate: 48000, tracks: ['Bass', 'Bass', 'Bass 2', 'Bass'].map(stem) });
  if (!made.ok) throw new Error(made.sentence);
  expect(made.value.channels.map(({ name }) => name)).toEqual(['Bass', 'Bass 2', 'Bass 2 2', 'Bass 3', 'Main']);
});
