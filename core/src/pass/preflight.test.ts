import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { type Receipt } from '../edits/index.js';
import { controlsOf, type Mode, type Song } from '../song/index.js';
import { LENGTH, songs } from '../test/randomHands.js';
import { testSong } from '../test/songs.js';
import type { HandEvent } from './handEvent.js';
import { runMoves } from './moves.js';
import { preflight, remedyFor, standings, writingRange } from './preflight.js';
import { PassRecorder } from './recorder.js';
import { runs } from '../test/runs.js';

const inMode = (mode: Mode, parts: Parameters<typeof testSong>[0] = {}): Song =>
  testSong({ channels: [{ key: 'voice', kind: 'track', mode }], ...parts });

describe('before a pass', () => {
  test('write begins by itself, touch and latch once touched, and only a stop or a release ends them', () => {
    const of = (mode: Mode) => preflight(inMode(mode), 8).will.filter((one) => one.control === 'voice/level');
    expect(of('write')).toEqual([{ control: 'voice/level', layer: 'base', when: 'play', from: 8, to: null }]);
    expect(of('latch')).toMatchObject([{ when: 'touched', from: 8, to: null }]);
    expect(of('read')).toEqual([]);
  });

  test('what waits poised begins with play', () => {
    const { will } = preflight(inMode('latch'), 8, { poised: new Set(['voice/pan']) });
    expect(will.map((one) => [one.control, one.when])).toEqual([
      ['voice/level', 'touched'],
      ['voice/pan', 'play'],
      ['voice/mute', 'touched'],
    ]);
  });

  test('the punch range says from where to where; past it nothing is written', () => {
    const song = inMode('touch', { settings: { punch: [10, 12] } });
    expect(preflight(song, 8).will[0]).toMatchObject({ from: 10, to: 12 });
    expect(preflight(song, 11).will[0]).toMatchObject({ from: 11, to: 12 });
    expect(preflight(song, 12).wont.find((one) => one.control === 'voice/level')!.reason).toBe('range');
  });

  test('every control is on one list or the other, with the first reason that holds', () => {
    const song = testSong({
      settings: { writeScope: ['level', 'pan'] },
      channels: [
        { key: 'voice', kind: 'track', mode: 'touch', trim: true, safe: ['pan'] },
        { key: 'fiddle', kind: 'track', mode: 'latch', parked: true },
        { key: 'drum', kind: 'track', mode: 'off' },
      ],
    });
    const { will, wont } = preflight(song, 0);
    expect(will).toEqual([{ control: 'voice/level', layer: 'trim', when: 'touched', from: 0, to: null }]);
    expect(Object.fromEntries(wont.map((one) => [one.control, one.reason]))).toEqual({
      'voice/pan': 'safe',
      'voice/mute': 'scope',
      'fiddle/level': 'parked',
      'fiddle/pan': 'parked',
      'fiddle/mute': 'parked',
      'drum/level': 'mode',
      'drum/pan': 'mode',
      'drum/mute': 'mode',
      'main/level': 'mode',
      'main/pan': 'mode',
      'main/mute': 'mode',
    });
  });

  test('the desk mode stands in for every channel’s own', () => {
    expect(preflight(inMode('read', { settings: { deskMode: 'write' } }), 0).will).toHaveLength(6);
    expect(preflight(inMode('write', { settings: { deskMode: 'read' } }), 0).will).toEqual([]);
  });
});

describe('what pre-flight says is what the receipt says', () => {
  /** Everything that plays from a time, touching all controls a little later (or as the range begins), held to a stop. */
  const scripted = (song: Song, at: number, stop: number): Receipt => {
    const touchAt = Math.min(stop, writingRange(song, at).from + 0.25);
    const ids = [...controlsOf(song).keys()];
    const ridden = runMoves(song, [
      { do: 'play', from: at },
      ...ids.map((control): HandEvent => ({ t: touchAt, do: 'touch', control })),
      { t: stop, do: 'stop' },
    ]);
    if (!ridden.ok) throw new Error(ridden.sentence);
    return ridden.receipts[0]!;
  };

  test('for every control of any song: what is written, on which layer, from and to where; what is not, and why', () => {
    fc.assert(
      fc.property(songs, fc.integer({ min: 0, max: 20 }), (song, half) => {
        const at = half / 2;
        const { will, wont } = preflight(song, at);
        const range = writingRange(song, at);
        // Up to where something ends it by itself, or for a while.
        const stop = Math.min(LENGTH, range.to ?? Infinity, Math.max(range.from, at) + 3);
        const receipt = scripted(song, at, Math.max(at, stop));
        const touchAt = Math.min(stop, range.from + 0.25);
        const isLate = touchAt >= stop;
        const written = new Map(receipt.lanes.map((lane) => [`${lane.layer} ${lane.control}`, lane.spans[0]!]));
        for (const { control, layer, when, from, to } of will) {
          const span = written.get(`${layer} ${control}`);
          written.delete(`${layer} ${control}`);
          if (when === 'touched' && isLate) continue;
          expect([control, span?.[0]]).toEqual([control, when === 'play' ? from : touchAt]);
          if (to !== null && stop === to) expect([control, span?.[1]]).toEqual([control, to]);
          else expect([control, span?.[1]]).toEqual([control, stop]);
        }
        expect([...written.keys()]).toEqual([]);
        const refused = receipt.refused.map(({ control, reason }) => `${control} ${reason}`);
        // Where a hand was in time, each refusal stands on the receipt with the same reason.
        const expected = wont.filter(({ reason }) => reason !== 'range').map((r) => `${r.control} ${r.reason}`);
        expect(expected.filter((one) => !refused.includes(one))).toEqual([]);
      }),
      { numRuns: runs(300) },
    );
  });

  test('with a loop the lap’s end is said; a punch range behind it is never reached', () => {
    const looped = inMode('write', { settings: { loop: [4, 8] } });
    expect(preflight(looped, 2).will[0]).toMatchObject({ from: 2, to: 8 });
    expect(preflight(looped, 9).will[0]).toMatchObject({ from: 9, to: null });
    const behind = inMode('write', { settings: { loop: [4, 8], punch: [8, 12] } });
    expect(preflight(behind, 2).will).toEqual([]);
    expect(preflight(behind, 2).wont.find((one) => one.control === 'voice/level')!.reason).toBe('range');
  });
});

describe('while the song rolls', () => {
  const standsOf = (recorder: PassRecorder, id: string, at: number): unknown => {
    const { stands, from, to, reason } = standings(recorder, at).find((one) => one.control === id)!;
    return [stands, from, to, reason];
  };

  test('each control says whether it is written, on its way back, or would be once touched', () => {
    const recorder = new PassRecorder(inMode('touch', { settings: { punch: [9, 20] } }));
    recorder.handle({ do: 'play', from: 8 });
    expect(standsOf(recorder, 'voice/level', 8)).toEqual(['touched', 9, 20, null]);
    recorder.handle({ t: 10, do: 'touch', control: 'voice/level' });
    expect(standsOf(recorder, 'voice/level', 10.5)).toEqual(['writing', 10, 20, null]);
    recorder.handle({ t: 11, do: 'release', control: 'voice/level' });
    expect(standsOf(recorder, 'voice/level', 11.1)).toEqual(['returning', 10, 11.25, null]);
    recorder.handle({ t: 12, do: 'mode', channel: 'voice', mode: 'read' });
    expect(standsOf(recorder, 'voice/level', 12)).toEqual(['wont', 12, 20, 'mode']);
  });
});

test('each reason has an act that takes it away', () => {
  fc.assert(
    fc.property(songs, fc.integer({ min: 0, max: 30 }), (song, half) => {
      for (const { control } of preflight(song, half / 2).wont) {
        const recorder = new PassRecorder(song);
        recorder.locate(half / 2);
        for (let k = 0; k < 12; k++) {
          const left = preflight(recorder.song, half / 2).wont.find((one) => one.control === control);
          if (!left) break;
          const remedy = remedyFor(recorder.song, control, left.reason);
          if (remedy.do === 'punchOff')
            recorder.adopt({ ...recorder.song, settings: { ...recorder.song.settings, punch: null } });
          else recorder.handle(remedy);
        }
        expect(preflight(recorder.song, half / 2).will.map((one) => one.control)).toContain(control);
      }
    }),
    { numRuns: runs(60) },
  );
});
