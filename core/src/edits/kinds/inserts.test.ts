import { describe, expect, test } from '@jest/globals';
import { linePoint } from '../../curve/index.js';
import { readEdit, readSong } from '../../formats/index.js';
import { channelOf, controlsOf, fullName, isInDb, controlOf, type Song } from '../../song/index.js';
import { pairs, testSong } from '../../test/songs.js';
import { applyEdit, nameOfEdit, type Edit } from '../registry.js';

const track = (key: string, name: string, more: object = {}): object => ({ key, kind: 'track', name, ...more });
const MAIN = { key: 'main', kind: 'main', name: 'Main' };
const song = (lanes: object = {}): Song =>
  testSong({
    channels: [
      track('voice', 'Voice', {
        inserts: [
          { slot: 'eq', effect: 'equaliser' },
          { slot: 'comp', effect: 'compressor', settings: { key: 'fiddle' } },
        ],
      }),
      track('fiddle', 'Fiddle', { inserts: [{ slot: 'eq', effect: 'filter', settings: { shape: 'high' } }] }),
      MAIN,
    ] as never,
    lanes: { ...lanes } as never,
  });
const slots = (of: Song, key: string): string[] => channelOf(of, key)!.inserts.map(({ slot }) => slot);

function made(
  on: Song,
  given: unknown,
): { readonly song: Song; readonly edit: Edit; readonly inverse: Edit; readonly refused: readonly object[] } {
  const read = readEdit(on, given);
  if (!read.ok) throw new Error(read.sentence);
  const { song: after, inverse, refused } = applyEdit(on, read.value);
  return { song: after, edit: read.value, inverse: inverse!, refused };
}
const sentence = (on: Song, given: unknown): string => {
  const read = readEdit(on, given);
  return read.ok ? 'taken' : read.sentence;
};
const FREQ = 'voice/insert/eq/freq2';
const curved = song({
  [FREQ]: { rest: 500, points: [linePoint(1, 300), linePoint(2, 900)] },
  'voice/insert/eq/on': { rest: 0 },
});

describe('inserts of a channel', () => {
  test('each parameter is a control by its name, those in dB can be trimmed', () => {
    const ids = [...controlsOf(song()).keys()].filter((id) => id.startsWith('voice/insert/comp/'));
    expect(ids.map((id) => id.split('/').at(-1))).toEqual([
      'threshold',
      'ratio',
      'knee',
      'attack',
      'release',
      'makeup',
      'mix',
      'on',
    ]);
    expect(ids.filter((id) => isInDb(controlOf(song(), id))).map((id) => id.split('/').at(-1))).toEqual([
      'threshold',
      'knee',
      'makeup',
    ]);
    expect(fullName(song(), FREQ)).toBe('Voice Equaliser band 2 frequency');
    expect(controlOf(song(), 'fiddle/insert/eq/cutoff').rest).toBe(20);
    const twice = made(song(), { kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'voice', at: 0 }).song;
    expect(slots(twice, 'voice')).toEqual(['eq-2', 'eq', 'comp']);
    expect(fullName(twice, FREQ)).toBe('Voice Equaliser 2 band 2 frequency');
  });

  test('one is put in at its place, taken out with its curves, and comes back with them', () => {
    const added = made(song(), {
      kind: 'insert',
      channel: 'voice',
      remove: null,
      add: { slot: 'wide', effect: 'chorus', at: 1 },
    });
    expect(slots(added.song, 'voice')).toEqual(['eq', 'wide', 'comp']);
    expect(nameOfEdit(song(), added.edit, null)).toBe('Chorus of Voice added');
    const another = (at: number): Edit => ({
      kind: 'insert',
      channel: 'voice',
      remove: null,
      add: { slot: 'x', effect: 'equaliser', settings: {}, at },
    });
    expect([0, 1, 2].map((at) => nameOfEdit(song(), another(at), null))).toEqual([
      'Equaliser 1 of Voice added',
      'Equaliser 2 of Voice added',
      'Equaliser 2 of Voice added',
    ]);
    expect(applyEdit(added.song, added.inverse).song).toEqual(song());

    const gone = made(curved, {
      kind: 'insert',
      channel: 'voice',
      remove: { slot: 'eq', effect: 'equaliser' },
      add: null,
    });
    expect(slots(gone.song, 'voice')).toEqual(['comp']);
    expect(Object.keys(gone.song.lanes)).not.toContain(FREQ);
    expect(applyEdit(gone.song, gone.inverse).song).toEqual(curved);
  });

  test('one with other settings keeps its curves; another effect in its place does not', () => {
    const remove = { slot: 'eq', effect: 'equaliser' };
    const shapes = ['peak', 'peak', 'peak', 'peak'];
    const same = made(curved, { kind: 'insert', channel: 'voice', remove, add: { ...remove, settings: { shapes } } });
    expect(pairs(same.song.lanes[FREQ]!.points)).toEqual([
      [1, 300],
      [2, 900],
    ]);
    const other = made(curved, { kind: 'insert', channel: 'voice', remove, add: { slot: 'eq', effect: 'delay' } });
    expect(other.song.lanes['voice/insert/eq/on']).toBe(undefined);
    expect(slots(other.song, 'voice')).toEqual(['eq', 'comp']);
    for (const { song: after, inverse } of [same, other]) expect(applyEdit(after, inverse).song).toEqual(curved);
  });

  test('one that would take a guarded lane with it stays whole, and the lane is named', () => {
    const safe = song({ [FREQ]: { points: [linePoint(1, 300)], safe: true } });
    const left = made(safe, {
      kind: 'insert',
      channel: 'voice',
      remove: { slot: 'eq', effect: 'equaliser' },
      add: null,
    });
    expect(left.song).toBe(safe);
    expect(left.refused).toEqual([{ control: FREQ, reason: 'safe' }]);
  });

  test('their order is changed by naming each once', () => {
    const turned = made(song(), { kind: 'insertOrder', channel: 'voice', slots: ['comp', 'eq'] });
    expect(slots(turned.song, 'voice')).toEqual(['comp', 'eq']);
    expect(applyEdit(turned.song, turned.inverse).song).toEqual(song());
    expect(sentence(song(), { kind: 'insertOrder', channel: 'voice', slots: ['comp'] })).toBe(
      'The order names “comp”; Voice has “eq”, “comp”. Name each of them once.',
    );
  });

  test('a copy goes to another channel with its curves, unguarded, or without; a slot that is taken gets a number', () => {
    const safe = song({ [FREQ]: { rest: 500, points: [linePoint(1, 300)], safe: true } });
    const copy = { kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'fiddle', at: 0 };
    const whole = made(safe, { ...copy, lanes: true });
    expect(slots(whole.song, 'fiddle')).toEqual(['eq-2', 'eq']);
    expect(whole.song.lanes['fiddle/insert/eq-2/freq2']).toEqual({ ...safe.lanes[FREQ], safe: false });
    expect(applyEdit(whole.song, whole.inverse).song).toEqual(safe);
    expect(Object.keys(made(safe, copy).song.lanes)).toEqual(Object.keys(safe.lanes));
    const stands = made(safe, { ...copy, values: { freq2: 450, gain2: 0, on: 0 } });
    expect(stands.song.lanes['fiddle/insert/eq-2/freq2']).toMatchObject({
      rest: 450,
      points: { length: 0 },
      safe: false,
    });
    // What rests where the effect has it is no lane.
    const came = Object.keys(stands.song.lanes).filter((id) => !(id in safe.lanes));
    expect(came).toEqual(['fiddle/insert/eq-2/freq2', 'fiddle/insert/eq-2/on']);
    expect(applyEdit(stands.song, stands.inverse).song).toEqual(safe);
    expect(nameOfEdit(safe, whole.edit, null)).toBe('Equaliser of Voice copied to Fiddle');
  });

  test('what listens to a channel that goes hears its own sound, and listens to it again as it comes back', () => {
    const gone = made(song(), { kind: 'removeChannel', channel: 'fiddle' });
    expect(channelOf(gone.song, 'voice')!.inserts[1]!.settings).toEqual({ key: null });
    expect(applyEdit(gone.song, gone.inverse).song).toEqual(song());
  });
});

describe('bad input is refused by name', () => {
  const add = (insert: object): unknown => ({ kind: 'insert', channel: 'voice', remove: null, add: insert });
  test.each([
    [
      add({ slot: 'x', effect: 'fuzz' }),
      /^The insert “x” of Voice: there is no effect “fuzz”; there are equaliser, filter,/,
    ],
    [
      add({ slot: 'x', effect: 'filter', settings: { slop: 12 } }),
      /: the effect filter has no setting “slop”; it has shape and slope\.$/,
    ],
    [
      add({ slot: 'x', effect: 'filter', settings: { slope: 18 } }),
      /: the setting “slope” of the effect filter takes one of 12, 24\.$/,
    ],
    [
      add({ slot: 'x', effect: 'equaliser', settings: { shapes: ['peak'] } }),
      /takes 4 of lowShelf, peak, highShelf\.$/,
    ],
    [add({ slot: 'x', effect: 'reverb', settings: { size: 1 } }), /has no setting “size”; it has none\.$/],
    [add({ slot: 'EQ one', effect: 'filter' }), /“EQ one” of Voice: a slot is named with a–z/],
    [
      add({ slot: 'eq', effect: 'filter' }),
      /^Voice has two inserts in the slot “eq”; give one of them another name\.$/,
    ],
    [add({ slot: 'x', effect: 'compressor', settings: { key: 'voice' } }), /feed back in a loop: Voice → Voice/],
    [
      add({ slot: 'x', effect: 'compressor', settings: { key: 'gone' } }),
      /listens to the channel “gone”, which the song does not have/,
    ],
    [{ kind: 'insert', channel: 'voice', remove: null, add: null }, /puts nothing in and takes nothing out/],
    [
      { kind: 'insert', channel: 'voice', remove: { slot: 'none', effect: 'filter' }, add: null },
      /“none” of Voice has been changed meanwhile/,
    ],
    [{ kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'fiddle', values: { gain2: 20 } }, /takes -18 to 18, not 20/],
    [
      { kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'fiddle', values: { gain7: 2 } },
      /There is no control “fiddle\/insert\/eq-2\/gain7”/,
    ],
    [
      { kind: 'copyInsert', from: 'voice', slot: 'eq', to: 'fiddle', lanes: true, values: { gain2: 2 } },
      /^A copy brings its curves, or values to rest at: not both\.$/,
    ],
    [{ kind: 'copyInsert', from: 'voice', slot: 'none', to: 'fiddle' }, /^Voice has no insert in the slot “none”\.$/],
    [{ kind: 'place', values: { 'voice/insert/eq/gain2': 20 }, range: [1, 2] }, /takes -18 to 18, not 20/],
    [
      { kind: 'place', values: { 'voice/insert/none/gain2': 2 }, range: [1, 2] },
      /There is no control “voice\/insert\/none\/gain2”/,
    ],
  ])('%j', (given, says) => {
    expect(sentence(song(), given)).toMatch(says);
  });

  test('a ninth insert, one of a VCA, and lanes of an insert that is not there', () => {
    const read = (channels: readonly object[], lanes = {}): string => {
      const is = readSong({ format: 'sure-hand-song', version: 1, length: 8, channels: [...channels, MAIN], lanes });
      return is.ok ? 'taken' : is.sentence;
    };
    const nine = Array.from({ length: 9 }, (_, i) => ({ slot: `s${i}`, effect: 'filter' }));
    expect(read([track('voice', 'Voice', { inserts: nine })])).toBe(
      'Voice has 9 inserts; a channel has at most 8. Take 1 out.',
    );
    expect(read([track('voice', 'Voice', { inserts: nine.slice(1) })])).toBe('taken');
    expect(read([{ key: 'all', kind: 'vca', name: 'All', inserts: nine.slice(8) }])).toBe(
      'All is a VCA, which carries no audio, so it has no inserts.',
    );
    expect(read([track('voice', 'Voice')], { [FREQ]: { points: [] } })).toContain(`There is no control “${FREQ}”`);
  });
});
