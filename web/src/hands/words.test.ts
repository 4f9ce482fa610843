import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { PassRecorder, handDoes, playWrites, runMoves, wrote, type HandEvent } from '@sure-hand/core/pass';
import { type Receipt } from '@sure-hand/core/edits';
import { controlsOf, laneOf, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { asMeant, eventsOf, favourites, songs, steps } from '../../../core/src/test/randomHands.js';
import { runs } from '../../../core/src/test/runs.js';
import { testSong } from '../test/songs.js';
import { handWords, type HandMoment, type HandWords } from './handSentence.js';
import { closeWords, cutShortWords, receiptWords } from './receiptWords.js';

const LEVEL = 'voice/level';
const map = meterMap([{ t: 0, bpm: 120 }], [{ t: 0, beats: 4, unit: 4 }]);
const track = (key: string, mode: string, more: object = {}): object => ({
  key,
  kind: 'track',
  name: key[0]!.toUpperCase() + key.slice(1),
  mode,
  ...more,
});
const said = (recorder: PassRecorder, position: number, more: Partial<HandMoment> = {}): HandWords =>
  handWords({ recorder, map, position, told: null, inHand: LEVEL, ...more });
const recording = (song: Song, ...events: HandEvent[]): PassRecorder => {
  const recorder = new PassRecorder(song);
  for (const event of events) recorder.handle(event);
  return recorder;
};
const before = (song: Song, position = 0, inHand: string | null = LEVEL): HandWords =>
  said(new PassRecorder(song), position, { inHand });

describe('before play the hand bar', () => {
  test('says what a touch will write, from where, and what ends it', () => {
    expect(before(testSong(), 2)).toMatchObject({
      says: 'Play writes what you touch of Voice.',
      more: 'Stopped, a hand is only heard: the curve has it. From 2·1 on; nothing is written before a touch.',
    });
    expect(before(testSong({ settings: { punch: [4, 8] } }), 2).more).toContain(
      'From 3·1 to 5·1, where the punch range ends; nothing is written before a touch.',
    );
  });

  test('says of a control that reads what a hand on it does: it sets where it rests for good, or is only heard', () => {
    expect(before(testSong(), 0, 'fiddle/level')).toMatchObject({
      says: 'Fiddle reads: a hand sets where Fiddle level rests, for the whole song.',
      more: 'Play writes what you touch of Voice.',
    });
    const curved = testSong({ lanes: { 'fiddle/level': { points: [{ t: 0, v: -3 }] } } });
    expect(before(curved, 0, 'fiddle/level').says).toBe(
      'Fiddle reads: Fiddle level is heard while you hold it, not written. 3 puts it in touch.',
    );
    expect(before(testSong(), 0, 'voice/pan').more).toMatch(
      /^Stopped: a hand sets where Voice pan rests, for the whole song\./,
    );
    const off = testSong({ channels: [track('voice', 'off')] });
    expect(before(off).says).toBe('Voice is off: a hand sets where Voice level rests, for the whole song.');
  });

  test('says that play writes nothing, and why', () => {
    const reads = testSong({ channels: [track('voice', 'read')] });
    expect(before(reads, 0, null).says).toBe('Play writes nothing: every channel reads.');
    expect(before(testSong({ settings: { parked: true } }))).toMatchObject({
      says: 'The song is parked: no curve is read, and play writes nothing.',
    });
    const guarded = testSong({ channels: [track('voice', 'touch', { safe: ['level', 'pan', 'mute'] })] });
    expect(before(guarded, 0, null).says).toBe(
      'Play writes nothing: what is in touch, latch or write is guarded, out of scope or outside the range.',
    );
    expect(before(guarded).says).toBe('Safe: Voice level is heard, not written. Alt+J takes it out.');
  });

  test('tells little by name, much by its number and reach, first and whole', () => {
    const latch = testSong({ channels: [track('voice', 'latch')] });
    const poised = recording(latch, { do: 'move', control: LEVEL, value: -3.2 });
    expect(said(poised, 32).says).toBe('Play writes Voice level (poised −3.2 dB) from 17·1 until you stop.');
    const writing = testSong({ channels: [track('voice', 'write')], settings: { loop: [0, 4] } });
    expect(before(writing, 2).says).toBe('Play writes 3 controls of Voice from 2·1 to 3·1.');
    const many = Array.from({ length: 30 }, (_, i) => track(`track${i}`, 'read'));
    const desk = testSong({ channels: many, lanes: {}, settings: { deskMode: 'write' } });
    expect(before(desk, 0, null).says).toBe('Play writes 93 controls of 31 channels from 1·1 until you stop.');
  });

  test('says that a hand gives an offset as soon as trim is on', () => {
    const recorder = recording(testSong(), { do: 'trim', channel: 'voice', on: true });
    expect(said(recorder, 0).more).toMatch(/^Trim is on: a hand on Voice level gives an offset\./);
  });

  test('what waits to be written comes before what was done and what the last pass did', () => {
    const latch = testSong({ channels: [track('voice', 'latch')] });
    const receipt: Receipt = { lap: 0, from: 0, to: 1, lanes: [], refused: [], rested: [] };
    const told = { receipt, number: 1 };
    expect(said(new PassRecorder(latch), 0, { told }).says).toBe('That pass wrote nothing.');
    expect(said(new PassRecorder(latch), 0, { told, did: 'Taken back: Pass 1.' }).says).toBe('Taken back: Pass 1.');
    // While it rolls too, and with it that no pass has done it.
    const rolls = new PassRecorder(latch);
    rolls.handle({ do: 'play', from: 0 });
    expect(said(rolls, 0, { did: 'Lead level lifted over the range.' })).toMatchObject({
      says: 'Lead level lifted over the range.',
      more: expect.stringMatching(/^Rolling\. Nothing is being written\./),
    });
    const poised = recording(latch, { do: 'move', control: LEVEL, value: 1 });
    expect(said(poised, 0, { told, did: 'Taken back: Pass 1.' })).toMatchObject({
      says: expect.stringMatching(/^Play writes Voice level \(poised 1\.0 dB\)/),
      more: expect.stringMatching(/^Taken back: Pass 1\./),
    });
  });
});

describe('while the song rolls it', () => {
  const rolling = (song: Song, ...events: HandEvent[]): PassRecorder =>
    recording(song, { do: 'play', from: 0 }, ...events);

  test('says what is written, for how long, and how it ends: by the hand, the range, the lap or a stop', () => {
    const touched: HandEvent = { t: 1, do: 'touch', control: LEVEL };
    expect(said(rolling(testSong(), touched), 2.5)).toEqual({
      says: 'Writing Voice level, 1.5 s.',
      more: 'Returns over 0.25 s when you let go.',
      // Spoken without the seconds, which change all the time.
      spoken: 'Writing Voice level. Returns over 0.25 s when you let go.',
      isWriting: true,
    });
    const latch = (settings: object): Song => testSong({ channels: [track('voice', 'latch')], settings });
    const held: HandEvent[] = [touched, { t: 1.5, do: 'release', control: LEVEL }];
    expect(said(rolling(latch({}), ...held), 2).more).toBe('Held on until you stop, or let go with Esc.');
    expect(said(rolling(latch({ punch: [0, 4] }), ...held), 2).more).toBe(
      'Held on to 3·1, where the punch range ends, or let go with Esc.',
    );
    expect(said(rolling(latch({ loop: [0, 8] }), ...held), 2).more).toBe(
      'Held on to 5·1, where the lap ends, or let go with Esc.',
    );
    expect(said(rolling(testSong(), touched, { t: 2, do: 'release', control: LEVEL }), 2.1).says).toBe(
      'Voice level on the way back to the curve.',
    );
  });

  test('says of a hand that is not written why, or that it sets where the control rests', () => {
    const hand = (control: string): HandEvent[] => [
      { t: 1, do: 'touch', control },
      { t: 1.2, do: 'move', control, value: 0.5 },
    ];
    expect(said(rolling(testSong(), ...hand('fiddle/pan')), 1.3, { inHand: 'fiddle/pan' })).toMatchObject({
      says: 'Fiddle reads: a hand sets where Fiddle pan rests, for the whole song.',
      isWriting: false,
    });
    const safe = testSong({ lanes: { 'voice/pan': { safe: true } } });
    expect(said(rolling(safe, ...hand('voice/pan')), 1.3, { inHand: 'voice/pan' }).says).toBe(
      'Safe: Voice pan is heard, not written. J takes it out.',
    );
  });

  test('counts what a desk in write takes', () => {
    const desk = testSong({ settings: { deskMode: 'write' } });
    expect(said(rolling(desk), 2).says).toBe('Writing 9 controls of 3 channels, 2.0 s.');
  });
});

describe('after a pass its receipt', () => {
  const ridden = (song: Song, ...events: HandEvent[]): { song: Song; receipt: Receipt } => {
    const all = runMoves(song, [{ do: 'play', from: 0 }, ...events, { t: 6, do: 'stop' }]);
    if (!all.ok) throw new Error(all.sentence);
    return { song: all.song, receipt: all.receipts[0]! };
  };
  const ride: HandEvent[] = [
    { t: 2, do: 'touch', control: LEVEL },
    { t: 3, do: 'move', control: LEVEL, value: -2 },
    { t: 4.25, do: 'release', control: LEVEL },
    { t: 5, do: 'touch', control: 'fiddle/pan' },
  ];

  test('says where, how much was kept, and what was refused, as it was then', () => {
    const { song, receipt } = ridden(testSong({ settings: { thin: 0 } }), ...ride);
    const words = receiptWords(song, map, receipt, { number: 12 });
    expect(words).toEqual({
      says: 'Pass 12: Voice level 2·1–3·2.',
      more: '1 move kept as 5 points, exactly. Heard, not written: Fiddle pan (in off or read).',
      isWriting: false,
    });
    // Whatever the song becomes, what was refused then was refused for what held then.
    const later = recording(song, { do: 'mode', channel: 'fiddle', mode: 'touch' }).song;
    expect(receiptWords(later, map, receipt, { number: 12 })).toEqual(words);
    expect(cutShortWords(song, map, receipt)).toMatchObject({
      says: 'Voice level 2·1–3·2.',
      more: '1 move kept as 5 points, exactly.',
    });
  });

  test('counts much by number and reach, and says what was set for good', () => {
    const desk = ridden(testSong({ settings: { deskMode: 'write' } }));
    expect(receiptWords(desk.song, map, desk.receipt, { number: 3 }).says).toBe(
      'Pass 3: 9 controls of 3 channels, 1·1–4·1.',
    );
    const rested = ridden(testSong(), { t: 1, do: 'move', control: 'fiddle/level', value: -5 });
    expect(receiptWords(rested.song, map, rested.receipt, { number: 4 }).says).toBe(
      'That pass wrote no curve; it set where Fiddle level rests, for the whole song.',
    );
  });

  test('says where the hand held still, and how close in dB where the throw is fine', () => {
    const lane = {
      control: LEVEL,
      layer: 'base',
      spans: [],
      moves: 1,
      points: 1,
      maxDeviation: 0.002,
      clamped: [],
    } as const;
    expect(closeWords({ within: { unit: 'dB', db: 0.3, fromDb: null }, plateaus: 2 }, lane)).toBe(
      'within 0.30 dB, held still 2 times',
    );
    expect(closeWords({ within: { unit: 'dB', db: 0.3, fromDb: -60 }, plateaus: 0 }, lane)).toBe(
      'within 0.30 dB above −60 dB',
    );
    expect(closeWords(null, lane)).toBe('within 0.2 % of its throw');
  });
});

test('what is said before play is what the receipt says after it: which controls, how many, from where to where', () => {
  const flag = fc.boolean();
  const mode = fc.constantFrom('off', 'read', 'touch', 'latch', 'write');
  const range = fc.constantFrom(null, [2, 6], [5, 9]);
  const poise = fc.array(fc.record({ at: fc.nat(20), x: fc.double({ min: 0, max: 1, noNaN: true }) }), {
    maxLength: 6,
  });
  fc.assert(
    fc.property(
      fc.record({
        modes: fc.tuple(mode, mode, mode),
        safe: flag,
        parked: flag,
        trim: flag,
        punch: range,
        loop: range,
        from: fc.nat(7),
        poise,
      }),
      ({ modes, safe, parked, trim, punch, loop, from, poise: poised }) => {
        const song = testSong({
          settings: { punch, loop },
          channels: [
            track('voice', modes[0], { safe: safe ? ['pan'] : [], trim }),
            track('fiddle', modes[1], { parked }),
            track('bass', modes[2]),
          ],
        });
        const ids = [...controlsOf(song).keys()];
        const recorder = new PassRecorder(song);
        for (const { at, x } of poised) {
          const control = ids[at % ids.length]!;
          recorder.handle({ do: 'move', control, value: /mute/.test(control) ? Math.round(x) : x });
        }
        const stopped = recorder.song;
        const forecast = playWrites(stopped, from, recorder.waiting);
        const words = handWords({ recorder, map, position: from, told: null, inHand: null });
        expect(/^Play writes (?!nothing|what you touch)/.test(words.says)).toBe(forecast !== null);
        recorder.handle({ do: 'play', from });
        const end = forecast?.to ?? 12;
        const laps = loop !== null && from < loop[1]!;
        const { receipts } =
          laps && loop![1] === end ? recorder.wrap() : recorder.handle({ do: 'stop', t: Math.max(end, from) });
        const result = wrote(receipts[0]!);
        expect(result && { ...result, lanes: sorted(result.lanes) }).toEqual(
          forecast && { ...forecast, to: end, lanes: sorted(forecast.lanes) },
        );
      },
    ),
    { numRuns: 400 },
  );
});
const sorted = <T extends { control: string }>(lanes: readonly T[]): T[] =>
  [...lanes].sort((a, b) => a.control.localeCompare(b.control));

test('what a hand is said to do is what it does, stopped and rolling, in every mode and under every guard', () => {
  const cases = fc.record({
    mode: fc.constantFrom('off', 'read', 'touch', 'latch', 'write'),
    curved: fc.boolean(),
    safe: fc.boolean(),
    parked: fc.boolean(),
    trim: fc.boolean(),
    inScope: fc.boolean(),
    rolls: fc.boolean(),
    control: fc.constantFrom(LEVEL, 'voice/pan'),
  });
  fc.assert(
    fc.property(cases, ({ mode, curved, safe, parked, trim, inScope, rolls, control }) => {
      const song = testSong({
        settings: { writeScope: inScope ? ['level', 'pan'] : ['mute'] },
        channels: [track('voice', mode, { trim })],
        lanes: { [control]: { rest: 0, points: curved ? [{ t: 0, v: 0 }] : [], safe, parked } },
      });
      const recorder = recording(song, ...(rolls ? [{ do: 'play', from: 0 } as const] : []));
      const does = handDoes(recorder, control);
      const at = rolls ? { t: 1 } : {};
      recorder.handle({ ...at, do: 'touch', control });
      recorder.handle({ ...at, do: 'move', control, value: 0.5 });
      const take = recorder.roll?.takes.find((one) => one.control === control);
      const isWritten = (take?.spans.at(-1)?.values.at(-1)?.v ?? 0) === 0.5;
      const did = isWritten
        ? 'writes'
        : recorder.poised.has(control)
          ? 'poises'
          : laneOf(recorder.song, control).rest === 0.5
            ? 'rests'
            : 'heard';
      expect(did).toBe(does);
    }),
    { numRuns: 500 },
  );
});

test('whatever hands have done, something is said in whole sentences, and the next key it names is one that helps', () => {
  fc.assert(
    fc.property(
      songs,
      steps,
      favourites,
      fc.double({ min: 0, max: 1, noNaN: true }),
      (song, drawn, favourite, part) => {
        const recorder = new PassRecorder(song);
        for (const event of eventsOf(song, drawn, favourite)) {
          const meant = asMeant(recorder, event);
          while (recorder.roll && (meant.lap ?? 0) > recorder.roll.lap) recorder.wrap();
          recorder.handle(meant);
          const position = recorder.roll?.now ?? part * song.length;
          for (const inHand of [null, favourite]) {
            const words = handWords({ recorder, map, position, told: null, inHand });
            for (const line of [words.says, ...(words.more ? [words.more] : [])])
              if (!/^[^\s].*[^\s]\.$/.test(line) || /\b(NaN|undefined|null|Infinity)\b| {2}|\.\./.test(line))
                throw new Error(`“${words.says}” “${words.more}” of ${String(inHand)} at ${position}`);
            if (words.more.includes('Press 3') && recorder.song.settings.deskMode !== null)
              throw new Error(`A key that changes nothing: ${words.says} ${words.more}`);
          }
        }
      },
    ),
    { numRuns: runs(120) },
  );
});
