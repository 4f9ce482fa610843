import { describe, expect, test } from '@jest/globals';
import { readEdit } from '../../formats/index.js';
import { channelOf, controlsOf, laneOf, type Song } from '../../song/index.js';
import { testSong } from '../../test/songs.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';

const LANE = { rest: -3, points: [{ t: 0, v: -3, shape: 'line', bend: 0 }] } as const;
/** Two tracks into a bus, which goes out to another; one sends to it as well; a VCA holds them, and a gang. */
const family = (parts: object = {}): Song => ({
  ...testSong({
    channels: [
      { key: 'voice', kind: 'track', name: 'Voice', output: 'pair', sends: [{ bus: 'hall', tap: 'pre', pan: 'own' }] },
      {
        key: 'fiddle',
        kind: 'track',
        name: 'Fiddle',
        output: 'pair',
        sends: [{ bus: 'pair', tap: 'post', pan: 'follow' }],
      },
      { key: 'pair', kind: 'bus', name: 'Pair', output: 'hall' },
      { key: 'hall', kind: 'bus', name: 'Hall' },
      { key: 'main', kind: 'main', name: 'Main' },
      { key: 'all', kind: 'vca', name: 'All', members: ['voice', 'pair', 'fiddle'] },
    ] as never,
    lanes: { 'pair/level': LANE, 'fiddle/send/pair/level': LANE, 'voice/level': LANE },
    ...parts,
  }),
  gangs: [{ key: 'two', name: 'Two', channels: ['voice', 'pair'], kinds: ['level'] }],
});
const read = (song: Song, edit: unknown): Edit => {
  const made = readEdit(song, edit);
  if (!made.ok) throw new Error(made.sentence);
  return made.value;
};
const sentence = (song: Song, edit: unknown): string => {
  const made = readEdit(song, edit);
  return made.ok ? 'taken' : made.sentence;
};

describe('a bus that is taken out', () => {
  const song = family();
  const edit = read(song, { kind: 'removeChannel', channel: 'pair' });
  const { song: after, inverse, changed } = applyEdit(song, edit);

  test('takes its lanes, the sends to it and its memberships along; what fed it goes to its output', () => {
    expect(changed).toEqual(['pair/level', 'fiddle/send/pair/level']);
    expect(Object.keys(after.lanes)).toEqual(['voice/level']);
    expect(['voice', 'fiddle'].map((key) => channelOf(after, key)!.output)).toEqual(['hall', 'hall']);
    expect(channelOf(after, 'fiddle')!.sends).toEqual([]);
    expect(channelOf(after, 'all')!.members).toEqual(['voice', 'fiddle']);
    expect(after.gangs[0]!.channels).toEqual(['voice']);
    expect(nameOfEdit(song, edit, null)).toBe('Channel Pair removed');
  });

  test('comes back with all of it, in its places', () => {
    expect(applyEdit(after, inverse!).song).toEqual(song);
    expect(read(after, JSON.parse(JSON.stringify(inverse)))).toEqual(inverse);
  });

  test('is refused whole where a lane that would go is guarded, a send of another channel too', () => {
    const guarded = applyEdit(song, { kind: 'guard', control: 'fiddle/send/pair/on', changes: { safe: true } }).song;
    const refused = applyEdit(guarded, edit);
    expect(refused).toMatchObject({ changed: [], refused: [{ control: 'fiddle/send/pair/on', reason: 'safe' }] });
    expect(refused.song).toBe(guarded);
  });
});

test('a channel put in has a document’s defaults; keys, places and loops are looked at', () => {
  const song = family();
  const edit = read(song, { kind: 'addChannel', channel: { key: 'echo', kind: 'bus' }, at: 2 });
  const { song: after, inverse } = applyEdit(song, edit);
  expect(after.channels[2]).toMatchObject({ key: 'echo', name: 'echo', mode: 'read', output: 'main', sends: [] });
  expect(inverse).toEqual({ kind: 'removeChannel', channel: 'echo' });
  expect(applyEdit(after, inverse!).song).toEqual(song);
  const add = (channel: object, at?: number): string => sentence(song, { kind: 'addChannel', channel, at });
  expect(add({ key: 'voice', kind: 'bus' })).toBe('Two channels have the key “voice”; give one of them another.');
  expect(add({ key: 'other', kind: 'main' })).toBe('The song has more than one main channel; keep one.');
  expect(add({ key: 'x', kind: 'bus', name: 'X' }, 9)).toBe('The song has 6 channels; X can’t stand at place 9.');
  expect(sentence(song, { kind: 'removeChannel', channel: 'main' })).toBe(
    'Main can’t be taken out: all goes out through it.',
  );
});

test('outputs and sends that would feed back are refused by name', () => {
  const song = family();
  expect(sentence(song, { kind: 'output', channel: 'hall', to: 'pair' })).toContain('loop: Pair → Hall → Pair.');
  const send = { bus: 'pair', tap: 'post', pan: 'follow' };
  expect(sentence(song, { kind: 'send', channel: 'hall', remove: null, add: send })).toContain(
    'loop: Pair → Hall → Pair.',
  );
  expect(sentence(song, { kind: 'send', channel: 'all', remove: null, add: send })).toBe(
    'All is a VCA, which has no audio to send.',
  );
  const edit = read(song, { kind: 'output', channel: 'pair', to: 'main' });
  const { song: after, inverse } = applyEdit(song, edit);
  expect(channelOf(after, 'pair')!.output).toBe('main');
  expect(nameOfEdit(song, edit, null)).toBe('Output of Pair: Main');
  expect(applyEdit(after, inverse!).song).toEqual(song);
});

test('a send changed in its place keeps its lanes; its own pan goes with following, and comes back', () => {
  const pan = { 'voice/send/hall/pan': { rest: 0.5 }, 'voice/send/hall/level': { rest: -9 } };
  const song = family({ lanes: pan });
  const was = channelOf(song, 'voice')!.sends[0]!;
  const edit = read(song, { kind: 'send', channel: 'voice', remove: was, add: { bus: 'hall' } });
  const { song: after, inverse, changed } = applyEdit(song, edit);
  expect(channelOf(after, 'voice')!.sends).toEqual([{ bus: 'hall', tap: 'post', pan: 'follow' }]);
  expect(changed).toEqual(['voice/send/hall/pan']);
  expect(controlsOf(after).has('voice/send/hall/pan')).toBe(false);
  expect(laneOf(after, 'voice/send/hall/level').rest).toBe(-9);
  expect(applyEdit(after, inverse!).song).toEqual(song);
  expect(sentence(song, { kind: 'send', channel: 'voice', remove: { ...was, tap: 'post' }, add: null })).toContain(
    'The send of Voice to “hall” has been changed meanwhile',
  );
});

test('edits of what has gone leave the song as it is', () => {
  const song = applyEdit(family(), { kind: 'removeChannel', channel: 'pair' }).song;
  const gone: Edit[] = [
    { kind: 'rest', values: { 'pair/level': 0 } },
    { kind: 'lanes', lanes: { 'pair/level': null } },
    { kind: 'channel', channel: 'pair', changes: { mode: 'touch' } },
    { kind: 'guard', control: 'pair/level', changes: { safe: true } },
    { kind: 'describe', channel: 'pair', changes: { name: 'Both' } },
    { kind: 'carry', control: 'pair/level', from: 1, to: 2 },
    { kind: 'removeChannel', channel: 'pair' },
    { kind: 'output', channel: 'pair', to: 'main' },
  ];
  for (const edit of gone) expect(applyEdit(song, edit)).toEqual({ song, inverse: null, changed: [], refused: [] });
});
