import { describe, expect, test } from '@jest/globals';
import { FrameEncoder, type WavInfo } from '@sure-hand/core/formats';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { HandTable, MixPlanner, mixPlan, type ClipPlan, type MixPlan } from '@sure-hand/core/mix';
import { channelWithDefaults, type Song } from '@sure-hand/core/song';
import { leftGain } from '@sure-hand/core/units';
import { testSong } from '../test/songs.js';
import { PageKeeper, KEEP } from './pageKeeper.js';
import { PagedSource } from './pagedSource.js';
import { RollingMix } from './rollingMix.js';
import { SongClock, type ContextClock } from './songClock.js';
import {
  PAGE_FRAMES,
  T_FLOAT,
  T_INT,
  hasRoomFor,
  makeBuffers,
  viewsOf,
  type SharedViews,
  type StreamedFile,
} from './sharedLayout.js';

const RATE = 48000;
const frames = 60 * RATE;
const info: WavInfo = { format: 'float32', channels: 1, sampleRate: RATE, frames, dataOffset: 44, bytesPerFrame: 4 };
const file: StreamedFile = { name: 'voice.wav', info };
const songWith = (parts: object = {}): Song =>
  testSong({
    channels: [{ key: 'voice', kind: 'track', clips: [{ file: 'voice.wav' }] }],
    lanes: {},
    ...parts,
  });

/** Bytes of a file whose sample at a frame is the frame's share of the file: what is read can be told from where. */
const ramp = (from: number, length: number): Uint8Array => {
  const first = (from - info.dataOffset) / 4;
  const column = new Float32Array(length / 4);
  for (let i = 0; i < column.length; i++) column[i] = (first + i) / frames;
  return new FrameEncoder('float32').encode([column], column.length);
};
const settled = (): Promise<void> => new Promise((done) => setImmediate(done));

function keeping(song: Song): {
  keeper: PageKeeper;
  views: SharedViews;
  asked: number[];
  open: ReturnType<typeof makeBuffers>;
} {
  const plan = mixPlan(song);
  const open = makeBuffers([file], plan);
  const views = viewsOf(open);
  const asked: number[] = [];
  const fetch = async (_file: StreamedFile, from: number, length: number): Promise<Uint8Array> => {
    asked.push((from - info.dataOffset) / 4 / PAGE_FRAMES);
    return ramp(from, length);
  };
  const keeper = new PageKeeper([file], views, fetch, RATE, open.poolPages);
  keeper.setClips(plan.nodes.flatMap((node) => node.clips) as ClipPlan[]);
  return { keeper, views, asked, open };
}

/** Tracks of a file each, and the plan of their mix. */
function tracks(count: number): { files: StreamedFile[]; plan: MixPlan } {
  const files = Array.from({ length: count }, (_, i): StreamedFile => ({ name: `stem${i}.wav`, info }));
  const channels = files.map(({ name }, i) => ({
    key: `t${i}`,
    kind: 'track' as const,
    clips: [{ file: name }] as never,
  }));
  return { files, plan: mixPlan(songWith({ channels })) };
}

async function tendUntilReady(keeper: PageKeeper, frame: number): Promise<void> {
  for (let i = 0; i < 50 && !keeper.isReady(frame, KEEP.sureSec); i++) {
    keeper.tend(frame);
    await settled();
  }
}

describe('the pages', () => {
  test('round the line are fetched, the soonest first, in few requests', async () => {
    const { keeper, asked } = keeping(songWith());
    await tendUntilReady(keeper, 10 * RATE);
    expect(keeper.isReady(10 * RATE, KEEP.sureSec)).toBe(true);
    const line = Math.floor((10 * RATE) / PAGE_FRAMES);
    expect(asked[0]).toBeLessThanOrEqual(line);
    expect([...asked]).toEqual([...asked].sort((a, b) => a - b));
    expect(asked.length).toBeLessThanOrEqual(4);
  });

  test('take no more memory the longer the song is played, and hold what is asked for after each jump', async () => {
    const { keeper, views, open } = keeping(songWith());
    const places = open.poolPages;
    expect(places).toBeLessThan(50);
    for (const t of [0, 5, 20, 57, 3, 30]) {
      await tendUntilReady(keeper, t * RATE);
      expect(keeper.isReady(t * RATE, Math.min(KEEP.sureSec, 60 - t))).toBe(true);
      const used = [...views.table].filter((place) => place >= 0);
      expect(new Set(used).size).toBe(used.length);
      expect(used.length).toBeLessThanOrEqual(places);
    }
  });

  test('of files that come while the song is open lie in places that were kept for them, and are read from there', async () => {
    const { keeper, views, open } = keeping(songWith());
    await tendUntilReady(keeper, 0);
    const second: StreamedFile = { name: 'second.wav', info: { ...info, frames: frames / 2 } };
    expect(hasRoomFor([file], [second], open)).toBe(true);
    expect(hasRoomFor([file], Array<StreamedFile>(60).fill(second), open)).toBe(false);
    keeper.addFiles([second]);
    const channels = ['voice.wav', 'second.wav'].map((name, i) => ({
      ...{ key: `t${i}`, kind: 'track' as const, clips: [{ file: name }] as never },
    }));
    const plan = mixPlan(songWith({ channels }));
    keeper.setClips(plan.nodes.flatMap((node) => node.clips));
    await tendUntilReady(keeper, 20 * RATE);
    expect(keeper.isReady(20 * RATE, KEEP.sureSec)).toBe(true);
    const source = new PagedSource([file, second], ['second.wav', 'voice.wav'], views);
    const out = new Float32Array(4);
    expect(source.read(0, 0, 20 * RATE, 4, out, 0)).toBe(true);
    expect(out[2]).toBeCloseTo((20 * RATE + 2) / frames, 6);
    const places = [...views.table].filter((place) => place >= 0);
    expect(new Set(places).size).toBe(places.length);
    expect(Math.max(...places)).toBeLessThan(open.poolPages + 12);
  });

  test('of many tracks round a loop are there when they are played, at the wrap and elsewhere, whatever its length', async () => {
    const { files, plan } = tracks(8);
    for (const loop of [
      [2, 2.1],
      [2, 5],
      [1, 20],
      [30, 60],
    ] as const) {
      const buffers = makeBuffers(files, plan);
      const views = viewsOf(buffers);
      const fetch = async (_file: StreamedFile, from: number, length: number): Promise<Uint8Array> =>
        ramp(from, length);
      const keeper = new PageKeeper(files, views, fetch, RATE, buffers.poolPages);
      keeper.setClips(plan.nodes.flatMap((node) => node.clips));
      const [from, to] = [loop[0] * RATE, loop[1] * RATE];
      let frame = Math.max(0, to - 6 * RATE);
      for (let k = 0; k < 20; k++) {
        keeper.tend(frame, [from, to]);
        await settled();
      }
      const missed: number[] = [];
      for (let k = 0; k < 400; k++) {
        if (!keeper.isReady(frame, 0.05, [from, to])) missed.push(frame);
        keeper.tend(frame, [from, to]);
        await settled();
        frame += 0.05 * RATE;
        if (frame >= to) frame = from + ((frame - to) % (to - from));
      }
      expect({ loop, missed }).toEqual({ loop, missed: [] });
    }
  });

  test('of many tracks that roll come four in a request, in turns, and long before they are played', async () => {
    const { files, plan } = tracks(16);
    let asked = 0;
    const fetch = async (_file: StreamedFile, from: number, length: number): Promise<Uint8Array> => {
      asked++;
      return ramp(from, length);
    };
    const buffers = makeBuffers(files, plan);
    const keeper = new PageKeeper(files, viewsOf(buffers), fetch, RATE, buffers.poolPages);
    keeper.setClips(plan.nodes.flatMap((node) => node.clips));
    const tend = async (frame: number): Promise<number> => {
      const before = asked;
      keeper.tend(frame);
      await settled();
      return asked - before;
    };
    for (let k = 0; k < 40; k++) await tend(0);
    asked = 0;
    let most = 0;
    const [sec, each] = [40, 0.02];
    for (let t = each; t < sec; t += each) {
      most = Math.max(most, await tend(t * RATE));
      expect(keeper.isReady(t * RATE, KEEP.sureSec - 0.1)).toBe(true);
    }
    const pages = (files.length * sec * RATE) / PAGE_FRAMES;
    expect(asked).toBeLessThan(1.05 * (pages / KEEP.pagesARequest));
    expect(most).toBeLessThanOrEqual(files.length / KEEP.pagesARequest);
  });

  test('that cannot be fetched are asked for again, and the reason is told', async () => {
    const song = songWith();
    const plan = mixPlan(song);
    let fails = true;
    const buffers = makeBuffers([file], plan);
    const keeper = new PageKeeper(
      [file],
      viewsOf(buffers),
      async (_f, from, length) => {
        if (fails) throw new Error('no road');
        return ramp(from, length);
      },
      RATE,
      buffers.poolPages,
    );
    keeper.setClips(plan.nodes.flatMap((node) => node.clips));
    keeper.tend(0);
    await settled();
    expect(keeper.failed).toBe('voice.wav could not be fetched: no road');
    fails = false;
    await tendUntilReady(keeper, 0);
    expect(keeper.failed).toBeNull();
  });
});

/** A rolling mix with its pages there, at unity: what it plays is the file. */
async function rolling(
  song: Song,
  from = 0,
): Promise<{ mix: RollingMix; views: SharedViews; play: (blocks: number, time?: number) => Float32Array }> {
  const { keeper, views, open } = keeping(song);
  await tendUntilReady(keeper, from);
  const mix = new RollingMix(RATE, 128);
  mix.take({ type: 'open', plan: mixPlan(song), files: [file], buffers: open, version: 1 });
  const play = (blocks: number, time = 0): Float32Array => {
    const out = new Float32Array(blocks * 128);
    const left = new Float32Array(128);
    for (let b = 0; b < blocks; b++) {
      left.fill(0);
      mix.render(left, new Float32Array(128), time + (b * 128) / RATE);
      out.set(left, b * 128);
    }
    return out;
  };
  return { mix, views, play };
}
const heardAs = (frame: number): number => (frame / frames) * leftGain(3, 0);

describe('the rolling mix', () => {
  test('plays from where it is told, swelling over 2 ms, and stops without a click', async () => {
    const { mix, play } = await rolling(songWith(), RATE);
    mix.take({ type: 'play', frame: RATE, roll: 1 });
    const out = play(4);
    expect(out[0]).toBe(0);
    expect(out[48]).toBeCloseTo(heardAs(RATE + 48) / 2, 6);
    expect(out[300]).toBeCloseTo(heardAs(RATE + 300), 6);
    mix.take({ type: 'stop' });
    const end = play(2);
    expect(end[48]).toBeCloseTo(heardAs(RATE + 512 + 48) / 2, 6);
    expect([...end.slice(96)].every((x) => x === 0)).toBe(true);
  });

  test('stops where it was, though it is told at once where to go next, and plays on from there', async () => {
    const { mix, views, play } = await rolling(songWith(), RATE);
    mix.take({ type: 'play', frame: RATE, roll: 1 });
    play(4);
    mix.take({ type: 'stop' });
    mix.take({ type: 'locate', frame: 50 * RATE });
    const end = play(2);
    expect(end[48]).toBeCloseTo(heardAs(RATE + 512 + 48) / 2, 6);
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
    expect(Atomics.load(views.ints, T_INT.playing)).toBe(0);
    mix.take({ type: 'play', frame: RATE + 256, roll: 1 });
    expect(play(4)[300]).toBeCloseTo(heardAs(RATE + 556), 6);
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
  });

  test('loops without a gap: the frame after the end is the start', async () => {
    const { mix, views, play } = await rolling(songWith());
    mix.take({ type: 'loop', loop: [1000, 3000] });
    mix.take({ type: 'play', frame: 0, roll: 1 });
    const out = play(60);
    for (const n of [2998, 2999]) expect(out[n]).toBeCloseTo(heardAs(n), 6);
    for (const n of [3000, 3001, 4500]) expect(out[n]).toBeCloseTo(heardAs(n - 2000), 6);
    expect(Atomics.load(views.ints, T_INT.wraps)).toBe(3);
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
  });

  test('goes on sample for sample as channels, sends and curves come and go, and hands keep their slots', async () => {
    const song = songWith();
    const steps: Edit[] = [
      { kind: 'addChannel', channel: channelWithDefaults({ key: 'echo', kind: 'bus', mode: 'write' }, 60), at: 0 },
      { kind: 'send', channel: 'voice', remove: null, add: { bus: 'echo', tap: 'pre', pan: 'own' } },
      { kind: 'output', channel: 'voice', to: 'echo' },
      { kind: 'output', channel: 'voice', to: 'main' },
      { kind: 'rest', values: { 'echo/level': -9 } },
      { kind: 'removeChannel', channel: 'echo' },
    ];
    const { mix, views, play } = await rolling(song);
    const planner = new MixPlanner(song);
    const slot = planner.slotOf('voice/pan');
    mix.take({ type: 'play', frame: 0, roll: 1 });
    let [now, played] = [song, 0];
    // The send rests at silence: nothing of all this is to be heard but where the output goes through a fader at −9 dB.
    for (const edit of steps) {
      const out = play(4);
      for (const n of [100, 255, 511]) expect(out[n]).toBeCloseTo(heardAs(played + n), 5);
      played += 512;
      now = applyEdit(now, edit).song;
      const { change } = planner.follow(now);
      if (change) mix.take({ type: 'change', change, version: 2 });
      expect(planner.slotOf('voice/pan')).toBe(slot);
      if (edit.kind === 'output' && edit.to === 'echo') {
        // The bus takes it over as one comes in: over 2 ms, without a step larger than the sound itself makes.
        const through = play(4);
        const most = Math.max(...[...through].slice(1).map((x, i) => Math.abs(x - through[i]!)));
        expect(most).toBeLessThan(heardAs(played + 512) / 40);
        played += 512;
      }
    }
    expect(play(1)[100]).toBeCloseTo(heardAs(played + 100), 5);
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
  });

  test('begins with the song as it is once it has started, whatever came to it meanwhile', async () => {
    const song = songWith();
    const { keeper, open } = keeping(song);
    await tendUntilReady(keeper, 0);
    const wider = applyEdit(song, {
      kind: 'addChannel',
      channel: channelWithDefaults({ key: 'echo', kind: 'bus' }, 60),
    }).song;
    const planner = new MixPlanner(song);
    planner.follow(wider);
    const mix = new RollingMix(RATE, 128);
    mix.take({ type: 'open', plan: planner.plan, files: [file], buffers: open, version: 2 });
    mix.take({ type: 'play', frame: 0, roll: 1 });
    new HandTable(open.hands, open.controlRoom).hold(planner.slotOf('voice/pan'), false, 0);
    const [left, right] = [new Float32Array(128), new Float32Array(128)];
    for (let b = 0; b < 4; b++) mix.render(left, right, (b * 128) / RATE);
    // All the way to the left.
    expect([left[127]! > 0, right[127]]).toEqual([true, 0]);
  });

  test('is heard as a hand draws it under the line, at the hand’s speed, either way, and is silent where it stands', async () => {
    const { mix, views, play } = await rolling(songWith(), 10 * RATE);
    mix.take({ type: 'locate', frame: 10 * RATE });
    views.floats[T_FLOAT.wanted] = 10 * RATE;
    mix.take({ type: 'scrub', on: true });
    expect(play(4).every((x) => x === 0)).toBe(true);
    let wanted = 10 * RATE;
    /** A hand that goes on at a speed; what is heard of it once the song has caught up. */
    const drawn = (speed: number, blocks = 150): Float32Array => {
      let out = new Float32Array(128);
      for (let b = 0; b < blocks; b++) {
        wanted += speed * 128;
        views.floats[T_FLOAT.wanted] = wanted;
        out = play(1);
      }
      return out;
    };
    for (const speed of [1, 0.5, 2, -1, -2, -0.5]) {
      const out = drawn(speed);
      // A sample of the file tells where it is from: the song goes past at the hand's speed, close behind it.
      const gone = ((out[127]! - out[27]!) * frames) / leftGain(3, 0);
      expect(gone / 100).toBeCloseTo(speed, 2);
      const at = (out[127]! * frames) / leftGain(3, 0);
      expect(Math.abs(at - wanted)).toBeLessThan(0.05 * Math.abs(speed) * RATE + 64);
    }
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(0);
    // The hand holds still: the song comes to where it is, without a click, and then there is nothing to hear.
    let last = drawn(0, 1)[127]!;
    let most = 0;
    for (const x of play(300)) {
      most = Math.max(most, Math.abs(x - last));
      last = x;
    }
    expect(most).toBeLessThan(2e-3);
    expect(Math.abs(last)).toBeLessThan(1e-4);
    expect(Math.abs(views.floats[T_FLOAT.frame]! - wanted)).toBeLessThan(1);
    mix.take({ type: 'scrub', on: false });
    mix.take({ type: 'play', frame: Math.round(wanted), roll: 1 });
    expect(play(4)[300]).toBeCloseTo(heardAs(wanted + 300), 6);
  });

  test('that is drawn back to its beginning, or on past its end, stays there', async () => {
    const { mix, views, play } = await rolling(songWith());
    mix.take({ type: 'scrub', on: true });
    for (const to of [-RATE, 0.2 * RATE, -RATE]) {
      views.floats[T_FLOAT.wanted] = to;
      play(300);
      expect(Math.abs(views.floats[T_FLOAT.frame]! - Math.max(0, to))).toBeLessThan(1);
    }
    const short = await rolling(songWith({ length: 0.5 }));
    short.mix.take({ type: 'scrub', on: true });
    short.views.floats[T_FLOAT.wanted] = 9 * RATE;
    short.play(300);
    expect(short.views.floats[T_FLOAT.frame]).toBeCloseTo(0.5 * RATE, 3);
  });

  test('counts a block whose page is not there, and plays silence for it', async () => {
    const { mix, views, play } = await rolling(songWith());
    mix.take({ type: 'play', frame: 50 * RATE, roll: 1 });
    expect([...play(3)].every((x) => x === 0)).toBe(true);
    expect(Atomics.load(views.ints, T_INT.missed)).toBe(3);
  });

  test('measures what goes out: peak, RMS, true peak and short-term loudness', async () => {
    const loud = songWith({ lanes: { 'voice/pan': { rest: -1 } } });
    const { mix, views, play } = await rolling(loud, 59 * RATE);
    mix.take({ type: 'play', frame: 59 * RATE, roll: 1 });
    play(300);
    const { floats } = views;
    expect(floats[T_FLOAT.peak]).toBeCloseTo(59.5 / 60, 1);
    expect(floats[T_FLOAT.truePeak]!).toBeGreaterThanOrEqual(floats[T_FLOAT.peak]! - 1e-3);
    expect(Math.sqrt(floats[T_FLOAT.meanSquare]!)).toBeCloseTo(Math.SQRT1_2, 0);
    // What hardly moves is taken out by the weighting: it is loud to no ear.
    expect(floats[T_FLOAT.shortTerm]!).toBeLessThan(-15);
  });

  test('a loop that lies wholly behind the line does not come round: the song plays to its end, and says so', async () => {
    const { mix, views } = await rolling(songWith({ length: 0.04 }));
    mix.take({ type: 'loop', loop: [100, 200] });
    mix.take({ type: 'play', frame: 300, roll: 1 });
    const ended: boolean[] = [];
    for (let b = 0; b < 40; b++) ended.push(mix.render(new Float32Array(128), new Float32Array(128), 0));
    expect(ended.filter(Boolean)).toHaveLength(1);
    expect(Atomics.load(views.ints, T_INT.wraps)).toBe(0);
  });

  test('says when the song has come to its end', async () => {
    const song = songWith({ length: 0.01 });
    const { mix } = await rolling(song);
    mix.take({ type: 'play', frame: 0, roll: 1 });
    const block = (): boolean => mix.render(new Float32Array(128), new Float32Array(128), 0);
    expect([block(), block(), block(), block(), block()]).toEqual([false, false, false, true, false]);
  });
});

describe('the clock', () => {
  const context = (now: () => number): ContextClock => ({
    get currentTime() {
      return Math.floor((now() / 1000) * 100) / 100;
    },
    outputLatency: 0.02,
    baseLatency: 0.005,
    getOutputTimestamp: () => ({ contextTime: 0, performanceTime: 0 }),
  });
  const clockOn = (views: ConstructorParameters<typeof SongClock>[1], now: () => number): SongClock =>
    new SongClock(context(now), views, RATE);

  test('fits a line to a context that moves in steps: what is heard is told to a few milliseconds', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 0;
    const clock = clockOn(views, () => now);
    mix.take({ type: 'play', frame: RATE, roll: 1 });
    clock.begin(1, RATE);
    play(4, 0.5);
    views.floats[T_FLOAT.frame] = Infinity;
    const heard: number[] = [];
    for (now = 0; now < 4000; now += 1000 / 61.3) {
      clock.read(now);
      heard.push(clock.heardFrame(now) / RATE - (1 + now / 1000 - 0.5 - 0.02));
    }
    const late = heard.slice(120);
    expect(Math.max(...late) - Math.min(...late)).toBeLessThan(0.002);
    expect(Math.max(...late.map(Math.abs))).toBeLessThan(0.003);
  });

  test('is not moved by a context that is held up for a moment, but follows one that stays behind', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 0;
    let heldUp = 0;
    const clock = clockOn(views, () => now - heldUp);
    mix.take({ type: 'play', frame: 0, roll: 1 });
    clock.begin(1, 0);
    play(1, 0);
    views.floats[T_FLOAT.frame] = Infinity;
    const readFor = (ms: number): number => {
      for (const end = now + ms; now < end; now += 16) clock.read(now);
      return now / 1000 - clock.heardFrame(now) / RATE;
    };
    const before = readFor(2000);
    heldUp = 120;
    expect(Math.abs(readFor(200) - before)).toBeLessThan(0.003);
    heldUp = 0;
    expect(Math.abs(readFor(200) - before)).toBeLessThan(0.003);
    heldUp = 300;
    expect(readFor(2000) - before).toBeCloseTo(0.3, 1);
  });

  test('tells at most 50 ms more than is rendered: where the audio thread is held up, what is heard waits for it', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 0;
    let heldUp = 0;
    const clock = clockOn(views, () => now - heldUp);
    mix.take({ type: 'play', frame: 0, roll: 1 });
    clock.begin(1, 0);
    play(10, 0);
    for (now = 0; now < 500; now += 16) {
      heldUp = Math.max(0, now - 1280 / 48);
      clock.read(now);
    }
    expect(clock.heardFrame(now)).toBe(1280 + 0.05 * RATE);
    // As it goes on, so does what is heard: from there, not from where it would have been.
    const from = now;
    play(100, 1280 / RATE);
    for (; now < from + 200; now += 16) clock.read(now);
    expect(clock.heardFrame(now) / RATE).toBeCloseTo(1280 / RATE + 0.2 - 0.02, 1);
  });

  test('before the first sound it stands where play begins; of a wrap it tells only once that is heard', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 400;
    const clock = clockOn(views, () => now);
    mix.take({ type: 'loop', loop: [0, 4800] });
    mix.take({ type: 'play', frame: 0, roll: 1 });
    clock.begin(1, 0);
    play(60, 0.5);
    clock.read(now);
    expect(clock.heardFrame(now)).toBe(0);
    now = 560;
    clock.reset();
    clock.read(now);
    expect(clock.heardWraps(now)).toBe(0);
    expect(clock.heardFrame(now) / RATE).toBeCloseTo(0.04, 2);
    now = 640;
    clock.reset();
    clock.read(now);
    expect(clock.heardWraps(now)).toBe(1);
    expect(clock.heardFrame(now) / RATE).toBeCloseTo(0.02, 2);
  });

  test('of a loop shorter than the output is late tells each wrap as it is heard, though several are under way', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 0;
    const late = { ...context(() => now), outputLatency: 0.2 };
    const clock = new SongClock({ ...late, currentTime: 0 }, views, RATE);
    mix.take({ type: 'loop', loop: [0, 2400] });
    mix.take({ type: 'play', frame: 0, roll: 1 });
    clock.begin(1, 0);
    play(200, 1);
    clock.reset();
    clock.read(0);
    for (const sec of [1.19, 1.21, 1.26, 1.31, 1.44]) {
      now = 1000 * sec;
      const since = sec - 0.2 - 1;
      expect([sec, clock.heardWraps(now)]).toEqual([sec, Math.max(0, Math.floor(since / 0.05))]);
      expect(clock.heardFrame(now) / RATE).toBeCloseTo(Math.max(0, since % 0.05), 6);
    }
  });

  test('of a play that has just begun tells nothing of the laps before it, whatever the audio thread still writes of them', async () => {
    const { mix, views, play } = await rolling(songWith());
    let now = 1000;
    const clock = clockOn(views, () => now);
    const read = (ms: number): void => {
      now = ms;
      clock.reset();
      clock.read(ms);
    };
    mix.take({ type: 'loop', loop: [0, 4800] });
    mix.take({ type: 'play', frame: 0, roll: 1 });
    clock.begin(1, 0);
    play(400, 1);
    read(2060);
    expect(clock.heardWraps(now)).toBe(10);
    // Stopped, and at once played on from elsewhere: the audio thread has yet to hear of it, and comes round once more meanwhile.
    mix.take({ type: 'stop' });
    clock.end(now);
    clock.begin(2, 2 * RATE);
    play(1, 2.08);
    for (const ms of [2060, 2100, 2500]) {
      read(ms);
      expect([ms, clock.heardWraps(ms), clock.heardFrame(ms)]).toEqual([ms, 0, 2 * RATE]);
    }
    // What comes late is still of the lap it was made in.
    expect(clock.heardWraps(1980)).toBe(9);
    expect(clock.heardFrame(1980) / RATE).toBeCloseTo(0.06, 2);
    mix.take({ type: 'loop', loop: null });
    mix.take({ type: 'play', frame: 2 * RATE, roll: 2 });
    read(2600);
    expect(clock.heardFrame(2600)).toBe(2 * RATE);
    play(40, 2.6);
    read(2650);
    expect(clock.heardWraps(2650)).toBe(0);
    expect(clock.heardFrame(2650) / RATE).toBeCloseTo(2.03, 2);
  });
});
