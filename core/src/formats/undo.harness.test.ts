import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { Curve, valueAt } from '../curve/index.js';
import { applyEdit, editKind, isUndoStep, type Edit } from '../edits/index.js';
import {
  controlsOf,
  guardOn,
  isReading,
  laneOf,
  layerLaw,
  layerPoints,
  layerRest,
  type Lane,
  type Refusal,
  type Song,
} from '../song/index.js';
import {
  anySong,
  draws,
  drawsOf,
  editFrom,
  expectTakenBack,
  guardDraws,
  type Draw,
  type Step,
} from '../test/anyEdit.js';
import { FrozenKeeper } from '../test/frozen.js';
import { readEdit } from './editDocument.js';

/** Walks of the undo harness: few with every test, all of them by `npm run harness`. */
const WALKS = Number(process.env.SURE_HAND_WALKS ?? 60);

const isPossible = (song: Song, edit: Edit): boolean => readEdit(song, edit).ok;
const plain = (song: Song): unknown => JSON.parse(JSON.stringify(song));

test('any edit, taken back, leaves the same document; what is read is what is applied', () => {
  fc.assert(
    fc.property(fc.array(draws, { maxLength: 6 }), draws, (before, draw) => {
      const song = before.reduce((s, d) => {
        const edit = editFrom(s, d);
        return isPossible(s, edit) ? applyEdit(s, edit).song : s;
      }, anySong());
      const edit = editFrom(song, draw);
      const keeper = new FrozenKeeper();
      const read = readEdit(keeper.keep(song), plain(edit as never));
      if (!read.ok) return expect(read.sentence).toMatch(/\.$/);
      if (!isPossible(song, edit)) return;
      const { song: after, inverse, refused } = keeper.keep(applyEdit(song, keeper.keep(read.value)));
      if (!inverse) {
        expect(after).toBe(song);
        return expect(refused.length > 0 || editKind(edit.kind)!.canFindNothing).toBe(true);
      }
      expect(applyEdit(song, edit).song).toEqual(after);
      if (!expectTakenBack(song, after, { edit, inverse })) return;
      expect(applyEdit(applyEdit(after, inverse).song, edit).song).toEqual(after);
      expect(keeper.changed).toBe(0);
    }),
    { numRuns: WALKS * 5 },
  );
});

/** The end of what a pass may have written of a control that is guarded: the moment from which it heeded a guard on it. */
function heededFrom(edit: Edit, id: string): number {
  const heeded = edit.kind === 'pass' ? edit.heeded?.find(({ control }) => control === id) : undefined;
  const ends =
    edit.kind === 'pass' ? edit.pieces.filter(({ control }) => control === id).map(({ span }) => span[1]) : [];
  return heeded && ends.every((end) => end <= heeded.t + 1e-9) ? heeded.t : 0;
}

test('no edit there is changes what is safe or parked of a lane, but for what a pass wrote before it heeded the guard', () => {
  let [kept, written] = [0, 0];
  const edits = fc.tuple(draws, draws, draws, drawsOf(['pass']));
  const guards = fc.array(guardDraws, { minLength: 1, maxLength: 3 });
  fc.assert(
    fc.property(fc.array(draws, { maxLength: 3 }), guards, edits, (first, guarding, then) => {
      const possible = (s: Song, d: Draw): Edit | null => {
        const edit = editFrom(s, d);
        return isPossible(s, edit) ? edit : null;
      };
      let song = [...first, ...guarding].reduce((s, d) => {
        const edit = possible(s, d);
        return edit ? applyEdit(s, edit).song : s;
      }, anySong());
      for (const draw of then) {
        const edit = possible(song, draw);
        // What is no undo step is what sets guards.
        if (!edit || !isUndoStep(edit)) continue;
        const after = applyEdit(song, edit).song;
        for (const id of controlsOf(song).keys()) {
          if (guardOn(song, id) === null) continue;
          const from = heededFrom(edit, id);
          if (!from) {
            kept++;
            expect(after.lanes[id]).toEqual(song.lanes[id]);
            continue;
          }
          written++;
          const [was, is] = [laneOf(song, id), laneOf(after, id)];
          for (const t of [from, from + 0.001, from + 1, song.length])
            for (const layer of ['base', 'trim'] as const) {
              const at = (lane: Lane): number =>
                valueAt(layerPoints(lane, layer), layerLaw(song, id, layer), layerRest(lane, layer), t);
              expect(Math.abs(at(is) - at(was))).toBeLessThan(1e-6);
            }
        }
        song = after;
      }
    }),
    { numRuns: WALKS * 5 },
  );
  expect(kept).toBeGreaterThan(WALKS);
  expect(written).toBeGreaterThan(0);
});

test('a random walk of edits, undos and redos is always where its history says', () => {
  const steps = fc.array(fc.tuple(draws, fc.constantFrom('do', 'do', 'undo', 'redo')), {
    minLength: 10,
    maxLength: 40,
  });
  fc.assert(
    fc.property(steps, (walk) => {
      let song = anySong();
      const done: Step[] = [];
      const undone: Step[] = [];
      const take = (edit: Edit, from: Step[], to: Step[], step: Step): void => {
        const { song: next, refused } = applyEdit(song, edit);
        if (next === song) {
          // Only a guard set since keeps a step from being taken back, and then the whole of it; a fold, a channel that is off since.
          const keeps = ({ control, reason }: Refusal): boolean =>
            guardOn(song, control) !== null || (reason === 'mode' && !isReading(song, control));
          return expect(refused.some(keeps)).toBe(true);
        }
        song = next;
        from.pop();
        to.push(step);
      };
      for (const [draw, what] of walk) {
        if (what === 'undo' && done.length) take(done.at(-1)!.inverse, done, undone, done.at(-1)!);
        else if (what === 'redo' && undone.length) take(undone.at(-1)!.edit, undone, done, undone.at(-1)!);
        else if (what === 'do') {
          const edit = editFrom(song, draw);
          if (!isPossible(song, edit)) continue;
          const before = song;
          const { song: after, inverse } = applyEdit(song, edit);
          if (!inverse) continue;
          song = after;
          if (!isUndoStep(edit)) continue;
          done.push({ edit, inverse });
          undone.length = 0;
          expectTakenBack(before, after, done.at(-1)!);
        }
      }
      // All the way back, with nothing guarded: lanes, marks, clips and names are those of the beginning.
      const free = [...controlsOf(song).keys()].every((id) => guardOn(song, id) === null);
      if (!free) return;
      for (const step of [...done].reverse()) song = applyEdit(song, step.inverse).song;
      const first = anySong();
      for (const list of ['sections', 'notes', 'tempo', 'meter', 'name'] as const)
        expect(song[list]).toEqual(first[list]);
      song.channels.forEach(({ name, family, clips }, i) =>
        expect({ name, family, clips }).toEqual({
          name: first.channels[i]!.name,
          family: first.channels[i]!.family,
          clips: [],
        }),
      );
      for (const [id, lane] of Object.entries(song.lanes))
        expect({ points: lane.points, trim: lane.trim }).toEqual({
          points: first.lanes[id]?.points ?? Curve.EMPTY,
          trim: first.lanes[id]?.trim ?? Curve.EMPTY,
        });
    }),
    { numRuns: WALKS },
  );
});
