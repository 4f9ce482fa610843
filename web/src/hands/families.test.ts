import { expect, test } from '@jest/globals';
import { linePoint } from '@sure-hand/core/curve';
import { ownBySong } from '@sure-hand/core/groups';
import { readSong } from '@sure-hand/core/formats';
import type { Song } from '@sure-hand/core/song';
import { foldForecast, goesWith, membersToChoose, newGang } from './families.js';
import { alongWords, gangWords, partsWords, whySoQuiet } from './familyWords.js';

const track = (key: string, name: string, more: object = {}): object => ({
  key,
  kind: 'track',
  name,
  family: 'Voices',
  ...more,
});
function band(lanes: object = {}, more: { solo?: string; gangs?: object[] } = {}): Song {
  const channels = [
    track('lead', 'Lead', { sends: [{ bus: 'hall' }] }),
    track('low', 'Harmony low', { sends: [{ bus: 'hall' }] }),
    track('high', 'Harmony high'),
    { key: 'hall', kind: 'bus', name: 'Hall', family: 'Buses' },
    { key: 'main', kind: 'main', name: 'Main' },
    { key: 'voices', kind: 'vca', name: 'Voices', members: ['lead', 'low'] },
    { key: 'all', kind: 'vca', name: 'All', members: ['voices', 'high'] },
  ].map((channel) => ({ ...channel, solo: 'key' in channel && channel.key === more.solo }));
  const read = readSong({ format: 'sure-hand-song', version: 1, length: 60, channels, lanes, gangs: more.gangs ?? [] });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}
const why = (song: Song, id = 'lead/level'): string => whySoQuiet(song, id, ownBySong(song, 5));

test('why something is so quiet: what keeps it silent first, then what takes the most', () => {
  expect(why(band())).toBe('Lead level is at 0.0 dB: by its own lane alone.');
  const sunk = band({
    'lead/level': { rest: -6, trim: [{ t: 0, v: 1 }] },
    'voices/level': { rest: -1.5 },
    'all/level': { rest: -9 },
  });
  expect(why(sunk)).toBe(
    'Lead level is at −15.5 dB: its own lane is at −6.0 dB, All takes 9.0 dB, Voices takes 1.5 dB and its trim adds 1.0 dB.',
  );
  expect(partsWords(sunk, 'lead/level', ownBySong(sunk, 5))).toBe(
    'own −6.0 dB, trim +1.0 dB, Voices −1.5 dB, All −9.0 dB',
  );
  expect(why(band({ 'all/level': { rest: -144 } }))).toBe('Lead level is silent: All is at −∞ dB.');
  expect(why(band({ 'voices/mute': { rest: 1 } }))).toBe('Lead is silent: the VCA Voices is muted.');
  expect(why(band({ 'lead/mute': { rest: 1 } }))).toBe('Lead is silent: it is muted.');
  expect(why(band({}, { solo: 'high' }))).toBe('Lead is silent: Harmony high is soloed.');
  // A VCA that is soloed solos its members.
  expect(why(band({}, { solo: 'voices' }))).toBe('Lead level is at 0.0 dB: by its own lane alone.');
});

test('a gang is told by its kinds, its channels and how it goes; a new one takes kinds that are in no other', () => {
  const gang = {
    key: 'pair',
    name: 'Pair',
    channels: ['low', 'high'],
    kinds: ['level', 'pan'],
    pan: 'mirror',
    modes: true,
  };
  const song = band({}, { gangs: [gang] });
  expect(gangWords(song, song.gangs[0]!)).toBe(
    'Gang Pair: levels and pans of Harmony low and Harmony high, pans mirrored, modes and trim too',
  );
  expect(alongWords(song, 'low/pan')).toBe('Moves Harmony high along (gang Pair; 9 held leaves them out).');
  expect(alongWords(song, 'low/mute')).toBeNull();
  expect(newGang(song, 'Other', ['low', 'lead']).kinds).toEqual(['mute']);
  expect(newGang(band(), 'Pair', ['low', 'lead'])).toMatchObject({ key: 'pair', kinds: ['level'], modes: false });
});

test('what a fold would write is told before: members, points, where +12 dB holds; and what keeps it from being made', () => {
  const song = band({
    'lead/level': { points: [linePoint(0, 9), linePoint(30, 9)] },
    'voices/level': { points: [linePoint(8, 0), linePoint(10, 6), linePoint(20, 6), linePoint(22, 0)] },
  });
  const told = foldForecast(song, { kind: 'foldVca', vca: 'voices' });
  expect(told).toMatchObject({ can: true });
  expect(told.says).toMatch(
    /^Writes Lead level and Harmony low level: \d+ points more\. Nothing is heard to change\.$/,
  );
  expect(told.clamps).toBe('+12 dB holds Lead level at 5·3–11·3: quieter there than now.');
  expect(foldForecast(band(), { kind: 'foldVca', vca: 'voices' })).toMatchObject({ can: false });
  const safe = band({ 'voices/level': { rest: -3 }, 'low/level': { safe: true } });
  expect(foldForecast(safe, { kind: 'foldVca', vca: 'voices' })).toEqual({
    can: false,
    says: 'Can’t be folded: Harmony low level (safe). Nothing would be changed.',
    clamps: null,
  });
});

test('a VCA is never offered what would close a ring; what goes with a channel is told before it goes', () => {
  expect(membersToChoose(band(), 'voices').map(({ key }) => key)).toEqual(['lead', 'low', 'high', 'hall', 'main']);
  expect(membersToChoose(band(), 'all').map(({ key }) => key)).toContain('voices');
  const song = band({ 'lead/send/hall/level': { points: [linePoint(1, -6)] } });
  expect(goesWith(song, 'hall')).toBe(
    '1 curve and the sends of Lead and Harmony low go with it; undo brings all of it back. Passes that wrote it stay in the log.',
  );
  expect(goesWith(song, 'lead')).toBe(
    '1 curve and its place in Voices go with it; undo brings all of it back. Passes that wrote it stay in the log.',
  );
});
