import { describe, expect, test } from '@jest/globals';
import { DOES, FOUND, type HandTable } from '@sure-hand/core/mix';
import { applyEdit, type Edit, type Receipt } from '@sure-hand/core/edits';
import { type Song } from '@sure-hand/core/song';
import { LEVEL_LAW, travelOf } from '@sure-hand/core/units';
import { QuietEngine } from '../test/quietEngine.js';
import { testSong } from '../test/songs.js';
import { COMMANDS, withKeys } from './commands.js';
import { HandDrag } from './handDrag.js';
import { SongControl } from './songControl.js';
import { HandSession, type EditsMade, type HandAct, type PassMade } from './handSession.js';

const LEVEL = 'voice/level';

function session(song: Song = testSong()): {
  engine: QuietEngine;
  hand: HandSession;
  /** What a hand does now. */
  act: (act: HandAct) => void;
  edits: Edit[];
  receipts: Receipt[];
  troubles: string[];
} {
  const engine = new QuietEngine(song);
  const edits: Edit[] = [];
  const receipts: Receipt[] = [];
  const troubles: string[] = [];
  const listener = {
    onEdits: (made: EditsMade): void => {
      edits.push(...made.edits);
      hand.setSong(made.edits.reduce((s, edit) => applyEdit(s, edit).song, kept));
      kept = made.edits.reduce((s, edit) => applyEdit(s, edit).song, kept);
    },
    onPass: ({ receipt }: PassMade) => void receipts.push(receipt),
    onHand: () => undefined,
    onTrouble: (sentence: string) => void troubles.push(sentence),
    onChange: () => undefined,
  };
  let kept = song;
  const hand: HandSession = new HandSession(song, engine, listener, undefined, engine);
  return { engine, hand, act: (act) => hand.act(act, engine.ms), edits, receipts, troubles };
}

/** Where a hand or a line has a control at a time. */
function heldAt(hands: HandTable, slot: number, does: number, t: number): number {
  const found = new Float64Array(FOUND.length);
  found[FOUND.at] = t;
  hands.travelInto(found, slot, does);
  return found[FOUND.travel]!;
}

describe('a hand session', () => {
  test('a play that is given up before it has begun makes no pass, and the next one does', async () => {
    const { engine, hand, receipts } = session();
    const asked = hand.play(2);
    expect(hand.isStarting).toBe(true);
    hand.giveUpStart();
    expect(hand.isStarting).toBe(false);
    await asked;
    expect([engine.isPlaying, hand.isRolling, receipts]).toEqual([false, false, []]);
    const again = hand.play(2);
    hand.giveUpStart();
    void hand.play(2);
    await again;
    expect([engine.isPlaying, hand.isRolling]).toEqual([true, true]);
  });

  test('what is done right after a stop is done to what the pass has left: its edit comes first', async () => {
    const { engine, hand, act, edits } = session(
      testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'touch', trim: true }] }),
    );
    const made: string[] = [];
    const host = {
      makeEdit: ({ kind }: Edit) => void made.push(`${edits.map((edit) => edit.kind).join()} ${kind}`),
      step: (which: string) => Promise.resolve(void made.push(`${edits.map(({ kind }) => kind).join()} ${which}`)),
      workAhead: () => null,
    };
    const control = new SongControl(hand, engine as never, host as never);
    const ride = async (): Promise<void> => {
      edits.length = 0;
      await hand.play(2);
      engine.goTo(3);
      act({ do: 'touch', control: LEVEL });
      act({ do: 'move', control: LEVEL, value: 2 });
      engine.goTo(4);
      hand.stop(engine.ms);
    };
    await ride();
    expect(edits).toEqual([]);
    control.foldTrim('voice');
    expect(made).toEqual(['pass foldTrim']);
    await ride();
    await control.undo();
    expect(made.at(-1)).toBe('pass undo');
  });

  test('stamps moves with the time as heard, tells the audio thread at once, and hands over one edit after the stop', async () => {
    const { engine, hand, act, edits, receipts } = session();
    await hand.play(2);
    engine.goTo(3);
    act({ do: 'touch', control: LEVEL });
    engine.goTo(3.5);
    act({ do: 'move', control: LEVEL, value: 0 });
    const slot = engine.slotOf(LEVEL);
    expect(engine.hands.does(slot)).toBe(DOES.held);
    expect(heldAt(engine.hands, slot, DOES.held, 3.5)).toBe(travelOf(LEVEL_LAW, 0));
    engine.goTo(4);
    act({ do: 'release', control: LEVEL });
    expect(engine.hands.does(slot)).toBe(DOES.line);
    expect(heldAt(engine.hands, slot, DOES.line, 4.125)).toBeCloseTo(
      (travelOf(LEVEL_LAW, 0) + travelOf(LEVEL_LAW, -6)) / 2,
      12,
    );
    engine.goTo(5);
    hand.stop(engine.ms);
    // Told and heard at once, kept once nothing late can come before the stop.
    expect(receipts).toMatchObject([{ from: 2, to: 5, lanes: [{ control: LEVEL, spans: [[3, 4.25]] }] }]);
    expect(engine.song.lanes[LEVEL]!.points.length).toBeGreaterThan(1);
    expect(engine.hands.does(slot)).toBe(DOES.curve);
    expect(edits).toEqual([]);
    engine.settle();
    expect(edits.map((edit) => edit.kind)).toEqual(['pass']);
    expect(engine.isRunning).toBe(false);
  });

  test('a move that comes late, after the stop, is in the pass all the same, and its receipt is told again', async () => {
    const { engine, hand, act, edits, receipts } = session();
    await hand.play(2);
    engine.goTo(3);
    act({ do: 'touch', control: LEVEL });
    engine.goTo(4);
    const made = engine.ms;
    engine.goTo(4.02);
    hand.stop(engine.ms);
    hand.act({ do: 'move', control: LEVEL, value: 3 }, made);
    expect(receipts.map((receipt) => receipt.lanes[0]!.moves)).toEqual([0, 1]);
    engine.settle();
    expect(edits).toMatchObject([{ kind: 'pass', receipt: { lanes: [{ moves: 1 }] } }]);
    expect([...engine.song.lanes[LEVEL]!.points].some((p) => p.v === 3)).toBe(true);
  });

  test('gives a control back to its curve only once the audio thread has that curve', () => {
    const { engine, hand, act } = session();
    act({ do: 'touch', control: 'fiddle/level' });
    act({ do: 'move', control: 'fiddle/level', value: -3 });
    engine.isPlanPending = true;
    act({ do: 'release', control: 'fiddle/level' });
    const slot = engine.slotOf('fiddle/level');
    expect(engine.hands.does(slot)).toBe(DOES.held);
    engine.isPlanPending = false;
    hand.planned();
    expect(engine.hands.does(slot)).toBe(DOES.curve);
    expect(engine.song.lanes['fiddle/level']!.rest).toBe(-3);
  });

  test('makes one edit of a stopped gesture, however many moves it had', () => {
    const { engine, act, edits } = session();
    act({ do: 'touch', control: 'fiddle/pan' });
    for (const value of [0.1, 0.2, 0.3]) act({ do: 'move', control: 'fiddle/pan', value });
    engine.settle();
    expect(edits).toEqual([]);
    act({ do: 'release', control: 'fiddle/pan' });
    engine.settle();
    expect(edits).toEqual([{ kind: 'rest', values: { 'fiddle/pan': 0.3 } }]);
  });

  test('ends the pass where the loop wraps, and begins another, though no view is drawn', async () => {
    const { engine, hand, act, receipts } = session(testSong({ settings: { loop: [2, 6] } }));
    await hand.play(2);
    engine.goTo(3);
    act({ do: 'touch', control: LEVEL });
    engine.goTo(2.1, 1);
    engine.calls();
    expect(receipts).toMatchObject([{ lap: 0, to: 6, lanes: [{ spans: [[3, 6]] }] }]);
    expect(hand.isRolling).toBe(true);
  });

  test('a guard that comes from elsewhere in mid-pass ends the span there, and the pass says so', async () => {
    const { engine, hand, act, edits } = session();
    await hand.play(0);
    engine.goTo(1);
    act({ do: 'touch', control: LEVEL });
    act({ do: 'move', control: LEVEL, value: 0 });
    engine.goTo(2);
    engine.calls();
    hand.setSong(applyEdit(hand.recorder.song, { kind: 'guard', control: LEVEL, changes: { safe: true } }).song);
    engine.goTo(3);
    act({ do: 'move', control: LEVEL, value: 6 });
    engine.goTo(4);
    hand.stop(engine.ms);
    engine.settle();
    expect(edits).toMatchObject([
      { kind: 'pass', heeded: [{ control: LEVEL, reason: 'safe', t: 2 }], receipt: { lanes: [{ spans: [[1, 2]] }] } },
    ]);
  });

  test('leaving in mid-roll is a stop, with all that a stop does: the pass is kept, and write falls back', async () => {
    const writing = testSong({ channels: [{ key: 'voice', kind: 'track', name: 'Voice', mode: 'write' }] });
    const { engine, hand, edits } = session(writing);
    await hand.play(1);
    engine.goTo(3);
    hand.leave(engine.ms);
    expect(edits.map((edit) => edit.kind)).toEqual(['pass', 'channel']);
    expect(edits[1]).toMatchObject({ changes: { mode: 'touch' } });
    expect([engine.isPlaying, engine.isRunning]).toEqual([false, false]);
  });

  test('left while it was starting, nothing is begun', async () => {
    const { engine, hand, edits } = session();
    const starting = hand.play(1);
    hand.leave(engine.ms);
    await starting;
    expect([engine.isPlaying, hand.isRolling, edits.length]).toEqual([false, false, 0]);
  });

  test('listens to passages one after the other, writes nothing whatever the mode, and is back where it was', async () => {
    const { engine, hand, edits, receipts } = session(testSong({ settings: { deskMode: 'write' } }));
    engine.locate(20);
    await hand.listen(
      [
        [6, 10],
        [14, 18],
      ],
      engine.ms,
      { what: 'the edges', isAgain: false },
    );
    expect([hand.isListening, hand.isRolling, hand.isMoving, engine.t]).toEqual([true, false, true, 6]);
    engine.goTo(10.01);
    engine.calls();
    await Promise.resolve();
    expect([hand.isListening, engine.t]).toEqual([true, 14]);
    engine.goTo(18.01);
    engine.calls();
    expect([hand.isMoving, engine.isPlaying, engine.t, engine.isRunning]).toEqual([false, false, 20, false]);
    expect([edits, receipts]).toEqual([[], []]);
  });

  test('listens to a range again and again until it is stopped, and is back where it was', async () => {
    const { engine, hand, receipts } = session();
    engine.locate(20);
    await hand.listen([[6, 8]], engine.ms, { what: 'the range', isAgain: true });
    for (let n = 0; n < 3; n++) {
      expect([hand.listeningTo, engine.t]).toEqual([{ what: 'the range', isAgain: true }, 6]);
      engine.goTo(8.01);
      engine.calls();
      await Promise.resolve();
    }
    hand.stop(engine.ms);
    expect([hand.listeningTo, engine.isPlaying, engine.t, receipts]).toEqual([null, false, 20, []]);
  });

  test('a passage that is given up before it has begun leaves the line where it was', async () => {
    const { engine, hand } = session();
    engine.locate(20);
    const listening = hand.listen([[6, 8]], engine.ms, { what: 'the range', isAgain: true });
    hand.stop(engine.ms);
    await listening;
    expect([hand.listeningTo, engine.isPlaying, engine.t]).toEqual([null, false, 20]);
  });

  test('knows which control was moved last, while the song has it', () => {
    const { hand, act } = session();
    expect(hand.lastMoved).toBe(null);
    act({ do: 'touch', control: 'fiddle/pan' });
    expect(hand.lastMoved).toBe(null);
    act({ do: 'move', control: 'fiddle/pan', value: 0.2 });
    act({ do: 'touch', control: LEVEL });
    expect(hand.lastMoved).toBe('fiddle/pan');
    hand.setSong(applyEdit(hand.recorder.song, { kind: 'removeChannel', channel: 'fiddle' }).song);
    expect(hand.lastMoved).toBe(null);
  });

  test('lets another state of the song be heard; what hands do is done to the song as it stands', () => {
    const song = testSong();
    const { engine, hand, act, edits } = session(song);
    const other = applyEdit(song, { kind: 'rest', values: { 'fiddle/level': -20 } }).song;
    hand.hear(other);
    expect([engine.song, hand.heardSong, hand.recorder.song]).toEqual([other, other, song]);
    act({ do: 'touch', control: 'fiddle/level' });
    act({ do: 'move', control: 'fiddle/level', value: -3 });
    act({ do: 'release', control: 'fiddle/level' });
    engine.settle();
    expect(edits).toEqual([{ kind: 'rest', values: { 'fiddle/level': -3 } }]);
    hand.hear(null);
    expect(engine.song.lanes['fiddle/level']!.rest).toBe(-3);
  });

  test('says why the audio does not come, and stays stopped', async () => {
    const { engine, hand, troubles } = session();
    engine.play = async () => 'The audio does not come from the server.';
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

describe('the keys', () => {
  test('no two commands share one; a changed one takes its place', () => {
    expect(new Set(COMMANDS.map((command) => command.keys)).size).toBe(COMMANDS.length);
    expect(withKeys({ solo: 'shift+q' }).find((command) => command.id === 'solo')!.keys).toBe('shift+q');
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
