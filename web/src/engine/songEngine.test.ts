import { afterEach, beforeEach, expect, jest, test } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { applyEdit } from '@sure-hand/core/edits';
import type { Song } from '@sure-hand/core/song';
import { FakeAudio } from '../test/fakeAudio.js';
import { testSong } from '../test/songs.js';
import { SongEngine } from './songEngine.js';

let audio: FakeAudio;
let uninstall: () => void;
let engine: SongEngine;

async function opened(song: Song): Promise<SongEngine> {
  engine = new SongEngine({ url: '/api/songs/1', song, files: {} });
  await engine.started;
  return engine;
}
/** Time goes on as the page sees it: a tick every 10 ms. Gives back where the song was heard to be at each. */
function goOn(sec: number): number[] {
  return Array.from({ length: Math.round(sec * 100) }, () => {
    audio.goOn(10);
    engine.tick(audio.nowMs);
    return engine.positionAt(audio.nowMs);
  });
}
const withLoop = (song: Song, loop: readonly [number, number] | null): Song =>
  applyEdit(song, { kind: 'settings', changes: { loop } }).song;

beforeEach(() => {
  audio = new FakeAudio();
  uninstall = audio.install();
});
afterEach(async () => {
  await engine.close();
  uninstall();
});

test('the song is over as its end is heard, not as it is rendered: with an output 200 ms late, 200 ms later', async () => {
  audio.latencySec = 0.2;
  const { length } = testSong({ length: 2 });
  await opened(testSong({ length: 2 }));
  const ended: number[] = [];
  engine.onEnded = () => ended.push(engine.positionAt(audio.nowMs));
  expect(await engine.play(1)).toBeNull();
  const heard = goOn(1.1);
  expect(heard.at(-1)).toBeCloseTo(1.9, 1);
  expect(ended).toEqual([]);
  goOn(0.15);
  expect(ended).toEqual([length]);
});

test('a play that was stopped as its end was rendered does not end the next one', async () => {
  audio.latencySec = 0.2;
  await opened(testSong({ length: 2 }));
  let ended = 0;
  engine.onEnded = () => void ended++;
  await engine.play(1.5);
  goOn(0.6);
  const at = engine.stop(audio.nowMs);
  expect(at).toBeCloseTo(1.9, 1);
  await engine.play(0);
  expect(goOn(1).at(-1)).toBeCloseTo(0.8, 1);
  expect(ended).toBe(0);
});

test('a play just after many laps begins where it is told, of no lap; what was heard before the stop is still told', async () => {
  audio.latencySec = 0.05;
  await opened(withLoop(testSong({ length: 20 }), [2, 2.5]));
  await engine.play(2);
  goOn(6);
  expect(engine.heardWraps(audio.nowMs)).toBe(11);
  const stopped = audio.nowMs;
  engine.stop(stopped);
  engine.setSong(testSong({ length: 20 }));
  await engine.play(10);
  // Before the audio thread has rendered anything of it.
  for (const ms of [0, 5, 40]) {
    expect([ms, engine.heardWraps(stopped + ms)]).toEqual([ms, 0]);
    expect([ms, engine.positionAt(stopped + ms)]).toEqual([ms, 10]);
  }
  const heard = goOn(1);
  expect(Math.min(...heard)).toBe(10);
  expect(Math.max(...heard)).toBeCloseTo(10.95, 1);
  expect(engine.heardWraps(stopped - 100)).toBe(11);
  expect(engine.positionAt(stopped - 100)).toBeLessThan(2.5);
});

test('what is listened to once does not go round a loop, set before or meanwhile', async () => {
  const song = testSong({ length: 20 });
  await opened(withLoop(song, [2, 3]));
  await engine.play(1, false);
  expect(goOn(2.5).at(-1)).toBeCloseTo(3.5, 1);
  engine.setSong(withLoop(song, [3, 4]));
  expect(goOn(1).at(-1)).toBeCloseTo(4.5, 1);
  expect(engine.heardWraps(audio.nowMs)).toBe(0);
  engine.stop(audio.nowMs);
  // The next play goes round it.
  await engine.play(3);
  goOn(1.5);
  expect(engine.heardWraps(audio.nowMs)).toBe(1);
});

test('where no sound device answers, play says so, and plays once there is one', async () => {
  audio.hasOutput = false;
  await opened(testSong({ length: 20 }));
  jest.useFakeTimers();
  const saying = engine.play(3);
  await jest.advanceTimersByTimeAsync(3900);
  expect(await Promise.race([saying, 'nothing yet'])).toBe('nothing yet');
  await jest.advanceTimersByTimeAsync(200);
  jest.useRealTimers();
  expect(await saying).toMatch(/^No sound device answers, so nothing can play\..*play again\.$/);
  expect(engine.isPlaying).toBe(false);
  audio.hasOutput = true;
  expect(await engine.play(3)).toBeNull();
  expect(goOn(1).at(-1)).toBeCloseTo(3.95, 1);
});

test('a sound that begins never, or stops without a word, is lost after four seconds of looking, not sooner', async () => {
  await opened(testSong({ length: 60 }));
  let lost = 0;
  engine.onLost = () => {
    lost++;
    engine.stop(audio.nowMs);
  };
  await engine.play(0);
  audio.isStuck = true;
  goOn(3.9);
  expect(lost).toBe(0);
  goOn(0.2);
  expect(lost).toBe(1);
  audio.isStuck = false;
  await engine.play(0);
  goOn(10);
  // A machine that slept is looked at anew.
  audio.isStuck = true;
  audio.goOn(3_600_000);
  engine.tick(audio.nowMs);
  audio.isStuck = false;
  goOn(5);
  expect(lost).toBe(1);
  audio.isStuck = true;
  goOn(4.1);
  expect(lost).toBe(2);
});

test('a track that comes while the song rolls is told to the audio thread once its first moment is there, what follows after it', async () => {
  const song = testSong({ length: 20 });
  const withTrack = testSong({
    length: 20,
    channels: [
      ...song.channels,
      { key: 'late', kind: 'track', clips: [{ start: 0, file: 'late.wav', fileStart: 0, length: 20 }] },
    ],
  });
  const info = { format: 'int24', channels: 1, sampleRate: 48000, frames: 960_000, dataOffset: 44, bytesPerFrame: 3 };
  await opened(song);
  await engine.play(0);
  goOn(1);
  let come: (wrong: string | null) => void = () => undefined;
  audio.ready = () => new Promise((there) => (come = there));
  const told = (): string[] => audio.told.map(({ type }) => type).slice(before);
  const before = audio.told.length;
  engine.setSong(withTrack);
  expect(engine.addFiles({ 'late.wav': info as never })).toBe(true);
  const later = applyEdit(withTrack, {
    kind: 'points',
    control: 'fiddle/level',
    layer: 'points',
    remove: [],
    add: Curve.of([linePoint(0, 0.4)]),
  }).song;
  engine.setSong(later);
  goOn(0.1);
  expect(told()).toEqual([]);
  expect(engine.isPlanPending).toBe(true);
  while (told().length < 3) {
    come(null);
    await new Promise((next) => setImmediate(next));
  }
  expect(told().sort()).toEqual(['change', 'change', 'files']);
  expect(engine.isPlanPending).toBe(false);
  // Where nothing new is heard, or the song stands, nothing waits.
  audio.ready = () => new Promise(() => undefined);
  engine.setSong(withTrack);
  expect(engine.isPlanPending).toBe(false);
  engine.stop(audio.nowMs);
  engine.setSong(song);
  engine.setSong(withTrack);
  expect(engine.isPlanPending).toBe(false);
});
