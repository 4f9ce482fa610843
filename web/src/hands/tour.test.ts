import { describe, expect, test } from '@jest/globals';
import { applyEdit } from '@sure-hand/core/edits';
import { readSong } from '@sure-hand/core/formats';
import { runMoves, type HandEvent } from '@sure-hand/core/pass';
import { controlsOf, type Song } from '@sure-hand/core/song';
import { isToured, tourOf } from './tour.js';

/** A song with the places and controls that the tour is about, and no audio. */
function toured(): Song {
  const track = (key: string, more: object = {}): object => ({ key, kind: 'track', name: key, ...more });
  const keys = ['mill-wheel', 'pump-organ', 'fiddle', 'clarinet', 'harmony-low', 'choir'];
  const read = readSong({
    format: 'sure-hand-song',
    version: 1,
    length: 160,
    sections: ['Intro', 'Verse 1', 'Chorus 1', 'Verse 2', 'Chorus 2', 'Fiddle solo', 'Bridge', 'Last chorus'].map(
      (name, i) => ({ t: 20 * i, name }),
    ),
    notes: [{ t: 136, text: 'Throw this last word into the Hall.' }],
    channels: [
      ...keys.map((key) => track(key)),
      track('pump-house', { inserts: [{ slot: 'filter', effect: 'filter', settings: { shape: 'high' } }] }),
      track('lead', { sends: [{ bus: 'hall' }] }),
      { key: 'hall', kind: 'bus', name: 'Hall' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'vca-voices', kind: 'vca', name: 'Voices', members: ['lead', 'choir', 'harmony-low'] },
    ],
    lanes: { 'clarinet/pan': { rest: -0.7 }, 'lead/send/hall/level': { rest: -18 } },
  });
  if (!read.ok) throw new Error(read.sentence);
  return read.value;
}
const step = (id: string) => tourOf(toured()).find((one) => one.id === id)!;
const measured = (song: Song, id: string) => step(id).measure!(song);
const ridden = (song: Song, ...events: HandEvent[]): Song => {
  const done = runMoves(song, events);
  if (!done.ok) throw new Error(done.sentence);
  return done.song;
};
/** One hand on a control over a section, by its mode. */
const hold = (control: string, value: number, [from, to]: readonly [number, number]): HandEvent[] => [
  { do: 'mode', channel: control.split('/')[0]!, mode: 'touch' },
  { do: 'play', from: from - 2 },
  { t: from, do: 'touch', control },
  { t: from, do: 'move', control, value },
  { t: to, do: 'release', control },
  { t: to + 1, do: 'stop' },
];

test('each step goes to what the song has, in order: two to listen to, seven to do', () => {
  const song = toured();
  expect(isToured(song)).toBe(true);
  expect(isToured({ ...song, sections: [] })).toBe(false);
  expect(tourOf(song).filter(({ measure }) => measure === null)).toHaveLength(2);
  expect(tourOf(song)).toHaveLength(9);
  // One that was made before inserts were has no step about one.
  const earlier = { ...song, channels: song.channels.map((one) => ({ ...one, inserts: [] })) };
  expect(tourOf(earlier)).toHaveLength(8);
  for (const { place, acts, will } of tourOf(song)) {
    const { control, t, range } = place(song);
    expect(controlsOf(song).has(control)).toBe(true);
    expect(t).toBeGreaterThanOrEqual(0);
    expect(range![0]).toBeLessThan(range![1]);
    expect(acts.length).toBeGreaterThan(1);
    expect(will.length).toBeGreaterThan(40);
  }
});

describe('each note measures as open before and as solved after', () => {
  const song = toured();
  const solvedBy = (id: string, after: Song): void => {
    expect(measured(song, id).isSolved).toBe(false);
    expect([id, measured(after, id)]).toEqual([id, expect.objectContaining({ isSolved: true })]);
    // It is told in numbers, and what is wanted.
    expect(measured(song, id).words).toMatch(/\d/);
    for (const { id: other, measure } of tourOf(song))
      if (measure && other !== id) expect([other, measure(after).isSolved]).toEqual([other, false]);
  };

  test('the Fiddle by touch, the Voices by their VCA', () => {
    solvedBy('fiddle', ridden(song, ...hold('fiddle/level', 5, [100, 120])));
    solvedBy('organ', ridden(song, ...hold('vca-voices/level', 8, [60, 80])));
    // Half of it is not enough.
    expect(measured(ridden(song, ...hold('fiddle/level', 2, [100, 120])), 'fiddle').isSolved).toBe(false);
  });

  test('the Pump house by trim, folded or waiting', () => {
    const trimmed = ridden(
      song,
      { do: 'trim', channel: 'pump-house', on: true },
      ...hold('pump-house/level', 5, [140, 160]),
    );
    expect(trimmed.lanes['pump-house/level']!.trim.length).toBeGreaterThan(0);
    solvedBy('pump-house', trimmed);
    solvedBy('pump-house', applyEdit(trimmed, { kind: 'foldTrim', controls: ['pump-house/level'] }).song);
  });

  test('the Clarinet by poise and punch', () => {
    const punched = applyEdit(song, { kind: 'settings', changes: { punch: [120, 140] } }).song;
    const control = 'clarinet/pan';
    const crossed = ridden(
      punched,
      { do: 'mode', channel: 'clarinet', mode: 'latch' },
      { do: 'move', control, value: -0.7 },
      { do: 'play', from: 118 },
      { t: 122, do: 'touch', control },
      { t: 138, do: 'move', control, value: 0.7 },
      { t: 139, do: 'release', control },
      { t: 142, do: 'stop' },
    );
    solvedBy('clarinet', crossed);
  });

  test('the last word by a send throw that comes back; one that stays up is not it', () => {
    const control = 'lead/send/hall/level';
    solvedBy('word', ridden(song, ...hold(control, -6, [136, 139])));
    const stays = ridden(
      song,
      { do: 'mode', channel: 'lead', mode: 'latch' },
      ...hold(control, -6, [136, 158]).slice(1),
    );
    expect(measured(stays, 'word')).toMatchObject({ isSolved: false, words: expect.stringContaining('it stays up') });
  });

  test('the rumble by a filter that is ridden up and comes back; one that stays up, or goes too far, is not it', () => {
    const control = 'pump-house/insert/filter/cutoff';
    solvedBy('rumble', ridden(song, ...hold(control, 95, [60, 80])));
    expect(measured(ridden(song, ...hold(control, 600, [60, 80])), 'rumble').isSolved).toBe(false);
    const latched: HandEvent = { do: 'mode', channel: 'pump-house', mode: 'latch' };
    const stays = ridden(song, latched, ...hold(control, 95, [60, 158]).slice(1));
    expect(measured(stays, 'rumble')).toMatchObject({ isSolved: false, words: expect.stringContaining('it stays at') });
  });

  test('the coughs by mutes held', () => {
    const control = 'choir/mute';
    const cough = (t: number): HandEvent[] => [
      { t, do: 'touch', control },
      { t, do: 'move', control, value: 1 },
      { t: t + 0.5, do: 'release', control },
    ];
    const mode: HandEvent = { do: 'mode', channel: 'choir', mode: 'touch' };
    const first = ridden(song, mode, { do: 'play', from: 20 }, ...[24, 30, 36].flatMap(cough), { t: 40, do: 'stop' });
    expect(measured(first, 'coughs').words).toContain('muted 3 times');
    solvedBy('coughs', ridden(first, { do: 'play', from: 60 }, ...[64, 70].flatMap(cough), { t: 80, do: 'stop' }));
  });
});
