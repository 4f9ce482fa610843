import { describe, expect, test } from '@jest/globals';
import { linePoint } from '@sure-hand/core/curve';
import { applyEdit } from '@sure-hand/core/edits';
import { EFFECTS, defaultsOf } from '@sure-hand/core/effects';
import { PassRecorder } from '@sure-hand/core/pass';
import { insertWithDefaults, laneOf, layerLaw, type ControlId, type Song } from '@sure-hand/core/song';
import { travelOf, valueOf } from '@sure-hand/core/units';
import type { OpenSong } from '../../open/openSong.js';
import { testSong } from '../../test/songs.js';
import { EffectDrag } from './effectDrag.js';
import { evenAxis, type EffectNow, type EffectShape } from './effectShape.js';
import { compressed, shapeOf } from './effectShapes.js';

const settingsOf = (effect: string, more: object = {}): EffectNow['settings'] => ({
  ...defaultsOf(EFFECTS.get(effect)!),
  ...more,
});
/** An effect at values, those that are not said at rest. */
function nowOf(
  effect: string,
  values: Readonly<Record<string, number>> = {},
  settings = settingsOf(effect),
): EffectNow {
  const params = EFFECTS.get(effect)!.params(settings);
  const value = (param: string): number => values[param] ?? params.find(({ key }) => key === param)!.rest;
  return { value, heard: value, settings, sampleRate: 48_000, quarter: 0.5 };
}
const lineAt = (shape: EffectShape, now: EffectNow, x: number): number => {
  const [line] = shape.lines(now);
  return line![Math.round(x * (line!.length - 1))]!.y;
};

describe('the picture of an effect', () => {
  test.each([...EFFECTS.keys()])(
    '%s: every cap is in it, what its axes say goes there and back, and names parameters',
    (effect) => {
      for (const more of [{}, ...(effect === 'delay' ? [{ beats: 0.75 }] : [])]) {
        const settings = settingsOf(effect, more);
        const shape = shapeOf(effect, settings)!;
        const params = EFFECTS.get(effect)!.params(settings);
        for (const { across, up, third, place } of shape.handles) {
          const at = place(nowOf(effect, {}, settings));
          for (const share of [at.x, at.y]) expect(share >= 0 && share <= 1).toBe(true);
          for (const axis of [across, up].filter((one) => one !== null)) {
            const { scale } = params.find(({ key }) => key === axis.param)!;
            for (const travel of [0.1, 0.5, 0.9]) {
              const v = valueOf(scale.law, travel);
              expect(axis.to(axis.of(v))).toBeCloseTo(v, 6);
            }
          }
          if (third) expect(params.map(({ key }) => key)).toContain(third);
        }
      }
    },
  );

  test('the equaliser’s line goes through the cap of a band that is alone, and is flat where none does anything', () => {
    const shape = shapeOf('equaliser', settingsOf('equaliser'))!;
    const now = nowOf('equaliser', { freq2: 632.5, gain2: 9, q2: 1 });
    const { x, y } = shape.handles[1]!.place(now);
    expect(lineAt(shape, now, x)).toBeCloseTo(y, 2);
    for (const at of [0, 0.5, 1]) expect(lineAt(shape, nowOf('equaliser'), at)).toBeCloseTo(0.5, 6);
  });

  test('a filter’s line goes through its cap: at its cutoff a pass is as loud as its resonance', () => {
    const shape = shapeOf('filter', settingsOf('filter'))!;
    for (const resonance of [0.7071, 4, 12]) {
      const now = nowOf('filter', { cutoff: 632.5, resonance });
      const { x, y } = shape.handles[0]!.place(now);
      expect(Math.abs(lineAt(shape, now, x) - y)).toBeLessThan(0.03);
    }
  });

  test('a compressor’s curve is its static one, with make-up and mix; half is dry', () => {
    const values = { threshold: -30, ratio: 4, knee: 0, makeup: 6, mix: 1 };
    const of = (more: object = {}): Pick<EffectNow, 'value'> => nowOf('compressor', { ...values, ...more });
    expect(compressed(of(), -10)).toBeCloseTo(-10 - 15 + 6, 9);
    expect(compressed(of(), -40)).toBeCloseTo(-34, 9);
    const half = compressed(of({ mix: 0.5, makeup: 0 }), -10);
    expect(half).toBeCloseTo(-10 + 20 * Math.log10(0.5 + 0.5 * 10 ** (-15 / 20)), 9);
  });

  test('a delay’s repeats stand where they are heard, by time or by beats, each the feedback of the one before', () => {
    const settings = settingsOf('delay', { beats: 0.75 });
    const now = nowOf('delay', { feedback: 0.5, mix: 0.8 }, settings);
    const [dry, first, second, third] = shapeOf('delay', settings)!.bars!(now);
    const span = 8 * 0.5;
    expect(dry).toEqual({ x: 0, y: expect.closeTo(0.2, 9) });
    expect(first).toEqual({ x: expect.closeTo(0.375 / span, 9), y: expect.closeTo(0.8, 9) });
    expect(second).toEqual({ x: expect.closeTo(0.75 / span, 9), y: expect.closeTo(0.4, 9) });
    expect(third!.y).toBeCloseTo(0.2, 9);
    expect(shapeOf('delay', settings)!.handles[0]!.across).toBeNull();
  });
});

describe('a hand in the picture', () => {
  const GAIN = 'voice/insert/eq/gain2';
  const FREQ = 'voice/insert/eq/freq2';
  const Q = 'voice/insert/eq/q2';
  const songWith = (trim: boolean, parts: object = {}): Song =>
    testSong({
      ...parts,
      channels: [
        {
          key: 'voice',
          kind: 'track',
          name: 'Voice',
          mode: 'touch',
          trim,
          inserts: [insertWithDefaults({ slot: 'eq', effect: 'equaliser' })],
        },
      ],
    });

  /** A recorder that rolls, and hands that tell it what they do. */
  function rolling(song: Song): { recorder: PassRecorder; open: Pick<OpenSong, 'control' | 'session'> } {
    const recorder = new PassRecorder(song);
    recorder.handle({ do: 'play', from: 0 });
    const at = (ms: number): number => ms / 1000;
    const control = {
      position: 0,
      touch: (id: ControlId, ms: number) => recorder.handle({ do: 'touch', control: id, t: at(ms) }),
      moveTo: (id: ControlId, x: number, ms: number) =>
        recorder.handle({
          do: 'move',
          control: id,
          value: valueOf(layerLaw(song, id, recorder.layerGiven(id)), x),
          t: at(ms),
        }),
      release: (id: ControlId, ms: number) => recorder.handle({ do: 'release', control: id, t: at(ms) }),
      travelNow: (id: ControlId) => travelOf(layerLaw(song, id, recorder.layerOf(id)), recorder.capAt(id, 0)),
    };
    return { recorder, open: { control, session: { recorder, heardSong: song } } as never };
  }
  const handle = shapeOf('equaliser', {})!.handles[1]!;
  const drag = (open: Pick<OpenSong, 'control' | 'session'>, values: Readonly<Record<string, number>>): EffectDrag =>
    new EffectDrag(
      open,
      handle,
      (param) => `voice/insert/eq/${param}`,
      (param) => values[param]!,
      { width: 1000, height: 480 },
      { x: 0, y: 0, atMs: 1000 },
    );

  test('moves two parameters at once as far as it goes, Shift finely, Alt the third alone, each a lane of one pass', () => {
    const { recorder, open } = rolling(songWith(false));
    const by = drag(open, { freq2: 400, gain2: 0, q2: 0.7071 });
    const keys = { isFine: false, isThird: false };
    by.move({ x: 100, y: -120, atMs: 1200 }, keys);
    // A tenth across is a tenth of three decades; a quarter up is a quarter of 48 dB.
    expect(recorder.capAt(FREQ, 1.2)).toBeCloseTo(400 * 1000 ** 0.1, 6);
    expect(recorder.capAt(GAIN, 1.2)).toBeCloseTo(12, 6);
    by.move({ x: 100, y: -80, atMs: 1300 }, { ...keys, isFine: true });
    expect(recorder.capAt(GAIN, 1.3)).toBeCloseTo(11, 6);
    by.move({ x: 300, y: -140, atMs: 1400 }, { ...keys, isThird: true });
    expect(recorder.capAt(GAIN, 1.4)).toBeCloseTo(11, 6);
    // From its own place, sixty pixels of the six hundred that are the whole throw.
    const law = layerLaw(recorder.song, Q, 'base');
    expect(recorder.capAt(Q, 1.4)).toBeCloseTo(valueOf(law, travelOf(law, 0.7071) + 0.1), 6);
    expect(recorder.touched).toEqual([FREQ, GAIN, Q]);
    by.end(1500);
    const { receipts } = recorder.handle({ do: 'stop', t: 2 });
    expect(receipts[0]!.lanes.map(({ control }) => control).sort()).toEqual([FREQ, GAIN, Q].sort());
  });

  test('a second finger moves the third while the first holds; where the channel trims the gain is an offset', () => {
    const { recorder, open } = rolling(songWith(true));
    const by = drag(open, { freq2: 400, gain2: 0, q2: 0.7071 });
    by.move({ x: 0, y: -60, atMs: 1200 }, { isFine: false, isThird: false });
    expect(recorder.layerOf(GAIN)).toBe('trim');
    expect(recorder.capAt(GAIN, 1.2)).toBeCloseTo(6, 6);
    by.second(7, { x: 500, y: 300, atMs: 1250 });
    const before = recorder.capAt(Q, 1.25);
    by.moveSecond(7, { x: 500, y: 180, atMs: 1300 });
    expect(recorder.capAt(Q, 1.3)).toBeGreaterThan(before);
    by.endSecond(7);
    by.end(1400);
    expect(recorder.touched).toEqual([]);
    const { receipts } = recorder.handle({ do: 'stop', t: 2 });
    // A frequency has no trim: what was ridden of it is refused by its reason.
    expect(receipts[0]!.lanes.map(({ control, layer }) => [control, layer])).toEqual([[GAIN, 'trim']]);
    expect(receipts[0]!.refused.map(({ reason }) => reason)).toEqual(['trim', 'trim']);
  });

  test('over a trim that waits the cap goes from where it is heard, and the base as far; nothing jumps as it is grabbed', () => {
    const lanes = { [GAIN]: { rest: 2, trim: [linePoint(0, 5)] } };
    const { recorder, open } = rolling(songWith(false, { lanes }));
    // As the picture has it: base and trim together.
    const by = drag(open, { freq2: 400, gain2: 7, q2: 0.7071 });
    const keys = { isFine: false, isThird: false };
    by.move({ x: 0, y: -20, atMs: 1100 }, keys);
    expect(recorder.capAt(GAIN, 1.1)).toBeCloseTo(2 + 2, 6);
    by.move({ x: 0, y: 0, atMs: 1200 }, keys);
    expect(recorder.capAt(GAIN, 1.2)).toBe(2);
    by.end(1300);
    const { receipts, edits } = recorder.handle({ do: 'stop', t: 2 });
    const pass = edits.find((edit) => edit.kind === 'pass')!;
    const { points } = laneOf(applyEdit(recorder.song, pass).song, GAIN);
    expect(Math.max(...points.v)).toBeCloseTo(4, 6);
    expect(receipts[0]!.lanes.find(({ control }) => control === GAIN)!.layer).toBe('base');
  });

  test('a drag straight up leaves what goes across exactly where it was', () => {
    // A value that an axis there and back would round.
    const lanes = { [FREQ]: { rest: 137.3 }, [GAIN]: { rest: 1.1 } };
    const { recorder, open } = rolling(songWith(false, { lanes }));
    const by = drag(open, { freq2: 137.3, gain2: 1.1, q2: 0.7071 });
    for (let k = 1; k < 30; k++) by.move({ x: 0, y: -3 * k, atMs: 1000 + 20 * k }, { isFine: k > 15, isThird: false });
    by.end(1800);
    const { receipts } = recorder.handle({ do: 'stop', t: 2 });
    expect(receipts[0]!.lanes.find(({ control }) => control === FREQ)!.moves).toBe(0);
    expect([...laneOf(recorder.song, FREQ).points.v].every((v) => v === 137.3)).toBe(true);
    expect(receipts[0]!.lanes.find(({ control }) => control === GAIN)!.moves).toBe(29);
  });

  test('the insert taken out from under it, by another page, leaves it with nothing to move', () => {
    const song = songWith(false);
    const { recorder, open } = rolling(song);
    const by = drag(open, { freq2: 400, gain2: 0, q2: 0.7071 });
    by.move({ x: 0, y: -60, atMs: 1200 }, { isFine: false, isThird: false });
    const [eq] = song.channels[0]!.inserts;
    recorder.adopt(applyEdit(song, { kind: 'insert', channel: 'voice', remove: eq!, add: null }).song);
    by.move({ x: 50, y: -90, atMs: 1300 }, { isFine: false, isThird: true });
    by.second(7, { x: 0, y: 0, atMs: 1310 });
    by.end(1400);
    expect(recorder.touched).toEqual([]);
    expect(recorder.handle({ do: 'stop', t: 2 }).receipts[0]!.lanes).toEqual([]);
  });

  test('an axis is its own reverse', () => {
    const { of, to } = evenAxis('x', -24, 24);
    expect(to(of(7.3))).toBeCloseTo(7.3, 12);
  });
});
