import { describe, expect, test } from '@jest/globals';
import { DOES, HandTable } from '@sure-hand/core/mix';
import { runMoves } from '@sure-hand/core/pass';
import { applyEdit, controlsOf, type Edit, type Receipt, type Song } from '@sure-hand/core/song';
import { meterMap } from '@sure-hand/core/time';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { testSong } from '../test/songs.js';
import { COMMANDS, printKeys, withKeys } from './commands.js';
import { HandDrag } from './handDrag.js';
import { cutShortWords, handWords, receiptWords } from './handSentence.js';
import { HandSession, type HandEngine } from './handSession.js';

const LEVEL = 'voice/level';

/** An engine without sound: time is what the test says, and the hands' memory can be looked into. */
class QuietEngine implements HandEngine {
  readonly hands = new HandTable(new ArrayBuffer(HandTable.bytes(32)), 32);
  isPlaying = false;
  isPlanPending = false;
  wraps = 0;
  t = 0;
  constructor(public song: Song) {}
  slotOf = (id: string): number => [...controlsOf(this.song).keys()].indexOf(id);
  setSong(song: Song): void {
    this.song = song;
  }
  async play(from: number): Promise<null> {
    this.isPlaying = true;
    this.t = from;
    return null;
  }
  stop(): number {
    this.isPlaying = false;
    return this.t;
  }
  locate(t: number): void {
    this.t = t;
  }
  positionAt = (): number => this.t;
  heardWraps = (): number => this.wraps;
  tick = (): void => undefined;
}

function session(song: Song = testSong()): {
  engine: QuietEngine;
  hand: HandSession;
  edits: Edit[];
  receipts: Receipt[];
  troubles: string[];
} {
  const engine = new QuietEngine(song);
  const edits: Edit[] = [];
  const receipts: Receipt[] = [];
  const troubles: string[] = [];
  const hand: HandSession = new HandSession(song, engine, {
    onEdits: (made) => {
      edits.push(...made);
      hand.setSong(made.reduce((s, edit) => applyEdit(s, edit).song, engine.song));
    },
    onReceipt: (receipt) => receipts.push(receipt),
    onHand: () => undefined,
    onTrouble: (sentence) => troubles.push(sentence),
    onChange: () => undefined,
  });
  return { engine, hand, edits, receipts, troubles };
}

describe('a hand session', () => {
  test('stamps moves with the time as heard, tells the audio thread at once, and hands over one edit at the stop', async () => {
    const { engine, hand, edits, receipts } = session();
    await hand.play(2);
    engine.t = 3;
    hand.act({ do: 'touch', control: LEVEL }, 0);
    engine.t = 3.5;
    hand.act({ do: 'move', control: LEVEL, value: 0 }, 0);
    const slot = engine.slotOf(LEVEL);
    expect(engine.hands.does(slot)).toBe(DOES.held);
    expect(engine.hands.travelAt(slot, DOES.held, 3.5)).toBe(travelOf(LEVEL_LAW, 0));
    engine.t = 4;
    hand.act({ do: 'release', control: LEVEL }, 0);
    expect(engine.hands.does(slot)).toBe(DOES.line);
    expect(engine.hands.travelAt(slot, DOES.line, 4.125)).toBeCloseTo(
      (travelOf(LEVEL_LAW, 0) + travelOf(LEVEL_LAW, -6)) / 2,
      12,
    );
    engine.t = 5;
    hand.stop(0);
    expect(edits.map((edit) => edit.kind)).toEqual(['pass']);
    expect(receipts).toMatchObject([{ from: 2, to: 5, lanes: [{ control: LEVEL, spans: [[3, 4.25]] }] }]);
    expect(engine.hands.does(slot)).toBe(DOES.curve);
  });

  test('gives a control back to its curve only once the audio thread has that curve', async () => {
    const { engine, hand } = session();
    hand.act({ do: 'touch', control: 'fiddle/level' }, 0);
    hand.act({ do: 'move', control: 'fiddle/level', value: -3 }, 0);
    engine.isPlanPending = true;
    hand.act({ do: 'release', control: 'fiddle/level' }, 0);
    const slot = engine.slotOf('fiddle/level');
    expect(engine.hands.does(slot)).toBe(DOES.held);
    engine.isPlanPending = false;
    hand.setSong(engine.song);
    expect(engine.hands.does(slot)).toBe(DOES.curve);
    expect(engine.song.lanes['fiddle/level']!.rest).toBe(-3);
  });

  test('makes one edit of a stopped gesture, however many moves it had', () => {
    const { hand, edits } = session();
    hand.act({ do: 'touch', control: 'fiddle/pan' }, 0);
    for (const value of [0.1, 0.2, 0.3]) hand.act({ do: 'move', control: 'fiddle/pan', value }, 0);
    expect(edits).toEqual([]);
    hand.act({ do: 'release', control: 'fiddle/pan' }, 0);
    expect(edits).toEqual([{ kind: 'rest', values: { 'fiddle/pan': 0.3 } }]);
  });

  test('ends the pass where the loop wraps, and begins another', async () => {
    const { engine, hand, receipts } = session(testSong({ settings: { loop: [2, 6] } }));
    await hand.play(2);
    engine.t = 3;
    hand.act({ do: 'touch', control: LEVEL }, 0);
    engine.wraps = 1;
    engine.t = 2.1;
    hand.tick(0);
    expect(receipts).toMatchObject([{ lap: 0, to: 6, lanes: [{ spans: [[3, 6]] }] }]);
    expect(hand.isRolling).toBe(true);
  });

  test('listens to passages one after the other, writes nothing whatever the mode, and is back where it was', async () => {
    const { engine, hand, edits, receipts } = session(testSong({ settings: { deskMode: 'write' } }));
    engine.locate(20);
    await hand.listen(
      [
        [6, 10],
        [14, 18],
      ],
      0,
    );
    expect([hand.isListening, hand.isRolling, hand.isMoving, engine.t]).toEqual([true, false, true, 6]);
    engine.t = 10.01;
    hand.tick(0);
    await Promise.resolve();
    expect([hand.isListening, engine.t]).toEqual([true, 14]);
    engine.t = 18.01;
    hand.tick(0);
    expect([hand.isMoving, engine.isPlaying, engine.t]).toEqual([false, false, 20]);
    expect([edits, receipts]).toEqual([[], []]);
  });

  test('lets another state of the song be heard; what hands do is done to the song as it stands', async () => {
    const song = testSong();
    const { engine, hand, edits } = session(song);
    const other = applyEdit(song, { kind: 'rest', values: { 'fiddle/level': -20 } }).song;
    hand.hear(other);
    expect([engine.song, hand.heardSong, hand.recorder.song]).toEqual([other, other, song]);
    hand.act({ do: 'touch', control: 'fiddle/level' }, 0);
    hand.act({ do: 'move', control: 'fiddle/level', value: -3 }, 0);
    hand.act({ do: 'release', control: 'fiddle/level' }, 0);
    expect(edits).toEqual([{ kind: 'rest', values: { 'fiddle/level': -3 } }]);
    hand.hear(null);
    expect(engine.song.lanes['fiddle/level']!.rest).toBe(-3);
  });

  test('says why the audio does not come, and stays stopped', async () => {
    const { engine, hand, troubles } = session();
    engine.play = async () => 'The audio does not come from the server.' as never;
    await hand.play(0);
    expect(troubles).toEqual(['The audio does not come from the server.']);
    expect(hand.isRolling).toBe(false);
  });
});

describe('a pointer on a cap', () => {
  const dragging = (): { drag: HandDrag; to: number[] } => {
    const to: number[] = [];
    const control = {
      touch: () => undefined,
      release: () => undefined,
      travelNow: () => 0.5,
      moveTo: (_id: string, travel: number) => void to.push(travel),
    };
    return { drag: new HandDrag(control, LEVEL, 400, 0), to };
  };

  test('is relative: grabbing moves nothing, 600 pixels are the whole throw, and its ends hold', () => {
    const { drag, to } = dragging();
    drag.move(400, false, 1);
    expect(to).toEqual([]);
    drag.move(340, false, 2);
    drag.move(-900, false, 3);
    drag.move(340, false, 4);
    expect(to.map((x) => Number(x.toFixed(6)))).toEqual([0.6, 1, 0.6]);
  });

  test('is four times finer with Shift, going on from where the cap is', () => {
    const { drag, to } = dragging();
    drag.move(340, false, 1);
    drag.move(340, true, 2);
    drag.move(280, true, 3);
    drag.move(280, false, 4);
    drag.move(220, false, 5);
    expect(to.map((x) => Number(x.toFixed(6)))).toEqual([0.6, 0.625, 0.725]);
  });
});

describe('the hand bar', () => {
  const map = meterMap([{ t: 0, bpm: 120 }], [{ t: 0, beats: 4, unit: 4 }]);
  const words = (hand: HandSession, position: number, inHand: string | null = LEVEL) =>
    handWords({ recorder: hand.recorder, map, position, receipt: null, passNumber: 0, inHand });

  test('stopped, says what play will write', () => {
    expect(words(session().hand, 0).says).toBe('Play writes what you touch of Voice.');
    const reading = testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice' }] });
    expect(words(session(reading).hand, 0).says).toBe('Play writes nothing: every channel reads.');
    const writing = testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'write' }] });
    expect(words(session(writing).hand, 2).says).toBe(
      'Play writes Voice level, Voice pan, Voice mute from 2.1 until you stop.',
    );
  });

  test('names what is poised with its value', () => {
    const { hand } = session(testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' }] }));
    hand.act({ do: 'move', control: LEVEL, value: -3.2 }, 0);
    expect(words(hand, 32).says).toBe('Play writes Voice level (poised −3.2 dB) from 17.1 until you stop.');
  });

  test('tells of what is poised before what the last pass did', () => {
    const { hand } = session(testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'latch' }] }));
    const receipt: Receipt = { lap: 0, from: 0, to: 1, lanes: [], refused: [], rested: [] };
    const says = (): string =>
      handWords({ recorder: hand.recorder, map, position: 0, receipt, passNumber: 1, inHand: LEVEL }).says;
    expect(says()).toBe('That pass wrote nothing.');
    hand.act({ do: 'move', control: LEVEL, value: 1 }, 0);
    expect(says()).toMatch(/^Play writes Voice level \(poised 1\.0 dB\)/);
  });

  test('rolling, says what is written, for how long, and how it ends; or why not', async () => {
    const { engine, hand } = session();
    await hand.play(0);
    engine.t = 1;
    hand.act({ do: 'touch', control: LEVEL }, 0);
    expect(words(hand, 2.5)).toEqual({
      says: 'Writing Voice level, 1.5 s.',
      more: 'Returns over 0.25 s when you let go.',
      isWriting: true,
    });
    hand.act({ do: 'release', control: LEVEL }, 0);
    expect(words(hand, 1.1).says).toBe('Voice level on the way back to the curve.');
    engine.t = 3;
    hand.act({ do: 'touch', control: 'fiddle/level' }, 0);
    expect(words(hand, 3, 'fiddle/level').says).toBe(
      'Fiddle reads: Fiddle level is heard while you hold it, not written. 3 puts it in touch.',
    );
  });

  test('after, is the receipt in bars, moves, points and dB', () => {
    const ridden = runMoves(testSong(), [
      { do: 'play', from: 0 },
      { t: 2, do: 'touch', control: LEVEL },
      { t: 3, do: 'move', control: LEVEL, value: -2 },
      { t: 4.25, do: 'release', control: LEVEL },
      { t: 5, do: 'touch', control: 'fiddle/pan' },
      { t: 6, do: 'stop' },
    ]);
    if (!ridden.ok) throw new Error(ridden.sentence);
    expect(receiptWords(ridden.song, map, ridden.receipts[0]!, 12)).toEqual({
      says: 'Pass 12: Voice level 2.1–3.2.',
      more: '1 move kept as 5 points, exactly. Fiddle reads: Fiddle pan is heard while you hold it, not written. 3 puts it in touch.',
      isWriting: false,
    });
    // Cut short, the same pass says that it is not in the song yet.
    expect(cutShortWords(ridden.song, map, ridden.receipts[0]!)).toEqual({
      says: 'A pass was cut short: Voice level 2.1–3.2.',
      more: '1 move kept as 5 points, exactly. It is not in the song yet: keep it, or drop it.',
      isWriting: false,
    });
  });
});

describe('the keys', () => {
  test('no two commands share one; a changed one takes its place', () => {
    expect(new Set(COMMANDS.map((command) => command.keys)).size).toBe(COMMANDS.length);
    expect(withKeys({ solo: 'shift+q' }).find((command) => command.id === 'solo')!.keys).toBe('shift+q');
    expect(['mod+shift+z', 'space', 'shift+slash', 'up'].map(printKeys)).toEqual(['Ctrl+Shift+Z', 'Space', '?', '↑']);
  });

  test('ask for what is at the line: the section that begins there, the note, the clip of the channel in hand', () => {
    const clip = { file: 'voice.wav', t: 1, length: 4, offset: 0 };
    const song = testSong({
      sections: [{ t: 4, name: 'Verse' }],
      notes: [{ t: 6, text: 'Louder', channel: 'fiddle' }],
      channels: [
        { key: 'voice', kind: 'track', name: 'Voice', clips: [clip] },
        { key: 'main', kind: 'main', name: 'Main' },
      ],
    });
    const asked = (id: string, position: number): unknown[] => {
      const all: unknown[] = [];
      const scene = { song, control: { position }, inHand: LEVEL, ask: (what: unknown) => all.push(what) };
      COMMANDS.find((command) => command.id === id)!.press(scene as never);
      return all;
    };
    expect(asked('section', 4.1)).toEqual([{ what: 'section', mark: { t: 4, name: 'Verse' }, t: 4 }]);
    expect(asked('section', 8.2)).toEqual([{ what: 'section', mark: null, t: 8 }]);
    expect(asked('note', 6.01)).toEqual([{ what: 'note', mark: song.notes[0], t: 6, channel: 'voice' }]);
    expect(asked('note', 9.5)).toEqual([{ what: 'note', mark: null, t: 9.5, channel: 'voice' }]);
    expect(asked('clip', 30)).toEqual([{ what: 'clip', channel: 'voice', at: 1 }]);
  });
});
