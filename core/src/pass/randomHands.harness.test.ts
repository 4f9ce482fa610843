import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { valueAt } from '../curve/index.js';
import { laneOf, modeInForce, type Song } from '../song/index.js';
import { FrozenKeeper } from '../test/frozen.js';
import { LENGTH, asMeant, eventsOf, favourites, songs, steps, type Step } from '../test/randomHands.js';
import { SlowModel, type SlowReceipt } from '../test/slowModel.js';
import { SILENCE_DB, travelOf } from '../units/index.js';
import { PassRecorder, type Outcome } from './recorder.js';

/** Sequences against the slow model: some with every test, ten thousand by `npm run harness`. */
const SEQUENCES = Number(process.env.SURE_HAND_SEQUENCES ?? 100);
/** Rides the recorder and the model side by side, comparing where every cap is after every event. */
function rideBoth(
  song: Song,
  drawn: readonly Step[],
  favourite: string,
): { recorder: PassRecorder; model: SlowModel; receipts: SlowReceipt[] } {
  // Whatever is given out is kept by somebody who lets nobody change it any more.
  const keeper = new FrozenKeeper();
  const recorder = new PassRecorder(keeper.keep(song));
  const model = new SlowModel(song);
  const receipts: SlowReceipt[] = [];
  const take = (outcome: Outcome): void => {
    keeper.keep([outcome, recorder.song]);
    receipts.push(...(outcome.receipts as never[]));
  };
  for (const event of eventsOf(song, drawn, favourite)) {
    const meant = asMeant(recorder, event);
    while (recorder.roll && (meant.lap ?? 0) > recorder.roll.lap) take(recorder.wrap());
    take(recorder.handle(meant));
    model.handle(meant);
    const now = recorder.roll?.now;
    for (const c of model.controls)
      if (now !== undefined && c.folds === 0) {
        const [theirs, ours] = [recorder.capAt(c.id, now), model.capAt(c, now)];
        if (Math.abs(theirs - ours) > 1e-6)
          throw new Error(`${c.id} at ${now} after ${JSON.stringify(meant)}: ${theirs}, the model has ${ours}`);
      }
  }
  expect(keeper.changed).toBe(0);
  return { recorder, model, receipts };
}

const byControl = (a: { control: string; layer?: string }, b: { control: string; layer?: string }): number =>
  `${a.control} ${a.layer}`.localeCompare(`${b.control} ${b.layer}`);
/** What of a receipt does not depend on how a curve is kept. */
const comparable = ({ lap, from, to, lanes, refused, rested, gone }: SlowReceipt): unknown => ({
  lap,
  from,
  to,
  lanes: lanes.map(({ control, layer, spans, moves }) => ({ control, layer, spans, moves })).sort(byControl),
  refused: [...refused].sort(byControl),
  rested: [...rested].sort(),
  gone: [...(gone ?? [])].sort(),
});
const times = Array.from({ length: 97 }, (_, k) => (k * LENGTH) / 96 + 0.00317);

test('random hands leave what the slow model of the rules leaves: curves, refusals, resting values, modes', () => {
  fc.assert(
    fc.property(songs, steps, favourites, (song, drawn, favourite) => {
      const { recorder, model, receipts } = rideBoth(song, drawn, favourite);
      expect(receipts.map(comparable)).toEqual(model.receipts.map(comparable));
      const after = recorder.song;
      expect(after.settings.deskMode).toBe(model.deskMode);
      expect(after.channels.filter((c) => c.key !== 'hall').map((c) => c.mode)).toEqual(
        model.channels.filter((c) => c.key !== 'hall').map((c) => c.mode),
      );
      expect(modeInForce(after, 'hall')).toBe(model.modeOf('hall'));
      for (const c of model.controls) {
        const lane = laneOf(after, c.id);
        const restsApart = Math.abs(travelOf(c.laws.base, lane.rest) - travelOf(c.laws.base, c.rest));
        expect([c.id, restsApart < 1e-12]).toEqual([c.id, true]);
        expect([c.id, lane.points.length > 0, lane.trim.length > 0]).toEqual([
          c.id,
          c.curves.base !== null,
          c.curves.trim !== null,
        ]);
        for (const layer of ['base', 'trim'] as const) {
          const law = c.laws[layer];
          const points = layer === 'trim' ? lane.trim : lane.points;
          const isOff = (t: number): boolean => {
            const theirs = valueAt(points, law, layer === 'trim' ? 0 : lane.rest, t);
            const ours = model.ownCurve(c, layer)(t);
            if (c.folds && layer === 'base') {
              const floor = 0.003 + Math.max(0, Math.abs(theirs - ours) > 0.06 * c.folds && ours > -59 ? 1 : 0) * 9;
              return floor > 1 || Math.abs(travelOf(law, theirs) - travelOf(law, ours)) > 0.003 * c.folds;
            }
            const isNearSilence =
              layer === 'base' && Math.min(theirs, ours) < -120 && Math.max(theirs, ours) > SILENCE_DB - 1;
            return Math.abs(travelOf(law, theirs) - travelOf(law, ours)) > (isNearSilence ? 1e-5 : 1e-6);
          };
          expect([c.id, layer, times.filter(isOff)]).toEqual([c.id, layer, []]);
        }
      }
    }),
    { numRuns: SEQUENCES },
  );
});
