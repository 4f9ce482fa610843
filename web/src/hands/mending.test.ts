import { beforeEach, describe, expect, test } from '@jest/globals';
import { Curve, linePoint, valueAt, type Point } from '@sure-hand/core/curve';
import { applyEdit, loggedLanes, whyNotMade, type Applied, type Edit } from '@sure-hand/core/edits';
import { laneOf, type Song } from '@sure-hand/core/song';
import { LEVEL_LAW, TRIM_LAW } from '@sure-hand/core/units';
import { testSong } from '../test/songs.js';
import {
  copyRange,
  duplicateRange,
  mappingTo,
  mappingWords,
  pasteAtLine,
  pasteEdit,
  readCopied,
  type Clipboard,
} from './clipboard.js';
import { carryEdits, type Carry, type SpanChange } from './carrying.js';
import { carryOn } from './commandScene.js';
import { addPointAtLine, clearPoints, fadeRange, pickPass, pickPoints, type MendScene } from './mending.js';
import { GuardDoing } from './guardDoing.js';
import { nudgePoints, scalePoints } from './moving.js';
import { clearEdit, clearWords } from './mendScopes.js';
import { changedPoints, pointsPickedOf, withShape } from './pickedPoints.js';
import { pickedOf, pointsWords, type Picked } from './picking.js';
import { putShoulders } from './shoulders.js';
import { SongControl } from './songControl.js';
import { thinEdit, thinTargets, thinWords, type ThinScene, type ThinScope } from './thinning.js';
import { cyclesPerQuarter, waveEdit, waveWords } from './waves.js';

const LEVEL = 'voice/level';
const LANE: readonly Point[] = [linePoint(2, -20), linePoint(5, -10), linePoint(8, -12), linePoint(11, -6)];

/** A song with a curve on the voice, and what keys work on, as the frame gives it to them. */
class Desk {
  song: Song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  inHand = LEVEL;
  range: readonly [number, number] | null = null;
  picked: Picked | null = null;
  chosen: readonly string[] = [];
  fresh: MendScene['fresh'] = null;
  liftEdge = 0;
  position = 0;
  readonly said: string[] = [];
  readonly did: string[] = [];
  readonly made: Edit[] = [];
  /** Whether the song takes no edit, as one that was changed elsewhere meanwhile may not. */
  takesNone = false;

  get scene(): MendScene {
    const mend = (edit: Edit): Applied => {
      if (this.takesNone) return { song: this.song, inverse: null, changed: [], refused: [] };
      expect(whyNotMade(this.song, edit)).toBeNull();
      const applied = applyEdit(this.song, edit);
      this.made.push(edit);
      this.song = applied.song;
      return applied;
    };
    const changed = (change: SpanChange | null): void => {
      if (change && this.fresh) this.fresh = { ...this.fresh, changes: [...this.fresh.changes, change] };
    };
    const mendPass = (edit: Edit, shift: number): Applied => {
      const applied = mend(edit);
      if (applied.changed.length) changed(shift ? { shift } : null);
      return applied;
    };
    const carry = (carries: readonly Carry[]): void => {
      mend({ kind: 'together', edits: carryEdits(carries) });
      changed({ carries });
    };
    const { song, inHand, range, picked, chosen, fresh, liftEdge, position } = this;
    const ahead: MendScene['control']['ahead'] = (_edit, _controls, act) => act(this.song);
    return {
      ...{ song, inHand, range, picked, chosen, fresh, liftEdge },
      control: { mend, mendPass, carry, position, ahead } as unknown as MendScene['control'],
      setRange: (next) => void (this.range = next),
      pick: (next) => void (this.picked = next),
      say: (sentence) => void this.said.push(sentence),
      did: (sentence) => void this.did.push(sentence),
    };
  }

  pairs(id = LEVEL, layer: 'points' | 'trim' = 'points'): number[][] {
    return [...laneOf(this.song, id)[layer]].map(({ t, v }) => [t, Math.round(1e6 * v) / 1e6]);
  }
}

let desk: Desk;
beforeEach(() => (desk = new Desk()));

describe('mending by keys', () => {
  test('clears what is picked, or what stands in the range, and says how many of which lane', () => {
    pickPoints(desk.scene, 7);
    expect(desk.picked!.lanes).toEqual([{ control: LEVEL, layer: 'base', times: [8, 11] }]);
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toBe('2 points of Voice level cleared; 2 left.');
    expect(desk.picked).toBe(null);
    desk.range = [4, 6];
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toBe('1 point of Voice level cleared inside the range; its ends stay.');
    desk.range = null;
    clearPoints(desk.scene);
    expect(desk.said.at(-1)).toMatch(/^Nothing is picked: /);
    expect(desk.made).toHaveLength(2);
  });

  test('moves what is picked, which stays picked; lifts a range; and says when it can go no further', () => {
    desk.picked = pickedOf([{ control: LEVEL, layer: 'base', times: [5, 8] }]);
    nudgePoints(desk.scene, { t: 0.5, travel: 0 });
    expect(desk.pairs().map(([t]) => t)).toEqual([2, 5.5, 8.5, 11]);
    expect(desk.picked!.lanes[0]!.times).toEqual([5.5, 8.5]);
    expect(desk.did.at(-1)).toBe('2 points of Voice level moved: one of them +500 ms.');
    nudgePoints(desk.scene, { t: 0, travel: 0.3 });
    expect(desk.did.at(-1)).toMatch(/^2 points of Voice level moved: one of them \+\d+\.\d dB → /);
    desk.picked = pickedOf([{ control: LEVEL, layer: 'base', times: [2] }]);
    nudgePoints(desk.scene, { t: -9, travel: 0 });
    nudgePoints(desk.scene, { t: -9, travel: 0 });
    expect(desk.said.at(-1)).toMatch(/^They can go no further/);
    desk.picked = null;
    desk.range = [6, 8];
    nudgePoints(desk.scene, { t: 0, travel: 0.01 });
    expect(desk.made.at(-1)).toMatchObject({ kind: 'lift', range: [6, 8], travel: 0.01 });
  });

  test('fades a level over the range from silence or to it, and the curve goes on after', () => {
    desk.range = [5, 8];
    fadeRange(desk.scene, 'out');
    expect(desk.pairs()).toEqual([
      [2, -20],
      [5, -10],
      [8, -144],
      [8, -12],
      [11, -6],
    ]);
    expect(desk.did.at(-1)).toBe('Voice level fades out to silence over the range; after it the curve goes on.');
    desk.range = [8, 11];
    fadeRange(desk.scene, 'in');
    expect(desk.pairs().slice(2)).toEqual([
      [8, -144],
      [11, -6],
    ]);
    desk.inHand = 'voice/pan';
    fadeRange(desk.scene, 'in');
    expect(desk.said.at(-1)).toBe('Voice pan is no level, so it has no silence to fade to.');
  });

  test('on a guarded lane does nothing, and says what would let it', () => {
    desk.song = applyEdit(desk.song, { kind: 'channel', channel: 'voice', changes: { safe: ['level'] } }).song;
    desk.range = [0, 20];
    clearPoints(desk.scene);
    addPointAtLine(desk.scene, 3);
    duplicateRange(desk.scene);
    expect(desk.made).toEqual([]);
    expect(new Set(desk.said)).toEqual(new Set(['Safe: Voice level stays as it is. Alt+J takes it out.']));
  });
});

describe('several lanes together', () => {
  const FIDDLE = 'fiddle/level';
  const PAN = 'voice/pan';
  beforeEach(() => {
    const points = [linePoint(3, -9), linePoint(6, -3), linePoint(9, -6)];
    desk.song = testSong({
      lanes: { [LEVEL]: { points: LANE }, [FIDDLE]: { points }, [PAN]: { points: [linePoint(5, -0.5)] } },
    });
    desk.chosen = [LEVEL, FIDDLE];
  });

  test('are lifted over a range with edges, cleared in it, faded, and their points moved by one key', () => {
    desk.range = [4, 10];
    desk.liftEdge = 0.5;
    nudgePoints(desk.scene, { t: 0, travel: 0.02 });
    expect(desk.made.at(-1)).toMatchObject({ kind: 'lift', controls: [LEVEL, FIDDLE], range: [4, 10], edge: 0.5 });
    expect(desk.did.at(-1)).toBe('2 lanes lifted over the range.');
    nudgePoints(desk.scene, { t: 0.25, travel: 0 });
    expect(desk.made.at(-1)).toMatchObject({ kind: 'move', by: { t: 0.25, travel: 0 } });
    // The range goes along with what is in it.
    expect(desk.range).toEqual([4.25, 10.25]);
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toMatch(/^\d+ points of 2 lanes cleared inside the range; its ends stay\.$/);
    fadeRange(desk.scene, 'out');
    for (const id of [LEVEL, FIDDLE]) expect(desk.pairs(id).filter(([t]) => t === 10.25)[0]).toEqual([10.25, -144]);
    desk.chosen = [LEVEL, PAN];
    pickPoints(desk.scene);
    expect(desk.picked!.lanes.map(({ control }) => control)).toEqual([LEVEL, PAN]);
    clearPoints(desk.scene);
    expect([desk.pairs(), desk.pairs(PAN)]).toEqual([[], []]);
    expect(desk.did.at(-1)).toMatch(/points of 2 lanes cleared; 0 left\.$/);
  });

  test('of which one is guarded: it is left alone, the others are mended; with all of them guarded it is said why', () => {
    desk.song = applyEdit(desk.song, { kind: 'guard', control: FIDDLE, changes: { safe: true } }).song;
    desk.range = [4, 10];
    clearPoints(desk.scene);
    expect(desk.pairs().map(([t]) => t)).toEqual([2, 4, 10, 11]);
    expect(desk.pairs(FIDDLE)).toHaveLength(3);
    desk.song = applyEdit(desk.song, { kind: 'guard', control: LEVEL, changes: { safe: true } }).song;
    const made = desk.made.length;
    clearPoints(desk.scene);
    expect([desk.made.length, desk.said.at(-1)]).toEqual([
      made,
      expect.stringMatching(/^Safe: Voice level stays as it is\. /),
    ]);
  });

  test('are scaled about the lowest of each, and back by the opposite', () => {
    pickPoints(desk.scene);
    const before = [desk.pairs(), desk.pairs(FIDDLE)];
    scalePoints(desk.scene, 1.1);
    expect(desk.did.at(-1)).toBe('7 points of 2 lanes scaled to 110 % about the lowest.');
    expect(desk.pairs()[0]).toEqual([2, -20]);
    expect(desk.pairs()[3]![1]).toBeGreaterThan(-6);
    scalePoints(desk.scene, 1 / 1.1);
    expect([desk.pairs(), desk.pairs(FIDDLE)]).toEqual(before);
  });
});

test('a lone point gets shoulders a beat from it: then it moves alone', () => {
  pickPoints(desk.scene);
  putShoulders(desk.scene);
  expect(desk.said.at(-1)).toBe('Shoulders are for a lone point: pick one.');
  desk.picked = pickedOf([{ control: LEVEL, layer: 'base', times: [8] }]);
  putShoulders(desk.scene);
  // 120 bpm, quarters: half a second.
  expect(desk.pairs().map(([t]) => t)).toEqual([2, 5, 7.5, 8, 8.5, 11]);
  nudgePoints(desk.scene, { t: 0, travel: 0.2 });
  expect(desk.pairs()[2]![0]).toBe(7.5);
  expect(desk.pairs()[1]).toEqual([5, -10]);
});

describe('what the last pass wrote', () => {
  const TRIM = 'fiddle/level';
  /** A pass on two lanes, one of them its trim, with what it found; the first came back by a line. */
  function ride(): void {
    const before = desk.song;
    const piece = (control: string, layer: 'base' | 'trim', span: [number, number], v: number) => ({
      ...{ control, layer, span },
      points: Curve.of([linePoint(span[0], v), linePoint(span[1], v)]),
    });
    const pieces = [piece(LEVEL, 'base', [20, 24], -3), piece(TRIM, 'trim', [21, 23], 4)];
    desk.song = applyEdit(before, { kind: 'draw', pieces }).song;
    const lane = (control: string, layer: 'base' | 'trim', span: [number, number]) => ({
      ...{ control, layer, spans: [span], moves: 5, points: 2, maxDeviation: 0, clamped: [] },
    });
    const receipt = {
      ...{ lap: 0, from: 18, to: 30, refused: [], rested: [] },
      lanes: [{ ...lane(LEVEL, 'base', [20, 24]), returns: [[23.75, 24] as const] }, lane(TRIM, 'trim', [21, 23])],
    };
    desk.fresh = { receipt, lanes: loggedLanes(before, desk.song, [LEVEL, TRIM]), changes: [] };
  }
  const at = (id: string, t: number, layer: 'points' | 'trim' = 'points'): number =>
    valueAt(laneOf(desk.song, id)[layer], layer === 'trim' ? TRIM_LAW : LEVEL_LAW, 0, t);

  test('goes nowhere and is not said to where the song does not take it: what is picked stays picked', () => {
    ride();
    pickPass(desk.scene);
    const { picked, song } = desk;
    desk.takesNone = true;
    nudgePoints(desk.scene, { t: -0.05, travel: 0 });
    desk.picked = { lanes: picked!.lanes, isPass: false };
    nudgePoints(desk.scene, { t: -0.05, travel: 0 });
    expect(desk).toMatchObject({ did: [], picked: { lanes: picked!.lanes }, song });
  });

  test('is one selection: put earlier for a late hand, lifted, and cleared, over all its lanes and layers', () => {
    ride();
    pickPass(desk.scene);
    expect(pointsWords(desk.song, desk.picked!.lanes, 6)).toBe('6 points of 2 lanes');
    nudgePoints(desk.scene, { t: -0.5, travel: 0 });
    nudgePoints(desk.scene, { t: -0.25, travel: 0 });
    expect(desk.did.at(-1)).toBe('What the pass wrote in 2 lanes put earlier: −250 ms.');
    expect([at(LEVEL, 19.2), at(LEVEL, 19.26), at(LEVEL, 23.2), at(LEVEL, 23.3)]).toEqual([-6, -3, -3, -6]);
    expect([at(TRIM, 20.2, 'trim'), at(TRIM, 20.3, 'trim'), at(TRIM, 22.3, 'trim')]).toEqual([0, 4, 0]);
    nudgePoints(desk.scene, { t: 0, travel: 0.05 });
    expect(at(LEVEL, 21)).toBeGreaterThan(-1);
    expect(at(LEVEL, 25)).toBe(-6);
    expect(desk.picked!.isPass).toBe(true);
    clearPoints(desk.scene);
    expect(desk.did.at(-1)).toMatch(/^What the pass wrote: \d+ points of 2 lanes cleared; \d+ left\.$/);
    expect(at(LEVEL, 21)).toBe(-6);
  });

  test('has all its ends carried together to one time; the one that came back by a line does so from there', () => {
    ride();
    pickPass(desk.scene);
    desk.range = [28, 32];
    carryOn({ ...desk.scene, inHand: LEVEL }, 1);
    expect(desk.fresh!.changes).toEqual([
      {
        carries: [
          { control: LEVEL, layer: 'base', from: 23.75, to: 28, return: 0.25 },
          { control: TRIM, layer: 'trim', from: 23, to: 28 },
        ],
      },
    ]);
    expect([at(LEVEL, 27), at(TRIM, 27, 'trim'), at(LEVEL, 28.3), at(TRIM, 28.1, 'trim')]).toEqual([-3, 4, -6, 0]);
    expect(at(LEVEL, 28.125)).toBeLessThan(-3.5);
    // And on from there, alone.
    desk.picked = null;
    carryOn({ ...desk.scene, inHand: LEVEL }, 1);
    expect(desk.fresh!.changes.at(-1)).toEqual({
      carries: [{ control: LEVEL, layer: 'base', from: 28, to: 32, return: 0.25 }],
    });
  });
});

describe('copying by keys', () => {
  let held = '';
  const none = (): void => undefined;
  const clipboard: Clipboard = {
    readText: () => Promise.resolve(held),
    writeText: (text) => Promise.resolve(void (held = text)),
  };
  const barred: Clipboard = {
    readText: () => Promise.reject(new Error()),
    writeText: () => Promise.reject(new Error()),
  };

  test('puts a range elsewhere in time, on another channel, on another kind by travel, and on a trim as an offset', async () => {
    desk.range = [2, 8];
    await copyRange(desk.scene, clipboard);
    expect(held.split('\n')[0]).toBe('Sure Hand curve\tVoice level\tlevel\t6');
    expect(desk.did.at(-1)).toBe('6.00 s of Voice level copied.');
    desk.position = 20;
    desk.inHand = 'fiddle/level';
    await pasteAtLine(desk.scene, clipboard, none);
    expect(desk.pairs('fiddle/level')).toEqual(
      expect.arrayContaining([
        [20, -20],
        [23, -10],
      ]),
    );
    // To another kind it is looked at first, how it comes there.
    desk.inHand = 'fiddle/pan';
    let shown = 0;
    await pasteAtLine(desk.scene, clipboard, () => shown++);
    expect([shown, desk.pairs('fiddle/pan')]).toEqual([1, []]);
    const read = await readCopied(clipboard);
    const piece = read.ok ? read.value : null;
    const pan = { control: 'fiddle/pan', layer: 'base' } as const;
    expect(mappingWords(mappingTo(desk.song, piece!, pan)!)).toBe(', by where it stands on the throw');
    // Several lanes at once, in several sections.
    const level = { control: 'fiddle/level', layer: 'base' } as const;
    const { changed, song } = applyEdit(desk.song, pasteEdit(desk.song, piece!, [pan, level], [30, 45])!);
    expect(changed).toEqual(['fiddle/pan', 'fiddle/level']);
    for (const t of [33, 48]) expect([...laneOf(song, 'fiddle/level').points].find((p) => p.t === t)!.v).toBe(-10);
    desk.song = applyEdit(desk.song, { kind: 'channel', channel: 'fiddle', changes: { trim: true } }).song;
    desk.inHand = 'fiddle/level';
    await pasteAtLine(desk.scene, clipboard, none);
    expect(desk.pairs('fiddle/level', 'trim')).toEqual(expect.arrayContaining([[20, 0]]));
    expect(desk.did.at(-1)).toBe('6.00 s of Voice level pasted to Fiddle level trim, as an offset in dB.');
  });

  test('works within the page where the clipboard is barred; a cut takes what it copied; what is no curve is refused', async () => {
    desk.range = [4, 9];
    await copyRange(desk.scene, barred, true);
    expect(desk.did.at(-1)).toBe('5.00 s of Voice level cut.');
    expect(desk.pairs().map(([t]) => t)).toEqual([2, 4, 9, 11]);
    desk.position = 30;
    await pasteAtLine(desk.scene, barred, none);
    expect(desk.pairs()).toEqual(
      expect.arrayContaining([
        [31, -10],
        [34, -12],
      ]),
    );
    held = 'A shopping list';
    await pasteAtLine(desk.scene, clipboard, none);
    expect(desk.said.at(-1)).toBe('What was copied is no curve: copy a range of a lane first.');
  });

  test('once more after itself the range goes along', () => {
    desk.range = [4, 9];
    duplicateRange(desk.scene);
    expect(desk.range).toEqual([9, 14]);
    expect(desk.pairs()).toEqual(
      expect.arrayContaining([
        [10, -10],
        [13, -12],
      ]),
    );
  });
});

test('thinning says beforehand what remains, and where it is furthest off', () => {
  const points = Array.from({ length: 400 }, (_, i) => linePoint(i / 10, -9 + Math.sin(i / 20) + 0.05 * (i % 2)));
  const song = testSong({ lanes: { [LEVEL]: { points } } });
  const none = { chosen: [], range: null, onView: [], picked: null, spans: null };
  const within = (of: Song, inHand: string, scope: ThinScope, scene: Partial<ThinScene> = {}) => {
    const targets = thinTargets(of, scope, { inHand, ...none, ...scene });
    const edit = thinEdit(targets, 0.01);
    return { edit, words: thinWords(of, targets, edit, 'clock') };
  };
  const { words } = within(song, LEVEL, 'lane');
  expect(words.counts).toMatch(/^400 points of Voice level become \d+\.$/);
  expect(words.worst).toMatch(/^Furthest off at 0:\d\d\.\d{3}: −\d+\.\d dB becomes −\d+\.\d dB\.$/);
  expect(within(song, 'voice/pan', 'lane').edit).toBe(null);
  expect(within(song, LEVEL, 'range').edit).toBe(null);
  expect(within(song, 'voice/pan', 'channel').edit).toMatchObject({ controls: [LEVEL] });
  // Of what is picked it is from the first point to the last; of several lanes together, each of them.
  const picked = pickedOf([{ control: LEVEL, layer: 'base', times: [5, 6, 12] }]);
  expect(within(song, LEVEL, 'picked', { picked }).edit).toMatchObject({ controls: [LEVEL], range: [5, 12] });
  const two = testSong({ lanes: { [LEVEL]: { points }, 'fiddle/level': { points } } });
  const chosen = [LEVEL, 'fiddle/level'];
  expect(within(two, LEVEL, 'range', { chosen, range: [3, 9] }).edit).toMatchObject({
    controls: chosen,
    range: [3, 9],
  });
  const safe = applyEdit(song, { kind: 'guard', control: LEVEL, changes: { safe: true } }).song;
  expect(within(safe, LEVEL, 'song').words.counts).toBe('Nothing there has points to thin.');
});

test('clearing by scope says how many points of which lanes will go, and which guards keep', () => {
  const few = [linePoint(1, -9), linePoint(3, -6)];
  const song = testSong({
    lanes: {
      [LEVEL]: { points: LANE },
      'voice/pan': { points: [linePoint(2, 0)] },
      'fiddle/level': { points: few, safe: true },
    },
  });
  const scene = { inHand: LEVEL, chosen: [], range: [4, 9] as const, onView: [LEVEL, 'fiddle/level'] };
  const will = (scope: 'range' | 'lane' | 'view' | 'channel' | 'song'): string => clearWords(song, scope, scene).will;
  expect(will('range')).toBe('2 points of Voice level will go.');
  expect(will('lane')).toBe('4 points of Voice level will go.');
  expect(will('channel')).toBe('5 points of 2 lanes: Voice level (4), Voice pan (1) will go.');
  expect(will('view')).toBe('4 points of Voice level will go. Fiddle level is guarded and stays.');
  expect(will('song')).toBe(
    '5 points of 2 lanes: Voice level (4), Voice pan (1) will go. Fiddle level is guarded and stays.',
  );
  const after = applyEdit(song, clearEdit(song, 'song', scene)!);
  expect(after.refused).toEqual([]);
  expect(clearWords(after.song, 'song', scene).will).toBe(
    'Nothing there has points to clear. Fiddle level is guarded and stays.',
  );
  expect(clearEdit(song, 'range', { ...scene, range: null })).toBe(null);
});

test('shapes take their rate from the meter, and say what they go between', () => {
  const song = testSong({ meter: [{ t: 0, beats: 3, unit: 4 }] });
  const rates = (['2 bars', '1 bar', '1/4', '1/8T'] as const).map((rate) => cyclesPerQuarter(song, rate, 0));
  [1 / 6, 1 / 3, 1, 3].forEach((wanted, i) => expect(rates[i]).toBeCloseTo(wanted, 12));
  const asked = { wave: 'sine', rate: '1 bar', depth: 0.25, centre: 0.5, phase: 0, seed: 1 } as const;
  const edit = waveEdit(song, LEVEL, [0, 6], asked);
  expect(waveWords(song, edit, asked)).toMatch(/^Voice level between −35\.0 dB and 0\.0 dB, \d+ points\.$/);
  expect(waveEdit(song, LEVEL, null, asked)).toBe(null);
});

test('picked points are changed together, and a shape that was cut becomes a whole one', () => {
  const song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  const of = { control: LEVEL, layer: 'base' } as const;
  const points = pointsPickedOf(song, { ...of, times: [5, 8, 77] });
  expect(points.map(({ t }) => t)).toEqual([5, 8]);
  const edit = changedPoints(of, points, (one) => withShape({ ...one, part: [0.2, 1] }, 's'));
  const after = [...laneOf(applyEdit(song, edit).song, LEVEL).points];
  expect(after.map(({ shape, bend, part }) => [shape, bend, part])).toEqual([
    ['line', 0, undefined],
    ['s', 0.5, undefined],
    ['s', 0.5, undefined],
    ['line', 0, undefined],
  ]);
});

test('an edit of points that were changed from elsewhere meanwhile does nothing, and says so', () => {
  const song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  const of = { control: LEVEL, layer: 'base' } as const;
  const edit = changedPoints(of, pointsPickedOf(song, { ...of, times: [5] }), (one) => ({ ...one, v: -3 }));
  const said: string[] = [];
  const made: (Edit | 'what hands did')[] = [];
  const on = (now: Song): SongControl =>
    new SongControl(
      { recorder: { song: now }, settle: () => made.push('what hands did') } as never,
      null as never,
      { say: (sentence: string) => said.push(sentence), makeEdit: (one: Edit) => made.push(one) } as never,
    );
  expect(on(song).mend(edit).changed).toEqual([LEVEL]);
  const other = applyEdit(song, { kind: 'clear', controls: [LEVEL], points: { [LEVEL]: [5] } }).song;
  expect(on(other).mend(edit).changed).toEqual([]);
  // What a stop led to is handed over before it.
  expect(made).toEqual(['what hands did', edit]);
  expect(said).toEqual([
    'voice/level has no point at 5 s with the value -10; it has been changed meanwhile, and nothing was done.',
  ]);
});

test('what a song does not take any more once what waited is handed over, or was changed elsewhere, is not said to be done', () => {
  const song = testSong({ lanes: { [LEVEL]: { points: LANE } } });
  const of = { control: LEVEL, layer: 'base' } as const;
  const edit = changedPoints(of, pointsPickedOf(song, { ...of, times: [5] }), (one) => ({ ...one, v: -3 }));
  const said: string[] = [];
  const did: string[] = [];
  const made: Edit[] = [];
  const recorder = { song };
  const session = {
    recorder,
    settle: () =>
      (recorder.song = applyEdit(song, { kind: 'clear', controls: [LEVEL], points: { [LEVEL]: [5] } }).song),
  } as never;
  const host = { say: (sentence: string) => said.push(sentence), makeEdit: (one: Edit) => made.push(one) } as never;
  const control = new SongControl(session, null as never, host);
  expect(control.mend(edit)).toMatchObject({ changed: [], song });
  new GuardDoing(session, control, (sentence) => did.push(sentence)).forget({
    ...{ key: 'gone', name: 'Gone', scope: null, channels: {}, controls: {} },
  });
  expect({ made, did }).toEqual({ made: [], did: [] });
  expect(said).toHaveLength(2);
});
