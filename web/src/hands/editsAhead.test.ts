import { expect, test } from '@jest/globals';
import { Curve, holdPoint, linePoint, sameCurve } from '@sure-hand/core/curve';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { readSong } from '@sure-hand/core/formats';
import { laneOf, withLayer, type Song } from '@sure-hand/core/song';
import { appliedThere, areLong, sentAhead, takeAhead } from './editsAhead.js';
import { lanesOfFolding } from './families.js';
import type { MendScene } from './mending.js';
import { nudgePoints, scalePoints } from './moving.js';
import { pickedOf, timesIn, type Picked } from './picking.js';
import { SongControl } from './songControl.js';

const LEVEL = 'voice/level';
const FOLD: Edit = { kind: 'foldTrim', controls: [LEVEL] };
function songOf(points: number): Song {
  const channels = ['voice', 'choir'].map((key) => ({ key, kind: 'track', mode: 'touch' }));
  const read = readSong({ format: 'sure-hand-song', version: 1, length: 60, channels });
  if (!read.ok) throw new Error(read.sentence);
  const base = Array.from({ length: points }, (_, i) => linePoint((50 * i) / points, 9 + 4 * Math.sin(i / 30)));
  const trim = Curve.of([linePoint(10, 0), linePoint(20, 6), linePoint(30, 0)]);
  const of = (id: string): readonly [string, ReturnType<typeof laneOf>] => [
    id,
    withLayer(withLayer(laneOf(read.value, id), 'base', Curve.of(base)), 'trim', trim),
  ];
  return { ...read.value, lanes: Object.fromEntries([of(LEVEL), of('choir/level')]) };
}
/** What another thread gives back. */
const cameOf = (song: Song, edit: Edit): Uint8Array => appliedThere(sentAhead(song, edit, [LEVEL]));
const asJson = (thing: unknown): unknown => JSON.parse(JSON.stringify(thing));

test('an edit worked out in another thread is what it is here, its inverse and what was held with it; other lanes are shared', () => {
  const song = songOf(25_000);
  expect([areLong(song, [LEVEL]), areLong(songOf(100), [LEVEL])]).toEqual([true, false]);
  const here = applyEdit({ ...song }, FOLD);
  expect(here.clamped).toHaveLength(1);
  const edit = { ...FOLD };
  takeAhead(song, edit, cameOf(song, edit));
  const there = applyEdit(song, edit);
  expect(asJson(there)).toEqual(asJson(here));
  expect(there.song.lanes['choir/level']).toBe(song.lanes['choir/level']);
  // Taken from where it was worked out, not worked out here.
  expect(there.song.lanes[LEVEL]!.points).not.toBe(here.song.lanes[LEVEL]!.points);
});

test.each([[LEVEL], [`${LEVEL}/sway`]])(
  'an edit of %s, which sways, is there what it is here: its depth’s lane too',
  (id) => {
    const base = songOf(25_000);
    const depths = Curve.of([linePoint(1, 0.2), linePoint(2, 0.4)]);
    const sway = { wave: 'sine', hz: 1, depth: 0.2, phase: 0, on: true } as const;
    const lanes = { ...base.lanes, [LEVEL]: { ...base.lanes[LEVEL]!, sway } };
    const host = { ...base, lanes };
    const depth = { ...laneOf(base, LEVEL), trim: Curve.EMPTY, rest: 0.2, points: depths };
    const song = { ...host, lanes: { ...lanes, [`${LEVEL}/sway`]: depth } };
    const edit: Edit = { kind: 'move', controls: [id], by: { t: 0.5, travel: -0.01 } };
    const here = applyEdit({ ...song }, edit);
    expect(here.changed).toContain(id);
    takeAhead(song, edit, appliedThere(sentAhead(song, edit, [id])));
    expect(asJson(applyEdit(song, edit))).toEqual(asJson(here));
  },
);

test('folding a VCA, dissolving it and thinning are there what they are here, one beside the other', () => {
  const base = songOf(25_000);
  const vca = { ...base.channels[0]!, key: 'all', kind: 'vca', members: ['voice', 'choir'], clips: [] } as const;
  const level = { ...laneOf(base, LEVEL), trim: Curve.EMPTY, points: Curve.of([linePoint(3, 0), linePoint(40, 6)]) };
  const mute = { ...level, rest: 0, points: Curve.of([holdPoint(5, 1), holdPoint(6, 0)]) };
  const song: Song = {
    ...base,
    channels: [...base.channels, vca],
    lanes: { ...base.lanes, 'all/level': level, 'all/mute': mute },
  };
  const asked: readonly Edit[] = [
    { kind: 'foldVca', vca: 'all' },
    { kind: 'vca', remove: vca, add: null, fold: true },
    { kind: 'thin', controls: [LEVEL, 'choir/level'], tolerance: 0.01 },
  ];
  for (const edit of asked) takeAhead(song, edit, appliedThere(sentAhead(song, edit, lanesOfFolding(song))));
  const there = asked.map((edit) => applyEdit(song, { ...edit }));
  const here = asked.map((edit) => applyEdit({ ...song }, edit));
  expect(here.map(({ changed }) => changed.length)).toEqual([3, 6, 2]);
  expect(asJson(there)).toEqual(asJson(here));
  // Each is the one that was taken, whichever was asked for since.
  asked.forEach((edit, i) => expect(applyEdit(song, edit)).toBe(there[i]));
});

test('an edit that changes no lane, but other parts of the song, is there what it is here, too', () => {
  const base = songOf(25_000);
  const bare = { ...base.channels[0]!, key: 'all', kind: 'vca', members: ['voice'], clips: [] } as const;
  const song: Song = { ...base, channels: [...base.channels, bare] };
  const edit: Edit = { kind: 'vca', remove: bare, add: null, fold: true };
  const here = applyEdit({ ...song }, edit);
  expect([here.changed, here.song.channels]).toEqual([[], base.channels]);
  takeAhead(song, edit, appliedThere(sentAhead(song, edit, lanesOfFolding(song))));
  expect(asJson(applyEdit(song, edit))).toEqual(asJson(here));
});

/** Folds as the page does it, the other thread as slow as `goOn` is called. */
function desk(first: Song) {
  const did: string[] = [];
  const going: (() => void)[] = [];
  const recorder = { song: first };
  const session = { recorder, settle: () => undefined } as never;
  const control = new SongControl(
    session,
    null as never,
    {
      makeEdit: (edit: Edit) => {
        did.push(edit.kind);
        recorder.song = applyEdit(recorder.song, edit).song;
      },
      step: async (which: string) => void did.push(which),
      say: (sentence: string) => void did.push(sentence),
      workAhead: (song: Song, edit: Edit) =>
        new Promise<void>((done) =>
          going.push(() => {
            takeAhead(song, edit, cameOf(song, edit));
            done();
          }),
        ),
    } as never,
  );
  const goOn = async (): Promise<void> => {
    going.shift()!();
    for (let k = 0; k < 5; k++) await Promise.resolve();
  };
  return { control, did, recorder, goOn };
}

test('a fold that is worked out elsewhere is done once, and undo waits for it', async () => {
  const { control, did, goOn } = desk(songOf(25_000));
  control.foldTrim('voice');
  control.foldTrim('voice');
  const undone = control.undo();
  expect(did).toEqual([]);
  await goOn();
  await goOn();
  await undone;
  expect(did).toEqual([
    'foldTrim',
    expect.stringMatching(/^Folded; \+12 dB held/),
    'No trim waits on this channel.',
    'undo',
  ]);
});

test('where the song was changed meanwhile the fold is of what it is by then', async () => {
  const { control, did, recorder, goOn } = desk(songOf(25_000));
  control.foldTrim('voice');
  recorder.song = applyEdit(recorder.song, { kind: 'lift', controls: [LEVEL], range: [0, 50], travel: -0.2 }).song;
  const changed = recorder.song;
  await goOn();
  expect(did).toEqual([]);
  await goOn();
  expect(did[0]).toBe('foldTrim');
  expect(asJson(recorder.song)).toEqual(asJson(applyEdit({ ...changed }, FOLD).song));
});

/** What keys mend with at a desk: all points of the lane picked, or a range of it. */
function mending({ control, did, recorder }: ReturnType<typeof desk>): {
  scene: MendScene;
  picked: () => Picked | null;
} {
  const { song } = recorder;
  let picked = pickedOf([{ control: LEVEL, layer: 'base', times: timesIn(song, { control: LEVEL, layer: 'base' }) }]);
  const scene: MendScene = {
    ...{ song, control, picked, inHand: LEVEL, chosen: [], range: null, fresh: null, liftEdge: 0 },
    setRange: () => undefined,
    pick: (next) => void (picked = next),
    say: (sentence) => void did.push(sentence),
    did: (sentence) => void did.push(sentence),
  };
  return { scene, picked: () => picked };
}
const isSame = (a: Song, b: Song): boolean => sameCurve(laneOf(a, LEVEL).points, laneOf(b, LEVEL).points);
const MOVE: Edit = { kind: 'move', controls: [LEVEL], by: { t: 1.25, travel: -0.01 }, layer: 'base' };

test('very many points are moved elsewhere, as they would be here, and stay picked; scaled they are after that', async () => {
  const at = desk(songOf(25_000));
  const { scene, picked } = mending(at);
  const { song } = scene;
  nudgePoints(scene, { t: 1.25, travel: -0.01 });
  expect(at.did).toEqual([]);
  await at.goOn();
  expect(at.did).toEqual(['move', '25000 points of voice level moved: one of them −0.5 dB → 8.5 dB, +1.25 s.']);
  const moved = applyEdit({ ...song }, MOVE).song;
  expect(isSame(at.recorder.song, moved)).toBe(true);
  expect(picked()!.lanes[0]!.times[0]).toBe(1.25);
  scalePoints({ ...scene, song: at.recorder.song, picked: picked() }, 0.5);
  expect(at.did).toHaveLength(2);
  // The next that a hand does comes after it.
  at.control.finish();
  expect(at.did.slice(2)).toEqual(['scale', '25000 points of voice level scaled to 50 % about the lowest.']);
  const scaled = applyEdit({ ...moved }, { kind: 'scale', controls: [LEVEL], factor: 0.5, layer: 'base' }).song;
  expect(isSame(at.recorder.song, scaled)).toBe(true);
});

test('a range of very many points is lifted elsewhere, and of the song as it is by then', async () => {
  const at = desk(songOf(25_000));
  nudgePoints({ ...mending(at).scene, picked: null, range: [10, 40] }, { t: 0, travel: -0.02 });
  at.recorder.song = applyEdit(at.recorder.song, { kind: 'clear', controls: [LEVEL], range: [20, 30] }).song;
  const changed = at.recorder.song;
  await at.goOn();
  expect(at.did).toEqual([]);
  await at.goOn();
  expect(at.did).toEqual(['lift', 'voice level lifted over the range.']);
  const lift: Edit = { kind: 'lift', controls: [LEVEL], range: [10, 40], travel: -0.02, edge: 0, layer: 'base' };
  expect(isSame(at.recorder.song, applyEdit({ ...changed }, lift).song)).toBe(true);
});

test('of points that go while they are moved elsewhere those that are left are moved', async () => {
  const at = desk(songOf(25_000));
  nudgePoints(mending(at).scene, { t: 1.25, travel: -0.01 });
  at.recorder.song = applyEdit(at.recorder.song, { kind: 'clear', controls: [LEVEL], range: [20, 30] }).song;
  const changed = at.recorder.song;
  await at.goOn();
  expect(at.did).toEqual([]);
  await at.goOn();
  expect(at.did[0]).toBe('move');
  expect(laneOf(changed, LEVEL).points.length).toBeLessThan(21_000);
  expect(isSame(at.recorder.song, applyEdit({ ...changed }, MOVE).song)).toBe(true);
});

test('a song that is left meanwhile has its fold then and there, and nothing comes after', async () => {
  const { control, did, goOn } = desk(songOf(25_000));
  control.foldTrim('voice');
  control.foldTrim('voice');
  control.leave();
  expect(did.filter((one) => one === 'foldTrim')).toHaveLength(1);
  const before = [...did];
  await goOn();
  await goOn();
  expect(did).toEqual(before);
});
