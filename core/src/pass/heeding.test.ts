import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { linePoint, valueAt } from '../curve/index.js';
import { applyEdit, withoutGuards, type Edit } from '../edits/index.js';
import { channelWithDefaults, laneOf, type Song } from '../song/index.js';
import { asMeant, eventsOf, favourites, songs, steps } from '../test/randomHands.js';
import { curve, testSong } from '../test/songs.js';
import { LEVEL_LAW } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { PassRecorder } from './recorder.js';
import { runs } from '../test/runs.js';

const LEVEL = 'voice/level';
const safe = (on: boolean): Edit => ({ kind: 'guard', control: LEVEL, changes: { safe: on } });
const level = (song: Song, t: number): number => valueAt(laneOf(song, LEVEL).points, LEVEL_LAW, 0, t);
const after = (song: Song, ...edits: Edit[]): Song => edits.reduce((s, edit) => applyEdit(s, edit).song, song);

/** A touch ride from 2 s; a finger stays on it. */
function riding(song = testSong()): PassRecorder {
  const recorder = new PassRecorder(song);
  const events: HandEvent[] = [
    { do: 'play', from: 1 },
    { t: 2, do: 'touch', control: LEVEL },
    { t: 2.5, do: 'move', control: LEVEL, value: -1 },
  ];
  for (const event of events) recorder.handle(event);
  return recorder;
}
/** The edit of a recorder's pass, as it is stopped. */
const stopped = (recorder: PassRecorder, t: number): Edit & { kind: 'pass' } =>
  recorder.handle({ do: 'stop', t }).edits.find((edit) => edit.kind === 'pass') as Edit & { kind: 'pass' };

describe('a guard that comes from elsewhere in mid-pass', () => {
  test('ends the span there; what was written before it stands, and the pass says that it heeded it', () => {
    const recorder = riding();
    recorder.advance(4);
    const elsewhere = after(recorder.song, safe(true));
    recorder.adopt(elsewhere);
    recorder.handle({ t: 4.5, do: 'move', control: LEVEL, value: 6 });
    expect(recorder.refusalOf(LEVEL)).toBe('safe');
    const pass = stopped(recorder, 6);
    expect(pass.heeded).toEqual([{ control: LEVEL, reason: 'safe', t: 4 }]);
    expect(pass.receipt.lanes[0]).toMatchObject({ spans: [[2, 4]], moves: 1 });
    const { song, refused } = applyEdit(elsewhere, pass);
    expect(refused).toEqual([]);
    expect([level(song, 3.9), level(song, 4), level(song, 5)]).toEqual([-1, -6, -6]);
  });

  test('that the pass does not know of leaves the lane alone, and names it; what was ridden can be made of it all the same', () => {
    const recorder = riding();
    const pass = stopped(recorder, 6);
    const elsewhere = after(testSong(), safe(true));
    const { song, refused, changed } = applyEdit(elsewhere, pass);
    expect([song === elsewhere, changed, refused]).toEqual([true, [], [{ control: LEVEL, reason: 'safe' }]]);
    expect(level(withoutGuards(elsewhere, pass), 3)).toBe(-1);
  });

  test('that came after one the pass heeded and was taken off again is not that one', () => {
    const recorder = riding();
    recorder.handle({ t: 4, do: 'safe', control: LEVEL, on: true });
    recorder.handle({ t: 5, do: 'safe', control: LEVEL, on: false });
    recorder.handle({ t: 5, do: 'release', control: LEVEL });
    recorder.handle({ t: 5.5, do: 'touch', control: LEVEL });
    const pass = stopped(recorder, 7);
    expect(pass.heeded).toBeUndefined();
    expect(applyEdit(after(testSong(), safe(true)), pass).refused).toEqual([{ control: LEVEL, reason: 'safe' }]);
    // Nor does one that claims to have heeded it earlier than it wrote.
    const claims: Edit = { ...pass, heeded: [{ control: LEVEL, reason: 'safe', t: 6 }] };
    expect(applyEdit(after(testSong(), safe(true)), claims).changed).toEqual([]);
  });

  test('cuts a way back that is under way; scope and trim let it be', () => {
    const guards: [HandEvent, number][] = [
      [{ t: 4.1, do: 'safe', control: LEVEL, on: true }, 4.1],
      [{ t: 4.1, do: 'park', channel: 'voice', on: true }, 4.1],
      [{ t: 4.1, do: 'scope', kinds: ['pan'] }, 4.25],
      [{ t: 4.1, do: 'trim', channel: 'voice', on: true }, 4.25],
    ];
    for (const [guard, to] of guards) {
      const recorder = riding();
      recorder.handle({ t: 4, do: 'release', control: LEVEL });
      recorder.handle(guard);
      expect(stopped(recorder, 6).receipt.lanes[0]!.spans).toEqual([[2, to]]);
    }
  });
});

test('modes, scope, trim and punch from elsewhere count at once, too', () => {
  const read: Edit = { kind: 'channel', channel: 'voice', changes: { mode: 'read' } };
  for (const edit of [
    read,
    { kind: 'settings', changes: { deskMode: 'off' } },
    { kind: 'settings', changes: { writeScope: ['pan'] } },
    { kind: 'settings', changes: { parked: true } },
    { kind: 'settings', changes: { punch: [0, 3] } },
    { kind: 'channel', channel: 'voice', changes: { trim: true } },
  ] as Edit[]) {
    const recorder = riding();
    recorder.advance(4);
    recorder.adopt(after(recorder.song, edit));
    expect(stopped(recorder, 6).receipt.lanes[0]!.spans).toEqual([[2, 4]]);
  }
  const recorder = riding(after(testSong(), read));
  expect(recorder.roll!.takes).toEqual([]);
  recorder.adopt(after(recorder.song, { ...read, changes: { mode: 'latch' } } as Edit));
  expect(stopped(recorder, 6).receipt.lanes[0]!.spans).toEqual([[2.5, 6]]);
});

test('a change of trim clears what is poised on the channel, and nothing else', () => {
  const latch = { kind: 'track', mode: 'latch' } as const;
  const channels = ['voice', 'fiddle'].map((key) => ({ key, name: key, ...latch }));
  const recorder = new PassRecorder(testSong({ channels }));
  for (const control of [LEVEL, 'voice/pan', 'fiddle/level']) recorder.handle({ do: 'move', control, value: 0.5 });
  recorder.handle({ do: 'trim', channel: 'voice', on: false });
  expect([...recorder.poised.keys()]).toEqual([LEVEL, 'voice/pan', 'fiddle/level']);
  recorder.handle({ do: 'trim', channel: 'voice', on: true });
  expect([...recorder.poised.keys()]).toEqual(['fiddle/level']);
});

test('a way back lands on the curve as an edit from elsewhere has made it meanwhile', () => {
  const recorder = riding();
  const moved: Edit = {
    kind: 'lanes',
    lanes: { [LEVEL]: { ...laneOf(testSong(), LEVEL), points: curve(linePoint(0, -20)) } },
  };
  recorder.adopt(after(recorder.song, moved));
  recorder.handle({ t: 4, do: 'release', control: LEVEL });
  const { song } = applyEdit(after(testSong(), moved), stopped(recorder, 6));
  expect(level(song, 4.25)).toBeCloseTo(-20, 9);
});

test('a resting value that a finger still holds outlives a change from elsewhere', () => {
  const recorder = new PassRecorder(testSong());
  recorder.handle({ do: 'touch', control: 'fiddle/level' });
  recorder.handle({ do: 'move', control: 'fiddle/level', value: -9 });
  recorder.adopt(after(testSong(), { kind: 'title', name: 'Elsewhere' }));
  expect([recorder.song.name, laneOf(recorder.song, 'fiddle/level').rest]).toEqual(['Elsewhere', -9]);
  expect(recorder.handle({ do: 'release', control: 'fiddle/level' }).edits).toEqual([
    { kind: 'rest', values: { 'fiddle/level': -9 } },
  ]);
});

test('what a hand has set to rest is kept as it was set, whatever is turned under it while it is down', () => {
  const turned: HandEvent[] = [
    { do: 'trim', channel: 'fiddle', on: true },
    { do: 'safe', control: 'fiddle/level', on: true },
    { do: 'park', on: true },
  ];
  for (const turn of turned) {
    const recorder = new PassRecorder(testSong());
    recorder.handle({ do: 'touch', control: 'fiddle/level' });
    recorder.handle({ do: 'move', control: 'fiddle/level', value: -9 });
    const { edits } = recorder.handle(turn);
    // It comes before what was turned, which may guard it.
    expect(edits[0]).toEqual({ kind: 'rest', values: { 'fiddle/level': -9 } });
    recorder.handle({ do: 'move', control: 'fiddle/level', value: -2 });
    recorder.adopt(after(recorder.song, { kind: 'title', name: 'Elsewhere' }));
    expect(recorder.handle({ do: 'release', control: 'fiddle/level' }).edits).toEqual([]);
    expect(laneOf(recorder.song, 'fiddle/level').rest).toBe(-9);
  }
});

/** The same of an event that a gang with modes takes to all of its channels; null as there. */
function asEdits(song: Song, event: HandEvent): Edit[] | null {
  const edit = asEdit(event);
  if (!edit || (event.do !== 'mode' && event.do !== 'trim')) return edit && [edit];
  const linked = song.gangs.filter(({ modes, channels }) => modes && channels.includes(event.channel));
  const keys = new Set([event.channel, ...linked.flatMap(({ channels }) => channels)]);
  return [...keys].map((channel) => asEdit({ ...event, channel })!);
}

/** The edit that an event of modes, guards, trim or scope amounts to; null for what only a hand can do. */
function asEdit(event: HandEvent): Edit | null {
  switch (event.do) {
    case 'mode':
      return { kind: 'channel', channel: event.channel, changes: { mode: event.mode } };
    case 'desk':
      return { kind: 'settings', changes: { deskMode: event.mode } };
    case 'trim':
      return { kind: 'channel', channel: event.channel, changes: { trim: event.on } };
    case 'scope':
      return { kind: 'settings', changes: { writeScope: event.kinds } };
    case 'safe':
      return 'kinds' in event
        ? { kind: 'channel', channel: event.channel, changes: { safe: event.kinds } }
        : { kind: 'guard', control: event.control, changes: { safe: event.on } };
    case 'park': {
      const changes = { parked: event.on };
      if (event.control) return { kind: 'guard', control: event.control, changes };
      return event.channel ? { kind: 'channel', channel: event.channel, changes } : { kind: 'settings', changes };
    }
    default:
      return null;
  }
}

test('whoever changes modes and guards, and from wherever: a pass is the same one', () => {
  fc.assert(
    fc.property(songs, steps, favourites, (song, drawn, favourite) => {
      const [here, elsewhere] = [new PassRecorder(song), new PassRecorder(song)];
      for (const drawnEvent of eventsOf(song, drawn, favourite)) {
        const event = asMeant(here, drawnEvent);
        for (const recorder of [here, elsewhere])
          while (recorder.roll && (event.lap ?? 0) > recorder.roll.lap) recorder.wrap();
        const { receipts } = here.handle(event);
        const edits = asEdits(here.song, event);
        if (!edits) {
          expect(elsewhere.handle(event).receipts).toEqual(receipts);
          continue;
        }
        if (event.t !== undefined) elsewhere.advance(event.t);
        elsewhere.adopt(edits.reduce((at, edit) => applyEdit(at, edit).song, elsewhere.song));
      }
      expect(elsewhere.song).toEqual(here.song);
    }),
    { numRuns: runs(150) },
  );
});

test('a finger that is down while trim goes on gives no base value as an offset: it must touch anew', () => {
  for (const rolls of [false, true]) {
    const recorder = new PassRecorder(testSong());
    if (rolls) recorder.handle({ do: 'play', from: 0 });
    const at = (t: number): { t?: number } => (rolls ? { t } : {});
    recorder.handle({ ...at(1), do: 'touch', control: LEVEL });
    recorder.handle({ ...at(1.1), do: 'move', control: LEVEL, value: -144 });
    recorder.handle({ ...at(1.2), do: 'trim', channel: 'voice', on: true });
    expect(recorder.capAt(LEVEL, 1.2)).toBe(0);
    if (!rolls) recorder.handle({ do: 'play', from: 0 });
    recorder.handle({ t: 3, do: 'stop' });
    expect(laneOf(recorder.song, LEVEL).trim).toHaveLength(0);
  }
});

describe('channels that come and go from elsewhere in mid-pass', () => {
  const touch = (t: number, control: string, value: number): HandEvent[] => [
    { t, do: 'touch', control },
    { t: t + 0.02, do: 'move', control, value },
  ];

  test('one that goes leaves the hands that had it; what else they ride is written', () => {
    const song = testSong({
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', mode: 'touch' },
        { key: 'fiddle', kind: 'track', name: 'Fiddle', mode: 'latch' },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
    });
    const recorder = riding(song);
    for (const event of touch(3, 'fiddle/level', -12)) recorder.handle(event);
    recorder.handle({ t: 3.5, do: 'touch', control: 'fiddle/pan' });
    recorder.advance(4);
    recorder.adopt(after(recorder.song, { kind: 'removeChannel', channel: 'fiddle' }));
    // The finger does not know yet.
    for (const event of [...touch(4.2, 'fiddle/level', 0), { t: 4.4, do: 'release', control: 'fiddle/pan' } as const])
      recorder.handle(event);
    expect(recorder.touched).toEqual([LEVEL]);
    const pass = stopped(recorder, 6);
    expect(pass.pieces.map(({ control, span }) => [control, span])).toEqual([[LEVEL, [2, 6]]]);
    expect(pass.receipt).toMatchObject({ refused: [], rested: [] });
  });

  test('a pass on one that went before the pass was kept leaves the song without it', () => {
    const pass = stopped(riding(), 6);
    const elsewhere = after(testSong(), { kind: 'removeChannel', channel: 'voice' });
    expect(applyEdit(elsewhere, pass)).toEqual({ song: elsewhere, inverse: null, changed: [], refused: [] });
  });

  test('one that comes is ridden in the same roll', () => {
    const recorder = riding();
    const bus: Edit[] = [
      { kind: 'addChannel', channel: channelWithDefaults({ key: 'hall', kind: 'bus', mode: 'latch' }, 60) },
      { kind: 'send', channel: 'voice', remove: null, add: { bus: 'hall', tap: 'post', pan: 'follow' } },
    ];
    recorder.adopt(after(recorder.song, ...bus));
    for (const event of [...touch(4, 'voice/send/hall/level', -6), ...touch(5, 'hall/level', 3)])
      recorder.handle(event);
    const pass = stopped(recorder, 8);
    expect(pass.pieces.map(({ control }) => control)).toEqual([LEVEL, 'voice/send/hall/level', 'hall/level']);
  });
});
