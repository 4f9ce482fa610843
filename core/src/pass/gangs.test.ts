import { expect, test } from '@jest/globals';
import { applyEdit } from '../edits/index.js';
import { laneOf, type Gang, type Song } from '../song/index.js';
import { testSong } from '../test/songs.js';
import { travelOf, LEVEL_LAW, levelOfTravel } from '../units/index.js';
import type { HandEvent } from './handEvent.js';
import { PassRecorder } from './recorder.js';

const LOW = 'low/level';
const HIGH = 'high/level';

/** Two harmonies a throw apart, their choir, a hall and the main; `gang` says how the harmonies go together. */
const harmonies = (gang: Partial<Gang> = {}, more: { channels?: object; lanes?: object } = {}): Song =>
  testSong({
    channels: [
      { key: 'low', kind: 'track', name: 'Harmony low', mode: 'touch', sends: [{ bus: 'hall' }] as never },
      { key: 'high', kind: 'track', name: 'Harmony high', mode: 'latch', ...more.channels },
      { key: 'choir', kind: 'track', name: 'Choir', mode: 'touch' },
      { key: 'hall', kind: 'bus', name: 'Hall' },
      { key: 'main', kind: 'main', name: 'Main' },
    ],
    gangs: [{ key: 'pair', channels: ['low', 'high', 'choir'], kinds: ['level', 'pan', 'mute', 'sends'], ...gang }],
    lanes: {
      [LOW]: { rest: levelOfTravel(0.5) },
      [HIGH]: { rest: levelOfTravel(0.7) },
      'choir/level': { rest: levelOfTravel(0.1) },
      ...more.lanes,
    },
  });

function hands(song: Song): {
  recorder: PassRecorder;
  x: (id: string) => number;
  send: (...events: HandEvent[]) => void;
} {
  const recorder = new PassRecorder(song);
  const send = (...events: HandEvent[]): void => events.forEach((event) => recorder.handle(event));
  const x = (id: string): number => travelOf(LEVEL_LAW, recorder.capAt(id, recorder.roll?.now ?? 0));
  return { recorder, x, send };
}
const level = (x: number): number => levelOfTravel(x);

test('companions go as far as the hand, meet the ends of their throw, and come back as far apart as they were', () => {
  const { recorder, x, send } = hands(harmonies());
  send({ do: 'play', from: 8 }, { do: 'touch', t: 9, control: LOW });
  send({ do: 'move', t: 9.1, control: LOW, value: level(0.9) });
  expect([LOW, HIGH, 'choir/level'].map(x)).toEqual([0.9, 1, 0.5].map((v) => expect.closeTo(v, 9)));
  send({ do: 'move', t: 9.2, control: LOW, value: level(0.2) });
  expect([HIGH, 'choir/level'].map(x)).toEqual([0.4, 0].map((v) => expect.closeTo(v, 9)));
  send({ do: 'move', t: 9.3, control: LOW, value: level(0.5) });
  expect([HIGH, 'choir/level'].map(x)).toEqual([0.7, 0.1].map((v) => expect.closeTo(v, 9)));
  send({ do: 'release', t: 10, control: LOW });
  const { receipts } = recorder.handle({ do: 'stop', t: 12 });
  // Each by its own mode: in touch with its return line, in latch to the end.
  expect(receipts[0]!.lanes.map(({ control, spans, moves }) => [control, spans, moves])).toEqual([
    [LOW, [[9, 10.25]], 3],
    [HIGH, [[9, 12]], 3],
    ['choir/level', [[9, 10.25]], 3],
  ]);
});

test('each is refused by its own reason, and trims where its own channel trims', () => {
  const { recorder, send } = hands(
    harmonies({}, { channels: { trim: true }, lanes: { 'choir/level': { rest: -3, safe: true } } }),
  );
  send({ do: 'play', from: 8 }, { do: 'touch', t: 9, control: LOW });
  send({ do: 'move', t: 9.1, control: LOW, value: level(0.75) });
  // A quarter of a throw up is 6 dB on the trim's.
  expect(recorder.capAt(HIGH, 9.1)).toBeCloseTo(6, 9);
  send({ do: 'release', t: 10, control: LOW });
  const { receipts } = recorder.handle({ do: 'stop', t: 12 });
  expect(receipts[0]!.lanes.map(({ control, layer }) => [control, layer])).toEqual([
    [LOW, 'base'],
    [HIGH, 'trim'],
  ]);
  expect(receipts[0]!.refused).toEqual([{ control: 'choir/level', reason: 'safe' }]);
});

test('pans go the opposite way where the gang mirrors them, switches take the value, sends go with those to the same bus', () => {
  const { recorder, send } = hands(
    harmonies(
      { pan: 'mirror', channels: ['low', 'high'] },
      { lanes: { 'low/pan': { rest: -0.2 }, 'high/pan': { rest: 0.4 } } },
    ),
  );
  send({ do: 'play', from: 8 }, { do: 'touch', t: 9, control: 'low/pan' });
  send({ do: 'move', t: 9.1, control: 'low/pan', value: -0.5 });
  expect(recorder.capAt('high/pan', 9.1)).toBeCloseTo(0.7, 9);
  send({ do: 'touch', t: 9.2, control: 'high/mute' }, { do: 'move', t: 9.2, control: 'high/mute', value: 1 });
  expect(recorder.capAt('low/mute', 9.3)).toBe(1);
  send({ do: 'touch', t: 9.4, control: 'low/send/hall/level' });
  expect(recorder.touched).toEqual(['low/pan', 'high/pan', 'high/mute', 'low/mute', 'low/send/hall/level']);
});

test('a hand takes over what is led, from its value, and leads nobody who is held or led', () => {
  const { recorder, x, send } = hands(harmonies());
  send(
    { do: 'play', from: 8 },
    { do: 'touch', t: 9, control: LOW },
    { do: 'move', t: 9.1, control: LOW, value: level(0.6) },
  );
  send({ do: 'touch', t: 9.2, control: HIGH }, { do: 'move', t: 9.3, control: HIGH, value: level(0.3) });
  expect([LOW, HIGH, 'choir/level'].map(x)).toEqual([0.6, 0.3, 0.2].map((v) => expect.closeTo(v, 9)));
  expect(['choir/level', HIGH].map((id) => recorder.leaderOf(id))).toEqual([LOW, null]);
  send({ do: 'release', t: 9.4, control: LOW }, { do: 'move', t: 9.5, control: HIGH, value: level(0.4) });
  expect(recorder.touched).toEqual([HIGH]);
});

test('alone leaves the others out, for a touch, and for a move that nothing touched for', () => {
  const { recorder, send } = hands(harmonies());
  send({ do: 'play', from: 8 }, { do: 'touch', t: 9, control: LOW, alone: true });
  expect(recorder.touched).toEqual([LOW]);
  send({ do: 'release', t: 9.1, control: LOW }, { do: 'move', t: 9.2, control: LOW, value: -3, alone: true });
  expect(recorder.touched).toEqual([LOW]);
  send({ do: 'move', t: 9.9, control: LOW, value: -4 });
  expect(recorder.touched).toEqual([LOW, HIGH, 'choir/level']);
});

test('stopped, a typed value poises or rests the others from where they are; mode and trim go to all that link them', () => {
  const { recorder, x, send } = hands(harmonies({ modes: true }, { channels: { mode: 'touch' } }));
  send({ do: 'move', control: LOW, value: level(0.6) });
  expect([LOW, HIGH, 'choir/level'].map(x)).toEqual([0.6, 0.8, 0.2].map((v) => expect.closeTo(v, 9)));
  expect(recorder.touched).toEqual([]);
  send({ do: 'mode', channel: 'high', mode: 'write' });
  expect(recorder.song.channels.map(({ mode }) => mode).slice(0, 3)).toEqual(['write', 'write', 'write']);
  send({ do: 'move', control: HIGH, value: level(0.9) });
  expect([...recorder.poised.keys()]).toEqual([HIGH, LOW, 'choir/level']);
  expect([LOW, HIGH, 'choir/level'].map(x)).toEqual([0.7, 0.9, 0.3].map((v) => expect.closeTo(v, 9)));
  send({ do: 'trim', channel: 'choir', on: true });
  expect(recorder.song.channels.map(({ trim }) => trim).slice(0, 3)).toEqual([true, true, true]);
});

test('a gang that is dissolved, or a leader whose channel goes, lets its companions off as a release would', () => {
  for (const edit of [
    { kind: 'gang', remove: harmonies().gangs[0]!, add: null },
    { kind: 'removeChannel', channel: 'low' },
  ] as const) {
    const { recorder, send } = hands(harmonies());
    send(
      { do: 'play', from: 8 },
      { do: 'touch', t: 9, control: LOW },
      { do: 'move', t: 9.1, control: LOW, value: level(0.6) },
    );
    recorder.advance(9.5);
    recorder.adopt(applyEdit(recorder.song, edit).song);
    send({ do: 'move', t: 9.6, control: LOW, value: level(0.2) }, { do: 'stop', t: 12 });
    const spans = (id: string): unknown => laneOf(recorder.song, id).points.length > 0;
    expect([spans(HIGH), spans('choir/level')]).toEqual([true, true]);
    const { points } = laneOf(recorder.song, 'choir/level');
    expect(points.t.at(-1)).toBeCloseTo(9.75, 9);
  }
});

test('let go takes all out of the hand; the finger still down leads nobody until it touches anew', () => {
  const { recorder, x, send } = hands(harmonies());
  send(
    { do: 'play', from: 8 },
    { do: 'touch', t: 9, control: LOW },
    { do: 'move', t: 9.1, control: LOW, value: level(0.6) },
  );
  send({ do: 'letgo', t: 9.2 }, { do: 'move', t: 9.8, control: LOW, value: level(0.9) });
  expect(recorder.touched).toEqual([]);
  expect([LOW, HIGH].map(x)).toEqual([0.5, 0.7].map((v) => expect.closeTo(v, 9)));
  // The choir's own hand, let go of, lies on it still: it is led, and the hand below moves nothing.
  send(
    { do: 'touch', t: 10, control: 'choir/level' },
    { do: 'letgo', t: 10.1 },
    { do: 'touch', t: 10.2, control: LOW },
  );
  send({ do: 'move', t: 10.8, control: 'choir/level', value: -1 });
  expect(recorder.leaderOf('choir/level')).toBe(LOW);
  send({ do: 'release', t: 10.9, control: 'choir/level' });
  expect(recorder.leaderOf('choir/level')).toBe(LOW);
});

test('fingers that are down lead on from a lap’s start what they led, as far apart as they were past the throw’s end', () => {
  const { recorder, send } = hands(harmonies());
  send(
    { do: 'play', from: 8 },
    { do: 'touch', t: 9, control: LOW },
    { do: 'move', t: 9.1, control: LOW, value: level(0.9) },
  );
  const again = hands(recorder.song);
  again.send(...recorder.fingersDown(8), { do: 'play', from: 8 });
  expect([LOW, HIGH].map(again.x)).toEqual([0.9, 1].map((v) => expect.closeTo(v, 9)));
  again.send({ do: 'move', t: 8.5, control: LOW, value: level(0.7) });
  expect(again.x(HIGH)).toBeCloseTo(0.9, 9);
});
