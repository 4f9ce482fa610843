import { expect, test } from '@jest/globals';
import { Curve, linePoint } from '@sure-hand/core/curve';
import { applyEdit, type Edit } from '@sure-hand/core/edits';
import { readSong } from '@sure-hand/core/formats';
import { laneOf, withLayer, type Song } from '@sure-hand/core/song';
import { appliedThere, areLong, sentAhead, takeAhead } from './editsAhead.js';
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
